<script lang="ts">
  import type { Layer } from '$core/inks/stack';

  /** A layer cut across: as thick as there is of it, whole or in pieces as it covers, shorter as it is drawn in. */
  let { layer }: { layer: Layer } = $props();

  const id = $props.id();
  const WIDTH = 64;
  const HEIGHT = 18;
  const thick = $derived(layer.ink === 'colour' ? 6 : Math.max(3, Math.min(14, 7 * layer.amount)));
  const pieces = $derived.by(() => {
    if (layer.ink !== 'colour' && (layer.cover.is === 'whole' || layer.cover.is === 'margin')) return [[0, WIDTH]];
    const parts =
      layer.ink === 'colour' || layer.cover.is === 'prints'
        ? [
            [4, 30],
            [36, 60]
          ]
        : layer.cover.is === 'layer' && layer.cover.except
          ? [
              [0, 4],
              [30, 36],
              [60, WIDTH]
            ]
          : [[8, 26]];
    const less = Math.max(-4, Math.min(4, layer.chokeMm * 8));
    return parts.map(([from, to]) => [from! + less, to! - less]).filter(([from, to]) => to! > from!);
  });
</script>

<svg width={WIDTH} height={HEIGHT} viewBox="0 0 {WIDTH} {HEIGHT}" class="shrink-0" aria-hidden="true">
  <defs>
    <linearGradient id="{id}-colour">
      <stop offset="0" stop-color="#00aeef" /><stop offset="0.4" stop-color="#ec008c" /><stop
        offset="0.7"
        stop-color="#fff200"
      /><stop offset="1" stop-color="#222" />
    </linearGradient>
    <pattern id="{id}-varnish" width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
      <rect width="4" height="4" fill="#fff" fill-opacity="0.5" /><rect width="1.4" height="4" fill="#777" />
    </pattern>
    <pattern id="{id}-primer" width="4" height="4" patternUnits="userSpaceOnUse">
      <rect width="4" height="4" fill="#ddd" /><circle cx="2" cy="2" r="1" fill="#777" />
    </pattern>
  </defs>
  {#each pieces as [from, to], i (i)}
    <rect
      x={from}
      y={HEIGHT - 2 - thick}
      width={to! - from!}
      height={thick}
      fill={layer.ink === 'white' ? '#ffffff' : `url(#${id}-${layer.ink})`}
      stroke="currentColor"
      stroke-opacity="0.6"
      stroke-width="1"
    />
  {/each}
</svg>
