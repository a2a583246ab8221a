<script lang="ts">
  import type { PlacedCopy } from '$core/layout/placement';
  import { finishedToCopy, pictureBox, pictureClip, type RunPiece } from '$core/layout/run-piece';
  import { docketPicture } from '$lib/ui/common/client';

  interface Props {
    /** Tells the shapes of this run from others on the page. */
    name: string;
    copies: readonly PlacedCopy[];
    dockets: readonly { id: number; version: number }[];
    laid: readonly RunPiece[];
    /** Pixels a mm on the screen: large copies get a finer picture. */
    scale: number;
    /** Pieces lie by their contours. */
    byShape?: boolean;
    opacity?: number;
  }
  let { name, copies, dockets, laid, scale, byShape = false, opacity = 1 }: Props = $props();

  const byId = $derived(new Map(laid.map((piece) => [piece.id, piece])));
  const docketById = $derived(new Map(dockets.map((docket) => [String(docket.id), docket])));
  const MOST_COARSE_PX = 200;
  /** More are no longer told apart in a picture of this size. */
  const MOST = 600;
</script>

<!-- The copies of a run as their pictures, in the run's own coordinates (mm). -->
<defs>
  {#each laid as piece (piece.id)}
    {@const docket = docketById.get(piece.docket)}
    {@const box = pictureBox(piece)}
    {@const contour = pictureClip(piece) ?? (byShape ? piece.contour : undefined)}
    {#if contour}
      <clipPath id="cut-{name}-{piece.id}">
        <path
          clip-rule="evenodd"
          d={contour.map((ring) => `M${ring.map((p) => `${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join('L')}Z`).join('')}
        />
      </clipPath>
    {/if}
    {#if docket}
      <image
        id="art-{name}-{piece.id}"
        href={docketPicture(docket, box.width * scale > MOST_COARSE_PX ? 1200 : 240)}
        {...box}
        preserveAspectRatio="none"
        clip-path={contour ? `url(#cut-${name}-${piece.id})` : undefined}
      />
    {/if}
  {/each}
</defs>
{#each copies.slice(0, MOST) as copy, i (i)}
  {@const piece = byId.get(copy.id)}
  {#if piece}
    <use href="#art-{name}-{piece.id}" {opacity} transform="matrix({finishedToCopy(piece, copy).join(' ')})" />
    {#if !byShape || !piece.contour}
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
