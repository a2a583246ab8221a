<script lang="ts">
  import { layOutRun } from '$core/layout/run-layout';
  import { formatMetres } from '$core/units/length';
  import { toLayoutDocket } from '$lib/model';
  import type { Condition } from '$lib/server/conditions';
  import type { Print } from '$lib/server/printing';
  import type { Run } from '$lib/server/runs';
  import { live } from '$lib/ui/common/live.svelte';
  import Copies from '$lib/ui/run/Copies.svelte';

  interface Props {
    condition: Condition;
    loaded: boolean;
    left: number;
    runs: Run[];
    prints: Print[];
    dropping: boolean;
    ondrop: () => void;
  }
  let { condition, loaded, left, runs, prints, dropping, ondrop }: Props = $props();

  let width = $state(900);
  let over = $state(false);

  const ORDER: Record<Run['state'], number> = { printed: 0, printing: 1, ripped: 2, ripping: 3, 'laying out': 4 };
  const WORDS: Record<Run['state'], string> = {
    printed: 'printed',
    printing: 'printing',
    ripped: 'RIPped',
    ripping: 'at the RIP',
    'laying out': 'laying out'
  };

  /** The last two that are printed, then all that is under way or waits, paid out from left to right. */
  const shown = $derived(
    [...runs.filter((run) => run.state === 'printed').slice(0, 2), ...runs.filter((run) => run.state !== 'printed')]
      .map((run) => ({ run, layout: layOutRun(run.dockets.map(toLayoutDocket), condition.rollWidthMm, run.rule) }))
      .sort((p, q) => ORDER[p.run.state] - ORDER[q.run.state] || p.run.id - q.run.id)
  );
  const GAP = 30;
  const total = $derived(Math.max(1500, shown.reduce((sum, { layout }) => sum + layout.length + GAP, 0) + 400));
  const scale = $derived(Math.min(width / total, (loaded || runs.length > 0 ? 250 : 60) / condition.rollWidthMm));
  const places = $derived.by(() => {
    let at = 60;
    return shown.map(({ run, layout }) => {
      const x = at;
      at += layout.length + GAP;
      const print = prints.find((p) => p.runId === run.id && p.endedAt === null);
      return {
        run,
        layout,
        x,
        printed: print ? (live.prints.get(print.id)?.printedMm ?? print.printedMm) : run.state === 'printed' ? layout.length : 0
      };
    });
  });
  /** Labels under short runs make way to the right instead of lying on each other. */
  const labels = $derived.by(() => {
    let end = 0;
    return places.map(({ run, layout, x }) => {
      const text = `Run ${run.id}, ${WORDS[run.state]}, ${formatMetres(layout.length)}`;
      const at = Math.max(x * scale, end);
      end = at + text.length * 6.6 + 16;
      return { x: at, text };
    });
  });
  const paid = $derived(places.length > 0 ? (places.at(-1)?.x ?? 0) + (places.at(-1)?.layout.length ?? 0) : 60);
</script>

<div
  class="mb-5 outline-2 {over ? 'outline-primary' : 'outline-transparent'}"
  bind:clientWidth={width}
  role="group"
  aria-label="Lane of {condition.media}"
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
  <div class="mb-1 flex items-baseline gap-2 text-sm">
    <span class="font-semibold">{condition.media}</span>
    <span class="text-base-content/70">{Math.round(condition.rollWidthMm)} mm, {condition.mode.name}</span>
    <span>{loaded ? `loaded, ${formatMetres(left)} left` : 'not loaded'}</span>
  </div>
  <svg {width} height={condition.rollWidthMm * scale + 22} role="group" aria-label="{places.length} runs on {condition.media}">
    <rect
      x="0"
      y="0"
      width={loaded || places.length === 0 ? width : paid * scale + 40}
      height={condition.rollWidthMm * scale}
      fill={loaded ? '#fff' : '#ffffff80'}
      stroke="#888"
    />
    {#if loaded}<rect x="0" y="-2" width="14" height={condition.rollWidthMm * scale + 4} rx="3" fill="#666" />{/if}
    {#each places as { run, layout, x, printed }, i (run.id)}
      <a href="/runs/{run.id}" aria-label="Run {run.id}, {WORDS[run.state]}, {formatMetres(layout.length)}">
        <g transform="matrix(0 {-scale} {scale} 0 {x * scale} {condition.rollWidthMm * scale})">
          <rect
            x="0"
            y="0"
            width={condition.rollWidthMm}
            height={layout.length}
            fill="#00000008"
            stroke="#999"
            stroke-dasharray="3 3"
            vector-effect="non-scaling-stroke"
          />
          <Copies
            name="run-{run.id}"
            copies={layout.copies}
            dockets={run.dockets}
            {scale}
            opacity={run.state === 'printed' || run.state === 'printing' ? 1 : 0.75}
          />
          {#if printed > 0 && run.state === 'printing'}<line
              x1="0"
              x2={condition.rollWidthMm}
              y1={printed}
              y2={printed}
              stroke="#000"
              stroke-width="3"
              vector-effect="non-scaling-stroke"
            />{/if}
        </g>
        <text class="fill-base-content text-xs" x={labels[i]?.x} y={condition.rollWidthMm * scale + 15}>{labels[i]?.text}</text>
      </a>
    {:else}
      <text class="text-xs" x="24" y={(condition.rollWidthMm * scale) / 2} fill="#555"
        >Nothing waits here. Drag a docket from the tray.</text
      >
    {/each}
  </svg>
</div>
