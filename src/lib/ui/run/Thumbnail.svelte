<script lang="ts">
  import type { PlacedCopy, Placement, Stock } from '$core/layout/placing';

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
  const MOST = 1200;
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
</script>

<!-- The whole layout, lying on its side as the big picture does. -->
<svg {width} {height} aria-hidden="true" class="block">
  <g transform="matrix(0 {-scale} {scale} 0 0 {(height + stock.width * scale) / 2})">
    {#each layout.parts as part, i (i)}
      <g transform="translate(0 {starts[i]})">
        <rect width={stock.width} height={part.length} fill="#fff" stroke="#999" vector-effect="non-scaling-stroke" />
        {#each part.copies.slice(0, MOST) as copy, n (n)}
          {@const shape = contour(copy)}
          {#if shape}
            <path d={shape} fill={shade(copy.id)} fill-rule="evenodd" />
          {:else}
            <rect
              x={copy.x}
              y={copy.y}
              width={copy.width}
              height={copy.height}
              fill={shade(copy.id)}
              stroke="#fff"
              stroke-width="0.5"
              vector-effect="non-scaling-stroke"
            />
          {/if}
        {/each}
      </g>
    {/each}
  </g>
</svg>
