<script lang="ts">
  import { scaling } from '$core/geometry/matrix';
  import { parsePathData, pathData, transformPath } from '$core/geometry/path';
  import { attempt, send } from '$lib/ui/common/client';
  import { early } from '$lib/ui/common/early';
  import { boxAround } from '$core/geometry/box';
  import { outlineAt, pocketsOf, type Jig, type Thing } from '$core/layout/jig';
  import { CORNERS } from '$core/layout/placement';
  import type { LengthUnit } from '$core/units/length';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import { outlineOfFile } from './outline-of-file';

  /** The bed of a jig and the thing that lies in it, in sentences whose figures and choices are the controls. */
  let { jig, unit, onchange }: { jig: Jig; unit: LengthUnit; onchange: (part: Partial<Jig>) => void } = $props();

  function thing(part: Partial<Thing>): void {
    const next = { ...jig.thing, ...part };
    const { outline, widthMm, heightMm } = next;
    // An outline of its own grows with its thing.
    if (outline.kind === 'path' && !part.outline) {
      const by = scaling(widthMm / jig.thing.widthMm, heightMm / jig.thing.heightMm);
      next.outline = { ...outline, data: pathData(transformPath(parsePathData(outline.data), by), 2) };
    }
    onchange({ thing: next });
  }
  /** An outline that somebody drew, and with it the size of the thing. */
  const takeFile = (event: Event & { currentTarget: HTMLInputElement }) => {
    const { currentTarget: input } = event;
    const file = input.files?.[0];
    if (!file) return;
    void attempt(async () => {
      onchange({ thing: await outlineOfFile(file) });
    }).finally(() => (input.value = ''));
  };
  const PLATE = [
    ['widthMm', 'Width of the plate', ','],
    ['lengthMm', 'Length of the plate', ' wide and'],
    ['x', 'Plate across', ' long, whose front left corner lies'],
    ['y', 'Plate along', ' across and']
  ] as const;
  /** As large as the places with a margin, as far as the bed goes. */
  function plateAround(): Jig['plate'] {
    const rings = pocketsOf(jig).flatMap((at) => outlineAt(jig.thing, at));
    const box = boxAround(rings) ?? { x: 0, y: 0, width: jig.bed.widthMm, height: jig.bed.lengthMm };
    const [x, y] = [Math.max(0, Math.floor(box.x - 10)), Math.max(0, Math.floor(box.y - 10))];
    return {
      x,
      y,
      widthMm: Math.max(10, Math.min(jig.bed.widthMm, Math.ceil(box.x + box.width + 10)) - x),
      lengthMm: Math.max(10, Math.min(jig.bed.lengthMm, Math.ceil(box.y + box.height + 10)) - y)
    };
  }
  let docket = $state<number>();
  const takeDocket = () =>
    attempt(async () => {
      if (docket === undefined) throw new Error('Say the number of a docket that is cut.');
      onchange({ thing: await send<Thing>('GET', `/api/jigs/outline?docket=${docket}`) });
    });
  const OUTLINES = { rectangle: 'a rectangle', ellipse: 'an ellipse', path: 'an outline of its own' };
</script>

<section aria-label="Bed and thing" class="space-y-1">
  <h2 class="panel-title">Bed and thing</h2>
  <p class="leading-9">
    The bed is <LengthBox
      sentence
      label="Width of the bed"
      {unit}
      value={jig.bed.widthMm}
      min={50}
      max={10_000}
      onchange={(widthMm) => onchange({ bed: { ...jig.bed, widthMm } })}
    />
    wide and <LengthBox
      sentence
      label="Length of the bed"
      {unit}
      value={jig.bed.lengthMm}
      min={50}
      max={10_000}
      onchange={(lengthMm) => onchange({ bed: { ...jig.bed, lengthMm } })}
    /> long; the machine counts from its
    <select
      class="in-sentence"
      aria-label="The machine’s own corner"
      value={jig.bed.origin}
      onchange={(event) => onchange({ bed: { ...jig.bed, origin: event.currentTarget.value as 'front left' } })}
    >
      {#each CORNERS as corner (corner)}<option value={corner}>{corner}</option>{/each}
    </select>
    corner. Things are held by
    <select
      class="in-sentence"
      aria-label="What holds the things"
      value={jig.plate ? 'plate' : 'bed'}
      onchange={(event) => onchange({ plate: event.currentTarget.value === 'plate' ? plateAround() : null })}
    >
      <option value="bed">all of the bed</option><option value="plate">a plate</option>
    </select>{#if jig.plate}{@const plate = jig.plate}{#each PLATE as [key, label, words] (key)}{words}
        <LengthBox
          sentence
          {label}
          {unit}
          value={plate[key]}
          min={key === 'x' || key === 'y' ? 0 : 10}
          max={10_000}
          onchange={(mm) => onchange({ plate: { ...plate, [key]: mm } })}
        />{/each} along{/if}. A thing is <LengthBox
      sentence
      label="Width of the thing"
      {unit}
      value={jig.thing.widthMm}
      min={1}
      max={5000}
      onchange={(widthMm) => thing({ widthMm })}
    />
    wide and <LengthBox
      sentence
      label="Height of the thing"
      {unit}
      value={jig.thing.heightMm}
      min={1}
      max={5000}
      onchange={(heightMm) => thing({ heightMm })}
    /> high,
    <select
      class="in-sentence"
      aria-label="Outline of the thing"
      value={jig.thing.outline.kind}
      onchange={(event) => {
        const kind = event.currentTarget.value as 'rectangle' | 'ellipse';
        thing({ outline: kind === 'rectangle' ? { kind, radiusMm: 0 } : { kind } });
      }}
    >
      {#each Object.entries(OUTLINES).filter(([kind]) => kind !== 'path' || jig.thing.outline.kind === 'path') as [kind, words] (kind)}
        <option value={kind}>{words}</option>
      {/each}
    </select>{#if jig.thing.outline.kind === 'rectangle'}, its corners rounded by
      <LengthBox
        sentence
        label="Radius of its corners"
        {unit}
        value={jig.thing.outline.radiusMm}
        max={2500}
        onchange={(radiusMm) => thing({ outline: { kind: 'rectangle', radiusMm } })}
      />{/if}. It stands
    <LengthBox
      sentence
      label="Thickness of the thing"
      min={0.01}
      max={1000}
      placeholder="?"
      title="The head is raised by it; where nothing is said it is set for the sheet alone"
      value={jig.thicknessMm}
      onchange={(thicknessMm) => onchange({ thicknessMm })}
      onempty={() => onchange({ thicknessMm: null })}
    /> mm above the bed.
  </p>
  <div class="flex flex-wrap items-center gap-2 text-sm">
    <span>Its outline is</span>
    <label class="btn btn-xs"
      >taken from an SVG or DXF<input type="file" {@attach early} class="sr-only" accept=".svg,.dxf" onchange={takeFile} /></label
    >
    <span>or as docket</span>
    <form
      class="join"
      onsubmit={(event) => {
        event.preventDefault();
        void takeDocket();
      }}
    >
      <FigureBox
        class="input input-xs join-item w-16"
        label="Docket whose cut line it is"
        min={1}
        max={1e9}
        value={docket ?? null}
        onchange={(id) => (docket = id)}
      />
      <button class="btn btn-xs join-item">is cut</button>
    </form>
  </div>
</section>
