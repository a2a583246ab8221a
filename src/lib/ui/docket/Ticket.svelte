<script lang="ts">
  import Link from '@lucide/svelte/icons/link';
  import Unlink from '@lucide/svelte/icons/unlink';
  import { layOutRun } from '$core/layout/run-layout';
  import { mlPerSquareMetre, printSeconds } from '$core/rip/ink';
  import { formatFigure, formatLength, formatMetres } from '$core/units/length';
  import { DEFAULT_RULE, toLayoutDocket, type DocketChoices, type ShopSettings } from '$lib/model';
  import type { Condition } from '$lib/server/conditions';
  import type { Docket } from '$lib/server/dockets';
  import type { Machine } from '$lib/server/machines/machines';
  import CountBox from '$lib/ui/common/CountBox.svelte';
  import { duration, send } from '$lib/ui/common/client';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  interface Props {
    docket: Docket;
    choices: DocketChoices;
    conditions: Condition[];
    machines: Machine[];
    settings: ShopSettings;
    onchange: (part: Partial<DocketChoices>) => void;
  }
  let { docket, choices, conditions, machines, settings, onchange }: Props = $props();

  let linked = $state(true);
  const facts = $derived(docket.artwork.facts);
  const { unit } = $derived(settings);
  const scale = $derived((choices.widthMm / facts.widthMm) * 100);
  const condition = $derived(conditions.find((c) => c.id === choices.conditionId));
  const machine = $derived(machines.find((m) => m.id === condition?.machineId));

  const layout = $derived(
    condition && layOutRun([toLayoutDocket({ id: docket.id, choices })], condition.rollWidthMm, DEFAULT_RULE)
  );
  const seconds = $derived(
    layout && condition && machine?.printer && layout.length > 0
      ? printSeconds(condition.rollWidthMm, layout.length, { ...machine.printer, passes: condition.mode.passes })
      : undefined
  );

  const proportion = $derived(choices.heightMm / choices.widthMm);
  const setWidth = (widthMm: number) => onchange(linked ? { widthMm, heightMm: widthMm * proportion } : { widthMm });
  const setHeight = (heightMm: number) => onchange(linked ? { heightMm, widthMm: heightMm / proportion } : { heightMm });
  const setScale = (percent: number) =>
    onchange({ widthMm: (facts.widthMm * percent) / 100, heightMm: (facts.heightMm * percent) / 100 });

  const hasCut = $derived(facts.cutPaths.length > 0);
  const cutNames = $derived([...new Set(facts.cutPaths.map((cut) => cut.spot))].join(', '));

  /** Ink from a small drawing of the page in the condition, asked for when either changes. */
  let means = $state<number[] | null>(null);
  $effect(() => {
    const wanted = { id: docket.id, condition: choices.conditionId, has: condition?.hasProfile };
    means = null;
    if (wanted.condition === null || !wanted.has) return;
    let gone = false;
    const timer = setTimeout(() => {
      void send<{ means: number[] }>('GET', `/api/dockets/${wanted.id}/ink`)
        .then((answer) => {
          if (!gone) ({ means } = answer);
        })
        .catch(() => undefined);
    }, 600);
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  });
  const mlPerM2 = $derived(
    condition && machine?.printer
      ? mlPerSquareMetre({ x: condition.mode.dpi, y: condition.mode.dpi }, machine.printer.drops)
      : null
  );
  const inkMl = $derived.by(() => {
    if (!means || mlPerM2 === null) return null;
    const coverage = means.reduce((sum, mean) => sum + mean, 0);
    return coverage * mlPerM2 * ((choices.widthMm * choices.heightMm) / 1e6) * choices.copies;
  });
</script>

