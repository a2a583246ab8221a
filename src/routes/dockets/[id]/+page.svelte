<script lang="ts">
  import { beforeNavigate, goto, invalidate } from '$app/navigation';
  import Redo from '@lucide/svelte/icons/redo-2';
  import Undo from '@lucide/svelte/icons/undo-2';
  import { untrack } from 'svelte';
  import { toast } from 'svelte-sonner';
  import { checkDocket } from '$core/artwork/checks';
  import { DEFAULT_MARKS, markRoom } from '$core/layout/marks';
  import { DEFAULT_RULE, type DocketChoices } from '$lib/model';
  import type { Docket } from '$lib/server/dockets';
  import { attempt, isAway, send } from '$lib/ui/common/client';
  import { Edits } from '$lib/ui/common/history.svelte';
  import LevelIcon from '$lib/ui/common/LevelIcon.svelte';
  import ArtworkView from '$lib/ui/docket/ArtworkView.svelte';
  import Ticket from '$lib/ui/docket/Ticket.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  /** What one save sends; the version is the server's at the time. */
  interface Ticketed {
    name: string;
    customer: string;
    choices: DocketChoices;
  }
  const ticketed = ({ name, customer, choices }: Docket): Ticketed => ({ name, customer, choices });

  let version = untrack(() => data.docket.version);
  let shownId = untrack(() => data.docket.id);
  const edits = new Edits<Ticketed>(
    untrack(() => ticketed(data.docket)),
    async (value) => {
      try {
        ({ version } = await send<Docket>('PUT', `/api/dockets/${shownId}`, { version, ...value }));
      } catch (error) {
        toast.error(error instanceof Error ? error.message : String(error), { id: 'saving' });
        if (isAway(error)) throw error;
        const newer = await send<Docket>('GET', `/api/dockets/${shownId}`);
        version = newer.version;
        edits.replace(ticketed(newer));
      }
    }
  );
  $effect(() => {
    const { docket } = data;
    untrack(() => {
      if (docket.id !== shownId) {
        shownId = docket.id;
        version = docket.version;
        edits.replace(ticketed(docket));
      } else if (docket.version > version && !edits.pending && !edits.saving) {
        // Changed in another window: that is what counts now.
        version = docket.version;
        edits.replace(ticketed(docket));
        toast.info('This docket was changed in another window; the newer choices are shown.');
      }
    });
  });
  beforeNavigate(() => void edits.flush());

  const choices = $derived(edits.current.choices);
  const condition = $derived(data.conditions.find((c) => c.id === choices.conditionId));
  const usable = $derived(
    condition && condition.rollWidthMm - 2 * DEFAULT_RULE.margin - (choices.cut ? 2 * markRoom(DEFAULT_MARKS) : 0)
  );
  const checks = $derived(checkDocket(data.docket.artwork.facts, choices, data.fontsNotEmbedded, usable));
  /** One that is printed may be laid out again, in a new run. */
  const inRun = $derived(data.docket.runId !== null && data.docket.runState !== 'printed');
  const stopped = $derived(checks.find((check) => check.level === 'stop'));
  const hindrance = $derived(!condition ? 'Choose a media first.' : stopped ? 'A check above says stop: mend that first.' : '');

  const change = (part: Partial<DocketChoices>) => edits.change({ ...edits.current, choices: { ...choices, ...part } });

  async function next(): Promise<void> {
    await edits.flush();
    if (inRun) return goto(`/runs/${data.docket.runId}`);
    await attempt(async () => {
      const { id } = await send<{ id: number }>('POST', '/api/runs', { docketIds: [shownId] });
      await invalidate('zing:runs');
      await goto(`/runs/${id}`);
    });
  }

  function keys(event: KeyboardEvent): void {
    if (!(event.ctrlKey || event.metaKey)) return;
    if (event.key.toLowerCase() === 'z') {
      event.preventDefault();
      if (event.shiftKey) edits.redo();
      else edits.undo();
    } else if (event.key === 'Enter' && !hindrance) {
      event.preventDefault();
      void next();
    }
  }
</script>

<svelte:window onkeydown={keys} onbeforeunload={(event) => edits.holdPage(event)} />

<div class="flex h-full">
  <section class="min-w-0 grow" aria-label="Artwork to scale">
    <ArtworkView docket={data.docket} {choices} unit={data.settings.unit} />
  </section>
  <aside
    class="border-base-300 bg-base-100 flex w-[26rem] shrink-0 flex-col overflow-auto border-l 2xl:w-[32rem]"
    aria-label="Ticket"
  >
    <header class="border-base-300 border-b p-4 pb-3">
      <div class="flex items-center gap-2">
        <input
          class="in-sentence min-w-0 grow text-lg"
          aria-label="Name of the docket"
          value={edits.current.name}
          maxlength="120"
          oninput={(event) =>
            event.currentTarget.value.trim() && edits.change({ ...edits.current, name: event.currentTarget.value })}
        />
        <button
          class="btn btn-sm btn-ghost btn-square"
          disabled={!edits.canUndo}
          onclick={() => edits.undo()}
          aria-label="Take back the last change"><Undo size={16} /></button
        >
        <button
          class="btn btn-sm btn-ghost btn-square"
          disabled={!edits.canRedo}
          onclick={() => edits.redo()}
          aria-label="Make it again"><Redo size={16} /></button
        >
      </div>
      <div class="text-base-content/70 mt-1 text-sm">
        Docket {data.docket.id} for
        <input
          class="in-sentence"
          aria-label="Customer"
          placeholder="a customer"
          value={edits.current.customer}
          maxlength="120"
          oninput={(event) => edits.change({ ...edits.current, customer: event.currentTarget.value })}
        />
        <span class="float-right" role="status">{edits.saving || edits.pending ? 'Saving…' : 'Saved'}</span>
      </div>
    </header>

    <section class="border-base-300 border-b p-4 py-3" aria-label="Checks">
      <ul class="space-y-1.5 text-sm">
        {#each checks as check (check.id)}
          <li class="flex items-start gap-2">
            <span class="w-14 shrink-0"><LevelIcon level={check.level} /></span>
            <span class="grow">
              {check.sentence}
              {#if check.mend}
                {@const { mend } = check}
                <button class="btn btn-xs mt-1" onclick={() => change({ widthMm: mend.widthMm, heightMm: mend.heightMm })}
                  >{mend.label}</button
                >
              {/if}
            </span>
          </li>
        {/each}
      </ul>
    </section>

    <Ticket
      docket={data.docket}
      {choices}
      conditions={data.conditions}
      machines={data.machines}
      settings={data.settings}
      onchange={change}
    />

    <footer class="bg-base-100 border-base-300 sticky bottom-0 mt-auto border-t p-3">
      <button class="btn btn-primary w-full" disabled={hindrance !== ''} onclick={next}>
        {inRun ? `Go to run ${data.docket.runId}` : data.docket.runId !== null ? 'Lay it out again' : 'Lay it out'}
      </button>
      {#if data.docket.runId !== null && !inRun}<p class="mt-1 text-xs">
          It was printed in <a class="link" href="/runs/{data.docket.runId}">run {data.docket.runId}</a>.
        </p>{/if}
      {#if hindrance}<p class="mt-1 text-xs">{hindrance}</p>{/if}
    </footer>
  </aside>
</div>
