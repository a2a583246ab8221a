<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus';
  import Trash from '@lucide/svelte/icons/trash-2';
  import { counted } from '$core/units/counted';
  import type { ShopSettings } from '$lib/shop-settings';

  let { settings, onchange }: { settings: ShopSettings; onchange: (part: Partial<ShopSettings>) => void } = $props();

  let listName = $state('');
  const set = (place: number, part: Partial<ShopSettings['lists'][number]>) =>
    onchange({ lists: settings.lists.map((list, i) => (i === place ? { ...list, ...part } : list)) });
</script>

<section aria-label="Lists" class="space-y-2">
  <h2 class="text-lg font-semibold">Lists</h2>
  <p class="text-base-content/70 text-sm">
    For fields of records: an entry a line. <code>H = Helm</code> says “Helm” where a table has H; entries without a short form are
    said by their number, or one after the other by a counter.
  </p>
  {#each settings.lists as list, i (i)}
    <details class="border-base-300 border-b text-sm">
      <summary class="cursor-pointer py-1"
        >{list.name}
        <span class="text-base-content/70">{counted(list.entries.length, 'entry', 'entries')}</span></summary
      >
      <div class="flex items-center gap-2 pb-1">
        <input
          class="input input-sm grow"
          maxlength="60"
          aria-label="Name of the list"
          value={list.name}
          onchange={(event) => set(i, { name: event.currentTarget.value })}
        />
        <button
          class="btn btn-sm btn-ghost btn-square"
          aria-label="Remove the list {list.name}"
          onclick={() => onchange({ lists: settings.lists.filter((_, k) => k !== i) })}><Trash size={15} /></button
        >
      </div>
      <textarea
        class="textarea textarea-sm mb-2 w-full"
        rows="6"
        aria-label="Entries of {list.name}"
        value={list.entries.join('\n')}
        onchange={(event) => set(i, { entries: event.currentTarget.value.split('\n').filter((entry) => entry.trim() !== '') })}
      ></textarea>
    </details>
  {/each}
  <form
    class="flex items-center gap-2"
    onsubmit={(event) => {
      event.preventDefault();
      if (listName.trim() === '') return;
      onchange({ lists: [...settings.lists, { name: listName.trim(), entries: [] }] });
      listName = '';
    }}
  >
    <input class="input input-sm w-40" maxlength="60" aria-label="Name of a new list" bind:value={listName} />
    <button class="btn btn-sm" disabled={listName.trim() === ''}><Plus size={15} /> Add a list</button>
  </form>
</section>