<div class="space-y-4 p-4 text-[15px] leading-8">
  <section aria-label="Size">
    <h2 class="panel-title leading-4">Size</h2>
    <p>
      <LengthBox sentence label="Width" {unit} value={choices.widthMm} min={1} onchange={setWidth} />
      <button
        class="btn btn-ghost btn-xs btn-square align-middle"
        aria-pressed={linked}
        onclick={() => (linked = !linked)}
        aria-label={linked ? 'Width and height are linked' : 'Width and height are free'}
      >
        {#if linked}<Link size={14} />{:else}<Unlink size={14} />{/if}
      </button>
      <LengthBox sentence label="Height" {unit} value={choices.heightMm} min={1} onchange={setHeight} />
      {unit}, which is
      <input
        class="in-sentence min-w-8 text-center"
        aria-label="Scale in per cent"
        type="number"
        min="0.1"
        step="any"
        value={formatFigure(scale, 2)}
        onchange={(event) => {
          const percent = Number(event.currentTarget.value);
          if (
            percent > 0 &&
            facts.widthMm * percent >= 100 &&
            facts.widthMm * percent <= 5e6 &&
            facts.heightMm * percent >= 100 &&
            facts.heightMm * percent <= 5e6
          )
            setScale(percent);
          else event.currentTarget.value = formatFigure(scale, 2);
        }}
      />
      % of the page’s trim box, {formatFigure(facts.widthMm, 1)} × {formatFigure(facts.heightMm, 1)} mm,
      {#if facts.bleedMm > 0}
        with <LengthBox
          sentence
          label="Bleed"
          {unit}
          value={choices.bleedMm}
          max={Math.max(choices.bleedMm, Math.floor(facts.bleedMm * (choices.widthMm / facts.widthMm) * 100) / 100)}
          onchange={(bleedMm) => onchange({ bleedMm })}
        />
        {unit} of its bleed.
      {:else}
        which has no bleed.
      {/if}
    </p>
  </section>
  <section aria-label="Copies">
    <h2 class="panel-title leading-4">Copies</h2>
    <p>
      <CountBox sentence label="Copies" value={choices.copies} onchange={(copies) => onchange({ copies })} />
      {choices.copies === 1 ? 'copy' : 'copies'}, which
      <select
        class="in-sentence"
        aria-label="Turning"
        value={choices.mayTurn ? 'may' : 'not'}
        onchange={(event) => onchange({ mayTurn: event.currentTarget.value === 'may' })}
      >
        <option value="may">may be turned a quarter</option>
        <option value="not">stay upright</option>
      </select>
      on the roll.
      {#if layout && layout.ghosts.length > 0}<span class="text-base-content/70"
          >{layout.ghosts.length} more would cost no film.</span
        >{/if}
    </p>
  </section>
  <section aria-label="Media and mode">
    <h2 class="panel-title leading-4">Media and mode</h2>
    <p>
      On
      <select
        class="in-sentence"
        aria-label="Media and print mode"
        value={choices.conditionId ?? ''}
        onchange={(event) => onchange({ conditionId: Number(event.currentTarget.value) || null })}
      >
        <option value="">choose a media</option>
        {#each conditions as one (one.id)}<option value={one.id}>{one.media}, {one.mode.name}</option>{/each}
      </select>{condition ? ` of ${condition.machine}.` : '.'}
      {#if layout && condition && layout.length > 0}
        <span class="measure">{formatMetres(layout.length)}</span> of the roll{#if seconds}, {duration(seconds)}{/if}, {formatFigure(
          layout.use.wasteShare * 100,
          0
        )} % waste, media for {settings.currency}{(layout.use.areaM2 * condition.costPerM2).toFixed(2)}{#if inkMl !== null}, about {inkMl.toFixed(
            inkMl < 10 ? 1 : 0
          )} ml of ink for {settings.currency}{(inkMl * settings.inkCostPerMl).toFixed(2)}{/if}.
      {/if}
    </p>
  </section>
  <section aria-label="Colour">
    <h2 class="panel-title leading-4">Colour</h2>
    <p>
      Colours out of reach are
      <select
        class="in-sentence"
        aria-label="Rendering intent"
        value={choices.intent}
        onchange={(event) => onchange({ intent: event.currentTarget.value as DocketChoices['intent'] })}
      >
        <option value="relative">clipped (relative colorimetric)</option>
        <option value="perceptual">fitted in (perceptual)</option>
        <option value="saturation">kept strong (saturation)</option>
      </select>.
    </p>
  </section>
  <section aria-label="Cut">
    <h2 class="panel-title leading-4">Cut</h2>
    <p>
      {#if hasCut}
        <select
          class="in-sentence"
          aria-label="Cutting"
          value={choices.cut ? 'cut' : 'not'}
          onchange={(event) => onchange({ cut: event.currentTarget.value === 'cut' })}
        >
          <option value="cut">Cut on the customer’s {facts.cutPaths.length === 1 ? 'line' : 'lines'}</option>
          <option value="not">Not cut</option>
        </select>: {facts.cutPaths.length} in {cutNames}.
        {#if choices.cut}Registration marks of {formatLength(6)} go around.{/if}
      {:else}
        Not cut: the artwork has no cut line.
      {/if}
    </p>
  </section>
</div>
