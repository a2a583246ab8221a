<script lang="ts">
  import { beforeNavigate, goto } from '$app/navigation';
  import { onDestroy, untrack } from 'svelte';
  import { SvelteMap } from 'svelte/reactivity';
  import type { LaidInk } from '$core/inks/laid-ink';
  import { dealt } from '$core/layout/dealing';
  import { copiesIn, countedInk } from '$core/layout/run-costs';
  import { NO_STRAIGHT_CUTS, trimsOf } from '$core/layout/run-layout';
  import { helpsTooLarge, tooLargeInWords } from '$core/layout/too-large';
  import { isJig, type Placement, type PlacingRule, type StockJig } from '$core/layout/placement';
  import { clipsOn } from '$core/layout/printed-parts';
  import { itemOf } from '$core/layout/run-piece';
  import { pieceOf } from '$core/layout/pieces';
  import { ratesOf } from '$lib/run-rates';
  import { sizedFor, stockOf, toRunPieces } from '$lib/run-pieces';
  import type { RunRule } from '$lib/run-rule';
  import { jigOfRun, liesAlike } from '$lib/in-jig';
  import { attempt, send } from '$lib/ui/common/client';
  import { follow } from '$lib/ui/common/follow.svelte';
  import { live } from '$lib/ui/common/live.svelte';
  import { isBehindDialog, isTyping } from '$lib/ui/frame/places';
  import { allPins } from '$lib/ui/run/by-hand';
  import { Hand, MOST_PINS } from '$lib/ui/run/hand.svelte';
  import { Comparing } from '$lib/ui/run/comparing.svelte';
  import WallNote from '$lib/ui/run/WallNote.svelte';
  import CopyTools from '$lib/ui/run/CopyTools.svelte';
  import JigChoice from '$lib/ui/run/JigChoice.svelte';
  import MoveLane from '$lib/ui/run/MoveLane.svelte';
  import PlacingForm from '$lib/ui/run/PlacingForm.svelte';
  import PrintPanel from '$lib/ui/run/PrintPanel.svelte';
  import RollPicture, { type CopyName } from '$lib/ui/run/RollPicture.svelte';
  import RuleCards from '$lib/ui/run/RuleCards.svelte';
  import RunDockets from '$lib/ui/run/RunDockets.svelte';
  import { runActs } from '$lib/ui/run/run-acts';
  import { RunEdits } from '$lib/ui/run/run-edits.svelte';
  import { RunMoney } from '$lib/ui/run/run-money.svelte';
  import type { Laying } from '$lib/ui/run/laying';
  import RunHeader from '$lib/ui/run/RunHeader.svelte';
  import RunFigures from '$lib/ui/run/RunFigures.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();

  const run = $derived(data.run);
  const runEdits = untrack(() => new RunEdits(data.run));
  const edits = runEdits.laying;
  follow(
    () => data.run,
    edits,
    (newest) => runEdits.adopt(newest)
  );
  beforeNavigate(() => void edits.flush());
  const acts = runActs(() => run, edits);

  const current = $derived(edits.current);
  const dockets = $derived(runEdits.dockets);
  const open = $derived((run.state === 'laying out' || run.state === 'ripped') && run.releasedAt === null && run.came === 0);
  const machine = $derived(data.machines.find((m) => m.id === run.condition.machineId));
  const pieces = $derived(
    dockets
      .filter((docket) => !current.held.includes(docket.id))
      .flatMap((docket) => {
        const entry = run.entries.find((one) => one.docketId === docket.id);
        const known = run.laid.find((piece) => piece.docket === String(docket.id));
        return toRunPieces(docket, {
          condition: run.condition,
          // What lies in a jig is not cut, and is of another size there.
          contour: isJig(run.stock) ? undefined : known?.contour,
          copies: known?.records?.length ?? entry?.copies ?? null,
          first: entry?.first ?? 0,
          records: known?.records,
          pieces: entry?.pieces ?? null
        });
      })
  );
  /** Places of jigs that were chosen here. */
  const chosenJigs = new SvelteMap<number, StockJig>();
  /** As it is kept; how it lies is the rule's. */
  const keptJig = $derived.by(() => {
    const { jig: id } = current.rule;
    if (id === null) return undefined;
    return run.jig?.id === id ? run.jig : chosenJigs.get(id);
  });
  let lastChosen: number | null = null;
  async function chooseJig(id: number | null): Promise<void> {
    lastChosen = id;
    await attempt(async () => {
      if (id !== null) chosenJigs.set(id, await send<StockJig>('GET', `/api/jigs/${id}/places`));
      // Another was chosen while the places of this one were on their way.
      if (lastChosen !== id) return;
      changed({ ...current, rule: { ...current.rule, jig: id } });
    });
  }
  const stock = $derived(open ? stockOf(run.condition, current.rule, keptJig) : run.stock);
  const jig = $derived(isJig(stock) ? stock.jig : undefined);
  const laid = $derived(open ? sizedFor(stock, current.rule, pieces) : run.laid);
  const laidById = $derived(new Map(laid.map((piece) => [piece.id, piece])));
  const clipOf = $derived(clipsOn(stock, current.rule));
  const items = $derived(laid.map(itemOf));
  const itemById = $derived(new Map(items.map((item) => [item.id, item])));

  /** What their pictures take, by docket. */
  let inks = $state.raw<Record<number, LaidInk[]>>({});
  $effect(() => {
    void data.later.inks.then((measured) => (inks = measured));
  });

  const comparing = new Comparing();
  onDestroy(() => comparing.close());
  $effect(() => {
    if (!open) return;
    // Which record a copy is does not change where it lies.
    const pieces = laid.map((piece) => (piece.records ? { ...piece, records: undefined } : piece));
    const question = { stock, rule: current.rule, pieces, pins: current.pins };
    untrack(() => comparing.ask(question));
  });
  /** As it was RIPped; while it is open the best that was found for the chosen rule. */
  const better = $derived(open ? comparing.found[current.rule.placing]?.layout : undefined);
  const layout = $derived<Placement>(better ? dealt(better, laid) : run.layout);
  const copyCount = $derived(copiesIn(layout));

  const rates = $derived(ratesOf(run, machine, data.layers.length));
  const isCut = $derived(run.dockets.some(({ choices }) => choices.cut) || current.rule.cutAlong === 'pieces');
  const fresh = $derived(run.result !== null && !run.stale && !edits.pending);
  const money = new RunMoney(() => ({
    layout,
    pieces: laidById,
    clipOf,
    condition: run.condition,
    rates,
    inks,
    inkPerMl: data.settings.inkCostPerMl,
    counted: run.result && fresh ? countedInk(run.result, data.inkPrices, data.settings.inkCostPerMl) : null
  }));
  const currency = $derived(data.settings.currency);
  function share(id: number): string {
    const own = money.shareOf(id);
    return own ? `${currency}${own.cost.toFixed(2)}, of it ${currency}${own.waste.toFixed(2)} for waste` : '';
  }
  const task = $derived(live.task('rip', run.id, run.task));
  const ripping = $derived(run.state === 'ripping');
  /** Of several that were asked for at once the first is under way. */
  const printing = $derived(data.prints.findLast((print) => print.endedAt === null));
  const printedMm = $derived(printing ? printing.fromMm + (live.prints.get(printing.id)?.printedMm ?? printing.printedMm) : 0);

  /** What was stopped at counts only as long as nothing else changes. */
  const changed = (next: Laying) => edits.change({ ...next, rule: { ...next.rule, steps: null } });
  const rule = (part: Partial<RunRule>) => changed({ ...current, rule: { ...current.rule, ...part } });
  const copies = (id: number, count: number) => changed({ ...current, copies: { ...current.copies, [id]: count } });
  const claim = (id: string) => {
    const docket = dockets.find((one) => String(one.id) === id);
    if (docket) copies(docket.id, docket.choices.copies + 1);
  };
  function move(index: number, by: number): void {
    const order = [...current.order];
    order.splice(index + by, 0, ...order.splice(index, 1));
    changed({ ...current, order });
  }
  const takeOut = (id: number) => changed({ ...current, order: current.order.filter((one) => one !== id) });
  const hold = (id: number, held: boolean) =>
    changed({ ...current, held: held ? [...current.held, id] : current.held.filter((one) => one !== id) });

  function choose(placing: PlacingRule): void {
    // By hand begins with what is seen.
    const pins = placing === 'hand' && copyCount <= MOST_PINS && !layout.refusal ? allPins(layout) : current.pins;
    changed({ ...current, pins, rule: { ...current.rule, placing } });
  }
  function stopLooking(): void {
    comparing.stop();
    const found = comparing.found[current.rule.placing];
    // The same steps give the same layout, here and at the RIP.
    if (found && !found.done && open) edits.change({ ...current, rule: { ...current.rule, steps: Math.max(1, found.steps) } });
  }

  let moving: MoveLane;
  const hand = new Hand(
    () => ({ layout, stock, rule: current.rule, items: itemById, pins: current.pins }),
    (pins, part = {}) => changed({ ...current, pins, rule: { ...current.rule, ...part } })
  );
  const panels = $derived(laid.filter(({ panel }) => panel));
  /** Of its media, what is on its machine. */
  const rollThere = $derived.by(() => {
    const media = machine?.printer?.media;
    return media?.name === run.condition.media && stock.kind === 'roll' ? media : undefined;
  });
  const large = $derived(layout.tooLarge[0]);
  const hindrance = $derived.by(() => {
    if (!run.condition.hasProfile) return `The profile of ${run.condition.media} is being built. It takes a few seconds.`;
    if (run.hindrance) return run.hindrance;
    if (large)
      return `${dockets.find((d) => String(d.id) === pieceOf(large.id).docket)?.name} ${tooLargeInWords(large, data.settings.unit)}. ${helpsTooLarge(large)}`;
    if (layout.refusal) return layout.refusal;
    if (!jig && current.rule.cutAlong === 'pieces' && layout.parts.some((part) => !trimsOf(part, laid))) return NO_STRAIGHT_CUTS;
    return copyCount === 0 ? 'There is nothing to print in this run.' : '';
  });

  async function next(): Promise<void> {
    if (open && !fresh) {
      if (!hindrance) await acts.ask('rip');
    } else if (run.result) await goto(`/runs/${run.id}/inspect`);
  }
  const NUDGES: Record<string, [number, number]> = {
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
    ArrowUp: [1, 0],
    ArrowDown: [-1, 0]
  };
  function keys(event: KeyboardEvent): void {
    if (isBehindDialog()) return;
    const nudge = NUDGES[event.key];
    if (nudge && open && !jig && hand.found.length > 0 && !isTyping(event)) {
      event.preventDefault();
      event.stopPropagation();
      const by = event.shiftKey ? 10 : 1;
      hand.nudge(nudge[0] * by, nudge[1] * by);
      return;
    }
    if (event.key === 'Escape') hand.selected = [];
    if (!(event.ctrlKey || event.metaKey)) return;
    if (event.key.toLowerCase() === 'z' && open) {
      event.preventDefault();
      if (event.shiftKey) edits.redo();
      else edits.undo();
    } else if (event.key === 'Enter') {
      event.preventDefault();
      void next();
    }
  }
