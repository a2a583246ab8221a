<script lang="ts">
  import { formatMetres } from '$core/units/length';
  import type { Lane } from '$lib/server/production/lanes';
  import type { Print } from '$lib/server/printing/print';
  import type { Run } from '$lib/server/production/run';
  import { attempt, send } from '$lib/ui/common/client';
  import { live } from '$lib/ui/common/live.svelte';
  import Copies from '$lib/ui/run/Copies.svelte';

  interface Props {
    lane: Lane;
    /** Of the roll that is loaded, or sheets; in words. */
    left: string;
    runs: Run[];
    prints: Print[];
    dropping: boolean;
    ondrop: () => void;
    onsettings: () => void;
    onload: () => void;
  }
  let { lane, left, runs, prints, dropping, ondrop, onsettings, onload }: Props = $props();

  let width = $state(900);
  let over = $state(false);

  const across = $derived(lane.condition.rollWidthMm);
  const ORDER: Record<Run['state'], number> = { printed: 0, printing: 1, ripped: 2, ripping: 3, 'laying out': 4 };
  const WORDS: Record<Run['state'], string> = {
    printed: 'printed',
    printing: 'printing',
    ripped: 'RIPped',
    ripping: 'at the RIP',
    'laying out': 'laying out'
  };
  const words = (run: Run) => (run.state === 'ripped' && run.releasedAt !== null ? 'released' : WORDS[run.state]);

  /** The last two that are printed, then all that is under way or waits, paid out from left to right. */
  const shown = $derived(
    [...runs.filter((run) => run.state === 'printed').slice(0, 2), ...runs.filter((run) => run.state !== 'printed')].sort(
      (p, q) => ORDER[p.state] - ORDER[q.state] || p.id - q.id
    )
  );
  const waiting = $derived(
    runs.filter((run) => (run.state === 'laying out' || run.state === 'ripped') && run.releasedAt === null && run.laid.length > 0)
  );
  const GAP = 30;
  const PART_GAP = 20;
  const lengthOf = (run: Run) => run.layout.length + PART_GAP * Math.max(0, run.layout.parts.length - 1);
  const total = $derived(Math.max(1500, shown.reduce((sum, run) => sum + lengthOf(run) + GAP, 0) + 400));
  const scale = $derived(Math.min(width / total, (lane.loaded ? 100 : 64) / across));
  const places = $derived.by(() => {
    // Clear of the roll's core, however small the scale.
    let at = Math.max(60, 18 / scale);
    return shown.map((run) => {
      const x = at;
      at += lengthOf(run) + GAP;
      const print = prints.find((p) => p.runId === run.id && p.endedAt === null);
      let y = 0;
      return {
        run,
        x,
        parts: run.layout.parts.map((part) => {
          const start = y;
          y += part.length + PART_GAP;
          return { part, start };
        }),
        printed: print
          ? (live.prints.get(print.id)?.printedMm ?? print.printedMm)
          : run.state === 'printed'
            ? run.layout.length
            : 0
      };
    });
  });
  const sized = (run: Run) =>
    run.stock.kind === 'sheet'
      ? `${run.layout.parts.length * run.times} ${run.layout.parts.length * run.times === 1 ? 'sheet' : 'sheets'}`
      : formatMetres(run.layout.length);
  /** Labels under short runs make way to the right instead of lying on each other. */
  const labels = $derived.by(() => {
    let end = 0;
    return places.map(({ run, x }) => {
      const text = `Run ${run.id}, ${words(run)}, ${sized(run)}`;
      const at = Math.max(x * scale, end);
      end = at + text.length * 6.6 + 16;
      return { x: at, text };
    });
  });
  const paid = $derived(places.length > 0 ? (places.at(-1)?.x ?? 0) + lengthOf(places.at(-1)!.run) : 60);
  const RELEASES: Record<Lane['release']['kind'], (lane: Lane) => string> = {
    hand: () => 'released by hand',
    quiet: ({ release }) => (release.kind === 'quiet' ? `releases after ${release.minutes} min of quiet` : ''),
    full: ({ release, condition }) =>
      release.kind !== 'full'
        ? ''
        : condition.sheetMm === null
          ? `releases at ${formatMetres(release.lengthMm)}`
          : `releases when a sheet is ${Math.round(release.share * 100)} % full`,
    at: ({ release }) => (release.kind === 'at' ? `releases at ${release.time}` : '')
  };
  async function release(): Promise<void> {
    await attempt(async () => {
      const { refused } = await send<{ refused: string[] }>('POST', `/api/lanes/${lane.id}/release`);
      if (refused.length > 0) throw new Error(refused.join(' '));
    });
  }
