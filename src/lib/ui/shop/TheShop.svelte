<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { ShopSettings } from '$lib/shop-settings';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';

  let {
    settings,
    onchange,
    children
  }: { settings: ShopSettings; onchange: (part: Partial<ShopSettings>) => void; children: Snippet } = $props();
</script>

<section aria-label="The shop" class="space-y-3">
  <div class="flex items-center gap-3">
    <h1 class="grow text-lg font-semibold">The shop</h1>
    {@render children()}
  </div>
  <p class="flex flex-wrap gap-x-4 gap-y-1 text-sm">
    <a class="link" href="/shop/recipes">Recipes</a>
    <a class="link" href="/shop/jigs">Jigs</a>
    <a class="link" href="/shop/costs">What was printed, and its costs</a>
  </p>
  <label class="block text-sm"
    >Name<input
      class="input input-sm flex w-full"
      value={settings.shopName}
      maxlength="80"
      onchange={(event) => onchange({ shopName: event.currentTarget.value })}
    /></label
  >
  <div class="flex gap-3">
    <label class="block text-sm"
      >Unit for lengths<select
        class="select select-sm flex w-24"
        value={settings.unit}
        onchange={(event) => onchange({ unit: event.currentTarget.value as ShopSettings['unit'] })}
        ><option>mm</option><option>cm</option><option>in</option></select
      ></label
    >
    <label class="block text-sm"
      >Currency<input
        class="input input-sm flex w-16"
        value={settings.currency}
        maxlength="4"
        onchange={(event) => onchange({ currency: event.currentTarget.value })}
      /></label
    >
    <label class="block text-sm"
      >Ink, a ml<FigureBox
        block
        class="input input-sm w-20 text-right"
        late
        label="Ink, a ml"
        decimals={4}
        max={1000}
        step={0.01}
        value={settings.inkCostPerMl}
        onchange={(inkCostPerMl) => onchange({ inkCostPerMl })}
      /></label
    >
  </div>
</section>
