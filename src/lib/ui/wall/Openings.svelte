<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { boxAround } from '$core/geometry/box';
  import { areaWithin } from '$core/geometry/path';
  import { outlineOf } from '$core/layout/jig';
  import type { Opening, Wall } from '$core/panels/wall';
  import type { LengthUnit } from '$core/units/length';
  import { attempt } from '$lib/ui/common/client';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import { outlineOfFile } from '$lib/ui/jig/outline-of-file';

  /** Doors, windows and sockets of a wall, and places that seams keep away from. */
  let {
    wall,
    unit,
    chosen,
    drawing,
    onchange,
    onchoose,
    ondrawing
  }: {
    wall: Wall;
    unit: LengthUnit;
    chosen: number | null;
    drawing: 'opening' | 'spared' | null;
    onchange: (part: Partial<Wall>) => void;
    onchoose: (index: number | null) => void;
    ondrawing: (what: 'opening' | 'spared' | null) => void;
  } = $props();

  const put = (index: number, part: Partial<Opening>) =>
    onchange({ openings: wall.openings.map((one, i) => (i === index ? { ...one, ...part } : one)) });
  const SHAPES: [Opening['shape'], string][] = [
    ['rectangle', 'rectangle'],
    ['round', 'round'],
    ['outline', 'outline of a file']
  ];
  /** An outline that somebody drew takes the place of an opening's, where that is. */
  const takeFile = (event: Event & { currentTarget: HTMLInputElement }, index: number) => {
    const { currentTarget: input } = event;
    const file = input.files?.[0];
    if (!file) return;
    void attempt(async () => {
      const thing = await outlineOfFile(file);
      const [largest] = outlineOf(thing).sort((p, q) => areaWithin([q]) - areaWithin([p]));
      const box = largest && boxAround([largest]);
      if (!box) throw new Error('The file outlines nothing.');
      const outline = largest.slice(0, 500).map((p) => ({ x: (p.x - box.x) / box.width, y: (p.y - box.y) / box.height }));
      put(index, { shape: 'outline', outline, width: box.width, height: box.height });
    }).finally(() => (input.value = ''));
  };
</script>

<section aria-label="Openings">
  <h2 class="panel-title leading-4">Openings</h2>
  {#each wall.openings as opening, i (i)}
    <p class={chosen === i ? 'bg-base-200 outline-primary rounded outline-2' : ''}>
      <input
        class="in-sentence"
        aria-label="Name of opening {i + 1}"
        placeholder="an opening"
        maxlength="40"
        value={opening.name}
        onfocus={() => onchoose(i)}
        oninput={(event) => put(i, { name: event.currentTarget.value })}
      />,
      <select
        class="in-sentence"
        aria-label="Shape of opening {i + 1}"
        value={opening.shape}
        onchange={(event) => put(i, { shape: event.currentTarget.value as Opening['shape'] })}
      >
        {#each SHAPES as [value, word] (value)}<option {value} disabled={value === 'outline' && opening.outline.length < 3}
            >{word}</option
          >{/each}
      </select>,
      <LengthBox
        sentence
        label="Width of opening {i + 1}"
        {unit}
        value={opening.width}
        min={1}
        onchange={(width) => put(i, { width })}
      /> ×
      <LengthBox
        sentence
        label="Height of opening {i + 1}"
        {unit}
        value={opening.height}
        min={1}
        onchange={(height) => put(i, { height })}
      />,
      <LengthBox
        sentence
        label="Opening {i + 1} from the left"
        {unit}
        value={opening.x}
        min={-50_000}
        onchange={(x) => put(i, { x })}
      /> from the left and
      <LengthBox
        sentence
        label="Opening {i + 1} from the top"
        {unit}
        value={opening.y}
        min={-50_000}
        onchange={(y) => put(i, { y })}
      /> from the top, is
      <select
        class="in-sentence"
        aria-label="Print of opening {i + 1}"
        value={opening.leftOut ? 'out' : 'over'}
        onchange={(event) => put(i, { leftOut: event.currentTarget.value === 'out' })}
      >
        <option value="out">left out of the print</option><option value="over">printed over</option>
      </select>.
      <label class="btn btn-xs"
        >Outline from a file<input
          type="file"
          class="sr-only"
          accept=".svg,.svgz,.dxf"
          aria-label="Outline of opening {i + 1} from a file"
          onchange={(event) => takeFile(event, i)}
        /></label
      >
      <button
        class="btn btn-ghost btn-xs btn-square"
        aria-label="Take {opening.name || `opening ${i + 1}`} out"
        onclick={() => {
          onchoose(null);
          onchange({ openings: wall.openings.filter((_, k) => k !== i) });
        }}><X size={13} /></button
      >
    </p>
  {:else}<p>The wall has no openings.</p>{/each}
  <p class="flex flex-wrap gap-1">
    <button
      class="btn btn-xs"
      aria-pressed={drawing === 'opening'}
      disabled={wall.openings.length >= 60}
      onclick={() => ondrawing(drawing === 'opening' ? null : 'opening')}>Draw an opening</button
    >
    <button
      class="btn btn-xs"
      disabled={wall.openings.length >= 60}
      onclick={() =>
        onchange({
          openings: [
            ...wall.openings,
            { name: '', x: 500, y: 500, width: 900, height: 900, shape: 'rectangle', outline: [], leftOut: true }
          ]
        })}>By figures</button
    >
  </p>
</section>
