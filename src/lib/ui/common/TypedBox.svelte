<script lang="ts">
  import { untrack } from 'svelte';
  import { TypedFigure, type FigureAsked } from './typed-figure.svelte';

  /** A box for a figure: it says what it understood, and what is wrong with it. */
  interface Props extends FigureAsked {
    show: (value: number) => string;
    /** What the arrows up and down change it by; it is a figure to count with then. */
    step?: number | undefined;
    sentence?: boolean;
    /** On a line of its own, below its label. */
    block?: boolean;
    disabled?: boolean;
    placeholder?: string | undefined;
    title?: string | undefined;
    /** In place of its usual looks. */
    class?: string | undefined;
  }
  let {
    show,
    step,
    sentence = false,
    block = false,
    disabled = false,
    placeholder,
    title,
    class: looks,
    ...asked
  }: Props = $props();

  const id = $props.id();
  const typed = new TypedFigure(() => asked);
  const { note, meant } = $derived(typed);
  const isWrong = $derived(meant.wrong !== '');
  $effect(() => {
    const now = asked.value;
    untrack(() => typed.follow(now));
  });

  function keys(event: KeyboardEvent): void {
    const by = step === undefined ? undefined : { ArrowUp: step, ArrowDown: -step }[event.key];
    if (event.key === 'Enter') typed.leave();
    else if (event.key === 'Escape') typed.giveUp();
    else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z') typed.stepBack();
    else if (by !== undefined && typed.step(by * (event.shiftKey ? 10 : 1))) event.preventDefault();
  }
</script>

<span class="relative flex-col items-start {block ? 'flex' : 'inline-flex'}">
  <input
    {id}
    class={looks ?? (sentence ? 'in-sentence min-w-8 text-center' : 'input input-sm w-24 text-right')}
    class:text-error={isWrong}
    inputmode={step === undefined ? 'text' : 'decimal'}
    autocomplete="off"
    {...step === undefined
      ? {}
      : { role: 'spinbutton', 'aria-valuenow': meant.value ?? undefined, 'aria-valuemin': asked.min, 'aria-valuemax': asked.max }}
    aria-label={asked.label}
    aria-invalid={isWrong}
    aria-describedby={note ? `${id}-note` : undefined}
    value={typed.text ?? (asked.value === null ? '' : show(asked.value))}
    {disabled}
    {placeholder}
    {title}
    {@attach (box: HTMLInputElement) => box.setCustomValidity(meant.wrong)}
    oninput={(event) => typed.type(event.currentTarget.value)}
    onchange={() => typed.leave()}
    onblur={() => typed.leave()}
    onkeydown={keys}
    onfocus={(event) => event.currentTarget.select()}
  />
  {#if note}
    <span
      id="{id}-note"
      class="bg-base-100 border-base-300 absolute top-full left-0 z-20 w-max max-w-72 border px-1 text-xs font-normal"
      class:text-error={isWrong}
      role={isWrong ? 'alert' : undefined}>{note}</span
    >
  {/if}
</span>
