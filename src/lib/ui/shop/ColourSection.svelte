<script lang="ts">
  import Trash from '@lucide/svelte/icons/trash-2';
  import type { ShopSettings } from '$lib/shop-settings';
  import type { SourceProfile } from '$lib/server/conditions/source-profiles';
  import { attempt, send } from '$lib/ui/common/client';
  import { early } from '$lib/ui/common/early';
  import { sendFiles } from './send-files';
  import { longUnit } from '$core/units/length';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import LengthBox from '$lib/ui/common/LengthBox.svelte';

  let {
    settings,
    sources,
    onchange
  }: { settings: ShopSettings; sources: readonly SourceProfile[]; onchange: (part: Partial<ShopSettings>) => void } = $props();

  const setWatch = (part: Partial<ShopSettings['watch']>) => onchange({ watch: { ...settings.watch, ...part } });
  const removeSource = (id: string, name: string) => attempt(() => send('DELETE', `/api/sources/${id}`), `${name} is removed.`);
</script>

<section aria-label="Colour" class="space-y-3">
  <h2 class="text-lg font-semibold">Colour</h2>
  <p class="text-base-content/70 text-sm">
    What customers’ colours are read with where a file does not say. A docket may say otherwise.
  </p>
  {#each [['rgb', 'RGB'], ['cmyk', 'CMYK'], ['grey', 'Grey']] as const as [space, words] (space)}
    <label class="flex items-center gap-3 text-sm"
      ><span class="w-14">{words}</span><select
        class="select select-sm grow"
        value={settings.sources[space]}
        onchange={(event) => onchange({ sources: { ...settings.sources, [space]: event.currentTarget.value } })}
        >{#each sources.filter((source) => source.space === space) as source (source.id)}<option value={source.id}
            >{source.name}</option
          >{/each}</select
      ></label
    >
  {/each}
  <ul class="text-sm">
    {#each sources.filter(({ own }) => own) as { id, name } (id)}
      <li class="border-base-300 flex items-center justify-between border-b">
        <span class="min-w-0 truncate" title={name}>{name}</span><button
          class="btn btn-sm btn-ghost btn-square"
          aria-label="Remove the profile {name}"
          onclick={() => removeSource(id, name)}><Trash size={15} /></button
        >
      </li>
    {/each}
  </ul>
  <label class="btn btn-sm"
    >Add a source profile<input
      type="file"
      {@attach early}
      class="sr-only"
      accept=".icc,.icm"
      onchange={(event) => sendFiles(event, '/api/sources', (name) => `${name} can be chosen now.`)}
    /></label
  >
  <div class="flex gap-3 text-sm">
    {#each [['mean', 'Verified: ΔE00 in the mean, at most'], ['p95', '95 % within']] as const as [key, words] (key)}
      <label
        >{words}<FigureBox
          block
          class="input input-sm w-24 text-right"
          late
          label={words}
          decimals={2}
          min={0.1}
          max={key === 'mean' ? 10 : 20}
          step={0.1}
          value={settings.tolerance[key]}
          onchange={(figure) => onchange({ tolerance: { ...settings.tolerance, [key]: figure } })}
        /></label
      >
    {/each}
  </div>
  <p class="text-sm leading-8">
    Conditions with a baseline are to be read again
    <label
      ><input
        type="checkbox"
        class="checkbox checkbox-xs"
        checked={settings.watch.afterService}
        onchange={(event) => setWatch({ afterService: event.currentTarget.checked })}
      /> after a service</label
    >,
    <label
      >after <FigureBox
        sentence
        late
        label="Read conditions again after so many days"
        min={1}
        max={3650}
        placeholder="–"
        value={settings.watch.days}
        onchange={(days) => setWatch({ days })}
        onempty={() => setWatch({ days: null })}
      /> days</label
    >,
    <label
      >after <LengthBox
        sentence
        late
        label="Read conditions again after so much printed"
        unit={longUnit(settings.unit)}
        min={1000}
        max={1e9}
        placeholder="–"
        value={settings.watch.metres === null ? null : settings.watch.metres * 1000}
        onchange={(mm) => setWatch({ metres: mm / 1000 })}
        onempty={() => setWatch({ metres: null })}
      />
      {longUnit(settings.unit)} printed</label
    >; nothing typed is never.
  </p>
  <label class="block text-sm"
    >Address of a media library<input
      class="input input-sm flex w-full"
      placeholder="none"
      value={settings.libraryUrl}
      onchange={(event) => onchange({ libraryUrl: event.currentTarget.value.trim() })}
    /></label
  >
</section>
