<script lang="ts">
  import type { PlacedCopy } from '$core/layout/placement';
  import { finishedToCopy, type RunDocket } from '$core/layout/run-layout';
  import type { Docket } from '$lib/server/dockets';
  import { docketPicture } from '$lib/ui/common/client';

  interface Props {
    /** Tells the shapes of this run from others on the page. */
    name: string;
    copies: readonly PlacedCopy[];
    dockets: readonly Docket[];
    laid: readonly RunDocket[];
    /** Pixels a mm on the screen: large copies get a finer picture. */
    scale: number;
    /** Pieces lie by their contours. */
    byShape?: boolean;
    opacity?: number;
  }
  let { name, copies, dockets, laid, scale, byShape = false, opacity = 1 }: Props = $props();

  const byId = $derived(new Map(laid.map((docket) => [docket.id, docket])));
  const MOST_COARSE_PX = 200;
  /** More are no longer told apart in a picture of this size. */
  const MOST = 600;
</script>

<!-- The copies of a run as their pictures, in the run's own coordinates (mm). -->
<defs>
  {#each dockets as docket (docket.id)}
    {@const { widthMm, heightMm, bleedMm } = docket.choices}
    {@const contour = byShape ? byId.get(String(docket.id))?.contour : undefined}
    {#if contour}
      <clipPath id="cut-{name}-{docket.id}">
        <path
          clip-rule="evenodd"
          d={contour.map((ring) => `M${ring.map((p) => `${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join('L')}Z`).join('')}
        />
      </clipPath>
    {/if}
    <image
      id="art-{name}-{docket.id}"
      href={docketPicture(docket, widthMm * scale > MOST_COARSE_PX ? 1200 : 240)}
      x={-bleedMm}
      y={-bleedMm}
      width={widthMm + 2 * bleedMm}
      height={heightMm + 2 * bleedMm}
      preserveAspectRatio="none"
      clip-path={contour ? `url(#cut-${name}-${docket.id})` : undefined}
    />
  {/each}
</defs>
{#each copies.slice(0, MOST) as copy, i (i)}
  {@const docket = byId.get(copy.id)}
  {#if docket}
    <use href="#art-{name}-{docket.id}" {opacity} transform="matrix({finishedToCopy(docket, copy).join(' ')})" />
    {#if !byShape || !docket.contour}
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
  {/if}
{/each}
