<script lang="ts">
  import CircleAlert from '@lucide/svelte/icons/circle-alert';
  import CircleCheck from '@lucide/svelte/icons/circle-check';
  import CirclePlay from '@lucide/svelte/icons/circle-play';
  import PlugZap from '@lucide/svelte/icons/plug-zap';
  import { counted } from '$core/units/counted';
  import type { Machine } from '$lib/server/machines/machines';
  import { duration } from '$lib/ui/common/client';
  import { goesOn, live, type PrintProgress } from '$lib/ui/common/live.svelte';
  import { sheetOf, tape, widthOf } from '$lib/ui/common/shop-unit';

  /** `prints` that are under way, as the server knew them when the page was made. */
  let { machines, prints }: { machines: Machine[]; prints: PrintProgress[] } = $props();

  const STOPS: Record<string, string> = {
    'media-empty-error': 'Media out',
    'marker-supply-empty-error': 'Ink out',
    'zing-thing-too-high-error': 'A thing is higher than the head',
    'cover-open': 'Cover open'
  };

  function state(machine: Machine) {
    if (!machine.online) return { word: 'Not reachable', icon: PlugZap, tone: 'text-error' };
    const { printer, cutter } = machine;
    if (printer?.state === 'stopped')
      return { word: STOPS[printer.reasons[0] ?? ''] ?? 'Stopped', icon: CircleAlert, tone: 'text-error' };
    if (printer?.state === 'processing') return { word: 'Printing', icon: CirclePlay, tone: 'text-primary' };
    const roll = cutter?.roll;
    if (roll?.state === 'stopped') return { word: 'Stopped', icon: CircleAlert, tone: 'text-error' };
    if (roll?.state === 'looking') return { word: 'Looking', icon: CirclePlay, tone: 'text-primary' };
    if (roll?.state === 'cutting' || cutter?.busy) return { word: 'Cutting', icon: CirclePlay, tone: 'text-primary' };
    if (cutter)
      return {
        word: roll ? (roll.state === 'done' ? 'Roll cut' : 'Roll loaded') : cutter.loaded ? 'Sheet loaded' : 'Empty',
        icon: CircleCheck,
        tone: 'text-success'
      };
    return { word: 'Ready', icon: CircleCheck, tone: 'text-success' };
  }

  const inkLeft = ({ name, level }: { name: string; level: number | null }) =>
    `${name} ${level === null ? 'not known' : `${level} %`}`;

  /** Printers have their lanes on the Floor, cutters their tasks; what else there is stands under Shop. */
  const hrefOf = ({ kind, id }: Machine) =>
    kind === 'printer' ? `/#machine-${id}` : kind === 'cutter' ? '/cutting' : `/shop#machine-${id}`;

  const printingOn = (id: number) =>
    [...prints.map((print) => live.prints.get(print.id) ?? print), ...live.prints.values()].find(
      (print) => print.machineId === id && goesOn(print)
    );
</script>

<footer class="border-base-300 bg-base-200 flex h-14 shrink-0 items-stretch overflow-x-auto border-t" aria-label="Machines">
  {#each machines as machine (machine.id)}
    {@const { word, icon: Icon, tone } = state(machine)}
    <div class="border-base-300 flex min-w-36 shrink-0 items-center gap-3 border-r px-3">
      <div class="leading-tight">
        <a class="font-semibold whitespace-nowrap hover:underline" href={hrefOf(machine)}>{machine.name}</a>
        <div class="flex items-center gap-1 text-xs {tone}"><Icon size={14} aria-hidden="true" />{word}</div>
      </div>
      {#if machine.printer}
        {@const { media, inks } = machine.printer}
        {@const printing = printingOn(machine.id)}
        <div class="text-xs leading-tight">
          <div class="max-w-40 truncate" title="{media.name}, {widthOf(media.widthMm)}">
            {media.name}, {widthOf(media.widthMm)}
          </div>
          <div class="text-base font-semibold whitespace-nowrap">
            {media.sheetMm === null ? tape(media.lengthMm) : counted(media.sheets, 'sheet')}
            <span class="text-xs font-normal">left</span>
          </div>
        </div>
        <div class="flex items-end gap-1" aria-label="Ink left: {inks.map(inkLeft).join(', ')}" role="img">
          {#each inks as ink (ink.name)}
            <span class="border-base-content/40 relative h-8 w-2.5 border" title={inkLeft(ink)}>
              {#if ink.level === null}<span class="absolute inset-0 text-center leading-8" aria-hidden="true">?</span>
              {:else}<span class="absolute inset-x-0 bottom-0" style="height: {ink.level}%; background: {ink.colour}"></span>{/if}
            </span>
          {/each}
        </div>
        {#if printing}
          <div class="text-xs leading-tight">
            <a class="link" href="/runs/{printing.runId}">Run {printing.runId}</a>
            <div>{tape(printing.printedMm)} of {tape(printing.lengthMm)}</div>
            {#if printing.secondsLeft}<div>{duration(printing.secondsLeft)} left</div>{/if}
          </div>
        {/if}
      {:else if machine.cutter?.roll}
        {@const { roll } = machine.cutter}
        {@const under = roll.places.find(({ state }) => state === 'cutting')}
        {@const refused = roll.places.filter(({ state }) => state === 'refused').length}
        <div class="text-xs leading-tight">
          <div class="whitespace-nowrap">
            {roll.places.filter(({ state }) => state === 'cut').length} cut{refused > 0 ? `, ${refused} refused` : ''}
          </div>
          <div class="text-base font-semibold whitespace-nowrap">
            {tape(Math.max(0, roll.lengthMm - roll.positionMm))}
            <span class="text-xs font-normal">left</span>
          </div>
        </div>
        {#if under?.task}<a class="link text-xs" href="/cutting/{under.task}">{under.name}</a>{/if}
      {:else if machine.cutter?.loaded}
        <div class="text-xs leading-tight">
          <div>{sheetOf(machine.cutter.loaded.widthMm, machine.cutter.loaded.heightMm)}</div>
          <div>{machine.cutter.linesCut} lines cut</div>
        </div>
      {/if}
    </div>
  {:else}
    <div class="flex items-center px-3">No machines yet. <a class="link ml-1" href="/shop">Add one under Shop.</a></div>
  {/each}
  {#if !live.connected}<div class="text-error ml-auto flex items-center gap-1 px-3" role="status">
      <PlugZap size={16} />The server does not answer; trying again.
    </div>{/if}
</footer>
