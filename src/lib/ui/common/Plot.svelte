<script lang="ts">
  import type { Config, Data, Layout, PlotlyHTMLElement } from 'plotly.js-dist-min';
  import { onMount } from 'svelte';

  /** A chart. Its colours follow the theme; what it says is also in `label`, for those who do not see it. */
  let {
    data,
    layout = {},
    height = 260,
    label
  }: { data: Data[]; layout?: Partial<Layout>; height?: number; label: string } = $props();

  let box: HTMLDivElement;
  let plotly: typeof import('plotly.js-dist-min') | undefined;
  let drawn = $state(false);
  let theme = $state('');

  onMount(() => {
    const look = () => (theme = document.documentElement.dataset['theme'] ?? '');
    look();
    const watch = new MutationObserver(look);
    watch.observe(document.documentElement, { attributes: true, attributeFilter: ['data-theme'] });
    const resize = new ResizeObserver(() => {
      if (plotly && drawn) void plotly.Plots.resize(box as unknown as PlotlyHTMLElement);
    });
    resize.observe(box);
    void import('plotly.js-dist-min').then((module) => {
      plotly = module;
      drawn = true;
    });
    return () => {
      watch.disconnect();
      resize.disconnect();
      plotly?.purge(box);
    };
  });

  const config: Partial<Config> = { displayModeBar: false, responsive: false, scrollZoom: false };

  $effect(() => {
    if (!drawn || !plotly) return;
    // Read, so that a change of theme draws anew.
    const dark = theme === 'zing-dark';
    const ink = dark ? '#d6d6d6' : '#2b2b2b';
    const lines = dark ? '#4a4a4a' : '#cccccc';
    const titled = (one: Partial<Layout['xaxis']> | undefined) =>
      one?.title && typeof one.title === 'object' ? { ...one, title: { ...one.title, font: { size: 12 } } } : one;
    const axis = { gridcolor: lines, zerolinecolor: lines, linecolor: lines, tickfont: { size: 11 } };
    const whole: Partial<Layout> = {
      height,
      margin: { l: 48, r: 12, t: 8, b: 38 },
      paper_bgcolor: 'rgba(0,0,0,0)',
      plot_bgcolor: 'rgba(0,0,0,0)',
      font: { family: 'Inter Variable, sans-serif', size: 12, color: ink },
      showlegend: false,
      hoverlabel: { font: { family: 'Inter Variable, sans-serif' } },
      ...layout,
      xaxis: { ...axis, ...titled(layout.xaxis) },
      yaxis: { ...axis, ...titled(layout.yaxis) },
      ...(layout.yaxis2 && { yaxis2: { ...axis, ...titled(layout.yaxis2) } })
    };
    void plotly.react(box, $state.snapshot(data) as Data[], whole, config);
  });
</script>

<div bind:this={box} role="img" aria-label={label} style:height="{height}px" class="w-full min-w-0"></div>
