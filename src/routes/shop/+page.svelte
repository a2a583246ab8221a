<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus';
  import Trash from '@lucide/svelte/icons/trash-2';
  import { untrack } from 'svelte';
  import { ROLES } from '$core/artwork/roles';
  import { DEFAULT_LIMITS, type Limits } from '$core/checks/check';
  import { ppiAtDistance } from '$core/checks/size';
  import { early } from '$lib/ui/common/early';
  import { toast } from 'svelte-sonner';
  import { attempt, fileSize, send } from '$lib/ui/common/client';
  import MachinesSection from '$lib/ui/shop/MachinesSection.svelte';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();

  let settings = $state(untrack(() => structuredClone(data.settings)));
  let listName = $state('');

  /** As they were when this page last knew them. What others change meanwhile is not written over. */
  let known = untrack(() => structuredClone(data.settings));
  const save = () =>
    attempt(async () => {
      const now = $state.snapshot(settings);
      const changed = Object.entries(now).filter(
        ([name, value]) => JSON.stringify(value) !== JSON.stringify(known[name as keyof typeof known])
      );
      const kept = await send<typeof now>('PUT', '/api/settings', Object.fromEntries(changed));
      known = structuredClone(kept);
      // What was typed since it was sent stays: it is kept when it is left.
      const typed = $state.snapshot(settings);
      const isTyped = (name: keyof typeof now) => JSON.stringify(typed[name]) !== JSON.stringify(now[name]);
      settings = { ...kept, ...Object.fromEntries(Object.entries(typed).filter(([name]) => isTyped(name as keyof typeof now))) };
    }, 'Kept.');

  function setWatch(key: 'days' | 'metres', text: string): void {
    settings.watch[key] = text.trim() === '' ? null : Number(text);
    void save();
  }

  /** Sends the files chosen, one after another. */
  async function sendFiles(event: Event, to: string, said: (name: string) => string): Promise<void> {
    const input = event.currentTarget as HTMLInputElement;
    // The chooser's list is emptied below.
    for (const file of [...(input.files ?? [])])
      await attempt(async () => {
        const reply = await fetch(to, { method: 'PUT', body: file, headers: { 'content-type': 'application/octet-stream' } });
        if (!reply.ok) throw new Error(((await reply.json()) as { error: string }).error);
      }, said(file.name));
    input.value = '';
  }
  const clearPlates = () =>
    attempt(async () => {
      const { runs, bytes } = await send<{ runs: number; bytes: number }>('DELETE', '/api/plates');
      toast.success(`Plates of ${runs} ${runs === 1 ? 'run' : 'runs'} are deleted: ${fileSize(bytes)} are free again.`);
    });
  const removeSource = (id: string, name: string) => attempt(() => send('DELETE', `/api/sources/${id}`), `${name} is removed.`);
  const removeFont = (id: number, family: string) => attempt(() => send('DELETE', `/api/fonts/${id}`), `${family} is removed.`);

  interface LimitRow {
    key: keyof Limits;
    words: string;
    unit: string;
    /** How many of the shown units one of the kept ones is. */
    factor?: number;
    step: number;
  }
  const LIMITS: LimitRow[] = [
    { key: 'viewingMm', words: 'Looked at from', unit: 'm', factor: 0.001, step: 0.1 },
    { key: 'bleedMm', words: 'Least bleed', unit: 'mm', step: 0.5 },
    { key: 'nearTrimMm', words: 'Lettering keeps off the trim by', unit: 'mm', step: 0.5 },
    { key: 'thinnestMm', words: 'Thinnest line; 0 for three dots of the mode', unit: 'mm', step: 0.01 },
    { key: 'whiteTextMm', words: 'Smallest white lettering', unit: 'mm', step: 0.5 },
    { key: 'richTextMm', words: 'Smallest lettering of several inks', unit: 'mm', step: 0.5 },
    { key: 'blackAreaMm2', words: 'Largest area of black alone', unit: 'cm²', factor: 0.01, step: 10 },
    { key: 'totalInk', words: 'Most ink', unit: '%', factor: 100, step: 10 },
    { key: 'driftDeltaE', words: 'A condition may drift by', unit: 'ΔE00', step: 0.1 },
    { key: 'gamutDeltaE', words: 'Out of reach from', unit: 'ΔE00', step: 0.5 },
    { key: 'gamutShare', words: 'Area out of reach that is told', unit: '%', factor: 100, step: 0.5 },
    { key: 'layersApartMm', words: 'Layers of ink may lie apart by', unit: 'mm', step: 0.05 },
    { key: 'nodes', words: 'Most nodes of cut lines', unit: '', step: 100 },
    { key: 'knifeMm', words: 'Narrowest cut', unit: 'mm', step: 0.1 },
    { key: 'islandMm', words: 'Smallest piece that stays', unit: 'mm', step: 0.5 }
  ];
  const shown = ({ key, factor = 1 }: LimitRow) => Number((settings.limits[key] * factor).toFixed(4));
  function setLimit({ key, factor = 1 }: LimitRow, value: number): void {
    settings.limits[key] = Number.isFinite(value) ? value / factor : DEFAULT_LIMITS[key];
    void save();
  }
