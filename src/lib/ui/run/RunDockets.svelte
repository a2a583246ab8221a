<script lang="ts">
  import { hasRecords } from '$core/records/choices';
  import { MOST_SERIES } from '$core/records/series';
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowRightLeft from '@lucide/svelte/icons/arrow-right-left';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import Pause from '@lucide/svelte/icons/pause';
  import Play from '@lucide/svelte/icons/play';
  import X from '@lucide/svelte/icons/x';
  import { counted } from '$core/units/counted';
  import type { Docket } from '$lib/server/dockets/dockets';
  import type { Run } from '$lib/server/production/run';
  import { sheetsInWords } from '$lib/sheets';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';

  interface Props {
    dockets: readonly Docket[];
    entries: Run['entries'];
    /** Equal sheets are one run, so many times. */
    times: number;
    inJig: boolean;
    held: readonly number[];
    open: boolean;
    share: (id: number) => string;
    oncopies: (id: number, count: number) => void;
    onmove: (index: number, by: number) => void;
    onhold: (id: number, held: boolean) => void;
    ontakeout: (id: number) => void;
    onlane: (docket: Docket) => void;
  }
  let { dockets, entries, times, inJig, held, open, share, oncopies, onmove, onhold, ontakeout, onlane }: Props = $props();

  /** How much of a docket is in the run; nothing where that is all of it. */
  function partInWords({ copies, pieces }: Run['entries'][number], { choices }: Docket): string {
    if (copies === null) return '';
    const onEach = times > 1 ? `${copies} on each of ${sheetsInWords(times, inJig)}` : '';
    const all = copies * times;
    if (pieces) return [`${counted(all, 'panel')} of its wall`, onEach].filter(Boolean).join(', ');
    return [all === choices.copies ? '' : `${all} of its ${choices.copies} copies`, onEach].filter(Boolean).join(', ');
  }

  const part = $derived(new Map(entries.map((entry) => [entry.docketId, entry])));
</script>

<section aria-label="Dockets">
  <h2 class="panel-title mb-1">Dockets</h2>
  <ul class="space-y-1.5">
    {#each dockets as docket, i (docket.id)}
      {@const isHeld = held.includes(docket.id)}
      {@const entry = part.get(docket.id)}
      {@const some = entry?.copies !== null && entry?.copies !== undefined}
      <li class="text-sm">
        <div class="flex items-center gap-1.5">
          {#if open && !some && !hasRecords(docket.choices.records)}
            <FigureBox
              min={1}
              max={MOST_SERIES}
              label="Copies of {docket.name}"
              value={docket.choices.copies}
              onchange={(count) => oncopies(docket.id, count)}
            />
          {:else}<span class="w-16 text-right font-semibold"
              >{some && entry?.copies ? entry.copies * times : docket.choices.copies}</span
            >{/if}
          <a
            class="min-w-0 grow truncate hover:underline"
            class:opacity-60={isHeld}
            href="/dockets/{docket.id}"
            title={docket.name}>{docket.name}</a
          >
          {#if open}
            <button
              class="btn btn-ghost btn-xs btn-square"
              disabled={i === 0}
              onclick={() => onmove(i, -1)}
              aria-label="{docket.name} earlier"><ArrowUp size={14} /></button
            >
            <button
              class="btn btn-ghost btn-xs btn-square"
              disabled={i === dockets.length - 1}
              onclick={() => onmove(i, 1)}
              aria-label="{docket.name} later"><ArrowDown size={14} /></button
            >
            <button
              class="btn btn-ghost btn-xs btn-square"
              onclick={() => onhold(docket.id, !isHeld)}
              aria-label={isHeld ? `Resume ${docket.name}` : `Hold ${docket.name}`}
              title={isHeld ? 'Resume' : 'Hold'}
              >{#if isHeld}<Play size={14} />{:else}<Pause size={14} />{/if}</button
            >
            <button
              class="btn btn-ghost btn-xs btn-square"
              onclick={() => onlane(docket)}
              aria-label="Move {docket.name} to another lane"
              title="To another lane"><ArrowRightLeft size={14} /></button
            >
            <button
              class="btn btn-ghost btn-xs btn-square"
              onclick={() => ontakeout(docket.id)}
              aria-label="Take {docket.name} out"
              title="Take out"><X size={14} /></button
            >
          {/if}
        </div>
        <div class="text-base-content/70 flex gap-2 pl-1 text-xs">
          {#if isHeld}<span class="text-warning font-semibold">held</span>{/if}
          {#if entry && partInWords(entry, docket)}<span>{partInWords(entry, docket)}</span>{/if}
          {#if docket.priority !== 'normal'}<span>{docket.priority} priority</span>{/if}
          {#if docket.dueOn}<span>due {docket.dueOn}</span>{/if}
          {#if !isHeld}<span>{share(docket.id)}</span>{/if}
        </div>
      </li>
    {:else}
      <li class="text-sm">No docket is in this run. <a class="link" href="/dockets">Lay some out</a></li>
    {/each}
  </ul>
</section>
