<script lang="ts">
  import { onMount, untrack } from 'svelte';
  import { toast } from 'svelte-sonner';
  import { changesNothing, NO_ADJUSTMENT, type Adjustment } from '$core/colour/adjustment';
  import { isPlainTone, type Tone } from '$core/colour/tone';
  import type { Box } from '$core/geometry/box';
  import { HALFTONE_WORDS } from '$lib/run-rule';
  import type { Variant } from '$lib/variants';
  import { attempt, send } from '$lib/ui/common/client';
  import StepButtons from '$lib/ui/common/StepButtons.svelte';
  import { DocketEdits } from '$lib/ui/docket/docket-edits.svelte';
  import DocketSaving from '$lib/ui/docket/DocketSaving.svelte';
  import OtherWindow from '$lib/ui/docket/OtherWindow.svelte';
  import { LiveProof } from '$lib/ui/tone/proof.svelte';
  import ProofView from '$lib/ui/tone/ProofView.svelte';
  import ShopTones from '$lib/ui/tone/ShopTones.svelte';
  import ToneEditor from '$lib/ui/tone/ToneEditor.svelte';
  import Variants from '$lib/ui/tone/Variants.svelte';
  import type { PageData } from './$types';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';

  let { data }: { data: PageData } = $props();

  const edits = new DocketEdits(untrack(() => data.docket));

  const proof = new LiveProof();
  let white = $state<'media' | 'screen'>('media');
  let over = $state<'' | 'difference' | 'gamut'>('');
  let choosing = $state(false);
  /** The part that variants show, mm of the finished size: from the middle, as large as a hand, to begin with. */
  let part = $state(
    untrack(() => {
      const { widthMm, heightMm } = data.docket.choices;
      const [width, height] = [Math.min(widthMm, 80), Math.min(heightMm, 60)];
      return { x: (widthMm - width) / 2, y: (heightMm - height) / 2, width, height };
    })
  );

  const { choices } = $derived(edits.current);
  const { adjustment, tone } = $derived(choices);
  const ready = $derived(data.condition?.hasProfile === true);

  onMount(() => {
    if (data.condition?.hasProfile) void proof.open(data.docket.id, data.condition.id);
    return () => proof.close();
  });
  $effect(() => {
    const { version, choices: saved } = edits.docket;
    const { named, conditionTone } = data;
    const question = { tone, then: conditionTone, adjustment, white, difference: over === 'difference' };
    untrack(() => {
      proof.saved(version, saved, named, conditionTone);
      proof.ask(question);
    });
  });

  const change = (part: { adjustment?: Adjustment; tone?: Tone }) =>
    edits.change({ ...edits.current, choices: { ...choices, ...part } });
  const SLIDERS = [
    ['brightness', 'Brightness', -100, 100],
    ['contrast', 'Contrast', -100, 100],
    ['saturation', 'Saturation', -100, 100],
    ['cast', 'Cast', 0, 100]
  ] as const;
  const isPlain = $derived(changesNothing(adjustment) && isPlainTone(tone));

  /** The picture has the bleed around it. */
  const whole = $derived({
    width: choices.widthMm + 2 * choices.bleedMm,
    height: choices.heightMm + 2 * choices.bleedMm
  });
  const shownPart = $derived({
    x: (part.x + choices.bleedMm) / whole.width,
    y: (part.y + choices.bleedMm) / whole.height,
    width: part.width / whole.width,
    height: part.height / whole.height
  });
  function choosePart(share: Box): void {
    const within = (mm: number, most: number) => Math.min(most, Math.max(0, Math.round(mm * 10) / 10));
    const x = within(share.x * whole.width - choices.bleedMm, choices.widthMm);
    const y = within(share.y * whole.height - choices.bleedMm, choices.heightMm);
    part = {
      x,
      y,
      width: within(share.width * whole.width, choices.widthMm - x),
      height: within(share.height * whole.height, choices.heightMm - y)
    };
  }
  function keepVariant(variant: Variant, letter: string): void {
    if (variant.halftone) {
      void keepHalftone(variant.halftone, letter);
      return;
    }
    const { adjustment: adjusted, tone: toned, intent } = variant;
    edits.change({ ...edits.current, choices: { ...choices, adjustment: adjusted, tone: toned, intent } });
    toast.success(`${letter}, ${variant.words}, is the docket’s tone now.`);
  }

  /** A halftone is of all that is printed together: the lane keeps it. */
  async function keepHalftone(method: keyof typeof HALFTONE_WORDS, letter: string): Promise<void> {
    const { lane } = data;
    const place = `${data.condition?.machine} on ${data.condition?.media}`;
    if (!lane) toast.error(`${place} has no lane yet. Lay a docket out there first.`);
    else
      await attempt(
        () => send('PUT', `/api/lanes/${lane.id}`, { rule: { ...lane.rule, method } }),
        `${letter}, ${HALFTONE_WORDS[method]}, is what new runs of ${place} are RIPped in.`
      );
  }
</script>

