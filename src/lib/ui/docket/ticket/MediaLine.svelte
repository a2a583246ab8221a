<script lang="ts">
  import type { TicketFigures } from '../ticket-layout';
  import type { InkUse } from '$core/inks/ink-prices';
  import { formatMl } from '$core/inks/laid-ink';
  import { inkOfAll, type Printed } from '$core/layout/printed-parts';
  import { printSeconds } from '$core/inks/drops';
  import { speedIn } from '$core/media/modes';
  import { formatFigure } from '$core/units/length';
  import { sheetsInWords } from '$lib/sheets';
  import { duration } from '$lib/ui/common/client';
  import type { TicketView } from './ticket';
  import { sheetOf, tape } from '$lib/ui/common/shop-unit';

  interface Props {
    view: TicketView;
    layout: TicketFigures | undefined;
    /** What of its picture is printed, once that is known. */
    printed: readonly Printed[] | undefined;
  }
  let { view, layout, printed }: Props = $props();

  const { choices, condition, settings } = $derived(view);
  const machine = $derived(view.machines.find((m) => m.id === condition?.machineId));
  const seconds = $derived(
    layout && condition && machine?.printer && layout.length > 0
      ? printSeconds(condition.rollWidthMm, layout.length, speedIn(machine.printer, condition.mode, view.stack.layers.length))
      : undefined
  );
  /** What it is printed on: its run's, and before it lies in one its lane's. */
  const on = $derived(view.inRun?.on ?? (condition && view.laneMode ? { ...condition, mode: view.laneMode } : undefined));
  const isGone = $derived(choices.conditionId !== null && !condition);
  const isElsewhere = $derived(
    view.inRun !== null && !(on?.machineId === condition?.machineId && on?.mediaId === condition?.mediaId)
  );
  const ink = $derived(
    view.laid && condition && printed ? inkOfAll(printed, view.laid, condition, settings.inkCostPerMl) : undefined
  );
  const money = (value: number) => `${settings.currency}${value.toFixed(2)}`;
</script>

<!-- What it costs: media, ink as plates have it or else as it was measured, and all together once that is known. -->
{#snippet spent(media: number, time: number, counted: InkUse | null)}
  {@const used = counted ?? ink}, media for {money(media)}{#if used}, {counted ? '' : 'about '}{formatMl(used.ml)} of ink for {money(
      used.cost
    )}: <span class="measure">{money(media + used.cost + time)}</span>{time > 0 ? " with the machine's time" : ' together'}{/if}
{/snippet}

<section aria-label="Media and mode">
  <h2 class="panel-title leading-4">Media and mode</h2>
  <p>
    On
    <select
      class="in-sentence"
      aria-label="Media and print mode"
      value={choices.conditionId ?? ''}
      onchange={(event) => view.change({ conditionId: Number(event.currentTarget.value) || null })}
    >
      <option value="">choose a media</option>
      {#if isGone}<option value={choices.conditionId}>media that was put away</option>{/if}
      {#each view.conditions as one (one.id)}<option value={one.id}>{one.media}, {one.mode.name}</option>{/each}
    </select>{condition ? ` of ${condition.machine}` : ''}{condition?.profile === 'start'
      ? ', its colour as the machine says, not measured'
      : ''}.
    <a class="link text-sm" href="/colour/modes?docket={view.docket.id}">find a print mode</a>
    {#if view.inRun}
      {@const { inRun } = view}
      {inRun.dockets === 1 ? 'Alone' : `One of ${inRun.dockets} dockets`} on
      <a class="link" href="/runs/{inRun.runId}">run {inRun.runId}</a>:
      <span class="measure"
        >{inRun.sheets === null ? tape(inRun.lengthMm) : `${formatFigure((inRun.lengthMm / inRun.ofMm) * 100, 0)} %`}</span
      >
      of its {inRun.sheets === null ? tape(inRun.ofMm) : sheetsInWords(inRun.sheets, view.docket.runJig !== null)}, {formatFigure(
        inRun.wasteShare * 100,
        0
      )} % waste{@render spent(inRun.costs.media, inRun.costs.time, inRun.costs.ink)}.
    {:else if layout && condition && layout.length > 0}
      <span class="measure"
        >{condition.sheetMm === null
          ? tape(layout.length)
          : `${layout.parts} ${choices.jig ? 'load' : 'sheet'}${layout.parts === 1 ? '' : 's'}`}</span
      >{condition.sheetMm === null
        ? ' of the roll'
        : choices.jig
          ? ' of the jig'
          : ` of ${sheetOf(condition.rollWidthMm, condition.sheetMm)}`}{#if seconds}, {duration(seconds)}{/if}, {formatFigure(
        layout.wasteShare * 100,
        0
      )} % waste{@render spent(layout.areaM2 * condition.costPerM2, ((seconds ?? 0) / 3600) * (machine?.costPerHour ?? 0), null)}.
    {/if}
  </p>
  {#if isGone}
    <p class="text-error leading-6" role="status">
      ! What it was to be printed on was put away. Choose another, or <a class="link" href="/colour/{choices.conditionId}"
        >bring it back</a
      >.
    </p>
  {:else if view.inRun && isElsewhere}
    <p class="text-error leading-6" role="status">
      ! Run {view.inRun.runId} prints on {view.inRun.on.media} on {view.inRun.on.machine}, and does not print while it lies there.
      {#if condition}<button class="btn btn-xs" onclick={view.layAnew}>Lay it out as said here</button>{/if}
    </p>
  {:else if on && condition && on.mode.code !== condition.mode.code}
    <p class="text-warning leading-6" role="status">
      ! {view.inRun ? `Run ${view.inRun.runId} prints` : 'Its lane prints'} in {on.mode.name}. That is set on the
      <a class="link" href="/">Floor</a>, for all that lies in the lane.
    </p>
  {/if}
</section>
