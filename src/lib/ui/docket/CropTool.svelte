<script lang="ts">
  import type { Box } from '$core/geometry/box';
  import { formatLength, type LengthUnit } from '$core/units/length';
  import { follow, pointIn } from './drag';

  interface Props {
    /** The finished size as it is, mm; what is dragged is told in the same coordinates. */
    widthMm: number;
    heightMm: number;
    unit: LengthUnit;
    /** Pixels a mm. */
    scale: number;
    oncrop: (box: Box) => void;
  }
  let { widthMm, heightMm, unit, scale, oncrop }: Props = $props();

  let group: SVGGElement;
  let dragged = $state<{ x0: number; y0: number; x1: number; y1: number } | null>(null);
  const box = $derived(dragged ?? { x0: 0, y0: 0, x1: widthMm, y1: heightMm });
  const LEAST_MM = 1;

  const HANDLES = [
    { name: 'left', x: ['x0'], y: [] },
    { name: 'right', x: ['x1'], y: [] },
    { name: 'top', x: [], y: ['y0'] },
    { name: 'bottom', x: [], y: ['y1'] },
    { name: 'top left', x: ['x0'], y: ['y0'] },
    { name: 'top right', x: ['x1'], y: ['y0'] },
    { name: 'bottom left', x: ['x0'], y: ['y1'] },
    { name: 'bottom right', x: ['x1'], y: ['y1'] }
  ] as const;
  type Handle = (typeof HANDLES)[number];
  const px = $derived(1 / scale);
  const place = (handle: Handle) => ({
    x: handle.x[0] ? box[handle.x[0]] : (box.x0 + box.x1) / 2,
    y: handle.y[0] ? box[handle.y[0]] : (box.y0 + box.y1) / 2
  });

  function moved(handle: Handle, x: number, y: number): void {
    const next = { ...box };
    if (handle.x[0] === 'x0') next.x0 = Math.min(x, next.x1 - LEAST_MM);
    if (handle.x[0] === 'x1') next.x1 = Math.max(x, next.x0 + LEAST_MM);
    if (handle.y[0] === 'y0') next.y0 = Math.min(y, next.y1 - LEAST_MM);
    if (handle.y[0] === 'y1') next.y1 = Math.max(y, next.y0 + LEAST_MM);
    dragged = next;
  }
  function finish(): void {
    if (!dragged) return;
    const { x0, y0, x1, y1 } = dragged;
    dragged = null;
    oncrop({ x: x0, y: y0, width: x1 - x0, height: y1 - y0 });
  }
  /** By keyboard: a step of 1 mm, of 0.1 mm with Shift. */
  function keys(event: KeyboardEvent, handle: Handle): void {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const step = event.shiftKey ? 0.1 : 1;
    const at = place(handle);
    moved(handle, at.x + (by[0] ?? 0) * step, at.y + (by[1] ?? 0) * step);
    finish();
  }
</script>

<g bind:this={group} data-tool>
  <rect
    x={box.x0}
    y={box.y0}
    width={box.x1 - box.x0}
    height={box.y1 - box.y0}
    fill="none"
    class="stroke-primary"
    stroke-width="2"
    vector-effect="non-scaling-stroke"
  />
  {#each HANDLES as handle (handle.name)}
    {@const at = place(handle)}
    <rect
      x={at.x - 6 * px}
      y={at.y - 6 * px}
      width={12 * px}
      height={12 * px}
      class="fill-base-100 stroke-primary focus-visible:fill-primary cursor-move outline-none"
      stroke-width="2"
      vector-effect="non-scaling-stroke"
      role="slider"
      tabindex="0"
      aria-label="Crop, {handle.name}"
      aria-valuenow={handle.x[0] ? box[handle.x[0]] : box[handle.y[0] ?? 'y0']}
      aria-valuetext={`${formatLength(box.x1 - box.x0, unit)} × ${formatLength(box.y1 - box.y0, unit)}`}
      onkeydown={(event) => keys(event, handle)}
      onpointerdown={(event) =>
        follow(
          event,
          (e) => {
            const p = pointIn(group, e);
            moved(handle, p.x, p.y);
          },
          finish
        )}
    />
  {/each}
  {#if dragged}
    <g transform="translate({(box.x0 + box.x1) / 2} {box.y0 - 12 * px}) scale({px})">
      <text text-anchor="middle" class="fill-base-content" font-size="13" stroke="#fff" stroke-width="3" paint-order="stroke"
        >{formatLength(box.x1 - box.x0, unit)} × {formatLength(box.y1 - box.y0, unit)}</text
      >
    </g>
  {/if}
</g>
