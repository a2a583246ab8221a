<script lang="ts">
  import { onMount } from 'svelte';
  import { strokesOf, tipWays } from '$core/cutting/blade';
  import type { CutDetail } from '$lib/server/cutting/cut';
  import Rulers, { RULER } from '$lib/ui/common/Rulers.svelte';
  import ZoomButtons from '$lib/ui/common/ZoomButtons.svelte';
  import { makeZoom, zoomIdentity, type ZoomHandle, type ZoomTransform } from '$lib/ui/common/zoom';

  let { cut, asCut }: { cut: CutDetail; asCut: { x: number; y: number }[][] } = $props();

  let svg: SVGSVGElement;
  let width = $state(800);
  let height = $state(500);
  let view = $state<ZoomTransform>(zoomIdentity);
  let showPrint = $state(true);
  let showOrder = $state(true);
  let showTravel = $state(false);
  let showBlade = $state(false);
  let handle: ZoomHandle | undefined;
  onMount(() => {
    handle = makeZoom(svg, (transform) => (view = transform), 200);
    return () => handle?.destroy();
  });

  const HEAD = 44;
  /** Of more lines the head's way would be too slow to draw, and nothing in it could be told apart. */
  const MOST_LED = 400;
  const led = $derived(showBlade ? strokesOf(cut.lines.slice(0, MOST_LED), cut.knife) : []);
  /** Where the tip of a drag knife goes when its head is led so; other blades go where the head does. */
  const tips = $derived(
    led.map(({ tool, points: way }) => {
      const { blade, offset } = cut.knife[tool];
      if (blade !== 'drag knife' || offset === 0) return way;
      const [first, second] = way as [{ x: number; y: number }, { x: number; y: number }];
      const heading = (Math.atan2(second.y - first.y, second.x - first.x) * 180) / Math.PI;
      return tipWays([way], offset, heading).ways[0]!;
    })
  );
  const DASHES = { 'kiss cut': '5 3', 'through cut': '10 3', crease: '2 4', perforation: '' } as const;
  const fit = $derived(Math.min((width - RULER - 40) / cut.widthMm, (height - RULER - HEAD - 20) / cut.lengthMm));
  const scale = $derived(fit * view.k);
  const left = $derived(RULER + 10 + view.x);
  const top = $derived(RULER + HEAD + view.y);
  /** Numbers need room; until there is, the arrows alone show the way. */
  const numbered = $derived(cut.lines.length > 0 && Math.sqrt((cut.widthMm * cut.lengthMm) / cut.lines.length) * scale > 90);
  const points = (list: readonly { x: number; y: number }[]) => list.map((p) => `${p.x.toFixed(3)},${p.y.toFixed(3)}`).join(' ');
  const starts = $derived(cut.lines.map((line) => line.points[0] ?? { x: 0, y: 0 }));
  /** Where the first stretch of a line points, for its arrow. */
  const headings = $derived(
    cut.lines.map(({ points: [p, q] }) => (p && q ? (Math.atan2(q.y - p.y, q.x - p.x) * 180) / Math.PI : 0))
  );
  const lifted = $derived(
    cut.lines.map((line, i) => {
      const before = cut.lines[i - 1];
      const from = before ? (before.closed ? before.points[0] : before.points.at(-1)) : { x: 0, y: 0 };
      return { from: from ?? { x: 0, y: 0 }, to: line.points[0] ?? { x: 0, y: 0 } };
    })
  );
</script>

<div class="relative h-full w-full" bind:clientWidth={width} bind:clientHeight={height}>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <svg
    bind:this={svg}
    {width}
    {height}
    class="bg-base-300 block cursor-grab select-none"
    role="img"
    tabindex="0"
    aria-label="{cut.lines.length} cut lines on the print"
  >
    <g transform="matrix({scale} 0 0 {scale} {left} {top})">
      <rect class="fill-white" width={cut.widthMm} height={cut.lengthMm} stroke="#888" vector-effect="non-scaling-stroke" />
      {#if showPrint && cut.marks.length > 0}<image
          href="/api/prints/{cut.printId}/output"
          width={cut.widthMm}
          height={cut.lengthMm}
          preserveAspectRatio="none"
        />{/if}
      {#each cut.lines as line, i (i)}
        <svelte:element
          this={line.closed ? 'polygon' : 'polyline'}
          points={points(line.points)}
          fill="none"
          stroke="#fff"
          stroke-width="3"
          vector-effect="non-scaling-stroke"
        />
        <svelte:element
          this={line.closed ? 'polygon' : 'polyline'}
          points={points(line.points)}
          fill="none"
          stroke="#000"
          stroke-width="1.2"
          stroke-dasharray={asCut.length > 0 ? '' : DASHES[line.tool]}
          vector-effect="non-scaling-stroke"
        />
      {/each}
      {#each asCut as line, i (i)}
        <polyline points={points(line)} class="stroke-primary" fill="none" stroke-width="2" vector-effect="non-scaling-stroke" />
      {/each}
      {#if showTravel}
        {#each lifted as { from, to }, i (i)}<line
            x1={from.x}
            y1={from.y}
            x2={to.x}
            y2={to.y}
            stroke="#555"
            stroke-width="1"
            stroke-dasharray="2 3"
            vector-effect="non-scaling-stroke"
          />{/each}
      {/if}
      {#each led as { points: way }, i (i)}
        <polyline points={points(way)} fill="none" stroke="#555" stroke-width="1" vector-effect="non-scaling-stroke" />
        <polyline
          points={points(tips[i]!)}
          class="stroke-primary"
          fill="none"
          stroke-width="1.5"
          vector-effect="non-scaling-stroke"
        />
      {/each}
      {#if cut.registration}
        {#each cut.registration.matched as mark, i (i)}
          <circle
            cx={mark.expected.x}
            cy={mark.expected.y}
            r="6"
            class="stroke-primary"
            fill="none"
            stroke-width="2"
            vector-effect="non-scaling-stroke"><title>{mark.miss.toFixed(3)} mm off</title></circle
          >
        {/each}
      {/if}
    </g>
    {#if showOrder && starts.length <= 400}
      {#each starts as p, i (i)}
        {@const x = left + p.x * scale}
        {@const y = top + p.y * scale}
        <path
          d="M-2 -4 L6 0 L-2 4 Z"
          transform="translate({x} {y}) rotate({headings[i]})"
          fill="#000"
          stroke="#fff"
          stroke-width="0.8"
        />
        {#if numbered}<text
            {x}
            y={y - 6}
            text-anchor="middle"
            class="text-[10px] font-semibold"
            fill="#000"
            stroke="#fff"
            stroke-width="3"
            paint-order="stroke">{i + 1}</text
          >{/if}
      {/each}
    {/if}
    <Rulers {width} {height} {left} {top} {scale} from={0} />
  </svg>
  <div class="bg-base-100/90 absolute top-8 left-9 flex gap-3 px-2 py-1 text-xs">
    <label class="flex items-center gap-1"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={showPrint} />Print</label
    >
    <label class="flex items-center gap-1"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={showOrder} />Order and direction</label
    >
    <label class="flex items-center gap-1"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={showTravel} />Lifted ways</label
    >
    <label class="flex items-center gap-1"
      ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={showBlade} />Blade’s way</label
    >
    {#if showBlade}<span><span class="text-primary font-semibold">— blade</span>, — head</span>{/if}
    {#if asCut.length > 0}<span class="text-primary font-semibold">— as cut</span>{/if}
  </div>
  <ZoomButtons whole="sheet" onzoom={(factor) => handle?.by(factor)} onfit={() => handle?.fit()} />
</div>
