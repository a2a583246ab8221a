<script lang="ts">
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import GripVertical from '@lucide/svelte/icons/grip-vertical';
  import X from '@lucide/svelte/icons/x';
  import { labToXyz, xyzToSrgb } from '$core/colour/lab';
  import { MOST_MARGIN_MM, type Layer, type Stack } from '$core/inks/stack';
  import type { LengthUnit } from '$core/units/length';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import PercentBox from '$lib/ui/common/PercentBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';
  import LayerBar from './LayerBar.svelte';
  import { canLieBy, coverKey, coverOf, evenDarkness, layerName, layerWords } from './layer-words';

  interface Props {
    layer: Layer;
    stack: Stack;
    unit: LengthUnit;
    /** Of the docket's file. */
    pages: number;
    /** The docket's own page, from 0. */
    page: number;
    /** What it takes, in words. */
    takes: string;
    picking: boolean;
    onchange: (part: Partial<Layer>) => void;
    /** Places up, away from the media, or down. */
    onmove: (by: number) => void;
    /** Taken by hand, and let go over a layer. */
    ondrag: (held: boolean) => void;
    ondropon: () => void;
    onremove: (() => void) | undefined;
    onpick: () => void;
  }
  let { layer, stack, unit, pages, page, takes, picking, onchange, onmove, ondrag, ondropon, onremove, onpick }: Props = $props();

  let over = $state(false);
  const name = $derived(layerName(layer, stack));
  const place = $derived(stack.layers.indexOf(layer));
  const others = $derived(canLieBy(layer, stack));
  const swatch = (lab: readonly [number, number, number]) =>
    `rgb(${xyzToSrgb(labToXyz(lab))
      .map((v) => Math.round(v * 255))
      .join(' ')})`;
  const STEPS = ['light', 'lighter', 'middle', 'darker', 'dark'];

  function keys(event: KeyboardEvent): void {
    if (!event.altKey || (event.key !== 'ArrowUp' && event.key !== 'ArrowDown')) return;
    event.preventDefault();
    onmove(event.key === 'ArrowUp' ? 1 : -1);
  }
</script>

