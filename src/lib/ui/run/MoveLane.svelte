<script lang="ts">
  import { formatMetres } from '$core/units/length';
  import type { Docket } from '$lib/server/dockets/dockets';
  import type { LaneOffer } from '$lib/server/production/lane-offers';
  import { attempt, duration, send } from '$lib/ui/common/client';

  interface Props {
    currency: string;
    onmoved: (runId: number) => void;
  }
  let { currency, onmoved }: Props = $props();

  let dialog: HTMLDialogElement;
  let docket = $state.raw<Docket | null>(null);
  let offers = $state.raw<LaneOffer[] | null>(null);

  export async function open(of: Docket): Promise<void> {
    docket = of;
    offers = null;
    dialog.showModal();
    if (!(await attempt(async () => (offers = await send<LaneOffer[]>('GET', `/api/dockets/${of.id}/lanes`))))) dialog.close();
  }
  async function move(laneId: number): Promise<void> {
    if (!docket) return;
    const { id, name } = docket;
    await attempt(async () => {
      const { runId } = await send<{ runId: number }>('POST', `/api/dockets/${id}/lanes`, { laneId });
      dialog.close();
      onmoved(runId);
    }, `${name} is in its new lane.`);
  }
</script>

<dialog bind:this={dialog} class="modal" aria-label="Move to another lane">
  <div class="modal-box max-w-4xl">
    <h2 class="mb-2 text-lg font-semibold">Move {docket?.name} to another lane</h2>
    {#if offers === null}
      <p role="status">Looking at what would change in each lane…</p>
    {:else}
      <table class="table-sm table">
        <thead
          ><tr
            ><th>Lane</th><th>Size</th><th class="text-right">Length</th><th class="text-right">Time</th><th class="text-right"
              >Media</th
            ><th>Gamut</th><th></th></tr
          ></thead
        >
        <tbody>
          {#each offers as offer (offer.laneId)}
            <tr>
              <td
                ><div class="font-semibold">{offer.machine}, {offer.media}</div>
                <div class="text-xs">{offer.mode}{offer.loaded ? ', loaded' : ''}</div></td
              >
              <td
                >{offer.fits
                  ? `fits ${Math.round(offer.usableMm)} mm`
                  : `too wide: ${Math.round(offer.usableMm)} mm can be used`}</td
              >
              <td class="text-right">{offer.lengthMm === null ? '–' : formatMetres(offer.lengthMm)}</td>
              <td class="text-right">{offer.seconds === null ? '–' : duration(offer.seconds)}</td>
              <td class="text-right">{offer.mediaCost === null ? '–' : `${currency}${offer.mediaCost.toFixed(2)}`}</td>
              <td>{offer.outOfGamut === null ? 'not known' : `${(offer.outOfGamut * 100).toFixed(1)} % outside`}</td>
              <td class="text-right"
                >{#if offer.here}it is here{:else}<button
                    class="btn btn-sm"
                    disabled={!offer.fits}
                    onclick={() => move(offer.laneId)}>Move here</button
                  >{/if}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
    <div class="modal-action"><button class="btn btn-sm" onclick={() => dialog.close()}>Leave it</button></div>
  </div>
</dialog>
