<script lang="ts">
  import { onMount } from 'svelte';
  import { counted } from '$core/units/counted';
  import type { IncomingCard } from '$lib/server/calibration/card-files';
  import { attempt } from '$lib/ui/common/client';

  /** What a file of cards would bring, before anything is taken. */
  let { file, onclose }: { file: File; onclose: () => void } = $props();

  let dialog: HTMLDialogElement;
  let cards = $state<IncomingCard[]>();
  let failed = $state('');
  let choice = $state<Record<number, 'leave' | 'take' | 'replace'>>({});

  const put = async (query: string) => {
    const reply = await fetch(`/api/media/file${query}`, {
      method: 'PUT',
      body: file,
      headers: { 'content-type': 'application/zip' }
    });
    const answer = (await reply.json()) as unknown;
    if (!reply.ok) throw new Error((answer as { error: string }).error);
    return answer;
  };
  onMount(() => {
    dialog.showModal();
    put('').then(
      (answer) => {
        cards = answer as IncomingCard[];
        choice = Object.fromEntries(cards.map(({ index, state }) => [index, state === 'new' ? 'take' : 'leave']));
      },
      (error: Error) => (failed = error.message)
    );
  });
  const chosen = $derived(
    Object.entries(choice).flatMap(([index, what]) =>
      what === 'leave' ? [] : [{ index: Number(index), replace: what === 'replace' }]
    )
  );
  async function take(): Promise<void> {
    if (
      await attempt(
        () => put(`?take=${encodeURIComponent(JSON.stringify(chosen))}`),
        `${counted(chosen.length, 'card is', 'cards are')} taken.`
      )
    )
      dialog.close();
  }
</script>

<dialog bind:this={dialog} class="modal" {onclose} aria-label="Import cards">
  <div class="modal-box max-w-3xl space-y-3">
    <h2 class="text-lg font-semibold">{file.name}</h2>
    {#if failed}
      <p class="text-error">{failed}</p>
    {:else if !cards}
      <p>Being looked at…</p>
    {:else}
      <ul class="space-y-3">
        {#each cards as card (card.index)}
          <li class="border-base-300 border-b pb-2">
            <div class="flex items-center gap-3">
              <span class="font-semibold">{card.name}</span>
              <span
                >{card.state === 'same' ? 'the same is here' : card.state === 'new' ? 'new' : 'different from the one here'}</span
              >
              <select
                class="select select-sm ml-auto w-56"
                aria-label="What to do with {card.name}"
                bind:value={choice[card.index]}
              >
                <option value="leave">leave it</option>
                {#if card.state === 'new'}<option value="take">take it</option>{/if}
                {#if card.state === 'different'}<option value="take">take it beside ours</option><option value="replace"
                    >put it in place of ours</option
                  >{/if}
              </select>
            </div>
            {#each card.differences as { field, mine, theirs } (field)}<p class="text-sm">
                {field}: here {mine}, in the file {theirs}
              </p>{/each}
            {#each card.conditions as condition, i (i)}
              <p class="text-sm">
                {condition.machine}, {condition.mode}: {condition.profiled
                  ? 'with its measured profile'
                  : 'as the machine says'}{condition.state === 'no machine'
                  ? ` – left out, there is no ${condition.machine} here`
                  : condition.state === 'same'
                    ? ', the same is here'
                    : ''}
              </p>
            {/each}
          </li>
        {/each}
      </ul>
    {/if}
    <div class="modal-action">
      <form method="dialog"><button class="btn btn-sm">{cards ? 'Take nothing' : 'Close'}</button></form>
      {#if cards}<button class="btn btn-sm btn-primary" disabled={chosen.length === 0} onclick={take}
          >Take {counted(chosen.length, 'card')}</button
        >{/if}
    </div>
  </div>
</dialog>
