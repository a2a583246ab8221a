<script lang="ts">
  interface Props {
    label: string;
    value: number;
    min?: number;
    max?: number;
    onchange: (count: number) => void;
    sentence?: boolean;
  }
  let { label, value, min = 1, max = 10_000, onchange, sentence = false }: Props = $props();

  let wrong = $state('');

  function input(event: Event & { currentTarget: HTMLInputElement }): void {
    const count = Number(event.currentTarget.value);
    wrong =
      Number.isInteger(count) && count >= min && count <= max
        ? ''
        : `${label}: a whole number from ${min} to ${max.toLocaleString('en-GB')}.`;
    if (!wrong && count !== value) onchange(count);
  }
</script>

<span class="relative inline-flex flex-col">
  <input
    class={sentence ? 'in-sentence min-w-8 text-center' : 'input input-sm w-20 text-right'}
    class:text-error={wrong !== ''}
    type="number"
    {min}
    {max}
    aria-label={label}
    aria-invalid={wrong !== ''}
    {value}
    oninput={input}
    onblur={(event) => {
      if (wrong) event.currentTarget.value = String(value);
      wrong = '';
    }}
  />
  {#if wrong}
    <span
      class="bg-base-100 border-base-300 text-error absolute top-full left-0 z-20 w-max max-w-72 border px-1 text-xs"
      role="alert">{wrong}</span
    >
  {/if}
</span>
