<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import type { Axis, PlannedWall } from '$core/panels/panels';
  import type { Wall } from '$core/panels/wall';
  import { formatLength, type LengthUnit } from '$core/units/length';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import { percent, placeOn } from './draw-wall';

  /** Seams by their figures, how busy it is there, and the search for calmer places. */
  let {
    wall,
    planned,
    unit,
    busy,
    before,
    wrong,
    drawing,
    onchange,
    onseam,
    oncalm,
    ondrawing
  }: {
    wall: Wall;
    planned: PlannedWall;
    unit: LengthUnit;
    busy: Record<Axis, { mean: number; worst: number }[]>;
    /** How busy it was in the mean before the last search. */
    before: number | null;
    /** Why nothing is known of the artwork. */
    wrong: string;
    drawing: 'opening' | 'spared' | null;
    onchange: (part: Partial<Wall>) => void;
    onseam: (axis: Axis, index: number, at: number) => void;
    oncalm: () => void;
    ondrawing: (what: 'opening' | 'spared' | null) => void;
  } = $props();

  const AXES: [Axis, string, string][] = [
    ['columns', 'Seam', 'from the left'],
    ['rows', 'Level seam', 'from the top']
  ];
  const all = $derived([...busy.columns, ...busy.rows]);
  const mean = $derived(all.length > 0 ? all.reduce((sum, one) => sum + one.mean, 0) / all.length : null);
  const isPut = $derived(wall.columns.seams !== null || wall.rows.seams !== null);
  const extent = (axis: Axis) => (axis === 'columns' ? planned.size.widthMm : planned.size.heightMm);
  /** The panels on both sides of a seam, as they print. */
  const beside = (axis: Axis, index: number): string => {
    const [before, after] = [index, index + 1].map((strip) => {
      const panel = planned.panels.find((one) => (axis === 'columns' ? one.column : one.row) === strip);
      return panel ? placeOn(axis === 'columns' ? panel.box.width : panel.box.height, unit) : '';
    });
    return `${before} | ${after}`;
  };
</script>

<section aria-label="Seams">
  <h2 class="panel-title leading-4">Seams</h2>
  <p>
    Within
    <LengthBox
      sentence
      label="Range of seams"
      {unit}
      value={wall.calmMm}
      max={3000}
      onchange={(calmMm) => onchange({ calmMm })}
    />
    to either side they look for where the artwork is calm, and are
    <select
      class="in-sentence"
      aria-label="Course of seams"
      value={wall.curved ? 'curved' : 'straight'}
      onchange={(event) => onchange({ curved: event.currentTarget.value === 'curved' })}
    >
      <option value="straight">straight</option><option value="curved">gently curved</option>
    </select>.
    <button class="btn btn-xs btn-primary" disabled={all.length === 0} onclick={oncalm}>Move them to calm places</button>
    {#if isPut}<button
        class="btn btn-xs"
        onclick={() => onchange({ columns: { ...wall.columns, seams: null }, rows: { ...wall.rows, seams: null } })}
        >Divide anew</button
      >{/if}
    <button
      class="btn btn-xs"
      aria-pressed={drawing === 'spared'}
      onclick={() => ondrawing(drawing === 'spared' ? null : 'spared')}>Spare a place</button
    >
    {#each wall.spared as place, i (i)}<span class="whitespace-nowrap"
        >{formatLength(place.x, unit)}, {formatLength(place.y, unit)}<button
          class="btn btn-ghost btn-xs btn-square"
          aria-label="Spare place {i + 1} no more"
          onclick={() => onchange({ spared: wall.spared.filter((_, k) => k !== i) })}><X size={13} /></button
        ></span
      >{/each}
  </p>
  {#if wall.curved && !wall.columns.seams && !wall.rows.seams}<p class="text-base-content/70 text-sm leading-5">
      A curved seam is cut by the cutter: let it trim the panels.
    </p>{/if}
  {#if wrong}<p class="text-error text-sm" role="alert">Not looked at: {wrong}</p>{/if}
  {#if mean !== null}
    <p role="status">
      Under the seams the artwork is busy <span class="font-semibold">{percent(mean)}</span>{#if before !== null}, {percent(
          before
        )} before{/if}.
    </p>
  {/if}
  {#each AXES as [axis, word, from] (axis)}
    {#if planned[axis].length > 0}
      <table class="table-xs table" aria-label="{word}s">
        <thead
          ><tr
            ><th>{word}</th><th class="text-right">{from}</th><th class="text-right">Busy</th><th class="text-right"
              >Panels print</th
            ></tr
          ></thead
        >
        <tbody>
          {#each planned[axis] as seam, i (i)}
            <tr>
              <td>{i + 1}{seam.course.length > 0 ? ', curved' : ''}</td>
              <td class="text-right"
                ><LengthBox
                  sentence
                  label="{word} {i + 1} {from}"
                  {unit}
                  value={seam.at}
                  max={extent(axis)}
                  late
                  onchange={(at) => onseam(axis, i, at)}
                /></td
              >
              <td class="text-right">{busy[axis][i] ? percent(busy[axis][i].mean) : '…'}</td>
              <td class="text-right whitespace-nowrap">{beside(axis, i)}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
  {/each}
</section>
