<script lang="ts">
  import { CODE_KINDS, CORRECTIONS, type CodeKind, type Correction } from '$core/records/code-kinds';
  import { parseContent } from '$core/records/content';
  import { ALONG, DOWN, type Field, type FieldColour, type FieldPlace, type TextField } from '$core/records/field';
  import { askFor } from '$core/records/new-field';
  import type { LengthUnit } from '$core/units/length';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  interface Props {
    field: Field;
    columns: readonly string[];
    faces: readonly string[];
    unit: LengthUnit;
    size: { widthMm: number; heightMm: number };
    /** What it says of the record that is shown. */
    example: string;
    onchange: (field: Field) => void;
    oncopy: () => void;
    onremove: () => void;
  }
  let { field, columns, faces, unit, size, example, onchange, oncopy, onremove }: Props = $props();

  const id = $props.id();
  const part = (change: Partial<Field>) => onchange({ ...field, ...change } as Field);
  const text = (change: Partial<TextField>) => field.is === 'text' && onchange({ ...field, ...change });
  const put = (change: Partial<FieldPlace>) => part({ place: { ...field.place, ...change } });
  let box = $state<HTMLTextAreaElement>();

  /** What is wrong with the text, as it is typed. */
  let typed = $state<string | null>(null);
  const wrong = $derived.by(() => {
    try {
      parseContent(typed ?? field.content);
      return '';
    } catch (error) {
      return error instanceof Error ? error.message : String(error);
    }
  });
  function type(value: string): void {
    typed = value;
    if (!wrong) part({ content: value });
  }
  /** Puts a column where the caret is. */
  function insert(column: string): void {
    const now = typed ?? field.content;
    const [from, to] = [box?.selectionStart ?? now.length, box?.selectionEnd ?? now.length];
    type(now.slice(0, from) + askFor(column) + now.slice(to));
    box?.focus();
  }

  const hex = (colour: FieldColour) => (colour.is === 'rgb' ? colour.colour : '#000000');
  const BLACK: FieldColour = { is: 'inks', inks: [0, 0, 0, 1] };
  const PROCESS = ['Cyan', 'Magenta', 'Yellow', 'Black'];
  const colourKind = $derived(
    field.colour.is === 'rgb' ? 'rgb' : JSON.stringify(field.colour) === JSON.stringify(BLACK) ? 'black' : 'inks'
  );
  function chooseColour(kind: string): void {
    if (kind === 'rgb') part({ colour: { is: 'rgb', colour: '#1a3a8a' } });
    else part({ colour: kind === 'black' ? BLACK : { is: 'inks', inks: [1, 0.6, 0, 0] } });
  }
  /** Kinds of bars alone, which ink makes wider. */
  const BARS = new Set<CodeKind>(['Code 128', 'Code 39', 'EAN-13', 'EAN-8', 'UPC-A', 'ITF-14', 'GS1-128']);
  const SIZES = { fixed: 'always', largest: 'as large as fits', 'one for all': 'one size for all: as the longest fits' } as const;
</script>

