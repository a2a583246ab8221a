<script lang="ts">
  import { goto } from '$app/navigation';
  import { onDestroy, tick, untrack } from 'svelte';
  import { toast } from 'svelte-sonner';
  import { cropTo, keepScale, prepare } from '$core/artwork/choices';
  import { marksOf, stackOf } from '$core/artwork/docket-stack';
  import type { Box } from '$core/geometry/box';
  import { hasRecords } from '$core/records/choices';
  import { roleOf, toolOf } from '$core/artwork/roles';
  import type { Check, CheckInput, Mend } from '$core/checks/check';
  import { checkArtwork, worstFirst } from '$core/checks/check-docket';
  import { finishedLines, type FinishedLine } from '$core/cutting/docket-lines';
  import { inJig } from '$lib/in-jig';
  import { jigLook } from '$lib/jig-look';
  import { DEFAULT_RULE } from '$lib/run-rule';
  import { stockOf } from '$lib/run-pieces';
  import type { DocketChoices, DocketDocument } from '$lib/docket-choices';
  import { wallLook } from '$lib/panels';
  import { usableWidth } from '$lib/usable-width';
  import { isBehindDialog, isTyping } from '$lib/ui/frame/places';
  import { attempt, send } from '$lib/ui/common/client';
  import ArtworkView from '$lib/ui/docket/ArtworkView.svelte';
  import Checks from '$lib/ui/docket/Checks.svelte';
  import CopyChoices from '$lib/ui/docket/CopyChoices.svelte';
  import ApplyRecipe from '$lib/ui/recipes/ApplyRecipe.svelte';
  import KeepRecipe from '$lib/ui/recipes/KeepRecipe.svelte';
  import CropTool from '$lib/ui/docket/CropTool.svelte';
  import { DocketEdits } from '$lib/ui/docket/docket-edits.svelte';
  import DocketHeader from '$lib/ui/docket/DocketHeader.svelte';
  import DocketSaving from '$lib/ui/docket/DocketSaving.svelte';
  import { InkMeasuring } from '$lib/ui/docket/ink-measuring.svelte';
  import { LineChecks } from '$lib/ui/docket/line-checks.svelte';
  import LineEditor from '$lib/ui/docket/LineEditor.svelte';
  import LinePanel from '$lib/ui/docket/LinePanel.svelte';
  import { LineWork } from '$lib/ui/docket/line-work.svelte';
  import NewArtwork from '$lib/ui/docket/NewArtwork.svelte';
  import OtherWindow from '$lib/ui/docket/OtherWindow.svelte';
  import PickColour from '$lib/ui/docket/PickColour.svelte';
  import SeamLines from '$lib/ui/docket/SeamLines.svelte';
  import Ticket from '$lib/ui/docket/Ticket.svelte';
  import type { TicketView } from '$lib/ui/docket/ticket/ticket';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();

  const edits = new DocketEdits(untrack(() => data.docket));

  const docket = $derived({ ...edits.docket, ...edits.current });
  const { choices } = $derived(edits.current);
  const { facts } = $derived(edits.docket.artwork);
  const { rules } = $derived(data.settings);
  const condition = $derived(data.conditions.find((c) => c.id === choices.conditionId));
  /** The shop's limits; for ink the condition's own, where that is less. */
  const limits = $derived({
    ...data.settings.limits,
    totalInk: Math.min(data.settings.limits.totalInk, condition?.totalInk ?? Infinity)
  });
  const usableMm = $derived(condition && usableWidth(choices, condition.rollWidthMm));
  const preparation = $derived(prepare(choices, facts, data.lines, rules));
  const marks = $derived(marksOf(facts, rules, choices.roles));
  const stack = $derived(stackOf(choices.stack, marks));
  const roleIn = (name: string) => roleOf(name, rules, choices.roles);
  /** All that the cut lines depend on: they are made anew only when it changes, not with every figure typed elsewhere. */
  const lineKey = $derived(
    JSON.stringify([
      choices.cut,
      choices.wall === null,
      choices.lines,
      choices.roles,
      choices.layersOff,
      choices.widthMm,
      choices.heightMm,
      preparation,
      rules
    ])
  );
  const finished = $derived.by<FinishedLine[]>(() => {
    // A wall's panels are cut along their own edges.
    if (lineKey === '' || !choices.cut || choices.wall) return [];
    const pageLines = data.lines;
    return untrack(() => finishedLines(pageLines, roleIn, preparation, choices, choices.lines, choices.layersOff));
  });

  const inks = new InkMeasuring();
  const measurable = $derived(condition?.hasProfile === true);
  $effect(() => {
    const { id, version } = edits.docket;
    // A named colour that was changed measures otherwise.
    if (measurable && data.coloursVersion) return inks.ask(id, version);
    inks.forget();
  });

  const wall = $derived(wallLook(choices, condition, data.machines));
  const checkInput = $derived<CheckInput>({
    unit: data.settings.unit,
    page: facts,
    choices,
    preparation,
    rules,
    limits,
    lines: finished,
    customerLines: data.lines.filter((line) => toolOf(line, roleIn)).length,
    fontsNotEmbedded: edits.docket.artwork.fontsNotEmbedded,
    findings: edits.docket.artwork.findings,
    mayTurn: choices.mayTurn,
    intent: choices.intent,
    records: choices.records,
    ...(usableMm !== undefined && { usableMm }),
    stack,
    marks,
    pages: edits.docket.artwork.pages,
    ...(wall && { wall }),
    jig: jigLook(choices, docket.runJig, (jig) => data.jigs.find(({ id }) => id === jig), condition),
    ...(condition && { dpi: condition.mode.dpi, press: condition.press, drift: condition.watch.read }),
    ...(inks.measured && { measured: inks.measured.of })
  });
  const lineCheckKey = $derived(
    JSON.stringify([
      lineKey,
      limits,
      data.settings.unit,
      choices.bleedMm,
      choices.bleedFrom,
      checkInput.jig === undefined,
      inks.measured?.of.cutInk
    ])
  );
  const lineChecks = new LineChecks();
  $effect.pre(() => {
    if (lineCheckKey !== '' && finished) untrack(() => lineChecks.look(checkInput));
  });
  onDestroy(() => lineChecks.close());
  const waiting = $derived(
    measurable && !inks.trouble && (inks.measured?.version !== edits.docket.version || edits.unsaved)
      ? 'Ink and colours are being measured…'
      : lineChecks.busy
        ? 'Cut lines are being looked at…'
        : ''
  );
  const checks = $derived(worstFirst([...checkArtwork(checkInput), ...lineChecks.found]));
  /** One that is printed may be laid out again, in a new run. */
  const inRun = $derived(docket.runId !== null && docket.runState !== 'printed');
  const stopped = $derived(checks.find((check) => check.level === 'stop'));
  const hindrance = $derived(!condition ? 'Choose a media first.' : stopped ? 'A check above says stop: mend that first.' : '');

  const change = (part: Partial<DocketChoices>) => edits.change({ ...edits.current, choices: { ...choices, ...part } });
  const changeDocument = (part: Partial<DocketDocument>) => edits.change({ ...edits.current, ...part });
  /** As the lane of its media lays out, in the jig that it says. */
  const lane = $derived(
    data.laneRules.find(({ machineId, mediaId }) => machineId === condition?.machineId && mediaId === condition?.mediaId)
  );
  const rule = $derived(inJig(lane?.rule ?? DEFAULT_RULE, choices.jig));
  /** Nothing until the places of a jig that was just chosen are here. */
  const stock = $derived.by(() => {
    if (!condition || !choices.jig) return condition && stockOf(condition, rule);
    return data.places?.id === choices.jig.id ? stockOf(condition, rule, data.places) : undefined;
  });
  const view = $derived<TicketView>({
    docket,
    choices,
    preparation,
    pageLines: data.lines,
    finished,
    stack,
    marks,
    settings: data.settings,
    coloursVersion: data.coloursVersion,
    sources: data.sources,
    conditions: data.conditions,
    machines: data.machines,
    jigs: data.jigs,
    condition,
    stock,
    rule,
    usableMm,
    inRun: data.inRun,
    divided: data.divided,
    laneMode: lane?.mode,
    laid: inks.measured?.of.layers ?? null,
    layAnew: () => void layAnew(),
    layRest: () => void layRest(),
    change,
    changeDocument
  });

  let artworkView: ReturnType<typeof ArtworkView>;
  let copyChoices: ReturnType<typeof CopyChoices>;
  let keepRecipe: ReturnType<typeof KeepRecipe>;
  let applyRecipe: ReturnType<typeof ApplyRecipe>;
  let shownCheck = $state<string | null>(null);
  function show(check: Check | null): void {
    shownCheck = check?.id ?? null;
    if (check?.place) artworkView.lookAt(check.place);
    // Once it is unfolded.
    if (check) void tick().then(() => document.getElementById(`check-${check.id}`)?.scrollIntoView({ block: 'center' }));
  }
  /** On to the next that is not fine, stops first, and from the last to the first. */
  function nextCheck(): void {
    const open = checks.filter((check) => check.level !== 'fine');
    const at = open.findIndex((check) => check.id === shownCheck);
    const next = open[(at + 1) % Math.max(1, open.length)];
    if (next) show(next);
  }
  const mend = ({ change: part }: Mend) => change(part);

  let cropping = $state(false);
  const crop = (box: Box) => change(keepScale(choices, { crop: cropTo(choices, preparation, box) }, facts, data.lines, rules));

  const work = new LineWork(
    () => ({ finished, preparation, choices }),
    (lines) => change({ lines })
  );
  function edit(id: string): void {
    work.turn(id);
    cropping = false;
  }
  /** What a colour is picked for from the picture. */
  let picking = $state<string | null>(null);

  // What is refused was said; it is not laid out without it.
  async function next(): Promise<void> {
    if (!(await edits.flush())) return;
    if (inRun) return goto(`/runs/${docket.runId}`);
    await attempt(async () => {
      const { id } = await send<{ id: number }>('POST', '/api/runs', { docketIds: [docket.id] });
      await goto(`/runs/${id}`);
    });
  }
  async function layAnew(): Promise<void> {
    const to = lane;
    if (!to) return;
    if (!(await edits.flush())) return;
    await attempt(async () => {
      const { runId } = await send<{ runId: number }>('POST', `/api/lanes/${to.id}/take`, { docketIds: [docket.id] });
      toast(`It lies in run ${runId} now.`);
    });
  }
  async function layRest(): Promise<void> {
    if (!(await edits.flush())) return;
    await attempt(async () => {
      const { id } = await send<{ id: number }>('POST', `/api/dockets/${docket.id}/rest`);
      toast(`The others lie in run ${id} now.`);
    });
  }

  function keys(event: KeyboardEvent): void {
    if (isBehindDialog()) return;
    if (event.key === 'Escape' && (work.editing !== null || picking !== null || cropping)) {
      work.end();
      picking = null;
      cropping = false;
      return;
    }
    if (!(event.ctrlKey || event.metaKey)) {
      if (event.key.toLowerCase() === 'n' && !event.altKey && !isTyping(event)) nextCheck();
      return;
    }
    if (event.key === 'Enter' && !hindrance) {
      event.preventDefault();
      void next();
    }
  }