</script>

<div
  class="outline-2 {lane.loaded || places.length > 0 || dropping ? 'mb-3 w-full' : ''} {over
    ? 'outline-primary'
    : 'outline-transparent'}"
  bind:clientWidth={width}
  role="group"
  aria-label="Lane of {lane.media}"
  ondragover={(event) => {
    if (dropping) event.preventDefault();
    over = dropping;
  }}
  ondragleave={() => (over = false)}
  ondrop={(event) => {
    event.preventDefault();
    over = false;
    ondrop();
  }}
>
  <div class="flex flex-wrap items-center gap-2 text-sm" class:mb-1={lane.loaded || places.length > 0}>
    <span class="font-semibold">{lane.media}</span>
    <!-- An empty lane that is not loaded is a short line. -->
    <span class="text-base-content/70" class:hidden={!lane.loaded && places.length === 0}
      >{Math.round(across)}{lane.condition.sheetMm === null ? '' : ` × ${Math.round(lane.condition.sheetMm)}`} mm, {lane.condition
        .mode.name}</span
    >
    {#if lane.loaded}<span>loaded, {left}</span>{:else}<span class="text-base-content/70">not loaded</span>
      <button class="btn btn-xs" onclick={onload} aria-label="Load {lane.media}">Load it</button>{/if}
    <button class="link text-xs" onclick={onsettings} aria-label="Settings of the lane of {lane.media}"
      >{RELEASES[lane.release.kind](lane)}</button
    >
    {#if waiting.length > 0}
      <button class="btn btn-xs ml-auto" onclick={release} aria-label="Release the lane of {lane.media}"
        >Release {waiting.length === 1 ? `run ${waiting[0]?.id}` : `${waiting.length} runs`}</button
      >
    {/if}
  </div>
  {#if lane.loaded || places.length > 0 || dropping}
    <svg {width} height={across * scale + 22} role="group" aria-label="{places.length} runs on {lane.media}">
      <rect
        x="0"
        y="0"
        width={lane.loaded || places.length === 0 ? width : paid * scale + 40}
        height={across * scale}
        fill={lane.loaded ? '#fff' : '#ffffff80'}
        stroke="#888"
      />
      {#if lane.loaded}<rect x="0" y="-2" width="14" height={across * scale + 4} rx="3" fill="#666" />{/if}
      {#each places as { run, parts, x, printed }, i (run.id)}
        <a href="/runs/{run.id}" aria-label="Run {run.id}, {words(run)}, {sized(run)}">
          <!-- All of the run can be pressed, the gaps between its sheets too. -->
          <rect x={x * scale} y="0" width={lengthOf(run) * scale} height={across * scale} fill="transparent" />
          <g transform="matrix(0 {-scale} {scale} 0 {x * scale} {across * scale})">
            {#each parts as { part, start }, n (n)}
              <g transform="translate(0 {start})">
                <rect
                  x="0"
                  y="0"
                  width={run.stock.width}
                  height={part.length}
                  fill="#00000008"
                  stroke="#999"
                  stroke-dasharray="3 3"
                  vector-effect="non-scaling-stroke"
                />
                <Copies
                  name="run-{run.id}-{n}"
                  copies={part.copies}
                  dockets={run.dockets}
                  laid={run.laid}
                  {scale}
                  byShape={run.rule.placing === 'shapes'}
                  opacity={run.state === 'printed' || run.state === 'printing' ? 1 : 0.75}
                />
              </g>
            {/each}
            {#if printed > 0 && run.state === 'printing'}<line
                x1="0"
                x2={across}
                y1={printed}
                y2={printed}
                stroke="#000"
                stroke-width="3"
                vector-effect="non-scaling-stroke"
              />{/if}
          </g>
          <text class="fill-base-content text-xs" x={labels[i]?.x} y={across * scale + 15}>{labels[i]?.text}</text>
        </a>
      {:else}
        <text class="text-xs" x="24" y={(across * scale) / 2 + 4} fill="#555"
          >Nothing waits here. Drag a docket from the tray.</text
        >
      {/each}
    </svg>
  {/if}
</div>
