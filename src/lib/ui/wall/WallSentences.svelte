<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { LEAST_WALL_BLEED_MM, usualOverlap, type Division, type Wall } from '$core/panels/wall';
  import type { Axis, PlannedWall } from '$core/panels/panels';
  import type { Family } from '$core/media/card';
  import { formatLength, type LengthUnit } from '$core/units/length';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  interface Props {
    wall: Wall;
    planned: PlannedWall;
    size: { widthMm: number; heightMm: number };
    unit: LengthUnit;
    family: Family | undefined;
    /** The cutter trims the panels. */
    cut: boolean;
    onchange: (part: Partial<Wall>) => void;
    onsize: (part: Partial<{ widthMm: number; heightMm: number }>) => void;
    oncut: (cut: boolean) => void;
  }
  let { wall, planned, size, unit, family, cut, onchange, onsize, oncut }: Props = $props();

  const SIDES = ['left', 'top', 'right', 'bottom'] as const;
  const evenBleed = $derived(SIDES.every((side) => wall.bleed[side] === wall.bleed.left));
  let apart = $state(false);
  const bleedAll = (mm: number) => onchange({ bleed: { left: mm, top: mm, right: mm, bottom: mm } });

  const across = $derived<Axis>(wall.film === 'upright' ? 'columns' : 'rows');
  const along = $derived<Axis>(wall.film === 'upright' ? 'rows' : 'columns');
  const WORDS: Record<Axis, string> = { columns: 'columns', rows: 'rows' };
  const HOWS: [Division['how'], string][] = [
    ['equal', 'as few as fit, all equal'],
    ['fewest', 'as few as fit, the film full'],
    ['count', 'so many equal ones'],
    ['widest', 'none wider than']
  ];
  const divide = (axis: Axis, part: Partial<Division>) => onchange({ [axis]: { ...wall[axis], seams: null, ...part } });
  /** The film turned: what was divided across it is divided across it again. */
  const turnFilm = (film: Wall['film']) =>
    film !== wall.film && onchange({ film, columns: { ...wall.rows, seams: null }, rows: { ...wall.columns, seams: null } });
  const usual = $derived(usualOverlap(family));
</script>

