<script lang="ts">
  import { toast } from 'svelte-sonner';
  import { gapsOf, ORIGINS, pitchOf, type Jig } from '$core/layout/jig';
  import { CORNERS } from '$core/layout/placement';
  import type { LengthUnit } from '$core/units/length';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  /** The grid of a jig's places, and the order that they are filled in, in sentences. */
  let {
    jig,
    grid,
    unit,
    onchange
  }: {
    jig: Jig;
    /** How many there are of it now. */
    grid: { columns: number; rows: number };
    unit: LengthUnit;
    onchange: (part: Partial<Jig>) => void;
  } = $props();

  const pitch = $derived(pitchOf(jig));
  const gap = (which: 'gapX' | 'gapY', mm: number) => onchange(jig.linked ? { gapX: mm, gapY: mm } : { [which]: mm });
  function setPitch(way: 'x' | 'y', mm: number): void {
    try {
      const gaps = gapsOf(jig, { ...pitch, [way]: mm });
      gap(way === 'x' ? 'gapX' : 'gapY', way === 'x' ? gaps.gapX : gaps.gapY);
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error), { id: 'jig' });
    }
  }
</script>

<section aria-label="Places" class="space-y-1">
  <h2 class="panel-title">Places</h2>
  {#each [['columns', 'across'], ['rows', 'along']] as const as [which, words] (which)}
    <p class="flex items-center gap-2">
      <label
        ><FigureBox
          sentence
          label="Places {words}"
          min={1}
          max={1000}
          disabled={jig[which] === null}
          value={grid[which]}
          onchange={(places) => onchange({ [which]: places })}
        />
        {words}</label
      >
      <label class="text-sm"
        ><input
          type="checkbox"
          class="checkbox checkbox-xs"
          aria-label="As many {words} as fit"
          checked={jig[which] === null}
          onchange={(event) => onchange({ [which]: event.currentTarget.checked ? null : grid[which] })}
        /> as many as fit</label
      >
    </p>
  {/each}
  <table class="text-sm" aria-label="Gaps and pitches">
    <thead><tr><th></th><th class="pr-4 text-left font-normal">gap</th><th class="text-left font-normal">pitch</th></tr></thead>
    <tbody>
      {#each [['gapX', 'x', 'across'], ['gapY', 'y', 'along']] as const as [which, way, words] (which)}
        <tr>
          <th class="pr-3 text-left font-normal">{words}</th>
          <td class="pr-4"
            ><LengthBox label="Gap {words}" {unit} value={jig[which]} max={2000} onchange={(mm) => gap(which, mm)} /></td
          >
          <td
            ><LengthBox
              label="Pitch {words}"
              {unit}
              value={pitch[way]}
              max={7000}
              late
              onchange={(mm) => setPitch(way, mm)}
            /></td
          >
        </tr>
      {/each}
    </tbody>
  </table>
  <label class="text-sm"
    ><input
      type="checkbox"
      class="checkbox checkbox-xs"
      checked={jig.linked}
      onchange={(event) =>
        onchange({ linked: event.currentTarget.checked, ...(event.currentTarget.checked && { gapY: jig.gapX }) })}
    /> both gaps together</label
  >
  <p class="leading-9">
    {jig.from === 'centre' ? 'All lie around the' : 'The first lies at the'}
    <select
      class="in-sentence"
      aria-label="Counted from"
      value={jig.from}
      onchange={(event) =>
        onchange({
          from: event.currentTarget.value as Jig['from'],
          ...(event.currentTarget.value === 'centre' && { startX: 0, startY: 0 })
        })}
    >
      {#each ORIGINS as from (from)}<option value={from}>{from}</option>{/each}
    </select>,
    <LengthBox
      sentence
      label="First place across"
      {unit}
      value={jig.startX}
      min={-10_000}
      max={10_000}
      onchange={(startX) => onchange({ startX })}
    /> across and
    <LengthBox
      sentence
      label="First place along"
      {unit}
      value={jig.startY}
      min={-10_000}
      max={10_000}
      onchange={(startY) => onchange({ startY })}
    /> along from it. Things lie
    <select
      class="in-sentence"
      aria-label="How things lie"
      value={String(jig.turn)}
      onchange={(event) => onchange({ turn: Number(event.currentTarget.value) as Jig['turn'] })}
    >
      <option value="0">upright</option><option value="90">turned right</option><option value="180">upside down</option><option
        value="270">turned left</option
      >
    </select>, every second
    <select
      class="in-sentence"
      aria-label="Half a pitch on"
      value={jig.shift}
      onchange={(event) => onchange({ shift: event.currentTarget.value as Jig['shift'] })}
    >
      <option value="none">row as the first</option><option value="rows">row half a pitch on</option><option value="columns"
        >column half a pitch on</option
      >
    </select>.
    <label class="block text-sm"
      ><input
        type="checkbox"
        class="checkbox checkbox-xs"
        checked={jig.turnSecond}
        onchange={(event) => onchange({ turnSecond: event.currentTarget.checked })}
      /> every second thing the other way round</label
    >
  </p>
  <p class="leading-9">
    Filled along <select
      class="in-sentence"
      aria-label="Filled along"
      value={jig.order.along}
      onchange={(event) => onchange({ order: { ...jig.order, along: event.currentTarget.value as 'rows' } })}
    >
      <option value="rows">rows</option><option value="columns">columns</option>
    </select>
    from the
    <select
      class="in-sentence"
      aria-label="Filled from"
      value={jig.order.from}
      onchange={(event) => onchange({ order: { ...jig.order, from: event.currentTarget.value as 'front left' } })}
    >
      {#each CORNERS as corner (corner)}<option value={corner}>{corner}</option>{/each}
    </select>,
    <label class="text-sm whitespace-nowrap"
      ><input
        type="checkbox"
        class="checkbox checkbox-xs"
        checked={jig.order.thereAndBack}
        onchange={(event) => onchange({ order: { ...jig.order, thereAndBack: event.currentTarget.checked } })}
      /> there and back</label
    >
  </p>
</section>
