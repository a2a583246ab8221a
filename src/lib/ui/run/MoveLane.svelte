<script lang="ts">
  import type { LaneOffer } from '$lib/server/production/lane-offers';
  import { attempt, duration, send } from '$lib/ui/common/client';
  import { tape, widthOf } from '$lib/ui/common/shop-unit';

  interface Props {
    currency: string;
    /** They are in no lane yet. */
    fromTray?: boolean;
    onmoved: (runId: number) => void;
  }
  const LOOK_EVERY_MS = 1500;
  const MOST_LOOKS = 10;

  let { currency, fromTray = false, onmoved }: Props = $props();

  let dialog: HTMLDialogElement;
  let ids = $state.raw<readonly number[]>([]);
  let name = $state('');
  let offers = $state.raw<LaneOffer[] | null>(null);

  /** @param what they are called together */
  export async function open(docketIds: readonly number[], what: string): Promise<void> {
    [ids, name, offers] = [docketIds, what, null];
    dialog.showModal();
    if (!(await attempt(async () => (offers = await look(docketIds))))) return dialog.close();
    // What is drawn for the first time takes some seconds.
    for (let times = 0; times < MOST_LOOKS && offers?.some(({ awaited }) => awaited); times++) {
      await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
      const now = ids === docketIds && dialog?.open ? await look(docketIds).catch(() => null) : null;
      if (!now || ids !== docketIds) return;
      offers = now;
    }
  }
  const look = (docketIds: readonly number[]) => send<LaneOffer[]>('POST', '/api/lanes/offers', { docketIds });
  const money = (value: number | null) => (value === null ? '–' : `${currency}${value.toFixed(2)}`);
  async function move(offer: LaneOffer): Promise<void> {
    await attempt(async () => {
      const { runId } = await send<{ runId: number }>('POST', `/api/lanes/${offer.laneId}/take`, { docketIds: ids });
      dialog.close();
      onmoved(runId);
    }, `${name}: in the lane of ${offer.media} now.`);
  }
</script>

<dialog bind:this={dialog} class="modal" aria-label="Move to another lane">
  <div class="modal-box max-w-5xl">
    <h2 class="mb-2 text-lg font-semibold">Move {name} to another lane</h2>
    {#if offers === null}
      <p role="status">Looking at what would change in each lane…</p>
    {:else}
      <p class="text-base-content/70 text-sm">
        As it would be alone there, placed in rows; in all is with ink and the machine's time.
      </p>
      <table class="table-sm table">
        <thead
          ><tr
            ><th>Lane</th><th>Size</th><th class="text-right">Length</th><th class="text-right">Time</th><th class="text-right"
              >Media</th
            ><th class="text-right">In all</th><th>Outside the gamut</th><th></th></tr
          ></thead
        >
        <tbody>
          {#each offers as offer (offer.laneId)}
            <tr>
              <td
                ><div class="font-semibold">{offer.machine}, {offer.media}</div>
                <div class="text-xs">{offer.mode}{offer.loaded ? ', loaded' : ''}</div></td
              >
              <td>{offer.cannot || offer.tooLarge || `fits ${widthOf(offer.usableMm)}`}</td>
              <td class="text-right">{offer.lengthMm === null ? '–' : tape(offer.lengthMm)}</td>
              <td class="text-right">{offer.seconds === null ? '–' : duration(offer.seconds)}</td>
              <td class="text-right">{money(offer.mediaCost)}</td>
              <td class="text-right">{money(offer.cost)}</td>
              <td>{offer.outOfGamut === null ? 'not known' : `${(offer.outOfGamut * 100).toFixed(1)} %`}</td>
              <td class="text-right"
                >{#if offer.lying === ids.length}{ids.length === 1 ? 'it is here' : 'they are here'}{:else}<button
                    class="btn btn-sm whitespace-nowrap"
                    disabled={offer.tooLarge !== '' || offer.cannot !== ''}
                    onclick={() => move(offer)}>{fromTray ? 'Lay out here' : 'Move here'}</button
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
