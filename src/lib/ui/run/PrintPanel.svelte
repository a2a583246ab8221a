<script lang="ts">
  import { goto } from '$app/navigation';
  import type { LaidLayer } from '$core/inks/stack';
  import { counted } from '$core/units/counted';
  import { formatFigure } from '$core/units/length';
  import type { CutTask } from '$lib/server/cutting/cut';
  import type { Machine } from '$lib/server/machines/machines';
  import type { Print } from '$lib/server/printing/print';
  import type { Run } from '$lib/server/production/run';
  import { toast } from 'svelte-sonner';
  import { isJig } from '$core/layout/placement';
  import { sheetsInWords } from '$lib/sheets';
  import { leftToPrint, MOST_TIMES } from '$lib/came-out';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import { attempt, newKey, send } from '$lib/ui/common/client';
  import { live } from '$lib/ui/common/live.svelte';
  import Progress from '$lib/ui/common/Progress.svelte';
  import WhatCameOut from './WhatCameOut.svelte';
  import { tape } from '$lib/ui/common/shop-unit';

  interface Props {
    run: Run;
    /**
     * `restFrom`: where in the run one that broke off can go on, mm; `inPart`: how many copies came out whole of one that can be
     * kept, and how many did not; `silent`: its machine does not answer.
     */
    prints: (Print & { restFrom: number | null; inPart: { whole: number; missing: number } | undefined; silent: boolean })[];
    machines: Machine[];
    /** By machine: why it cannot print this run now. */
    hindrances: Record<number, string>;
    cuts: CutTask[];
    /** It is cut after it is printed. */
    isCut: boolean;
    /** What the run is printed in. */
    layers: readonly LaidLayer[];
    /** The run that is laid into its jig next. */
    nextLoad: number | null;
  }
  let { run, prints, machines, hindrances, cuts, isCut, layers, nextLoad }: Props = $props();

  const varnished = $derived(layers.some(({ ink }) => ink === 'varnish'));
  const { left, of } = $derived(leftToPrint(run, prints));
  /** It is changed no more, and is either printed on or left at that. */
  const cameInPart = $derived((run.state === 'ripped' || run.state === 'laying out') && run.came > 0);
  const inJig = $derived(isJig(run.stock));
  const leftInWords = $derived.by(() => {
    if (of === 1) return '';
    if (prints.length === 0) return `${sheetsInWords(of, inJig)}, all alike.`;
    return left === 0 ? '' : `${of - left} of ${of} came out; ${counted(left, 'is', 'are')} left.`;
  });
  let typed = $state<number | null>(null);
  /** Loads are laid in one by one. */
  const times = $derived(inJig ? 1 : (typed ?? Math.min(MOST_TIMES, Math.max(1, left))));
  let chosen = $state<number | null>(null);
  const printers = $derived(machines.filter((machine) => machine.kind === 'printer'));
  const machineId = $derived(chosen ?? printers.find((machine) => hindrances[machine.id] === '')?.id ?? run.condition.machineId);
  const why = $derived(hindrances[machineId] ?? 'There is no such machine.');
  /** It went through a cutter alone, on film that nothing is printed on. */
  const isPlain = (print: Print) => machines.some(({ id, kind }) => id === print.machineId && kind === 'cutter');
  let busy = $state(false);
  let shown = $state<number | null>(null);

  const STATES: Record<Print['state'], string> = {
    sending: 'Sending',
    printing: 'Printing',
    stopped: 'Stopped',
    done: 'Done',
    cancelled: 'Cancelled',
    failed: 'Failed'
  };

  /** Stays the same until it is carried out: pressed twice, or sent again after a break, it prints once. */
  let request = newKey();
  async function carryOut(path: string, body: object = {}): Promise<void> {
    busy = true;
    if (await attempt(() => send('POST', path, { ...body, request }))) {
      request = newKey();
      typed = null;
    }
    busy = false;
  }
  async function keep(print: Print): Promise<void> {
    busy = true;
    await attempt(async () => {
      const { runId } = await send<{ runId: number }>('POST', `/api/prints/${print.id}/keep`);
      toast.info(`What came out of run ${run.id} is kept. This is run ${runId}, with the rest.`);
      await goto(`/runs/${runId}`);
    });
    busy = false;
  }
  async function leave(): Promise<void> {
    busy = true;
    await attempt(async () => {
      const missing = await send<{ name: string; copies: number }[]>('POST', `/api/runs/${run.id}/leave`);
      for (const { name, copies } of missing)
        toast.info(
          `${counted(copies, 'copy', 'copies')} of ${name} ${copies === 1 ? 'lies' : 'lie'} in no run now. Its ticket lays out what is missing.`
        );
    });
    busy = false;
  }
</script>

