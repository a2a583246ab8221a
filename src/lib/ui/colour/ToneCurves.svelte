<script lang="ts">
  import { onMount, untrack } from 'svelte';
  import { isPlainTone, sameTone, Tone, toneTables } from '$core/colour/tone';
  import { Draft } from '$lib/ui/common/draft.svelte';
  import Plot from '$lib/ui/common/Plot.svelte';
  import { attempt, send } from '$lib/ui/common/client';
  import ShopTones from '$lib/ui/tone/ShopTones.svelte';
  import ToneEditor from '$lib/ui/tone/ToneEditor.svelte';
  import { INK_LINES } from './show';

  /** The curves of a condition: what every docket is printed through on it, and all curves as one. */
  let {
    conditionId,
    tone,
    tones,
    curves,
    isMixed
  }: {
    conditionId: number;
    tone: Tone;
    tones: readonly { name: string; tone: Tone }[];
    /** From amounts to ink, with what brings the condition back: by channel 256 values. */
    curves: readonly (readonly number[])[] | null;
    /** What brings it back corrects inks together too. */
    isMixed: boolean;
  } = $props();

  /** Without a version: what is kept last counts. */
  const draft = untrack(
    () => new Draft<Tone>(`tone ${conditionId}`, { version: 0, value: tone }, (waits) => Tone.safeParse(waits).data)
  );
  onMount(() => draft.restore());
  $effect(() => {
    const value = tone;
    untrack(() => draft.adopt({ version: 0, value }));
  });
  const shown = $derived(draft.current);
  const isKept = $derived(!draft.isChanged || sameTone(shown, tone));
  const keep = () =>
    attempt(async () => {
      const sent = draft.current;
      await send('PUT', `/api/conditions/${conditionId}/tone`, { tone: sent });
      draft.kept({ version: 0, value: sent }, sent);
    }, 'Dockets print through these curves now.');

  const INKS = ['cyan', 'magenta', 'yellow', 'black'] as const;
  const whole = $derived.by(() => {
    if (!curves) return [];
    const tables = toneTables([shown]);
    return INKS.map((ink, i) => ({
      x: Array.from(tables[i]!, (_, v) => (v / 255) * 100),
      y: Array.from(tables[i]!, (amount) => curves[i]![Math.round(amount * 255)]! * 100),
      mode: 'lines' as const,
      name: ink,
      line: { color: INK_LINES[ink] }
    }));
  });
</script>

<div class="grid gap-8 lg:grid-cols-2">
  <section aria-label="Curves" class="space-y-3">
    <ToneEditor tone={shown} onchange={(next) => draft.change(next)} />
    <ShopTones tone={shown} {tones} onchange={(next) => draft.change(next)} />
    <p class="flex flex-wrap gap-2">
      <button class="btn btn-primary btn-sm" disabled={isKept} onclick={keep}>Print dockets through them</button>
      <button class="btn btn-sm" disabled={isKept} onclick={() => draft.drop()}>Leave them as they were</button>
      <button class="btn btn-sm" disabled={isPlainTone(shown)} onclick={() => draft.change({})}>Straight</button>
    </p>
    {#if !isKept}<p class="text-warning text-sm" role="status">Not kept yet: dockets print as before.</p>{/if}
  </section>
  <section aria-label="As one" class="space-y-2">
    <h3 class="panel-title">All curves as one</h3>
    {#if whole.length > 0}
      <Plot
        label="What is asked for by ink, and the ink that is printed, per cent of the fullest drop"
        height={300}
        data={whole}
        layout={{
          xaxis: { title: { text: 'asked for, %' }, range: [0, 100] },
          yaxis: { title: { text: 'ink, % of the fullest drop' }, rangemode: 'tozero' }
        }}
      />
    {/if}
    <ol class="list-decimal space-y-1 pl-5 text-sm">
      <li>the docket’s own curves</li>
      <li>these, which every docket on this condition gets</li>
      <li>
        what brings the condition back to its baseline (Watch){isMixed
          ? '; inks that print over each other are corrected together first, which no curve shows'
          : ''}
      </li>
      <li>its linearisation</li>
    </ol>
    <p class="text-base-content/70 text-sm">
      Named colours keep theirs. Charts are printed without these curves: they show the condition as it is. What was RIPped before
      says that it is older.
    </p>
  </section>
</div>
