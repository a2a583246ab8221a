<script lang="ts">
  import type { RecordChoices } from '$core/records/choices';
  import { DELIMITERS, ENCODINGS, type TableChoices } from '$core/records/table-choices';
  import { counted } from '$core/units/counted';
  import type { TableTaken } from '$lib/server/dockets/docket-records';
  import FigureBox from '$lib/ui/common/FigureBox.svelte';
  import { early } from '$lib/ui/common/early';

  interface Props {
    records: RecordChoices;
    /** As they are printed. */
    copies: number;
    /** What was read last, and how; it can be read otherwise as long as its file is at hand. */
    taken: TableTaken | null;
    busy: boolean;
    onfile: (file: File) => void;
    onagain: (how: TableChoices) => void;
    onchange: (part: Partial<RecordChoices>) => void;
  }
  let { records, copies, taken, busy, onfile, onagain, onchange }: Props = $props();

  const { table } = $derived(records);
  const DELIMITER_NAMES = { ',': 'commas', ';': 'semicolons', '\t': 'tabs', '|': 'bars' } as const;
  const how = $derived<TableChoices>(
    taken
      ? {
          heading: taken.read.heading,
          ...(taken.read.sheet !== undefined && { sheet: taken.read.sheet }),
          ...(taken.read.delimiter && { delimiter: taken.read.delimiter }),
          ...(taken.read.encoding && { encoding: taken.read.encoding })
        }
      : {}
  );
  let only = $state<string | null>(null);
  let pasting = $state(false);
  let pasted = $state('');
  function paste(): void {
    if (pasted.trim() === '') return;
    onfile(new File([pasted], 'pasted.txt', { type: 'text/plain' }));
    pasting = false;
    pasted = '';
  }
</script>

<section aria-label="Table" class="space-y-2">
  <h2 class="panel-title">Table</h2>
  {#if table}
    <p>
      <span class="font-semibold">{counted(table.count, 'record')}</span> from <em class="break-all">{table.name}</em>.
    </p>
  {:else}
    <p class="text-base-content/80">
      What differs from copy to copy: a list of names, numbers, codes. Any text with columns, XLSX, ODS or JSON.
    </p>
  {/if}
  <p class="flex flex-wrap gap-2">
    <label class="btn btn-sm {table ? '' : 'btn-primary'} {busy ? 'btn-disabled' : ''}"
      >{table ? 'A newer table' : 'Take a table'}<input
        type="file"
        {@attach early}
        class="sr-only"
        accept=".csv,.txt,.tsv,.xlsx,.ods,.xls,.json,.jsonl"
        disabled={busy}
        onchange={(event) => {
          const [file] = event.currentTarget.files ?? [];
          if (file) onfile(file);
          event.currentTarget.value = '';
        }}
      /></label
    >
    <button class="btn btn-sm" aria-expanded={pasting} onclick={() => (pasting = !pasting)}>Paste one</button>
    {#if busy}<span class="loading loading-spinner loading-sm" role="status" aria-label="The table is read"></span>{/if}
  </p>
  {#if pasting}
    <textarea class="textarea textarea-sm w-full font-mono" rows="4" aria-label="A table as text" bind:value={pasted}></textarea>
    <button class="btn btn-sm" disabled={pasted.trim() === ''} onclick={paste}>Take what is pasted</button>
  {/if}
  {#if taken}
    {@const { read, news } = taken}
    <p class="text-sm">
      Read
      {#if read.sheets.length > 1}from the sheet <select
          class="in-sentence"
          aria-label="Sheet"
          value={read.sheet}
          onchange={(event) => onagain({ ...how, sheet: event.currentTarget.value })}
          >{#each read.sheets as sheet, i (i)}<option>{sheet}</option>{/each}</select
        >,
      {/if}
      {#if read.delimiter}with <select
          class="in-sentence"
          aria-label="Between cells"
          value={read.delimiter}
          onchange={(event) => onagain({ ...how, delimiter: event.currentTarget.value as (typeof DELIMITERS)[number] })}
          >{#each DELIMITERS as delimiter (delimiter)}<option value={delimiter}>{DELIMITER_NAMES[delimiter]}</option
            >{/each}</select
        > between cells,
      {/if}
      {#if read.encoding}as <select
          class="in-sentence"
          aria-label="Encoding"
          value={read.encoding}
          onchange={(event) => onagain({ ...how, encoding: event.currentTarget.value as (typeof ENCODINGS)[number] })}
          >{#each ENCODINGS as encoding (encoding)}<option>{encoding}</option>{/each}</select
        >,
      {/if}
      {#if read.kind !== 'JSON'}the first row <select
          class="in-sentence"
          aria-label="The first row"
          value={read.heading ? 'yes' : 'no'}
          onchange={(event) => onagain({ ...how, heading: event.currentTarget.value === 'yes' })}
          ><option value="yes">names the columns</option><option value="no">is a record</option></select
        >.{:else}a record an object.{/if}
    </p>
    {#each read.notes as note (note)}<p class="text-sm">{note}</p>{/each}
    {#if news}
      <p class="text-sm" role="status">
        {news.added.length === 0 && news.gone.length === 0 && news.changed.length === 0
          ? 'The same as before.'
          : `${counted(news.added.length, 'record')} new, ${news.gone.length} gone, ${news.changed.length} changed; the others keep their numbers.`}
      </p>
    {/if}
  {/if}
  {#if table}
    <p class="leading-7">
      Print
      <input
        class="in-sentence min-w-10"
        aria-label="Records that are printed"
        placeholder="all"
        maxlength="5000"
        value={only ?? records.only}
        onfocus={(event) => event.currentTarget.select()}
        oninput={(event) => (only = event.currentTarget.value)}
        onchange={(event) => {
          onchange({ only: event.currentTarget.value.trim() });
          only = null;
        }}
      />
      of them,
      <select
        class="in-sentence"
        aria-label="How often each"
        value={records.copiesFrom ?? ''}
        onchange={(event) => onchange({ copiesFrom: event.currentTarget.value || null })}
      >
        <option value="">each</option>
        {#each table.columns as column (column)}<option value={column}>as often as {column} says</option>{/each}
      </select>
      {#if records.copiesFrom === null}
        <FigureBox
          min={1}
          sentence
          label="Copies of each"
          value={records.each}
          max={1000}
          onchange={(each) => onchange({ each })}
        />
        {records.each === 1 ? 'time' : 'times'}{/if}:
      <span class="font-semibold">{counted(copies, 'copy', 'copies')}</span>,
      <select
        class="in-sentence"
        aria-label="Order"
        value={records.order}
        onchange={(event) => onchange({ order: event.currentTarget.value as RecordChoices['order'] })}
      >
        <option value="rows">row after row</option>
        <option value="stack">so that a stack of sheets is cut into piles in order</option>
      </select>.
    </p>
  {/if}
</section>