<section aria-label="Print" class="border-base-300 border-y py-3">
  <h2 class="panel-title mb-1">Print</h2>
  <div class="flex flex-wrap items-center gap-2 text-sm">
    <select
      class="select select-sm w-36"
      aria-label="Machine"
      value={machineId}
      onchange={(event) => (chosen = Number(event.currentTarget.value))}
    >
      {#each printers as machine (machine.id)}<option value={machine.id}>{machine.name}</option>{/each}
    </select>
    {#if !inJig}
      <FigureBox min={1} label="Times" value={times} max={MOST_TIMES} onchange={(count) => (typed = count)} />
      <span>{times === 1 ? 'time' : 'times'}</span>
    {/if}
    <button
      class="btn btn-sm btn-primary ml-auto"
      disabled={why !== '' || busy}
      onclick={() => carryOut(`/api/runs/${run.id}/print`, { machineId, times })}
      >{left > 0 && of > 1 && inJig
        ? `Print load ${of - left + 1}`
        : left === 0 || prints.length === 0
          ? 'Print'
          : of > 1
            ? 'Print what is left'
            : 'Print again'}</button
    >
  </div>
  {#if leftInWords || cameInPart}
    <p class="mt-1 flex flex-wrap items-center gap-2 text-sm">
      {leftInWords}
      {#if cameInPart}<button
          class="btn btn-xs ml-auto"
          disabled={busy}
          title="What came out is all of this run then. The tickets of its dockets say how many copies lie in no run."
          onclick={leave}>Leave it at that</button
        >{/if}
    </p>
  {/if}
  {#if inJig && run.state === 'ripped'}<p class="mt-1 text-sm">
      {prints[0] && prints[0].state !== 'done' && prints[0].printedMm > 0
        ? `It broke off over its things. ${run.came > 0 ? 'Choose those that have no print yet, and print them again; or lay others in, and print all of it.' : 'Lay others in before you print all of it.'}`
        : run.came > 0
          ? 'Take its things off, and lay the next in before you print.'
          : 'Lay its things in before you print.'}
    </p>{/if}
  {#if inJig && run.state === 'printed' && nextLoad !== null}<p class="mt-1 text-sm">
      Take its things off. Next into the jig: <a class="link font-semibold" href="/runs/{nextLoad}">run {nextLoad}</a>
    </p>{/if}
  {#if why}<p class="mt-1 text-xs">{why}</p>{/if}
  <ul class="mt-2 space-y-2 text-sm">
    {#each prints.slice(0, 8) as print (print.id)}
      {@const now = live.prints.get(print.id)}
      {@const state = (now?.state ?? print.state) as Print['state']}
      {@const cut = cuts.find((task) => task.printId === print.id)}
      <li>
        {#if print.endedAt === null && state !== 'done'}
          <Progress
            label={STATES[state]}
            share={state === 'sending' ? (now?.sentShare ?? 0) : (now?.printedMm ?? print.printedMm) / print.lengthMm}
            secondsLeft={now?.secondsLeft ?? null}
            oncancel={() => attempt(() => send('DELETE', `/api/prints/${print.id}`))}
          />
          {#if now?.reason ?? print.reason}<p class="text-error text-xs" role="alert">{now?.reason ?? print.reason}</p>{/if}
          {#if print.silent}<button
              class="btn btn-xs mt-1"
              title="Ends this print here, so that the run can be printed again. What the machine says later is still written down."
              onclick={() => attempt(() => send('POST', `/api/prints/${print.id}/give-up`))}>Give up waiting</button
            >{/if}
        {:else}
          <div class="flex items-center gap-2">
            <span class="font-semibold" class:text-error={print.state === 'failed'}
              >{isPlain(print) ? 'Not printed' : STATES[print.state]}</span
            >
            <span
              >{isPlain(print)
                ? `${tape(print.printedMm)} of plain film, for ${print.machine}`
                : `${tape(print.printedMm)}, ${formatFigure(
                    print.inkMl.reduce((sum, ml) => sum + ml, 0),
                    1
                  )} ml`}</span
            >
            <span class="ml-auto flex gap-1">
              {#if print.printedMm > 0 && !isPlain(print)}<button class="btn btn-xs" onclick={() => (shown = print.id)}
                  >See what came out</button
                >{/if}
              {#if cut}<a class="btn btn-xs {cut.state === 'cut' ? '' : 'btn-primary'}" href="/cutting/{cut.id}"
                  >{cut.state === 'cut' ? 'Cut' : 'To the cutter'}</a
                >{/if}
            </span>
          </div>
          {#if print.reason}<p class="text-xs" class:text-error={print.state === 'failed'}>{print.reason}</p>{/if}
          {#if print.inPart}
            {@const { whole, missing } = print.inPart}
            <p class="mt-1 flex flex-wrap items-center gap-2 text-xs">
              {whole} of {whole + missing} copies came out whole{isCut ? ', with marks behind them' : ''}.
              <button
                class="btn btn-xs"
                disabled={busy}
                title="The rest goes into a run of its own, as its dockets are now. What came out is all of this run then{isCut
                  ? ', and waits for the cutter'
                  : ''}."
                onclick={() => keep(print)}
                >Keep {whole === 1 ? 'it' : 'them'}, and lay out the other{missing === 1 ? '' : ` ${missing}`}</button
              >
            </p>
          {/if}
          {#if print.keptMm !== null}<p class="text-xs">Kept as far as it came out whole: {tape(print.keptMm)}.</p>{/if}
          {#if print.restFrom !== null && left > 0}
            <button
              class="btn btn-xs mt-1"
              disabled={why !== '' || busy}
              onclick={() => carryOut(`/api/prints/${print.id}/rest`)}
            >
              Go on from {tape(print.restFrom)}{run.stock.kind === 'sheet' ? ', on another sheet' : ''}
            </button>
          {/if}
        {/if}
      </li>
    {/each}
  </ul>
</section>

{#if shown !== null}
  <WhatCameOut printId={shown} media={run.condition.press.media} {varnished} onclose={() => (shown = null)} />
{/if}