</script>

<svelte:window onkeydown={keys} />
<DocketSaving {edits} loaded={data.docket} />

<div class="flex h-full">
  <section class="relative min-w-0 grow" aria-label="Artwork to scale">
    <ArtworkView
      bind:this={artworkView}
      {docket}
      {choices}
      {preparation}
      lines={finished}
      {checks}
      {shownCheck}
      unit={data.settings.unit}
      {measurable}
      coloursVersion={data.coloursVersion}
      {stack}
      press={condition?.press}
      totalInkLimit={limits.totalInk}
      deltaLimit={limits.gamutDeltaE}
      whole={cropping}
      hidden={work.editing}
      record={hasRecords(choices.records) ? data.record : null}
      onpick={show}
    >
      {#snippet tool(scale)}
        {#if wall}<SeamLines planned={wall.planned} {scale} />{/if}
        {#if cropping}
          <CropTool widthMm={choices.widthMm} heightMm={choices.heightMm} unit={data.settings.unit} {scale} oncrop={crop} />
        {/if}
        {#if work.editing !== null}
          <LineEditor
            lines={work.edited}
            chosen={work.chosen}
            widthMm={choices.widthMm}
            heightMm={choices.heightMm}
            {scale}
            onchoose={(one) => (work.chosen = one)}
            onchange={(lines) => work.keep(lines)}
            onkeys={(event) => work.keys(event)}
          />
        {/if}
        {#if picking !== null}
          <PickColour
            {docket}
            {choices}
            {preparation}
            {stack}
            conditionId={condition?.id ?? null}
            what={picking}
            onpicked={() => (picking = null)}
            {change}
          />
        {/if}
      {/snippet}
    </ArtworkView>
  </section>
  <aside
    class="border-base-300 bg-base-100 flex w-[28rem] shrink-0 flex-col overflow-auto border-l 2xl:w-[34rem]"
    aria-label="Ticket"
  >
    <DocketHeader
      {edits}
      onchange={changeDocument}
      onapply={() => applyRecipe.open()}
      onkeep={() => keepRecipe.open()}
      oncopy={() => copyChoices.open()}
      onstep={(by) => attempt(() => edits.step(by))}
    />
    {#if edits.other}
      <OtherWindow other={edits.other} onmine={() => edits.useMine()} onclose={() => (edits.other = null)} />
    {/if}
    {#if work.editing !== null}
      <LinePanel
        lines={work.edited}
        chosen={work.chosen}
        unit={data.settings.unit}
        onchange={(lines) => work.keep(lines)}
        ondone={() => work.end()}
      />
    {/if}
    {#if measurable && inks.trouble}<p class="text-error px-4 pt-2 text-sm" role="alert">Not measured: {inks.trouble}</p>{/if}
    <Checks {checks} shown={shownCheck} {waiting} onnext={nextCheck} />
    <Ticket
      {view}
      checks={{ all: checks, shown: shownCheck, show, mend }}
      {cropping}
      editing={work.editing}
      {picking}
      oncropping={(on) => (cropping = on)}
      onedit={edit}
      onpick={(id) => (picking = picking === id ? null : id)}
    />
    <NewArtwork
      docket={edits.docket}
      before={data.before}
      linesNow={data.lines.length}
      onreplace={(action) => edits.byServer(action)}
    />
    <footer class="bg-base-100 border-base-300 sticky bottom-0 mt-auto border-t p-3">
      <button class="btn btn-primary w-full" disabled={hindrance !== ''} onclick={next}>
        {inRun ? `Go to run ${docket.runId}` : docket.runId !== null ? 'Lay it out again' : 'Lay it out'}
      </button>
      {#if docket.runId !== null && !inRun}<p class="mt-1 text-xs">
          It was printed in <a class="link" href="/runs/{docket.runId}">run {docket.runId}</a>.
        </p>{/if}
      {#if hindrance}<p class="mt-1 text-xs">{hindrance}</p>{/if}
    </footer>
  </aside>
</div>
<CopyChoices bind:this={copyChoices} id={docket.id} flush={() => edits.flush()} />
<ApplyRecipe bind:this={applyRecipe} ids={[docket.id]} flush={() => edits.flush()} />
<KeepRecipe
  bind:this={keepRecipe}
  {docket}
  document={{ ...edits.current, choices: { ...choices, jig: choices.jig ?? docket.runJig } }}
  names={{ unit: data.settings.unit, conditions: data.conditions, machines: data.machines, jigs: data.jigs }}
  flush={() => edits.flush()}
/>
