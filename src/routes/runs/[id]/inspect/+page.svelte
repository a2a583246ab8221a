<script lang="ts">
  import { untrack } from 'svelte';
  import { formatFigure, MM_PER_INCH } from '$core/units/length';
  import { duration, fileSize, send } from '$lib/ui/common/client';
  import PlateViewer from '$lib/ui/inspect/PlateViewer.svelte';
  import type { PageProps } from './$types';
  import { lengthOf, tape } from '$lib/ui/common/shop-unit';

  let { data }: PageProps = $props();

  const media = $derived(data.run.condition.press.media);
  /** Plates are seen on what they will lie on, where that is not white. */
  let ground = $state<'white' | 'media'>(untrack(() => (media.body === 'opaque' ? 'white' : 'media')));
  /** By plate: those that are not shown. */
  let off = $state<Record<number, boolean>>({});
  const on = $derived(data.plates.map((_, i) => !off[i]));
  let pointer = $state<{ x: number; y: number; inks: number[] } | null>(null);
  const dpi = $derived(data.run.condition.mode.dpi);
  const total = $derived(data.plates.reduce((sum, { ml }) => sum + ml, 0));
  const cost = $derived(data.plates.reduce((sum, { ml, price }) => sum + ml * (price ?? data.settings.inkCostPerMl), 0));
  /** The layer that begins with a plate, where there are several. */
  const begins = (i: number) =>
    data.layers.length > 1 && data.plates[i]!.layer !== data.plates[i - 1]?.layer
      ? data.layers[data.plates[i]!.layer]
      : undefined;

  let asked = 0;
  async function look(x: number, y: number): Promise<void> {
    const mine = ++asked;
    const answer = await send<{ inks: number[] }>('GET', `/api/runs/${data.run.id}/ink?x=${x}&y=${y}`).catch(() => null);
    if (mine === asked) pointer = answer && { x, y, inks: answer.inks };
  }
</script>

<div class="flex h-full">
  <div class="flex min-w-0 grow flex-col">
    <header class="border-base-300 flex shrink-0 items-center gap-3 border-b px-4 py-2">
      <h1 class="text-lg font-semibold">Plates of run {data.run.id}</h1>
      <span class="text-base-content/70 text-sm"
        >{data.result.widthPx.toLocaleString('en-GB')} × {data.result.heightPx.toLocaleString('en-GB')} drops at {dpi} dpi, {fileSize(
          data.result.bytes
        )}, RIPped in {duration(data.result.seconds)}</span
      >
      <a class="btn btn-sm ml-auto" href="/runs/{data.run.id}">Back to the run</a>
    </header>
    <div class="min-h-0 grow">
      <PlateViewer
        runId={data.run.id}
        widthPx={data.result.widthPx}
        heightPx={data.result.heightPx}
        {dpi}
        {on}
        {ground}
        onpointer={look}
        onleave={() => (pointer = null)}
      />
    </div>
  </div>
  <aside class="border-base-300 w-72 shrink-0 space-y-4 overflow-auto border-l p-4" aria-label="Inks">
    <h2 class="panel-title">Inks</h2>
    <label class="block text-sm"
      >Seen on
      <select class="in-sentence" aria-label="Seen on" bind:value={ground}>
        <option value="white">white, each ink by itself</option>
        <option value="media">{media.name}</option>
      </select></label
    >
    <table class="w-full text-sm">
      <thead class="text-base-content/70 text-xs"
        ><tr
          ><th class="text-left font-normal">Shown</th><th class="text-right font-normal">here</th><th
            class="text-right font-normal">in all</th
          ></tr
        ></thead
      >
      <tbody>
        {#each data.plates as ink, i (i)}
          {@const layer = begins(i)}
          {#if layer}<tr
              ><th class="panel-title pt-3 text-left" colspan="3" scope="rowgroup"
                >{ink.layer + 1}. {layer.ink}{layer.curing ? `, ${layer.curing}` : ''}{ink.layer === 0
                  ? ', on the media'
                  : ink.layer === data.layers.length - 1
                    ? ', on top'
                    : ''}</th
              ></tr
            >{/if}
          <tr>
            <td class="py-1"
              ><label class="flex items-center gap-2"
                ><input
                  type="checkbox"
                  class="checkbox checkbox-sm"
                  aria-label={data.layers.length > 1 ? `${ink.name}, layer ${ink.layer + 1}` : undefined}
                  bind:checked={() => !off[i], (shown) => (off[i] = !shown)}
                /><span class="border-base-content/40 inline-block h-4 w-4 border" style="background: {ink.colour}"
                ></span>{ink.name}</label
              ></td
            >
            <td class="text-right font-semibold">{pointer ? `${Math.round((pointer.inks[i] ?? 0) * 100)} %` : '–'}</td>
            <td class="text-right">{formatFigure(ink.ml, 2)} ml</td>
          </tr>
        {/each}
        <tr class="border-base-300 border-t font-semibold">
          <td class="py-1">Together</td>
          <td class="text-right">{pointer ? `${Math.round(pointer.inks.reduce((sum, ink) => sum + ink, 0) * 100)} %` : '–'}</td>
          <td class="text-right">{formatFigure(total, 2)} ml</td>
        </tr>
      </tbody>
    </table>
    <p class="text-xs">
      {pointer
        ? `At ${lengthOf((pointer.x / dpi) * MM_PER_INCH)} across, ${lengthOf((pointer.y / dpi) * MM_PER_INCH)} along; mean of 8 × 8 drops.`
        : 'Point at the plates to read their ink.'}
    </p>
    <dl class="grid grid-cols-2 gap-2">
      <div>
        <dt class="panel-title">Ink cost</dt>
        <dd class="measure">{data.settings.currency}{cost.toFixed(2)}</dd>
      </div>
      <div>
        <dt class="panel-title">A copy</dt>
        <dd class="measure">{formatFigure(total / Math.max(1, data.copies), 2)} ml</dd>
      </div>
      <div>
        <dt class="panel-title">Length</dt>
        <dd class="measure">{tape(data.lengthMm)}</dd>
      </div>
    </dl>
    <p class="text-xs">
      Zoom with the wheel or + and −, down to single drops. Small, middle and large drops are shown by their volume.
    </p>
  </aside>
</div>