{#snippet division(axis: Axis, whole: string)}
  {@const { how, count, widestMm, seams } = wall[axis]}
  <select
    class="in-sentence"
    aria-label={axis === 'columns' ? 'Columns' : 'Rows'}
    value={seams ? 'put' : how}
    onchange={(event) =>
      event.currentTarget.value !== 'put' && divide(axis, { how: event.currentTarget.value as Division['how'] })}
  >
    {#if seams}<option value="put">where the seams were put</option>{/if}
    {#if axis === along}<option value="whole">{whole}</option>{/if}
    {#each HOWS as [value, word] (value)}<option {value}>{word}</option>{/each}
  </select>{#if !seams && how === 'count'}: <FigureBox
      sentence
      min={1}
      label={axis === 'columns' ? 'Number of columns' : 'Number of rows'}
      value={count}
      max={200}
      onchange={(n) => divide(axis, { count: n })}
    />{:else if !seams && how === 'widest'}
    <LengthBox
      sentence
      label={axis === 'columns' ? 'Widest column' : 'Highest row'}
      {unit}
      value={widestMm}
      min={1}
      onchange={(mm) => divide(axis, { widestMm: mm })}
    />{/if}
{/snippet}

<section aria-label="Wall">
  <h2 class="panel-title leading-4">Wall</h2>
  <p>
    <LengthBox
      sentence
      label="Width of the wall"
      {unit}
      value={size.widthMm}
      min={10}
      onchange={(widthMm) => onsize({ widthMm })}
    />
    × <LengthBox
      sentence
      label="Height of the wall"
      {unit}
      value={size.heightMm}
      min={10}
      onchange={(heightMm) => onsize({ heightMm })}
    />
    {unit}, with
    {#if evenBleed && !apart}
      <LengthBox sentence label="Bleed around the wall" {unit} value={wall.bleed.left} max={500} onchange={bleedAll} /> of bleed on
      <button class="link" onclick={() => (apart = true)}>every side</button>.
    {:else}
      bleed of
      {#each SIDES as side (side)}<LengthBox
          sentence
          label="Bleed, {side}"
          {unit}
          value={wall.bleed[side]}
          max={500}
          onchange={(mm) => onchange({ bleed: { ...wall.bleed, [side]: mm } })}
        />
        {side}{side === 'bottom' ? '. ' : ', '}{/each}<button
        class="link"
        onclick={() => {
          apart = false;
          bleedAll(Math.max(LEAST_WALL_BLEED_MM, wall.bleed.left));
        }}>All alike</button
      >
    {/if}
  </p>
  <p>
    {#if wall.corners.length === 0}It is one wall.{:else}Walls meet
      {#each wall.corners as corner, i (i)}<LengthBox
          sentence
          label="Corner {i + 1} from the left"
          {unit}
          value={corner}
          onchange={(mm) => onchange({ corners: wall.corners.map((other, k) => (k === i ? mm : other)) })}
        /><button
          class="btn btn-ghost btn-xs btn-square"
          aria-label="Take corner {i + 1} out"
          onclick={() => onchange({ corners: wall.corners.filter((_, k) => k !== i) })}><X size={13} /></button
        >{i < wall.corners.length - 1 ? ', ' : ' '}{/each}from the left; seams keep
      <LengthBox
        sentence
        label="Distance from corners"
        {unit}
        value={wall.cornerMm}
        max={2000}
        onchange={(cornerMm) => onchange({ cornerMm })}
      />
      away.{/if}
    {#if wall.corners.length < 20}<button
        class="btn btn-xs"
        onclick={() => onchange({ corners: [...wall.corners, Math.round(((wall.corners.at(-1) ?? 0) + size.widthMm) / 2)] })}
        >A corner</button
      >{/if}
  </p>
</section>

<section aria-label="Panels">
  <h2 class="panel-title leading-4">Panels</h2>
  <p>
    The film hangs
    <select
      class="in-sentence"
      aria-label="Film"
      value={wall.film}
      onchange={(event) => turnFilm(event.currentTarget.value as Wall['film'])}
    >
      <option value="upright">upright</option><option value="lying">lying, from side to side</option>
    </select>. In {WORDS[across]}, {@render division(across, '')}; {along === 'rows' ? 'from top to bottom' : 'from side to side'}
    {@render division(along, 'in one piece')}.
  </p>
  <p>
    <select
      class="in-sentence"
      aria-label="Joint"
      value={wall.joint}
      onchange={(event) => onchange({ joint: event.currentTarget.value as Wall['joint'] })}
    >
      <option value="overlap">They overlap</option><option value="butt">They are butted</option>
    </select>{#if wall.joint === 'overlap'}
      by <LengthBox
        sentence
        label="Overlap"
        {unit}
        value={planned.overlapMm}
        max={300}
        onchange={(overlapMm) => onchange({ overlapMm })}
      />
      {#if wall.overlapMm === null}(as {family ?? 'calendered'} film wants it){:else}<button
          class="link"
          onclick={() => onchange({ overlapMm: null })}>({family ?? 'calendered'}: {formatLength(usual.usual, unit)})</button
        >{/if}, which
      <select
        class="in-sentence"
        aria-label="Side of the overlap"
        value={wall.side}
        onchange={(event) => onchange({ side: event.currentTarget.value as Wall['side'] })}
      >
        <option value="beneath">the panel beneath has</option><option value="above">the panel on top has</option><option
          value="both">both share</option
        >
      </select>; the one hung
      <select
        class="in-sentence"
        aria-label="On top"
        value={wall.onTop}
        onchange={(event) => onchange({ onTop: event.currentTarget.value as Wall['onTop'] })}
      >
        <option value="later">later</option><option value="earlier">earlier</option>
      </select>
      lies on top. The far end beneath is
      <select
        class="in-sentence"
        aria-label="Far end of the overlap"
        value={wall.strip}
        onchange={(event) =>
          onchange({
            strip: event.currentTarget.value as Wall['strip'],
            ...(wall.stripMm === 0 && { stripMm: Math.round(planned.overlapMm / 2) })
          })}
      >
        <option value="printed">printed too</option><option value="blank">left blank</option><option value="white">white</option>
      </select>{#if wall.strip !== 'printed'}
        for
        <LengthBox
          sentence
          label="Far end"
          {unit}
          value={wall.stripMm}
          max={300}
          onchange={(stripMm) => onchange({ stripMm })}
        />{/if}.{:else}
      at the seams.{/if}
    Edges that are trimmed print
    <LengthBox sentence label="Trim" {unit} value={wall.trimMm} max={50} onchange={(trimMm) => onchange({ trimMm })} /> farther and
    are trimmed
    <select
      class="in-sentence"
      aria-label="Trimming"
      value={cut ? 'cutter' : 'hand'}
      onchange={(event) => oncut(event.currentTarget.value === 'cutter')}
    >
      <option value="hand">by hand, along marks</option><option value="cutter">by the cutter</option>
    </select>.
  </p>
</section>