</script>

<div class="grid max-w-7xl grid-cols-[repeat(auto-fit,minmax(20rem,1fr))] gap-8 p-6">
  <div class="space-y-8">
    <section aria-label="The shop" class="space-y-3">
      <h1 class="text-lg font-semibold">The shop</h1>
      <p class="flex flex-wrap gap-x-4 gap-y-1 text-sm">
        <a class="link" href="/shop/recipes">Recipes</a>
        <a class="link" href="/shop/jigs">Jigs</a>
        <a class="link" href="/shop/costs">What was printed, and its costs</a>
      </p>
      <label class="block text-sm"
        >Name<input class="input input-sm flex w-full" bind:value={settings.shopName} maxlength="80" onchange={save} /></label
      >
      <div class="flex gap-3">
        <label class="block text-sm"
          >Unit for lengths<select class="select select-sm flex w-24" bind:value={settings.unit} onchange={save}
            ><option>mm</option><option>cm</option><option>in</option></select
          ></label
        >
        <label class="block text-sm"
          >Currency<input class="input input-sm flex w-16" bind:value={settings.currency} maxlength="4" onchange={save} /></label
        >
        <label class="block text-sm"
          >Ink, a ml<input
            class="input input-sm flex w-20 text-right"
            type="number"
            min="0"
            step="0.01"
            bind:value={settings.inkCostPerMl}
            onchange={save}
          /></label
        >
      </div>
    </section>
    <section aria-label="Colour" class="space-y-3">
      <h2 class="text-lg font-semibold">Colour</h2>
      <p class="text-base-content/70 text-sm">
        What customers’ colours are read with where a file does not say. A docket may say otherwise.
      </p>
      {#each [['rgb', 'RGB'], ['cmyk', 'CMYK'], ['grey', 'Grey']] as const as [space, words] (space)}
        <label class="flex items-center gap-3 text-sm"
          ><span class="w-14">{words}</span><select
            class="select select-sm grow"
            bind:value={settings.sources[space]}
            onchange={save}
            >{#each data.sources.filter((source) => source.space === space) as source (source.id)}<option value={source.id}
                >{source.name}</option
              >{/each}</select
          ></label
        >
      {/each}
      <ul class="text-sm">
        {#each data.sources.filter(({ own }) => own) as { id, name } (id)}
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
              bind:value={settings.tolerance[key]}
              onchange={save}
            /></label
          >
        {/each}
      </div>
      <p class="text-sm leading-8">
        Conditions with a baseline are to be read again
        <label
          ><input type="checkbox" class="checkbox checkbox-xs" bind:checked={settings.watch.afterService} onchange={save} /> after a
          service</label
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
            onchange={(event) => setWatch('days', event.currentTarget.value)}
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
            onchange={(event) => setWatch('metres', event.currentTarget.value)}
          /> m printed</label
        >; nothing typed is never.
      </p>
      <label class="block text-sm"
        >Address of a media library<input
          class="input input-sm flex w-full"
          placeholder="none"
          bind:value={settings.libraryUrl}
          onchange={save}
        /></label
      >
    </section>
    <MachinesSection machines={data.machines} away={data.away} currency={settings.currency} />
  </div>

  <section aria-label="Roles by name" class="space-y-2">
    <h2 class="text-lg font-semibold">Roles by name</h2>
    <p class="text-base-content/70 text-sm">
      What spot colours and layers of these names are for; the first that fits counts. * stands for anything. Case, spaces,
      hyphens and accents do not matter. A docket may say otherwise.
    </p>
    <ol class="space-y-1">
      {#each settings.rules as rule, i (rule)}
        <li class="flex items-center gap-2">
          <input
            class="input input-sm w-44"
            aria-label="Pattern {i + 1}"
            maxlength="60"
            bind:value={rule.pattern}
            onchange={save}
          />
          <select class="select select-sm w-36" aria-label="Role {i + 1}" bind:value={rule.role} onchange={save}>
            {#each ROLES as role (role)}<option value={role}>{role}</option>{/each}
          </select>
          <button
            class="btn btn-sm btn-ghost btn-square"
            aria-label="Remove the rule {rule.pattern}"
            onclick={() => {
              settings.rules.splice(i, 1);
              void save();
            }}><Trash size={15} /></button
          >
        </li>
      {/each}
    </ol>
    <button class="btn btn-sm" onclick={() => settings.rules.push({ pattern: 'new name', role: 'prints' })}
      ><Plus size={15} aria-hidden="true" />Add a rule</button
    >
  </section>

  <div class="space-y-8">
    <section aria-label="Limits of the checks" class="space-y-2">
      <h2 class="text-lg font-semibold">Limits of the checks</h2>
      <table class="w-full text-sm">
        <tbody>
          {#each LIMITS as row (row.key)}
            <tr>
              <td class="py-0.5 pr-2"><label for="limit-{row.key}">{row.words}</label></td>
              <td class="w-24"
                ><input
                  id="limit-{row.key}"
                  class="input input-sm w-24 text-right"
                  type="number"
                  min="0"
                  step={row.step}
                  value={shown(row)}
                  onchange={(event) => setLimit(row, event.currentTarget.valueAsNumber)}
                /></td
              >
              <td class="text-base-content/70 pl-2 whitespace-nowrap"
                >{row.key === 'viewingMm' ? `m, ${Math.round(ppiAtDistance(settings.limits.viewingMm))} ppi` : row.unit}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
      <button
        class="btn btn-sm"
        onclick={() => {
          settings.limits = { ...DEFAULT_LIMITS };
          void save();
        }}>As they came</button
      >
    </section>
    <section aria-label="Files that come in" class="space-y-2">
      <h2 class="text-lg font-semibold">Files that come in</h2>
      <p class="text-sm leading-7">
        Looking at a file may take
        <input
          class="input input-sm w-18 text-right"
          type="number"
          min="5"
          max="600"
          aria-label="Seconds for a file"
          bind:value={settings.intake.seconds}
          onchange={save}
        />
        s and
        <input
          class="input input-sm w-24 text-right"
          type="number"
          min="300"
          max="64000"
          step="100"
          aria-label="Memory for a file, MB"
          bind:value={settings.intake.megabytes}
          onchange={save}
        /> MB of memory, and what its pixels need. More is refused, so that one file holds nobody up.
      </p>
    </section>
    <section aria-label="Plates" class="space-y-2">
      <h2 class="text-lg font-semibold">Plates</h2>
      {#await data.plates.room then room}
        <p class="text-sm">
          They take <span class="font-semibold">{fileSize(room.all)}</span>; of it
          <span class="font-semibold">{fileSize(room.printed)}</span>
          those of {room.printedRuns.toLocaleString('en-GB')} printed {room.printedRuns === 1 ? 'run' : 'runs'}.
        </p>
        <p class="text-sm">
          Plates of printed runs go
          <select
            class="in-sentence"
            aria-label="When plates of printed runs go"
            value={settings.platesDays === null ? 'never' : 'after'}
            onchange={(event) => {
              settings.platesDays = event.currentTarget.value === 'never' ? null : 30;
              void save();
            }}><option value="never">never by themselves</option><option value="after">after</option></select
          >{#if settings.platesDays !== null}
            <input
              class="in-sentence w-14 text-center"
              type="number"
              min="1"
              max="3650"
              aria-label="Days that plates are kept"
              bind:value={settings.platesDays}
              onchange={save}
            /> days{/if}, unless the ticket of a docket says otherwise. What was printed, and when, stays; such a run is printed
          again by RIPping its copies anew.
        </p>
        {#if room.printedRuns > 0}<button class="btn btn-sm" onclick={clearPlates}>Delete those of printed runs now</button>{/if}
      {/await}
    </section>
    <section aria-label="Lists" class="space-y-2">
      <h2 class="text-lg font-semibold">Lists</h2>
      <p class="text-base-content/70 text-sm">
        For fields of records: an entry a line. <code>H = Helm</code> says “Helm” where a table has H; entries without a short form
        are said by their number, or one after the other by a counter.
      </p>
      {#each settings.lists as list, i (i)}
        <details class="border-base-300 border-b text-sm">
          <summary class="cursor-pointer py-1"
            >{list.name}
            <span class="text-base-content/70">{list.entries.length} {list.entries.length === 1 ? 'entry' : 'entries'}</span
            ></summary
          >
          <div class="flex items-center gap-2 pb-1">
            <input
              class="input input-sm grow"
              maxlength="60"
              aria-label="Name of the list"
              bind:value={list.name}
              onchange={save}
            />
            <button
              class="btn btn-sm btn-ghost btn-square"
              aria-label="Remove the list {list.name}"
              onclick={() => {
                settings.lists.splice(i, 1);
                void save();
              }}><Trash size={15} /></button
            >
          </div>
          <textarea
            class="textarea textarea-sm mb-2 w-full"
            rows="6"
            aria-label="Entries of {list.name}"
            value={list.entries.join('\n')}
            onchange={(event) => {
              list.entries = event.currentTarget.value.split('\n').filter((entry) => entry.trim() !== '');
              void save();
            }}></textarea>
        </details>
      {/each}
      <form
        class="flex items-center gap-2"
        onsubmit={(event) => {
          event.preventDefault();
          if (listName.trim() === '') return;
          settings.lists.push({ name: listName.trim(), entries: [] });
          listName = '';
          void save();
        }}
      >
        <input class="input input-sm w-40" maxlength="60" aria-label="Name of a new list" bind:value={listName} />
        <button class="btn btn-sm" disabled={listName.trim() === ''}><Plus size={15} /> Add a list</button>
      </form>
    </section>
    <section aria-label="Fonts" class="space-y-2">
      <h2 class="text-lg font-semibold">Fonts</h2>
      <p class="text-base-content/70 text-sm">
        For fields of records, and for SVG lettering that comes without its font. Where a font is not here either, Arimo, Tinos or
        Cousine stands in, and a check says so.
      </p>
      <ul class="text-sm">
        {#each data.fonts as font (font.id)}
          <li class="border-base-300 flex items-center justify-between border-b">
            <span class="min-w-0"
              >{font.family}
              {font.style}{#if font.licence}<span class="text-base-content/70 block truncate text-xs" title={font.licence}
                  >{font.licence}</span
                >{/if}</span
            ><button
              class="btn btn-sm btn-ghost btn-square"
              aria-label="Remove the font {font.family} {font.style}"
              onclick={() => removeFont(font.id, font.family)}><Trash size={15} /></button
            >
          </li>
        {/each}
      </ul>
      <label class="btn btn-sm"
        >Add fonts<input
          type="file"
          {@attach early}
          class="sr-only"
          accept=".ttf,.otf,.ttc,.woff,.woff2"
          multiple
          onchange={(event) => sendFiles(event, '/api/fonts', (name) => `${name} is used from now on.`)}
        /></label
      >
    </section>
  </div>
</div>
