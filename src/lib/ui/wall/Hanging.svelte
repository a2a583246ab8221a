<script lang="ts">
  import Down from '@lucide/svelte/icons/chevron-down';
  import Up from '@lucide/svelte/icons/chevron-up';
  import { meetings } from '$core/panels/panel-marks';
  import { printingOrder } from '$core/panels/hanging';
  import type { PlannedWall } from '$core/panels/panels';
  import { ORDERS, type Wall } from '$core/panels/wall';
  import { formatLength, type LengthUnit } from '$core/units/length';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  /** The order of hanging, what is printed beside panels, and the map. */
  let {
    docket,
    wall,
    planned,
    unit,
    isLaidOut,
    printing,
    onchange,
    onprint
  }: {
    docket: { id: number; version: number };
    wall: Wall;
    planned: PlannedWall;
    unit: LengthUnit;
    /** It is in a run that can still be changed. */
    isLaidOut: boolean;
    printing: boolean;
    onchange: (part: Partial<Wall>) => void;
    onprint: () => void;
  } = $props();

  const WORDS: Record<Wall['order'], string> = {
    'from left': 'from left to right',
    'from right': 'from right to left',
    'from middle': 'from the middle',
    'by hand': 'as listed'
  };
  const rolled = $derived(printingOrder(planned.hanging).map(({ order }) => order));
  const short = (numbers: readonly number[]) =>
    numbers.length <= 14 ? numbers.join(', ') : `${numbers.slice(0, 12).join(', ')} … ${numbers.at(-1)}`;
  /** All that the wall is divided into, also what does not print. */
  const byHand = () => [...planned.hanging.map(({ index }) => index), ...planned.blank];
  function move(place: number, by: -1 | 1): void {
    const list = byHand();
    const [panel] = list.splice(place, 1);
    list.splice(place + by, 0, panel!);
    onchange({ order: 'by hand', byHand: list });
  }
</script>

<section aria-label="Hanging">
  <h2 class="panel-title leading-4">Hanging</h2>
  <p>
    Hung
    <select
      class="in-sentence"
      aria-label="Order of hanging"
      value={wall.order}
      onchange={(event) =>
        onchange({
          order: event.currentTarget.value as Wall['order'],
          ...(event.currentTarget.value === 'by hand' && { byHand: byHand() })
        })}
    >
      {#each ORDERS as order (order)}<option value={order}>{WORDS[order]}</option>{/each}
    </select>; printed and rolled the other way, {short(rolled)}, so that panel 1 comes off first. In a run that places in order
    they come out so.
  </p>
  {#if planned.blank.length > 0}<p>
      {planned.blank.length === 1 ? 'One panel lies' : `${planned.blank.length} panels lie`} in openings: nothing of {planned
        .blank.length === 1
        ? 'it'
        : 'them'} is printed, and {planned.blank.length === 1 ? 'it has' : 'they have'} no number.
    </p>{/if}
  {#if wall.order === 'by hand'}
    <ol class="max-h-56 overflow-auto text-sm leading-6">
      {#each planned.hanging as { index, core }, i (index)}
        <li class="flex items-center gap-1">
          <span class="w-16">Panel {i + 1}</span>
          <span class="grow truncate">{formatLength(core.x, unit)} from the left</span>
          <button
            class="btn btn-ghost btn-xs btn-square"
            disabled={i === 0}
            aria-label="Hang panel {i + 1} earlier"
            onclick={() => move(i, -1)}><Up size={14} /></button
          >
          <button
            class="btn btn-ghost btn-xs btn-square"
            disabled={i === planned.hanging.length - 1}
            aria-label="Hang panel {i + 1} later"
            onclick={() => move(i, 1)}><Down size={14} /></button
          >
        </li>
      {/each}
    </ol>
  {/if}
  <p>
    Panels beside each other are printed
    <select
      class="in-sentence"
      aria-label="Turning of panels"
      value={wall.alternate ? 'about' : 'alike'}
      onchange={(event) => onchange({ alternate: event.currentTarget.value === 'about' })}
    >
      <option value="alike">alike</option><option value="about">head to foot, so that edges printed at one side meet</option>
    </select>, {wall.controlStrip ? 'each with' : 'without'}
    <button class="link" aria-pressed={wall.controlStrip} onclick={() => onchange({ controlStrip: !wall.controlStrip })}
      >a small control strip</button
    >{#if wall.startMarksMm > 0}, with numbered start marks every <LengthBox
        sentence
        label="Distance of start marks"
        {unit}
        value={wall.startMarksMm}
        max={20_000}
        onchange={(startMarksMm) => onchange({ startMarksMm })}
      />{:else}, <button class="link" onclick={() => onchange({ startMarksMm: 1000 })}>without start marks</button>{/if}.
  </p>
  {#if planned.hanging[1]}<p class="text-base-content/70 text-sm leading-5">
      Beside panel 2 is printed: “2 of {planned.panels.length} …, hung as 2: {meetings(planned.hanging[1], planned, wall.joint)}”,
      an arrow to its top, and where its seams run.
    </p>{/if}
  <p class="flex flex-wrap gap-1">
    <a class="btn btn-sm" href="/api/dockets/{docket.id}/panel-map?version={docket.version}" download>Panel map as PDF</a>
    <button
      class="btn btn-sm"
      disabled={!isLaidOut || printing}
      title={isLaidOut ? '' : 'Lay the wall out first: the map goes into its run.'}
      onclick={onprint}>Print the map in the run’s waste</button
    >
  </p>
  {#if !isLaidOut}<p class="text-base-content/70 text-sm leading-5">
      The map is printed with the run, once the wall is laid out.
    </p>{/if}
</section>
