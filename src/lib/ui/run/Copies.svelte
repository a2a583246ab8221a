<script lang="ts">
  import type { PlacedCopy } from '$core/layout/rows';
  import type { Docket } from '$lib/server/dockets';

  interface Props {
    /** Tells the shapes of this run from others on the page. */
    name: string;
    copies: readonly PlacedCopy[];
    dockets: readonly Docket[];
    /** Pixels a mm on the screen: large copies get a finer picture. */
    scale: number;
    opacity?: number;
  }
  let { name, copies, dockets, scale, opacity = 1 }: Props = $props();

  const byId = $derived(new Map(dockets.map((docket) => [String(docket.id), docket])));
  const MOST_COARSE_PX = 200;
</script>

<!-- The copies of a run as their pictures, in the run's own coordinates (mm). -->
<defs>
  {#each dockets as docket (docket.id)}
    {@const { choices, artwork } = docket}
    {@const sx = choices.widthMm / artwork.facts.widthMm}
    {@const sy = choices.heightMm / artwork.facts.heightMm}
    {@const bleed = Math.min(artwork.facts.bleedMm, 100)}
    <clipPath id="clip-{name}-{docket.id}">
      <rect
        x={-choices.bleedMm}
        y={-choices.bleedMm}
        width={choices.widthMm + 2 * choices.bleedMm}
        height={choices.heightMm + 2 * choices.bleedMm}
      />
    </clipPath>
    <image
      id="art-{name}-{docket.id}"
      href="/api/artworks/{docket.artworkId}/preview?page={docket.page}&width={choices.widthMm * scale > MOST_COARSE_PX
        ? 1200
        : 240}"
      x={-bleed * sx}
      y={-bleed * sy}
      width={(artwork.facts.widthMm + 2 * bleed) * sx}
      height={(artwork.facts.heightMm + 2 * bleed) * sy}
      preserveAspectRatio="none"
      clip-path="url(#clip-{name}-{docket.id})"
    />
  {/each}
</defs>
{#each copies as copy, i (i)}
  {@const docket = byId.get(copy.id)}
  {#if docket}
    {@const { bleedMm } = docket.choices}
    {@const turn = copy.turned ? `matrix(0 1 -1 0 ${copy.width} 0)` : ''}
    <use
      href="#art-{name}-{docket.id}"
      {opacity}
      transform="translate({copy.x} {copy.y}) {turn} translate({bleedMm} {bleedMm})"
    />
    <rect
      x={copy.x}
      y={copy.y}
      width={copy.width}
      height={copy.height}
      fill="none"
      stroke="#888"
      vector-effect="non-scaling-stroke"
      stroke-width="0.6"
    />
  {/if}
{/each}
