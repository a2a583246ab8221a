<script lang="ts">
  import type { Data } from 'plotly.js-dist-min';
  import type { GamutHull } from '$core/colour/gamut';
  import Plot from '$lib/ui/common/Plot.svelte';
  import { send } from '$lib/ui/common/client';
  import { screenColour } from './show';

  let { conditionId, others }: { conditionId: number; others: { id: number; name: string }[] } = $props();

  const SPACES: Record<string, string> = { srgb: 'sRGB', wide: 'wide RGB (ROMM)', offset: 'offset, coated' };
  let against = $state('srgb');
  let mine = $state<GamutHull>();
  let theirs = $state<GamutHull>();
  let failed = $state('');

  $effect(() => {
    send<GamutHull>('GET', `/api/conditions/${conditionId}/hull`).then(
      (hull) => (mine = hull),
      (error: Error) => (failed = error.message)
    );
  });
  $effect(() => {
    theirs = undefined;
    if (against === '') return;
    send<GamutHull>('GET', against in SPACES ? `/api/hulls/${against}` : `/api/conditions/${against}/hull`).then(
      (hull) => (theirs = hull),
      (error: Error) => (failed = error.message)
    );
  });

  const data = $derived.by((): Data[] => {
    const list: Data[] = [];
    if (mine)
      list.push({
        type: 'mesh3d',
        x: mine.points.map(([, a]) => a),
        y: mine.points.map(([, , b]) => b),
        z: mine.points.map(([l]) => l),
        i: mine.faces.map(([p]) => p),
        j: mine.faces.map(([, q]) => q),
        k: mine.faces.map(([, , r]) => r),
        vertexcolor: mine.points.map(screenColour),
        flatshading: false,
        lighting: { ambient: 0.75, diffuse: 0.4, specular: 0 },
        hoverinfo: 'skip'
      } as unknown as Data);
    if (theirs) {
      // As a net of lines, so that what lies inside stays to be seen.
      const x: (number | null)[] = [];
      const y: (number | null)[] = [];
      const z: (number | null)[] = [];
      for (const face of theirs.faces)
        for (const at of [...face, face[0]]) {
          const [l, a, b] = theirs.points[at]!;
          x.push(a);
          y.push(b);
          z.push(l);
          if (at === face[0] && x.length % 5 === 4) [x, y, z].forEach((list) => list.push(null));
        }
      list.push({
        type: 'scatter3d',
        mode: 'lines',
        x,
        y,
        z,
        line: { color: '#888888', width: 1 },
        hoverinfo: 'skip'
      } as unknown as Data);
    }
    return list;
  });
  const name = $derived(SPACES[against] ?? others.find(({ id }) => String(id) === against)?.name ?? '');
</script>

<section aria-label="Gamut" class="space-y-2">
  <div class="flex flex-wrap items-baseline gap-x-6">
    <h3 class="font-semibold">Gamut</h3>
    {#if mine}<span><span class="measure">{Math.round(mine.volume / 1000)}</span> thousand ΔE³</span>{/if}
    {#if mine && theirs}<span>{Math.round((100 * mine.volume) / theirs.volume)} % of {name}’s</span>{/if}
    <label class="text-sm"
      >beside <select class="select select-sm inline-flex w-64" bind:value={against} aria-label="Compare the gamut with"
        ><option value="">nothing</option>{#each Object.entries(SPACES) as [space, words] (space)}<option value={space}
            >{words}</option
          >{/each}{#each others as other (other.id)}<option value={String(other.id)}>{other.name}</option>{/each}</select
      ></label
    >
  </div>
  {#if failed}<p class="text-error text-sm">{failed}</p>{/if}
  <Plot
    label="The gamut as a body in L*a*b*, {mine ? Math.round(mine.volume / 1000) : ''} thousand ΔE³{name
      ? `, beside ${name} as a net`
      : ''}"
    height={380}
    {data}
    layout={{
      margin: { l: 0, r: 0, t: 0, b: 0 },
      scene: {
        xaxis: { title: { text: 'a*' }, range: [-110, 110], dtick: 50 },
        yaxis: { title: { text: 'b*' }, range: [-120, 120], dtick: 50 },
        zaxis: { title: { text: 'L*' }, range: [0, 102], dtick: 25 },
        aspectmode: 'manual',
        aspectratio: { x: 1.1, y: 1.2, z: 0.9 },
        camera: { eye: { x: 1.2, y: -1.1, z: 0.45 }, center: { x: 0, y: 0, z: -0.15 } }
      }
    }}
  />
</section>
