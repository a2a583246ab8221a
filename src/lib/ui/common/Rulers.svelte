<script lang="ts" module>
  /** Room that a ruler takes, in pixels. */
  export const RULER = 26;
</script>

<script lang="ts">
  import { rulerStep, ticks } from './zoom';

  interface Props {
    width: number;
    height: number;
    /** Where zero is, and pixels a mm. */
    left: number;
    top: number;
    scale: number;
    /** What is before zero or past this is no part of the thing measured, and gets no ticks. */
    from?: number;
    mostDown?: number;
    /** Long things are measured in metres along. */
    metres?: boolean;
  }
  let { width, height, left, top, scale, from = -Infinity, mostDown = Infinity, metres = false }: Props = $props();

  const step = $derived(rulerStep(scale));
  const along = $derived(
    ticks(-left / scale, (width - left) / scale, step).filter((mm) => mm >= from && left + mm * scale > RULER)
  );
  const down = $derived(
    ticks(-top / scale, (height - top) / scale, step).filter((mm) => mm >= from && mm <= mostDown && top + mm * scale > RULER)
  );
  const figure = (mm: number) => Number(mm.toFixed(3));
  const said = (mm: number) => (metres && step >= 100 ? `${figure(mm / 1000)} m` : `${figure(mm)}`);
  /** Half of a figure that would be cut off at the end is none. */
  const isWhole = (text: string, at: number, end: number) => at + text.length * 3.5 <= end;
</script>

<g class="fill-base-200"><rect x="0" y="0" {width} height={RULER} /><rect x="0" y="0" width={RULER} {height} /></g>
<g class="fill-base-content text-[10px]" aria-hidden="true">
  {#each along as mm (mm)}
    {@const x = left + mm * scale}
    <line x1={x} x2={x} y1={RULER - 7} y2={RULER} stroke="currentColor" />
    {#if isWhole(said(mm), x, width)}<text {x} y={RULER - 10} text-anchor="middle">{said(mm)}</text>{/if}
  {/each}
  {#each down as mm (mm)}
    {@const y = top + mm * scale}
    <line x1={RULER - 7} x2={RULER} y1={y} y2={y} stroke="currentColor" />
    {#if isWhole(`${figure(mm)}`, y, height)}
      <text x={RULER - 12} y={y + 3} text-anchor="middle" transform="rotate(-90 {RULER - 12} {y})">{figure(mm)}</text>
    {/if}
  {/each}
  {#if !metres}<text x="4" y="16">mm</text>{/if}
</g>
