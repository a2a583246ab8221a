<script lang="ts">
  import {
    isJig,
    shapeAt,
    PLACING_RULES,
    type Item,
    type PlacedCopy,
    type Placement,
    type PlacingRule,
    type Stock
  } from '$core/layout/placement';
  import type { RunCosts } from '$core/layout/run-costs';
  import { sheetsInWords } from '$lib/sheets';
  import { duration } from '$lib/ui/common/client';
  import type { Comparing } from './comparing.svelte';
  import { RULES } from './rules';
  import Thumbnail from './Thumbnail.svelte';
  import { areaOf, tape } from '$lib/ui/common/shop-unit';

  interface Props {
    comparing: Comparing;
    chosen: PlacingRule;
    stock: Stock;
    /** Equal sheets are one run, so many times. */
    times: number;
    items: readonly Item[];
    disabled: boolean;
    costsOf: (layout: Placement) => RunCosts;
    currency: string;
    onchoose: (placing: PlacingRule) => void;
    onstop: () => void;
  }
  let { comparing, chosen, stock, times, items, disabled, costsOf, currency, onchoose, onstop }: Props = $props();

  const byId = $derived(new Map(items.map((item) => [item.id, item])));
  const greys = $derived(new Map(items.map((item, i) => [item.id, `hsl(0 0% ${35 + ((i * 29) % 45)}%)`])));
  const shade = (id: string) => greys.get(id) ?? '#888';
  const contour = (copy: PlacedCopy): string | undefined => {
    const item = byId.get(copy.id);
    if (!item?.shape) return undefined;
    return shapeAt(item, copy)
      .map((ring) => `M${ring.map((p) => `${p.x.toFixed(1)} ${p.y.toFixed(1)}`).join('L')}Z`)
      .join('');
  };
  /** The cheapest that places all, by what the film and the time cost. */
  const best = $derived.by(() => {
    const able = PLACING_RULES.filter((placing) => {
      const layout = comparing.found[placing]?.layout;
      return placing !== 'hand' && layout && !layout.refusal && layout.tooLarge.length === 0 && layout.length > 0;
    });
    const at = (placing: PlacingRule) => costsOf(comparing.found[placing]?.layout as Placement).all;
    return able.reduce<PlacingRule | undefined>((p, q) => (p === undefined || at(q) < at(p) - 0.005 ? q : p), undefined);
  });
</script>

<section aria-label="Placing rules compared">
  <div class="mb-1 flex items-baseline gap-2">
    <h2 class="panel-title">Placing rules compared</h2>
    {#if comparing.busy}
      <span class="text-base-content/70 text-xs" role="status">still looking</span>
      <button class="btn btn-xs ml-auto" onclick={onstop}>Stop looking</button>
    {/if}
  </div>
  <div role="radiogroup" aria-label="Placing rule" class="space-y-1">
    {#each PLACING_RULES as placing (placing)}
      {@const rule = RULES[placing]}
      {@const found = comparing.found[placing]}
      {@const layout = found?.layout}
      <button
        role="radio"
        aria-checked={placing === chosen}
        aria-label={rule.name}
        aria-describedby="rule-{placing}"
        title={rule.says}
        class="border-base-300 hover:bg-base-200 flex w-full items-center gap-2 border p-1.5 text-left text-xs disabled:opacity-100 {placing ===
        chosen
          ? 'outline-primary bg-base-200 outline-2'
          : ''}"
        {disabled}
        onclick={() => onchoose(placing)}
      >
        <span class="bg-base-300 flex h-16 w-28 shrink-0 items-center justify-center" class:opacity-50={comparing.stale}>
          {#if layout && layout.length > 0}
            <Thumbnail {layout} {stock} {shade} {contour} width={92} height={52} />
          {:else}
            <svg width="80" height="48" viewBox="0 0 40 24" aria-hidden="true" class="fill-base-content/50">
              {#each rule.drawing as [x, y, w, h], i (i)}<rect {x} {y} width={w} height={h} />{/each}
              {#if rule.path}<path d={rule.path} />{/if}
            </svg>
          {/if}
        </span>
        <span class="min-w-0 grow" id="rule-{placing}">
          <span class="flex items-baseline gap-1.5">
            <svg width="20" height="12" viewBox="0 0 40 24" aria-hidden="true" class="fill-base-content/70 shrink-0 self-center">
              {#each rule.drawing as [x, y, w, h], i (i)}<rect {x} {y} width={w} height={h} />{/each}
              {#if rule.path}<path d={rule.path} />{/if}
            </svg>
            <span class="text-sm font-semibold">{rule.name}</span>
            {#if placing === best}<span class="text-success font-semibold">cheapest</span>{/if}
            {#if found && !found.done && comparing.busy}<span class="text-base-content/70">…</span>{/if}
          </span>
          {#if layout?.refusal}
            <span>{layout.refusal}</span>
          {:else if layout && layout.length > 0}
            {@const costs = costsOf(layout)}
            <span class="block"
              ><span class="text-base font-semibold" data-testid="length-{placing}"
                >{stock.kind === 'sheet' ? sheetsInWords(layout.parts.length * times, isJig(stock)) : tape(layout.length)}</span
              >
              · {Math.round(layout.wasteShare * 100)} % waste{placing === 'shapes' ? ' by contour' : ''} of {areaOf(
                layout.areaM2 * times
              )} ·
              {currency}{costs.all.toFixed(2)}</span
            >
            <span class="text-base-content/70 block"
              >{layout.parts.length > 1 && stock.kind === 'roll' ? `${layout.parts.length} runs · ` : ''}{placing === 'shapes'
                ? 'cut by contour'
                : layout.cuts === null
                  ? 'no straight cuts free it'
                  : `${layout.cuts} straight cuts`}{costs.seconds === null ? '' : ` · ${duration(costs.seconds)}`}</span
            >
          {:else}
            <span class="text-base-content/70">{rule.says}</span>
          {/if}
        </span>
      </button>
    {/each}
  </div>
  <p class="text-base-content/70 mt-1 text-xs">{RULES[chosen].name}: {RULES[chosen].says}</p>
</section>