<li
  class="border-base-300 border-b last:border-b-0 {over ? 'bg-base-300' : ''}"
  ondragover={(event) => {
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(event) => {
    event.preventDefault();
    over = false;
    ondropon();
  }}
>
  <details>
    <summary
      class="hover:bg-base-200 flex cursor-pointer items-center gap-2 py-1"
      aria-label="{place + 1}. {layerWords(layer, stack, unit)}"
      onkeydown={keys}
    >
      <span
        class="text-base-content/60 cursor-grab"
        role="presentation"
        draggable="true"
        title="Drag it up or down; Alt with an arrow does the same"
        ondragstart={(event) => {
          event.dataTransfer?.setData('text/plain', name);
          ondrag(true);
        }}
        ondragend={() => ondrag(false)}><GripVertical size={14} /></span
      >
      <LayerBar {layer} />
      <span class="min-w-0 grow leading-5">{layerWords(layer, stack, unit)}</span>
      {#if takes}<span class="text-base-content/70 shrink-0 pr-2 text-xs whitespace-nowrap">{takes}</span>{/if}
    </summary>
    <div class="space-y-1 pt-1 pb-2 pl-6 leading-7">
      {#if layer.ink === 'colour'}
        {#if pages > 1 || layer.ownPage !== null}
          <div>
            Shows
            <select
              class="in-sentence"
              aria-label="Page of {name}"
              value={layer.ownPage ?? ''}
              onchange={({ currentTarget: { value } }) => onchange({ ownPage: value === '' ? null : Number(value) })}
            >
              <option value="">the docket’s own page</option>
              {#each { length: pages }, i (i)}
                {#if i !== page || layer.ownPage === i}<option value={i}>page {i + 1} of the file</option>{/if}
              {/each}
              {#if layer.ownPage !== null && layer.ownPage >= pages}<option value={layer.ownPage}
                  >page {layer.ownPage + 1}, which the file does not have</option
                >{/if}
            </select>.
          </div>
        {/if}
        <label class="flex items-center gap-2"
          ><input
            type="checkbox"
            class="checkbox checkbox-xs"
            checked={layer.mirrored}
            onchange={(event) => onchange({ mirrored: event.currentTarget.checked })}
          />The other way round than the docket says: it is seen from the other side</label
        >
      {:else}
        <div>
          {#if layer.ink === 'varnish'}<select
              class="in-sentence"
              aria-label="Curing of {name}"
              value={layer.curing}
              onchange={(event) => onchange({ curing: event.currentTarget.value as Layer['curing'] })}
              ><option value="gloss">gloss</option><option value="matt">matt</option></select
            >
          {/if}
          <PercentBox
            sentence
            label="Amount of {name} in per cent"
            decimals={1}
            min={0.01}
            max={2}
            step={5}
            share={layer.amount}
            onchange={(amount) => onchange({ amount })}
          />
          %
          <select
            class="in-sentence"
            aria-label="Cover of {name}"
            value={coverKey(layer.cover)}
            onchange={(event) => onchange({ cover: coverOf(event.currentTarget.value, layer.cover) })}
          >
            <option value="whole">on all of it</option>
            <option value="margin">on all of it and around it</option>
            <option value="prints">where anything prints</option>
            <option value="marked">where the file marks it</option>
            <option value="colours">where some colours are</option>
            <option value="colours not">where anything but some colours prints</option>
            {#each others as other (other.id)}
              <option value="layer {other.id}">where {layerName(other, stack)} lies</option>
              <option value="layer {other.id} not">where {layerName(other, stack)} does not lie</option>
            {/each}
          </select>{#if layer.cover.is === 'margin'}
            by <LengthBox
              sentence
              label="Margin of {name}"
              {unit}
              value={layer.cover.mm}
              max={MOST_MARGIN_MM}
              onchange={(mm) => onchange({ cover: { is: 'margin', mm } })}
            />
            {unit}{/if},
          <LengthBox
            sentence
            label="Choke of {name}"
            {unit}
            value={layer.chokeMm}
            min={-5}
            max={5}
            onchange={(chokeMm) => onchange({ chokeMm })}
          />
          {unit} inside.
        </div>
        {#if layer.cover.is === 'colours'}
          {@const { cover } = layer}
          <div class="flex flex-wrap items-center gap-2">
            {#each cover.picked as lab, i (i)}
              <span class="border-base-content/40 inline-flex items-center border"
                ><span class="inline-block h-5 w-6" style="background: {swatch(lab)}"></span>{#if cover.picked.length > 1}<button
                    class="px-1"
                    aria-label="Leave out colour {i + 1}"
                    onclick={() => onchange({ cover: { ...cover, picked: cover.picked.filter((_, k) => k !== i) } })}
                    ><X size={12} /></button
                  >{/if}</span
              >
            {/each}
            <button class="btn btn-xs {picking ? 'btn-active' : ''}" aria-pressed={picking} onclick={onpick}
              >{picking ? 'Click a colour on the artwork' : 'Pick on the artwork'}</button
            >
            within
            <FigureBox
              sentence
              label="How alike colours are, ΔE"
              unit="ΔE"
              decimals={1}
              min={1}
              max={60}
              value={cover.within}
              onchange={(within) => onchange({ cover: { ...cover, within } })}
            /> ΔE
          </div>
        {/if}
        <div>
          Parts narrower than <LengthBox
            sentence
            label="Narrowest part of {name}"
            {unit}
            value={layer.leastMm}
            max={3}
            onchange={(leastMm) => onchange({ leastMm })}
          />
          {unit} and cover below
          <PercentBox
            sentence
            label="Least cover of {name} in per cent"
            decimals={1}
            max={0.9}
            share={layer.leastCover}
            onchange={(leastCover) => onchange({ leastCover })}
          /> % are left out.
        </div>
        <label class="flex items-center gap-2"
          ><input
            type="checkbox"
            class="checkbox checkbox-xs"
            checked={layer.byDarkness !== null}
            onchange={(event) => onchange({ byDarkness: event.currentTarget.checked ? evenDarkness() : null })}
          />Less or more by how dark the colour is</label
        >
        {#if layer.byDarkness}
          {@const shares = layer.byDarkness}
          <div class="flex gap-2">
            {#each shares as share, i (i)}
              <label class="flex w-14 flex-col text-center text-xs"
                ><PercentBox
                  sentence
                  label="Share of {name} under {STEPS[i]} colours in per cent"
                  decimals={1}
                  step={5}
                  {share}
                  onchange={(next) => onchange({ byDarkness: shares.map((own, k) => (k === i ? next : own)) })}
                />{STEPS[i]}</label
              >
            {/each}
          </div>
        {/if}
      {/if}
      <div class="flex gap-1">
        <button class="btn btn-xs" disabled={place === stack.layers.length - 1} onclick={() => onmove(1)}
          ><ArrowUp size={14} />Up</button
        >
        <button class="btn btn-xs" disabled={place === 0} onclick={() => onmove(-1)}><ArrowDown size={14} />Down</button>
        {#if onremove}<button class="btn btn-xs" onclick={onremove}>Take {name} out</button>{/if}
      </div>
    </div>
  </details>
</li>