</script>

<svelte:window onkeydowncapture={keys} onbeforeunload={(event) => edits.holdPage(event)} />

<div class="flex h-full">
  <div class="flex min-w-0 grow flex-col">
    <RunHeader {run} {edits} {open} {task} {hindrance} {fresh} waits={data.waits} onask={acts.ask}>
      {#if open && data.prints.length === 0}<button class="btn btn-sm" onclick={acts.remove}>Delete run</button>{/if}
      {#if run.state === 'printed' && !run.hasPlates && run.laneId !== null}<button
          class="btn btn-sm btn-primary"
          title="It has no plates: they were deleted after it was printed or kept in part, or it was cut without printing"
          onclick={() => acts.again(layout.parts.flatMap((part) => part.copies))}>Print all of it again</button
        >{/if}
    </RunHeader>
    {#if run.stale && !ripping}<p class="bg-base-200 text-warning border-base-300 border-b px-4 py-1 text-sm" role="status">
        Look: the layout has changed since the RIP. RIP it again before printing.
      </p>{/if}
    {#if hindrance}<p class="bg-base-200 text-error border-base-300 border-b px-4 py-1 text-sm" role="status">
        Stop: {hindrance}
      </p>{/if}
    {#if panels.length > 0 && run.state !== 'printed'}
      <WallNote pieces={panels} lengthMm={layout.length} roll={rollThere} batches={data.batches} />
    {/if}
    <CopyTools
      {hand}
      {dockets}
      pieces={laidById}
      {jig}
      byHand={current.rule.pockets.sharing === 'by hand'}
      {open}
      onagain={open || ripping || run.laneId === null ? undefined : acts.again}
      onapart={open && !edits.pending ? acts.apart : undefined}
    />
    <div class="min-h-0 grow">
      <RollPicture
        {layout}
        {stock}
        rule={current.rule}
        {dockets}
        {laid}
        printed={printedMm}
        selected={hand.selected}
        onselect={(names: CopyName[]) => (hand.selected = names)}
        {...open && {
          onmove: (names: CopyName[], dx: number, dy: number) => hand.drag(names, dx, dy),
          ...(!jig && { onclaim: claim })
        }}
      />
    </div>
  </div>

  <aside class="border-base-300 w-[27rem] shrink-0 space-y-4 overflow-auto border-l p-4" aria-label="Figures of the run">
    <RunFigures
      {layout}
      {stock}
      times={run.times}
      byContour={current.rule.placing === 'shapes'}
      ink={money.ink}
      costs={money.costs}
      {currency}
    />

    {#if run.result || data.prints.length > 0}
      <PrintPanel
        {run}
        prints={data.prints}
        machines={data.machines}
        hindrances={data.hindrances}
        cuts={data.cuts}
        isCut={isCut && !jig}
        layers={data.layers}
        nextLoad={data.nextLoad}
      />
    {/if}

    {#if stock.kind === 'sheet'}
      <JigChoice
        {stock}
        rule={current.rule.pockets}
        {layout}
        pieces={dockets
          .filter(({ id }) => !current.held.includes(id))
          .map(({ id, name, choices }) => ({
            name,
            widthMm: choices.widthMm,
            heightMm: choices.heightMm,
            scale: laid.find((piece) => piece.docket === String(id))?.scale ?? 1
          }))}
        otherwise={dockets.flatMap(({ name, choices }) =>
          choices.jig && !liesAlike(choices.jig, jigOfRun(current.rule)) ? [name] : []
        )}
        mostThingMm={machine?.printer?.mostThingMm ?? 0}
        jigs={data.jigs}
        unit={data.settings.unit}
        disabled={!open}
        onjig={chooseJig}
        onchange={(part) => rule({ pockets: { ...current.rule.pockets, ...part } })}
      />
    {/if}

    {#if open && !jig}
      <RuleCards
        {comparing}
        chosen={current.rule.placing}
        {stock}
        times={run.times}
        {items}
        disabled={!open}
        costsOf={(of) => money.costsOf(of)}
        {currency}
        onchoose={choose}
        onstop={stopLooking}
      />
    {/if}

    <RunDockets
      {dockets}
      entries={run.entries}
      times={run.times}
      inJig={jig !== undefined}
      held={current.held}
      {open}
      {share}
      oncopies={copies}
      onmove={move}
      onhold={hold}
      ontakeout={takeOut}
      onlane={(docket) => void edits.flush().then(() => moving.open([docket.id], docket.name))}
    />

    <PlacingForm
      rule={current.rule}
      sheet={stock.kind === 'sheet'}
      jig={jig !== undefined}
      unit={data.settings.unit}
      disabled={!open}
      costAMm={run.condition.costPerM2 > 0 ? { cost: (stock.width / 1e6) * run.condition.costPerM2, currency } : undefined}
      onchange={rule}
      oncut={isCut && !jig && !run.hasPlates && data.machines.some(({ kind }) => kind === 'cutter') ? acts.cutPlain : undefined}
    />
    {#if open && run.laneId !== null && !jig}
      <button class="btn btn-sm" onclick={acts.keepForLane}>Use this placing for new runs of the lane</button>
    {/if}
  </aside>
</div>
<MoveLane bind:this={moving} {currency} onmoved={(id) => void goto(`/runs/${id}`)} />
