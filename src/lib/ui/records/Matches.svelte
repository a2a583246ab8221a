<script lang="ts">
  import type { RecordChoices } from '$core/records/choices';
  import { matchNames } from '$core/records/names';
  import { askedColumns } from '$core/records/new-field';

  interface Props {
    records: RecordChoices;
    onchange: (part: Partial<RecordChoices>) => void;
    /** A field for a column that none asks for. */
    onfield: (column: string) => void;
  }
  let { records, onchange, onfield }: Props = $props();

  const columns = $derived(records.table?.columns ?? []);
  const names = $derived([...new Set(records.fields.flatMap(({ content }) => askedColumns(content)))]);
  const matches = $derived(matchNames(names, columns, records.chosen));
  const near = (name: string) => matches.open.find((one) => one.name === name)?.near ?? [];
  function choose(name: string, column: string): void {
    const others = Object.entries(records.chosen).filter(([one]) => one !== name);
    onchange({ chosen: Object.fromEntries(column === '' ? others : [...others, [name, column]]) });
  }
</script>

{#if records.table && names.length > 0}
  <section aria-label="Columns for fields" class="space-y-1">
    <h2 class="panel-title">Columns</h2>
    <ul class="text-sm">
      {#each names as name (name)}
        {@const column = matches.columns[name]}
        <li class="border-base-300 flex flex-wrap items-center gap-x-2 border-b py-1">
          <span class="min-w-0 font-semibold break-words">{name}</span>
          <span aria-hidden="true">→</span>
          <select
            class="in-sentence min-w-0"
            class:text-error={column === undefined}
            aria-label="Column for {name}"
            value={column ?? ''}
            onchange={(event) => choose(name, event.currentTarget.value)}
          >
            {#if column === undefined}<option value="">no column</option>{/if}
            {#each columns as one (one)}<option value={one}>{one}</option>{/each}
          </select>
          {#if column === undefined}
            {#each near(name) as one (one)}<button class="btn btn-xs" onclick={() => choose(name, one)}>{one}?</button>{/each}
          {:else if records.chosen[name] === column}
            <button class="btn btn-xs btn-ghost" onclick={() => choose(name, '')}>as its name says</button>
          {/if}
        </li>
      {/each}
    </ul>
  </section>
{/if}
{#if records.table && matches.unused.filter((column) => column !== records.copiesFrom).length > 0}
  <section aria-label="Columns that no field asks for" class="text-sm">
    <p class="text-base-content/80">No field asks for these; press one for a field of it:</p>
    <p class="flex flex-wrap gap-1">
      {#each matches.unused.filter((column) => column !== records.copiesFrom).slice(0, 40) as column (column)}
        <button class="btn btn-xs max-w-48 font-normal" onclick={() => onfield(column)}
          ><span class="truncate">{column}</span></button
        >
      {/each}
    </p>
  </section>
{/if}