<svelte:head><title>Tone of {edits.current.name}</title></svelte:head>
<DocketSaving {edits} loaded={data.docket} />
<div class="flex h-full min-h-0">
  <section class="bg-base-300 flex min-w-0 grow flex-col" aria-label="Soft proof">
    <div class="bg-base-100 border-base-300 flex flex-wrap items-center gap-x-4 gap-y-1 border-b px-3 py-2 text-sm">
      <label
        >White is
        <select class="in-sentence" aria-label="White is" bind:value={white}
          ><option value="media">the media’s</option><option value="screen">the screen’s</option></select
        ></label
      >
      <label
        >Over it
        <select class="in-sentence" aria-label="Over it" bind:value={over}
          ><option value="">nothing</option><option value="difference">what changes (ΔE00)</option><option value="gamut"
            >colours out of reach</option
          ></select
        ></label
      >
      {#if proof.figures}<span role="status"
          >changes by ΔE00 {proof.figures.mean.toFixed(1)} in the mean, 95 % within {proof.figures.p95.toFixed(1)}, at most {proof.figures.worst.toFixed(
            1
          )}</span
        >{/if}
    </div>
    <div class="min-h-0 grow">
      {#if ready}
        <ProofView
          {proof}
          part={choosing || data.strip ? shownPart : null}
          onpart={choosing ? choosePart : null}
          gamut={over === 'gamut' ? `/api/dockets/${data.docket.id}/map?kind=gamut&version=${edits.docket.version}` : null}
        />
      {:else}
        <p class="p-6">
          {data.condition
            ? `The profile of ${data.condition.media} is still being made. It takes a few seconds.`
            : 'Choose a media and print mode on the docket first: what it looks like depends on them.'}
        </p>
      {/if}
    </div>
    <p class="bg-base-100 text-base-content/70 border-base-300 border-t px-3 py-1 text-xs">
      A screen cannot show all that inks can: strong cyans, greens and oranges are shown paler, gloss and the light of the place
      not at all. What must be right is printed first.
    </p>
  </section>
  <aside class="border-base-300 bg-base-100 w-[22rem] shrink-0 space-y-5 overflow-y-auto border-l p-4" aria-label="Tone">
    <header>
      <div class="flex items-start gap-2">
        <div class="grow">
          <a class="link text-sm" href="/dockets/{data.docket.id}">Docket {data.docket.id}</a>
          <h1 class="text-lg leading-tight font-semibold">Tone of {edits.current.name}</h1>
        </div>
        <StepButtons {edits} onstep={(by) => attempt(() => edits.step(by))} />
      </div>
      <p class="text-base-content/70 flex justify-between text-sm">
        <span>{data.condition ? `${data.condition.media}, ${data.condition.mode.name}` : ''}</span>
        <span role="status">{edits.saving || edits.unsaved ? 'Saving…' : 'Saved'}</span>
      </p>
    </header>
    {#if edits.other}
      <OtherWindow other={edits.other} onmine={() => edits.useMine()} onclose={() => (edits.other = null)} />
    {/if}
    <section aria-label="Colours before the inks" class="space-y-1">
      <h2 class="panel-title">Colours before the inks</h2>
      {#each SLIDERS as [key, words, least, most] (key)}
        <label class="flex items-center gap-2 text-sm"
          ><span class="w-20 shrink-0">{words}</span><input
            type="range"
            class="range range-xs grow"
            min={least}
            max={most}
            value={adjustment[key] * 100}
            aria-label="{words}, slider"
            oninput={(event) => change({ adjustment: { ...adjustment, [key]: event.currentTarget.valueAsNumber / 100 } })}
          /><FigureBox
            class="input input-xs w-16 text-right"
            label={words}
            decimals={1}
            min={least}
            max={most}
            value={adjustment[key] * 100}
            onchange={(value) => change({ adjustment: { ...adjustment, [key]: value / 100 } })}
          /></label
        >
      {/each}
      <label class="flex items-center gap-2 text-sm"
        ><span class="w-20 shrink-0">towards</span><input
          type="range"
          class="range range-xs grow"
          min="0"
          max="360"
          step="5"
          value={adjustment.castHue}
          disabled={adjustment.cast === 0}
          oninput={(event) => change({ adjustment: { ...adjustment, castHue: event.currentTarget.valueAsNumber } })}
        /><span
          class="h-5 w-16"
          style="background: oklch(0.7 0.12 {adjustment.castHue}deg)"
          aria-hidden="true"
          title="{adjustment.castHue}°"
        ></span></label
      >
    </section>
    <section aria-label="Curves of the inks" class="space-y-2">
      <h2 class="panel-title">Curves of the inks</h2>
      <ToneEditor {tone} then={data.conditionTone} onchange={(next) => change({ tone: next })} />
      <ShopTones {tone} tones={data.settings.tones} onchange={(next) => change({ tone: next })} />
      {#if !isPlainTone(data.conditionTone)}
        <p class="text-base-content/70 text-xs">
          After them go the <a class="link" href="/colour/{data.condition?.id}?step=tone">curves of {data.condition?.media}</a>;
          the dashed lines are both as one.
        </p>
      {/if}
    </section>
    {#if data.condition && ready}
      <Variants
        docketId={data.docket.id}
        conditionId={data.condition.id}
        {choices}
        strip={data.strip}
        {part}
        {choosing}
        onchoosing={(on) => (choosing = on)}
        onpart={(next) => (part = next)}
        onkeep={keepVariant}
      />
    {/if}
    <p class="text-base-content/70 text-xs">
      Named colours keep theirs: neither sliders nor curves move them, as far as the inks reach.
    </p>
    <button class="btn btn-sm" disabled={isPlain} onclick={() => change({ adjustment: NO_ADJUSTMENT, tone: {} })}
      >Leave it as it was sent</button
    >
  </aside>
</div>
