<script lang="ts">
  import { firstTouched } from '$core/layout/mounted-jig';
  import { CORNERS, type JigStock, type Touched } from '$core/layout/placement';
  import type { LengthUnit } from '$core/units/length';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  /** Where points of the jig were touched, and how it lies by them. */
  let {
    stock,
    touched,
    unit,
    onchange
  }: { stock: JigStock; touched: readonly Touched[]; unit: LengthUnit; onchange: (touched: Touched[]) => void } = $props();
  const { jig } = $derived(stock);

  const change = (i: number, part: Partial<Touched>) => onchange(touched.map((one, k) => (k === i ? { ...one, ...part } : one)));
  const lay = $derived(jig.lay);
  const sign = (v: number, digits: number) => `${v < 0 ? '−' : ''}${Math.abs(v).toFixed(digits)}`;
</script>

{#if touched.length === 0}
  <button class="btn btn-xs" onclick={() => onchange(firstTouched(jig, stock))}>Square it up by points that are touched</button>
{:else}
  <fieldset class="text-sm">
    <legend class="font-semibold">Touched points, from the machine’s {jig.bed.origin} corner</legend>
    {#each touched as point, i (i)}
      <p class="leading-9">
        The <select
          class="in-sentence"
          aria-label="Point {i + 1}"
          value={typeof point.at === 'number' ? 'pocket' : point.at}
          onchange={(event) => {
            const { value } = event.currentTarget;
            change(i, { at: value === 'pocket' ? (jig.pockets[0]?.number ?? 1) : (value as (typeof CORNERS)[number]) });
          }}
        >
          {#each CORNERS as corner (corner)}<option value={corner}>{corner} corner</option>{/each}
          <option value="pocket">middle of pocket</option>
        </select>
        {#if typeof point.at === 'number'}<FigureBox
            sentence
            label="Pocket of point {i + 1}"
            min={1}
            max={jig.pockets.length}
            value={point.at}
            onchange={(at) => change(i, { at })}
          />{/if}
        is at <LengthBox
          sentence
          label="Point {i + 1}, x"
          {unit}
          value={point.x}
          min={-10_000}
          max={20_000}
          onchange={(x) => change(i, { x })}
        /> × <LengthBox
          sentence
          label="Point {i + 1}, y"
          {unit}
          value={point.y}
          min={-10_000}
          max={20_000}
          onchange={(y) => change(i, { y })}
        />
      </p>
    {/each}
    {#if lay}<p role="status">
        It lies turned by {sign(lay.turn, 2)}° and moved by {sign(lay.dx, 2)} × {sign(lay.dy, 2)} mm; the points agree within
        {lay.residualMm.toFixed(2)} mm. What is RIPped now follows.
      </p>{/if}
    <p class="flex gap-2">
      <button
        class="btn btn-xs"
        disabled={touched.length >= 9}
        onclick={() => onchange([...touched, { at: jig.pockets.at(-1)?.number ?? 1, x: 0, y: 0 }])}>One more point</button
      >
      <button class="btn btn-xs" onclick={() => onchange([])}>It lies as it should</button>
    </p>
  </fieldset>
{/if}
