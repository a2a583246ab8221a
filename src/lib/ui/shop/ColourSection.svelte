<script lang="ts">
  import Trash from '@lucide/svelte/icons/trash-2';
  import type { ShopSettings } from '$lib/model';
  import type { SourceProfile } from '$lib/server/conditions/source-profiles';
  import { attempt, send } from '$lib/ui/common/client';
  import { early } from '$lib/ui/common/early';
  import { sendFiles } from './send-files';

  let {
    settings,
    sources,
    onchange
  }: { settings: ShopSettings; sources: readonly SourceProfile[]; onchange: (part: Partial<ShopSettings>) => void } = $props();

  const setWatch = (part: Partial<ShopSettings['watch']>) => onchange({ watch: { ...settings.watch, ...part } });
  const figure = (text: string) => (text.trim() === '' ? null : Number(text));
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
        >{words}<input
          class="input input-sm flex w-24 text-right"
          type="number"
          step="0.1"
          min="0.1"
          value={settings.tolerance[key]}
          onchange={(event) => onchange({ tolerance: { ...settings.tolerance, [key]: event.currentTarget.valueAsNumber } })}
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
      >after <input
        class="in-sentence w-16 text-right"
        type="number"
        min="1"
        max="3650"
        aria-label="Read conditions again after so many days"
        placeholder="–"
        value={settings.watch.days ?? ''}
        onchange={(event) => setWatch({ days: figure(event.currentTarget.value) })}
      /> days</label
    >,
    <label
      >after <input
        class="in-sentence w-20 text-right"
        type="number"
        min="1"
        max="1000000"
        aria-label="Read conditions again after so many metres"
        placeholder="–"
        value={settings.watch.metres ?? ''}
        onchange={(event) => setWatch({ metres: figure(event.currentTarget.value) })}
      /> m printed</label
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
