<script lang="ts">
  import { counted } from '$core/units/counted';
  import type { Machine } from '$lib/server/machines/machines';
  import type { Media } from '$lib/server/media/cards';
  import { attempt, send } from '$lib/ui/common/client';
  import { sheetOf, tape, widthOf } from '$lib/ui/common/shop-unit';

  let dialog: HTMLDialogElement;
  let media = $state.raw<readonly Media[]>();
  let machine = $state.raw<Machine | null>(null);
  let first = $state<string | null>(null);
  let busy = $state(false);
  const now = $derived(machine?.printer?.media);
  const flatbed = $derived(now?.sheetMm !== null && now?.sheetMm !== undefined);
  /** What is in stock for this machine, the media that was asked for first. */
  const stock = $derived(
    (media ?? [])
      .flatMap(({ id, version, card }) =>
        flatbed
          ? card.sheets.map((one, which) => ({
              id,
              version,
              which,
              name: card.name,
              words: `${sheetOf(one.widthMm, one.heightMm)}, ${counted(one.count, 'sheet')}`,
              any: one.count > 0
            }))
          : card.rolls.map((one, which) => ({
              id,
              version,
              which,
              name: card.name,
              words: `${widthOf(one.widthMm)}, ${tape(one.lengthMm)}${one.batch ? `, batch ${one.batch}` : ''}`,
              any: one.lengthMm > 0
            }))
      )
      .filter((one) => one.any)
      .sort((p, q) => Number(q.name === first) - Number(p.name === first) || p.name.localeCompare(q.name))
  );

  export async function open(on: Machine, mediaName: string | null = null): Promise<void> {
    [machine, first, media] = [on, mediaName, undefined];
    dialog.showModal();
    if (!(await attempt(async () => (media = await send<Media[]>('GET', '/api/media'))))) dialog.close();
  }
  async function load(mediaId: number, version: number, which: number, name: string): Promise<void> {
    if (!machine) return;
    const { id, name: on } = machine;
    busy = true;
    const done = await attempt(
      () => send('POST', `/api/machines/${id}/load`, { mediaId, version, which }),
      `${name} is on ${on}.`
    );
    busy = false;
    if (done) dialog.close();
    // The card may be another by now.
    else await open(machine, first);
  }
</script>

<dialog bind:this={dialog} class="modal" aria-label="Change the media">
  <div class="modal-box max-w-2xl">
    <h2 class="mb-1 text-lg font-semibold">Change the media on {machine?.name}</h2>
    {#if now}
      <p class="mb-3 text-sm">
        On it now: <b>{now.name}</b>, {now.sheetMm === null ? widthOf(now.widthMm) : sheetOf(now.widthMm, now.sheetMm)},
        {now.sheetMm === null ? tape(now.lengthMm) : counted(now.sheets, 'sheet')} left{now.batch ? `, batch ${now.batch}` : ''}.
        What is left goes into stock.
      </p>
    {/if}
    <ul class="max-h-96 overflow-auto">
      {#each stock as one (`${one.id}/${one.which}`)}
        <li class="border-base-300 flex items-center gap-3 border-b py-1.5 text-sm">
          <span class="grow"><span class="font-semibold">{one.name}</span>, {one.words}</span>
          <button
            class="btn btn-sm {one.name === first ? 'btn-primary' : ''}"
            disabled={busy}
            onclick={() => load(one.id, one.version, one.which, one.name)}
            aria-label="Load {one.name}, {one.words}">Load</button
          >
        </li>
      {:else}
        <li class="py-3 text-sm">
          {#if media === undefined}Looking at what is in stock…{:else}Nothing is in stock for this machine. Write {flatbed
              ? 'sheets'
              : 'rolls'} on a
            <a class="link" href="/media">media card</a>.{/if}
        </li>
      {/each}
    </ul>
    {#if first && media && !stock.some((one) => one.name === first)}<p class="text-warning mt-2 text-sm">
        No {flatbed ? 'sheets' : 'roll'} of {first} in stock. Write one on its <a class="link" href="/media">card</a>.
      </p>{/if}
    <div class="modal-action"><button class="btn btn-sm" onclick={() => dialog.close()}>Leave it</button></div>
  </div>
</dialog>
