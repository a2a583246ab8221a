<script lang="ts" module>
  /** Room that a ruler takes, in pixels. */
  export const RULER = 26;
</script>

<script lang="ts">
  import { longUnit, MM_PER, type LengthUnit } from '$core/units/length';
  import { shopUnit } from './shop-unit';
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
    /** Long things are measured in metres or feet along. */
    long?: boolean;
  }
  let { width, height, left, top, scale, from = -Infinity, mostDown = Infinity, long = false }: Props = $props();

  /** What stands at ticks that are round figures of a unit. */
  function marked(unit: LengthUnit, start: number, end: number, most: number) {
    const px = scale * MM_PER[unit];
    return ticks((RULER - start) / px, (end - start) / px, rulerStep(px))
      .map((figure) => ({ mm: figure * MM_PER[unit], figure: Number(figure.toFixed(4)) }))
      .filter(({ mm }) => mm >= from && mm <= most);
  }
  const unit = $derived(shopUnit());
  const far = $derived(longUnit(unit));
  /** Near by, what is long is measured in the small unit too. */
  const isFar = $derived(long && rulerStep(scale * MM_PER[far]) >= (far === 'm' ? 0.1 : 1));
  const along = $derived(
    marked(isFar ? far : unit, left, width, Infinity).map(({ mm, figure }) => ({
      x: left + mm * scale,
      text: isFar ? `${figure} ${far}` : `${figure}`
    }))
  );
  const down = $derived(
    marked(unit, top, height, mostDown).map(({ mm, figure }) => ({ y: top + mm * scale, text: `${figure}` }))
  );
  /** Half of a figure that would be cut off at the end is none. */
  const isWhole = (text: string, at: number, end: number) => at + text.length * 3.5 <= end;
</script>

<g class="fill-base-200"><rect x="0" y="0" {width} height={RULER} /><rect x="0" y="0" width={RULER} {height} /></g>
<g class="fill-base-content text-[10px]" aria-hidden="true">
  {#each along as { x, text } (x)}
    <line x1={x} x2={x} y1={RULER - 7} y2={RULER} stroke="currentColor" />
    {#if isWhole(text, x, width)}<text {x} y={RULER - 10} text-anchor="middle">{text}</text>{/if}
  {/each}
  {#each down as { y, text } (y)}
    <line x1={RULER - 7} x2={RULER} y1={y} y2={y} stroke="currentColor" />
    {#if isWhole(text, y, height)}
      <text x={RULER - 12} y={y + 3} text-anchor="middle" transform="rotate(-90 {RULER - 12} {y})">{text}</text>
    {/if}
  {/each}
  {#if !long}<text x="4" y="16">{unit}</text>{/if}
</g>
