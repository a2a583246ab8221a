<script lang="ts">
  import { stripName } from '$core/charts/chart-layout';
  import { describe } from '$core/charts/check-readings';
  import type { Chart } from '$lib/calibration';
  import { screenColour } from './show';

  /** Every patch as a square: above what is asked for, below what was measured. */
  let {
    chart,
    strip,
    errors = {},
    onpick
  }: { chart: Chart; strip: number; errors?: Record<string, number>; onpick: (strip: number, patch: string) => void } = $props();

  const CELL = 22;
  const LABEL = 26;
  const perStrip = $derived(Math.max(...Array.from({ length: chart.layout.strips }, (_, s) => count(s))));
  const places = $derived.by(() => {
    const seen: Record<number, number> = {};
    return chart.layout.patches.map((patch) => {
      const column = seen[patch.strip] ?? 0;
      seen[patch.strip] = column + 1;
      return { patch, column };
    });
  });
  const wrong = $derived(new Set(chart.findings.flatMap(({ ids }) => ids)));
  const width = $derived(LABEL + perStrip * CELL + 4);

  function count(s: number): number {
    return chart.layout.patches.filter((patch) => patch.strip === s).length;
  }
  const say = (id: string): string => {
    const patch = chart.layout.patches.find((one) => one.id === id);
    const lab = chart.readings[id];
    const error = errors[id];
    return `${id}: ${patch ? describe(patch.inks) : ''}${lab ? `, L* ${lab[0].toFixed(1)} a* ${lab[1].toFixed(1)} b* ${lab[2].toFixed(1)}` : ', not read yet'}${error === undefined ? '' : `, ΔE00 ${error.toFixed(2)} from its neighbours`}`;
  };
</script>

<svg
  viewBox="0 0 {width} {chart.layout.strips * CELL + 4}"
  class="h-auto w-full"
  style:max-width="{width * 1.15}px"
  role="group"
  aria-label="Patches of the chart: above as asked for, below as measured"
>
  {#each { length: chart.layout.strips } as _, s (s)}
    <text x="2" y={s * CELL + 16} class="fill-base-content text-[11px] {s === strip ? 'font-bold' : ''}" aria-hidden="true"
      >{stripName(s)}</text
    >
  {/each}
  <rect
    x="0.5"
    y={strip * CELL + 0.5}
    width={width - 1}
    height={CELL + 1}
    class="stroke-primary"
    fill="none"
    stroke-width="2"
    pointer-events="none"
  />
  {#each places as { patch, column } (patch.id)}
    {@const lab = chart.readings[patch.id]}
    {@const x = LABEL + column * CELL}
    {@const y = patch.strip * CELL + 2}
    <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
    <g onclick={() => onpick(patch.strip, patch.id)} class="cursor-pointer">
      <title>{say(patch.id)}</title>
      <rect {x} {y} width={CELL - 2} height={(CELL - 2) / 2} fill={screenColour(chart.expected[patch.id] ?? [50, 0, 0])} />
      {#if lab}
        <rect {x} y={y + (CELL - 2) / 2} width={CELL - 2} height={(CELL - 2) / 2} fill={screenColour(lab)} />
      {:else}
        <rect
          {x}
          y={y + (CELL - 2) / 2}
          width={CELL - 2}
          height={(CELL - 2) / 2}
          class="fill-base-300 stroke-base-content/30"
          stroke-dasharray="2 2"
        />
      {/if}
      {#if wrong.has(patch.id) || (errors[patch.id] ?? 0) > 3}
        <rect x={x - 0.5} y={y - 0.5} width={CELL - 1} height={CELL - 1} fill="none" class="stroke-error" stroke-width="2.5" />
        <text x={x + CELL - 9} y={y + 10} class="fill-error text-[11px] font-bold" aria-hidden="true">!</text>
      {/if}
    </g>
  {/each}
</svg>
