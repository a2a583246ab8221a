<script lang="ts">
  import Link from '@lucide/svelte/icons/link';
  import Unlink from '@lucide/svelte/icons/unlink';
  import { keepScale, MOST_MM, type BoxName } from '$core/artwork/choices';
  import { uprightSize } from '$core/artwork/preparation';
  import { ppiAtDistance } from '$core/checks/size';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import type { TicketView } from './ticket';

  let { view, cropping, oncropping }: { view: TicketView; cropping: boolean; oncropping: (on: boolean) => void } = $props();

  const { choices } = $derived(view);
  const { unit } = $derived(view.settings);
  let linked = $state(true);
  const upright = $derived(uprightSize(view.preparation));
  const scale = $derived((choices.widthMm / upright.widthMm) * 100);
  const proportion = $derived(choices.heightMm / choices.widthMm);
  /** Of one side, so that the other is within its bounds too where it follows. @param by this side for 1 mm of the other */
  const least = (by: number) => (linked ? Math.max(1, by) : 1);
  const most = (by: number) => MOST_MM * (linked ? Math.min(1, by) : 1);
  const setWidth = (widthMm: number) => view.change(linked ? { widthMm, heightMm: widthMm * proportion } : { widthMm });
  const setHeight = (heightMm: number) => view.change(linked ? { heightMm, widthMm: heightMm / proportion } : { heightMm });
  const setScale = (percent: number) =>
    view.change({ widthMm: (upright.widthMm * percent) / 100, heightMm: (upright.heightMm * percent) / 100 });

  const BOXES: [BoxName, string][] = [
    ['trim', 'the trim box'],
    ['media', 'the whole page'],
    ['crop', 'the crop box'],
    ['bleed', 'the bleed box'],
    ['art', 'the art box'],
    ['content', 'what is drawn'],
    ['cut', 'the cut lines']
  ];
  const hasLines = $derived(view.pageLines.length > 0);
  /** What the finished size takes of the page, keeping its scale. */
  const take = (change: Parameters<typeof keepScale>[1]) =>
    view.change(keepScale(choices, change, view.docket.artwork.facts, view.pageLines, view.settings.rules));

  /** ISO 216, mm. */
  const SHEETS: Record<string, [number, number]> = {
    A0: [841, 1189],
    A1: [594, 841],
    A2: [420, 594],
    A3: [297, 420],
    A4: [210, 297]
  };
  function fitInto(where: string): void {
    const { usableMm } = view;
    const { widthMm: w, heightMm: h } = choices;
    if (where === 'roll' && usableMm !== undefined) {
      const factor = (usableMm - 2 * choices.bleedMm) / w;
      view.change({ widthMm: Math.floor(w * factor * 10) / 10, heightMm: Math.floor(h * factor * 10) / 10 });
    }
    const sheet = SHEETS[where];
    if (sheet) {
      const [short, long] = sheet;
      const [sw, sh] = w > h ? [long, short] : [short, long];
      const factor = Math.min(sw / w, sh / h);
      view.change({ widthMm: w * factor, heightMm: h * factor });
    }
  }
  const cropped = $derived(Object.values(choices.crop).some((mm) => mm !== 0));
</script>

<section aria-label="Size">
  <h2 class="panel-title leading-4">Size</h2>
  <p>
    <LengthBox
      sentence
      label="Width"
      {unit}
      value={choices.widthMm}
      min={least(1 / proportion)}
      max={most(1 / proportion)}
      onchange={setWidth}
    />
    <button
      class="btn btn-ghost btn-xs btn-square align-middle"
      aria-pressed={linked}
      onclick={() => (linked = !linked)}
      aria-label={linked ? 'Width and height are linked' : 'Width and height are free'}
    >
      {#if linked}<Link size={14} />{:else}<Unlink size={14} />{/if}
    </button>
    <LengthBox
      sentence
      label="Height"
      {unit}
      value={choices.heightMm}
      min={least(proportion)}
      max={most(proportion)}
      onchange={setHeight}
    />
    {unit}, which is
    <FigureBox
      sentence
      label="Scale in per cent"
      unit="%"
      decimals={2}
      min={100 / Math.min(upright.widthMm, upright.heightMm)}
      max={5e6 / Math.max(upright.widthMm, upright.heightMm)}
      late
      value={scale}
      onchange={setScale}
    />
    % of
    <select
      class="in-sentence"
      aria-label="Part of the page"
      value={choices.box}
      onchange={(event) => take({ box: event.currentTarget.value as BoxName, crop: { left: 0, top: 0, right: 0, bottom: 0 } })}
    >
      {#each BOXES as [name, words] (name)}<option value={name} disabled={name === 'cut' && !hasLines}>{words}</option>{/each}
    </select>{cropped ? ', cropped' : ''},
    <select
      class="in-sentence"
      aria-label="Turn"
      value={String(choices.turn)}
      onchange={(event) => take({ turn: Number(event.currentTarget.value) as 0 | 90 | 180 | 270 })}
    >
      <option value="0">upright</option>
      <option value="90">turned right</option>
      <option value="180">upside down</option>
      <option value="270">turned left</option>
    </select>,
    <select
      class="in-sentence"
      aria-label="Mirrored"
      value={choices.mirror ? 'yes' : 'no'}
      onchange={(event) => take({ mirror: event.currentTarget.value === 'yes' })}
    >
      <option value="no">not mirrored</option>
      <option value="yes">mirrored</option>
    </select>.
  </p>
  <p class="flex flex-wrap items-center gap-2 leading-7">
    <button class="btn btn-xs" aria-pressed={cropping} class:btn-active={cropping} onclick={() => oncropping(!cropping)}>
      {cropping ? 'Done with cropping' : 'Crop'}
    </button>
    <select
      class="select select-xs w-auto"
      aria-label="Fit into"
      value=""
      onchange={(event) => {
        fitInto(event.currentTarget.value);
        event.currentTarget.value = '';
      }}
    >
      <option value="" disabled>Fit into…</option>
      <option value="roll" disabled={view.usableMm === undefined}>the roll’s width</option>
      {#each Object.keys(SHEETS) as sheet (sheet)}<option>{sheet}</option>{/each}
    </select>
    <span
      >Looked at from
      <LengthBox
        sentence
        label="Viewing distance"
        {unit}
        value={choices.viewingMm ?? view.settings.limits.viewingMm}
        min={100}
        max={100_000}
        onchange={(viewingMm) => view.change({ viewingMm })}
      />
      {unit}: {Math.round(ppiAtDistance(choices.viewingMm ?? view.settings.limits.viewingMm))} ppi are enough.</span
    >
  </p>
  {#if cropping}
    <p class="bg-base-200 px-2 text-sm">
      Drag the edges, or take off the page{#each ['left', 'top', 'right', 'bottom'] as const as side (side)}, {side}&nbsp;<LengthBox
          sentence
          label="Crop {side}"
          {unit}
          value={choices.crop[side]}
          min={-50_000}
          onchange={(mm) => take({ crop: { ...choices.crop, [side]: mm } })}
        />{/each}
      {unit}.
      {#if cropped}<button class="btn btn-xs" onclick={() => take({ crop: { left: 0, top: 0, right: 0, bottom: 0 } })}
          >No crop</button
        >{/if}
    </p>
  {/if}
</section>
