<script lang="ts">
  import { untrack } from 'svelte';
  import { formatLength, LengthError, parseLength, type LengthUnit } from '$core/units/length';

  interface Props {
    label: string;
    value: number;
    unit?: LengthUnit;
    min?: number;
    max?: number;
    onchange: (mm: number) => void;
    sentence?: boolean;
    disabled?: boolean;
  }
  let { label, value, unit = 'mm', min = 0, max = 100_000, onchange, sentence = false, disabled = false }: Props = $props();

  const id = $props.id();
  let typed = $state<string | null>(null);
  /** The value when typing began, and what was told to the page since; and how far of it the page has followed. */
  let told: number[] = [];
  let followed = 0;
  // The page follows what it was told, sooner or later. Another value, or an earlier one, came from elsewhere, as by a step
  // back: what is typed no longer counts.
  $effect(() => {
    const now = value;
    untrack(() => {
      if (typed === null) return;
      const at = told.findIndex((mm, i) => i >= followed && Math.abs(mm - now) < 1e-6);
      if (at < 0) typed = null;
      else followed = at;
    });
  });
  function tell(mm: number): void {
    if (Math.abs(mm - value) <= 1e-9) return;
    told.push(mm);
    onchange(mm);
  }
  const shown = $derived(typed ?? formatLength(value, unit).replace(` ${unit}`, ''));

  /** What the typed text means, and what is wrong with it. */
  const read = $derived.by(() => {
    if (typed === null) return { mm: value, wrong: '' };
    try {
      const mm = parseLength(typed, unit);
      if (mm < min || mm > max)
        return { mm: NaN, wrong: `${label}: between ${formatLength(min, unit)} and ${formatLength(max, unit)}.` };
      return { mm, wrong: '' };
    } catch (error) {
      return { mm: NaN, wrong: error instanceof LengthError ? error.message : String(error) };
    }
  });
  const understood = $derived(
    typed !== null && !read.wrong && !/^\s*[\d.,]+\s*$/.test(typed) ? `= ${formatLength(read.mm, unit)}` : ''
  );

  function leave(): void {
    if (typed !== null && !read.wrong) {
      tell(read.mm);
      typed = null;
    }
  }

  function input(event: Event & { currentTarget: HTMLInputElement }): void {
    if (typed === null) [told, followed] = [[value], 0];
    typed = event.currentTarget.value;
    if (!read.wrong) tell(read.mm);
  }
</script>

<span class="relative inline-flex flex-col">
  <input
    {id}
    class={sentence ? 'in-sentence min-w-8 text-center' : 'input input-sm w-24 text-right'}
    class:text-error={read.wrong !== ''}
    inputmode="text"
    aria-label={label}
    aria-invalid={read.wrong !== ''}
    aria-describedby={read.wrong || understood ? `${id}-note` : undefined}
    value={shown}
    {disabled}
    oninput={input}
    onblur={leave}
    onkeydown={(event) => {
      if (event.key === 'Enter') leave();
      if (event.key === 'Escape') typed = null;
    }}
    onfocus={(event) => event.currentTarget.select()}
  />
  {#if read.wrong || understood}
    <span
      id="{id}-note"
      class="bg-base-100 border-base-300 absolute top-full left-0 z-20 w-max max-w-72 border px-1 text-xs font-normal"
      class:text-error={read.wrong !== ''}
      role={read.wrong ? 'alert' : undefined}>{read.wrong || understood}</span
    >
  {/if}
</span>
