<script lang="ts">
  import { liesAlike, USUAL_IN_POCKET } from '$lib/in-jig';
  import PocketSentence from '$lib/ui/jig/PocketSentence.svelte';
  import type { TicketView } from './ticket';

  let { view }: { view: TicketView } = $props();

  const { choices, condition, docket, jigs, settings } = $derived(view);
  const jig = $derived(choices.jig);
  const nameOf = (asked: number) => jigs.find(({ id }) => id === asked)?.name ?? 'a jig that is gone';
  /** Its run's, where it says none itself. */
  const ofRun = $derived(jig === null ? docket.runJig : null);
  /** Things lie in a jig on a flatbed; what was said before is seen everywhere. */
  const isOffered = $derived(
    jig !== null || ofRun !== null || (jigs.length > 0 && condition !== undefined && condition.sheetMm !== null)
  );
  /** It was laid out before that was said: what its run says is printed. */
  const isElsewhere = $derived(view.inRun !== null && jig !== null && !liesAlike(jig, docket.runJig));
  function choose(key: string): void {
    view.change({ jig: key === '' ? null : { id: Number(key), lies: jig?.lies ?? USUAL_IN_POCKET } });
  }
</script>

{#if isOffered}
  <section aria-label="Jig">
    <h2 class="panel-title leading-4">Jig</h2>
    <p>
      Printed on
      <select
        class="in-sentence"
        aria-label="Printed on"
        value={jig ? String(jig.id) : ''}
        onchange={(event) => choose(event.currentTarget.value)}
      >
        <option value="">{ofRun ? 'what its run says' : 'the sheet itself'}</option>
        {#each jigs as { id, name } (id)}<option value={String(id)}>what lies in {name}</option>{/each}
        {#if jig && !jigs.some(({ id }) => id === jig.id)}<option value={String(jig.id)}>a jig that is gone</option>{/if}
      </select>.
      {#if jig}
        <PocketSentence
          rule={jig.lies}
          unit={settings.unit}
          what="It lies"
          onchange={(part) => view.change({ jig: { ...jig, lies: { ...jig.lies, ...part } } })}
        />
        {#if choices.cut}<span class="text-base-content/70">What lies in a jig is not cut.</span>{/if}
      {/if}
    </p>
    {#if ofRun}
      <p class="leading-6" role="status">
        Run {docket.runId} places it in {nameOf(ofRun.id)}, and what is checked here is how it lies there.
        <button class="btn btn-xs" onclick={() => view.change({ jig: ofRun })}>Say so here too</button>
      </p>
    {:else if isElsewhere}
      <p class="text-warning leading-6" role="status">
        ! Run {docket.runId} places it {docket.runJig ? 'otherwise' : 'on the sheet'}.
        <button class="btn btn-xs" onclick={view.layAnew}>Lay it out as said here</button>
      </p>
    {/if}
  </section>
{/if}
