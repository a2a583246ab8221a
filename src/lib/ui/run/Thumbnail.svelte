<script lang="ts">
  import type { PlacedCopy, Placement, Stock } from '$core/layout/placement';

  interface Props {
    layout: Placement;
    stock: Stock;
    /** Of a docket, so that the same one is told in every drawing. */
    shade: (id: string) => string;
    /** A copy's contour as path data; nothing where it is a rectangle. */
    contour: (copy: PlacedCopy) => string | undefined;
    width: number;
    height: number;
  }
  let { layout, stock, shade, contour, width, height }: Props = $props();

  const GAP = 30;
  const MOST = 1500;
  const length = $derived(layout.length + GAP * Math.max(0, layout.parts.length - 1));
  const scale = $derived(Math.min(width / Math.max(1, length), height / stock.width));
  const starts = $derived.by(() => {
    let at = 0;
    return layout.parts.map((part) => {
      const start = at;
      at += part.length + GAP;
      return start;
    });
  });
  /** All copies of a docket as one shape: there may be thousands. */
  const shapes = $derived(
    layout.parts.map((part) => {
      const ids = [...new Set(part.copies.map((copy) => copy.id))];
      const shown = part.copies.slice(0, MOST);
      return ids.map((id) => ({
        id,
        d: shown
          .filter((copy) => copy.id === id)
          .map((copy) => contour(copy) ?? `M${copy.x} ${copy.y}h${copy.width}v${copy.height}h${-copy.width}z`)
          .join('')
      }));
    })
  );
</script>

<!-- The whole layout, lying on its side as the big picture does. -->
<svg {width} {height} aria-hidden="true" class="block">
  <g transform="matrix(0 {-scale} {scale} 0 0 {(height + stock.width * scale) / 2})">
    {#each layout.parts as part, i (i)}
      <g transform="translate(0 {starts[i]})">
        <rect width={stock.width} height={part.length} fill="#fff" stroke="#999" vector-effect="non-scaling-stroke" />
        {#each shapes[i] ?? [] as { id, d } (id)}
          <path {d} fill={shade(id)} fill-rule="evenodd" stroke="#fff" stroke-width="0.5" vector-effect="non-scaling-stroke" />
        {/each}
      </g>
    {/each}
  </g>
</svg>
