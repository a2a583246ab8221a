<script lang="ts">
  import { untrack } from 'svelte';
  import type { ShopSettings } from '$lib/shop-settings';
  import { follow } from '$lib/ui/common/follow.svelte';
  import SavesItself from '$lib/ui/common/SavesItself.svelte';
  import ColourSection from '$lib/ui/shop/ColourSection.svelte';
  import FilesSection from '$lib/ui/shop/FilesSection.svelte';
  import FontsSection from '$lib/ui/shop/FontsSection.svelte';
  import LimitsSection from '$lib/ui/shop/LimitsSection.svelte';
  import ListsSection from '$lib/ui/shop/ListsSection.svelte';
  import MachinesSection from '$lib/ui/shop/MachinesSection.svelte';
  import RolesSection from '$lib/ui/shop/RolesSection.svelte';
  import { SettingsEdits } from '$lib/ui/shop/settings-edits';
  import TheShop from '$lib/ui/shop/TheShop.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  const kept = untrack(() => new SettingsEdits(data.keptSettings));
  const { edits } = kept;
  follow(
    () => data.keptSettings,
    edits,
    (newest) => kept.adopt(newest)
  );
  const settings = $derived(edits.current);
  const onchange = (part: Partial<ShopSettings>) => edits.change({ ...edits.current, ...part });
</script>

<div class="grid max-w-7xl grid-cols-[repeat(auto-fit,minmax(20rem,1fr))] gap-8 p-6">
  <div class="space-y-8">
    <TheShop {settings} {onchange}><SavesItself {edits} /></TheShop>
    <ColourSection {settings} sources={data.sources} {onchange} />
    <MachinesSection machines={data.machines} away={data.away} inks={data.inks} {settings} />
  </div>
  <RolesSection {settings} {onchange} />
  <div class="space-y-8">
    <LimitsSection {settings} {onchange} />
    <FilesSection {settings} plates={data.plates.room} {onchange} />
    <ListsSection {settings} {onchange} />
    <FontsSection fonts={data.fonts} />
  </div>
</div>