<div class="space-y-2 text-sm">
  <label class="flex items-center gap-2"
    >Name <input
      class="input input-sm grow"
      maxlength="100"
      value={field.name}
      onchange={(event) => event.currentTarget.value.trim() && part({ name: event.currentTarget.value })}
    /></label
  >
  <div>
    <label for="{id}-says">Says</label>
    <textarea
      id="{id}-says"
      bind:this={box}
      class="textarea textarea-sm w-full font-mono"
      rows="2"
      maxlength="2000"
      aria-invalid={wrong !== ''}
      aria-describedby="{id}-example"
      value={typed ?? field.content}
      oninput={(event) => type(event.currentTarget.value)}
      onblur={() => !wrong && (typed = null)}></textarea>
    <p id="{id}-example" class={wrong ? 'text-error' : 'text-base-content/70'} aria-live="polite">
      {#if wrong}{wrong}{:else if example}e.g. “{example}”{/if}
    </p>
    {#if columns.length > 0}
      <p class="flex flex-wrap gap-1">
        {#each columns.slice(0, 12) as column (column)}
          <button
            class="btn btn-xs max-w-40 font-normal"
            title="Put the column {column} into the text"
            onclick={() => insert(column)}><span class="truncate">{column}</span></button
          >
        {/each}
      </p>
    {/if}
    <details class="text-base-content/80 text-xs">
      <summary class="cursor-pointer py-1">How it is written</summary>
      <p><code>{'{name, upper case}'}</code> in capitals; also lower case, each word.</p>
      <p><code>{'{number, like 0042}'}</code>, <code>{'{day, like 31.12.2026}'}</code> in the form of an example.</p>
      <p><code>{'{count, from 10, step 5}'}</code> counts. <code>{'[c/o {contact}]'}</code> goes where a value is empty.</p>
    </details>
  </div>
  {#if field.is === 'code'}
    <label class="flex items-center gap-2"
      >As <select
        class="select select-sm"
        aria-label="Kind of code"
        value={field.kind}
        onchange={(event) => part({ kind: event.currentTarget.value as typeof field.kind })}
        >{#each CODE_KINDS as kind (kind)}<option>{kind}</option>{/each}</select
      ></label
    >
    <p>
      {#if field.kind === 'QR'}
        With <select
          class="in-sentence"
          aria-label="Correction"
          value={field.correction}
          onchange={(event) => part({ correction: event.currentTarget.value as Correction })}
          >{#each CORRECTIONS as correction (correction)}<option>{correction}</option>{/each}</select
        > correction;
      {/if}
      <label
        ><input
          type="checkbox"
          class="checkbox checkbox-xs"
          checked={field.below}
          onchange={(event) => part({ below: event.currentTarget.checked })}
        /> what it says stands below it</label
      >{#if BARS.has(field.kind)}; bars
        <LengthBox
          sentence
          label="Bars thinner by"
          {unit}
          value={field.thinner}
          max={0.5}
          onchange={(thinner) => part({ thinner })}
        />
        {unit} thinner{/if}.
    </p>
  {:else}
    <label class="flex items-center gap-2"
      >Font <select
        class="select select-sm grow"
        aria-label="Font of the lettering"
        value={field.font}
        onchange={(event) => text({ font: event.currentTarget.value })}
        >{#each faces as face (face)}<option>{face}</option>{/each}{#if !faces.includes(field.font)}<option disabled
            >{field.font}</option
          >{/if}</select
      ></label
    >
    <p>
      Size
      <select
        class="in-sentence"
        aria-label="Size of the lettering"
        value={field.size.is}
        onchange={(event) => {
          const is = event.currentTarget.value as TextField['size']['is'];
          text({ size: is === 'fixed' ? { is, pt: 18 } : { is } });
        }}
      >
        {#each Object.entries(SIZES) as [is, label] (is)}<option value={is}>{label}</option>{/each}
      </select>
      {#if field.size.is === 'fixed'}
        <input
          class="in-sentence w-14 text-center"
          type="number"
          min="1"
          max="10000"
          step="0.5"
          aria-label="Points"
          value={field.size.pt}
          onchange={(event) => {
            const pt = Number(event.currentTarget.value);
            if (pt >= 1 && pt <= 10_000) text({ size: { is: 'fixed', pt } });
          }}
        /> pt
      {/if}, on
      <select
        class="in-sentence"
        aria-label="Lines"
        value={field.wrap ? 'more' : 'one'}
        onchange={(event) => text({ wrap: event.currentTarget.value === 'more' })}
        ><option value="one">one line</option><option value="more">as many lines as it takes</option></select
      >,
      <select
        class="in-sentence"
        aria-label="Across"
        value={field.along}
        onchange={(event) => text({ along: event.currentTarget.value as TextField['along'] })}
        >{#each ALONG as along (along)}<option>{along}</option>{/each}</select
      >,
      <select
        class="in-sentence"
        aria-label="Down"
        value={field.down}
        onchange={(event) => text({ down: event.currentTarget.value as TextField['down'] })}
        >{#each DOWN as down (down)}<option>{down}</option>{/each}</select
      >; lines
      <input
        class="in-sentence w-12 text-center"
        type="number"
        min="50"
        max="400"
        aria-label="Distance of lines, %"
        value={Math.round(field.lineSpacing * 100)}
        onchange={(event) => {
          const share = Number(event.currentTarget.value) / 100;
          if (share >= 0.5 && share <= 4) text({ lineSpacing: share });
        }}
      />
      % apart, letters
      <input
        class="in-sentence w-12 text-center"
        type="number"
        min="-20"
        max="200"
        aria-label="Between letters, %"
        value={Math.round(field.letterSpacing * 100)}
        onchange={(event) => {
          const share = Number(event.currentTarget.value) / 100;
          if (share >= -0.2 && share <= 2) text({ letterSpacing: share });
        }}
      /> %.
    </p>
  {/if}
  <p class="flex flex-wrap items-center gap-2">
    In
    <select
      class="in-sentence"
      aria-label="Colour"
      value={colourKind}
      onchange={(event) => chooseColour(event.currentTarget.value)}
    >
      <option value="black">black alone</option><option value="rgb">a colour</option><option value="inks">inks</option>
    </select>
    {#if field.colour.is === 'rgb'}
      <input
        type="color"
        class="h-6 w-9 cursor-pointer"
        aria-label="The colour"
        value={hex(field.colour)}
        onchange={(event) => part({ colour: { is: 'rgb', colour: event.currentTarget.value } })}
      />
    {:else if colourKind === 'inks'}
      {#each PROCESS as ink, i (ink)}
        <label class="flex items-center gap-0.5" title={ink}
          >{ink[0] === 'B' ? 'K' : ink[0]}<input
            class="in-sentence w-10 text-center"
            type="number"
            min="0"
            max="100"
            aria-label="{ink}, %"
            value={Math.round(field.colour.inks[i]! * 100)}
            onchange={(event) => {
              const share = Math.max(0, Math.min(1, Number(event.currentTarget.value) / 100 || 0));
              if (field.colour.is === 'inks')
                part({
                  colour: { is: 'inks', inks: field.colour.inks.map((v, k) => (k === i ? share : v)) as typeof field.colour.inks }
                });
            }}
          /></label
        >
      {/each}
    {/if}
    {#if field.is === 'text'}
      <label class="flex items-center gap-1"
        ><input
          type="checkbox"
          class="checkbox checkbox-xs"
          checked={field.outline !== null}
          onchange={(event) =>
            text({ outline: event.currentTarget.checked ? { mm: 0.3, colour: { is: 'rgb', colour: '#ffffff' } } : null })}
        />outlined</label
      >
      {#if field.outline}
        {@const { outline } = field}
        <LengthBox
          sentence
          label="Width of the outline"
          {unit}
          value={outline.mm}
          min={0.01}
          max={50}
          onchange={(mm) => text({ outline: { ...outline, mm } })}
        />
        {unit}
        <input
          type="color"
          class="h-6 w-9 cursor-pointer"
          aria-label="Colour of the outline"
          value={hex(outline.colour)}
          onchange={(event) => text({ outline: { ...outline, colour: { is: 'rgb', colour: event.currentTarget.value } } })}
        />
      {/if}
    {/if}
  </p>
  <p>
    <LengthBox sentence label="Width" {unit} value={field.place.width} min={0.5} onchange={(width) => put({ width })} /> ×
    <LengthBox sentence label="Height" {unit} value={field.place.height} min={0.5} onchange={(height) => put({ height })} />
    {unit}, <LengthBox sentence label="From the left" {unit} value={field.place.x} min={-50_000} onchange={(x) => put({ x })} /> from
    the left, <LengthBox sentence label="From the top" {unit} value={field.place.y} min={-50_000} onchange={(y) => put({ y })} /> from
    the top, turned
    <input
      class="in-sentence w-14 text-center"
      type="number"
      min="-360"
      max="360"
      step="1"
      aria-label="Turned, degrees"
      value={field.place.turn}
      onchange={(event) => {
        const turn = Number(event.currentTarget.value);
        if (Math.abs(turn) <= 360) put({ turn });
      }}
    />°.
  </p>
  <p class="flex flex-wrap gap-1">
    <button class="btn btn-xs" onclick={() => put({ x: (size.widthMm - field.place.width) / 2 })}>Middle across</button>
    <button class="btn btn-xs" onclick={() => put({ y: (size.heightMm - field.place.height) / 2 })}>Middle down</button>
    <button class="btn btn-xs" onclick={oncopy}>Copy it</button>
    <button class="btn btn-xs" onclick={onremove}>Take it out</button>
  </p>
</div>
