<script lang="ts">
  import type { PlacedCopy } from '$core/layout/rows';
  import type { Docket } from '$lib/server/dockets';
  import { docketPicture } from '$lib/ui/common/client';

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
    {@const { widthMm, heightMm, bleedMm } = docket.choices}
    <image
      id="art-{name}-{docket.id}"
      href={docketPicture(docket, widthMm * scale > MOST_COARSE_PX ? 1200 : 240)}
      width={widthMm + 2 * bleedMm}
      height={heightMm + 2 * bleedMm}
      preserveAspectRatio="none"
    />
  {/each}
</defs>
{#each copies as copy, i (i)}
  {@const docket = byId.get(copy.id)}
  {#if docket}
    {@const turn = copy.turned ? `matrix(0 1 -1 0 ${copy.width} 0)` : ''}
    <use href="#art-{name}-{docket.id}" {opacity} transform="translate({copy.x} {copy.y}) {turn}" />
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
