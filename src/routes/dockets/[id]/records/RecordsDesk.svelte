<script lang="ts">
  import ArrowLeft from '@lucide/svelte/icons/arrow-left';
  import { tick, untrack } from 'svelte';
  import type { RecordChoices, TableRef } from '$core/records/choices';
  import type { TableEdit } from '$core/records/kept-table';
  import type { RiskMend } from '$core/records/risks';
  import type { TableChoices } from '$core/records/table-choices';
  import type { TableTaken } from '$lib/server/dockets/docket-records';
  import type { Docket } from '$lib/server/dockets/dockets';
  import { attempt, send } from '$lib/ui/common/client';
  import StepButtons from '$lib/ui/common/StepButtons.svelte';
  import { DocketEdits } from '$lib/ui/docket/docket-edits.svelte';
  import DocketSaving from '$lib/ui/docket/DocketSaving.svelte';
  import OtherWindow from '$lib/ui/docket/OtherWindow.svelte';
  import { isBehindDialog, isTyping } from '$lib/ui/frame/places';
  import ContactSheet from '$lib/ui/records/ContactSheet.svelte';
  import { FieldWork } from '$lib/ui/records/field-work.svelte';
  import FieldList from '$lib/ui/records/FieldList.svelte';
  import FieldsView from '$lib/ui/records/FieldsView.svelte';
  import Matches from '$lib/ui/records/Matches.svelte';
  import { RecordShown } from '$lib/ui/records/record-shown.svelte';
  import RecordTable from '$lib/ui/records/RecordTable.svelte';
  import RecordSteps from '$lib/ui/records/RecordSteps.svelte';
  import { RecordsLook } from '$lib/ui/records/records-look.svelte';
  import Risks from '$lib/ui/records/Risks.svelte';
  import PicturesLine from '$lib/ui/records/PicturesLine.svelte';
  import { sendPictures, sendTable, type PicturesReply } from '$lib/ui/records/send-table';
  import TableLine from '$lib/ui/records/TableLine.svelte';
  import type { PageData } from './$types';

  let { data }: { data: PageData } = $props();

  const edits = new DocketEdits(untrack(() => data.docket));

  const { choices } = $derived(edits.current);
  const { records } = $derived(choices);
  const { table, fields } = $derived(records);
  const { unit } = $derived(data.settings);
  const change = (part: Partial<RecordChoices>) =>
    edits.change({ ...edits.current, choices: { ...choices, records: { ...records, ...part } } });

  const shown = new RecordShown(() => data.numbers);
  const record = $derived(shown.number);
  $effect(() => {
    const [{ id }, number, hash] = [edits.docket, record, table?.hash];
    return untrack(() => shown.read(id, number, hash));
  });
  const work = new FieldWork(
    () => ({ records, record, size: choices }),
    (next) => edits.change({ ...edits.current, choices: { ...choices, records: next } })
  );
  function takeAreas(): void {
    // What a form has in its fields does not print below what records say.
    const { formFields } = edits.docket.artwork.facts;
    const inForm = work.freeOf(data.areas).some(({ name }) => formFields.some((one) => one.name === name));
    const next = { ...choices, ...(inForm && { fieldsOff: true }), records: work.withFree(data.areas) };
    edits.change({ ...edits.current, choices: next });
  }

  // The table.
  let taken = $state.raw<TableTaken | null>(null);
  let file: File | null = null;
  let reading = $state(false);
  /** The table that was there before the file came: read otherwise, the file is held against that again. */
  let before: TableRef | null = null;
  async function take(from: File, how: TableChoices): Promise<void> {
    if (from !== file) before = edits.docket.choices.records.table;
    file = from;
    reading = true;
    await attempt(() =>
      edits.byServer(async (docket) => {
        taken = await sendTable(docket, from, how);
        return taken.docket;
      })
    );
    reading = false;
    only = null;
  }
  async function takeAgain(how: TableChoices): Promise<void> {
    if (!file) return;
    change({ table: before });
    await take(file, how);
  }
  // Pictures for fields.
  let gotPictures = $state.raw<PicturesReply | null>(null);
  let unpacking = $state(false);
  async function takePictures(from: File): Promise<void> {
    unpacking = true;
    await attempt(() =>
      edits.byServer(async (docket) => {
        gotPictures = await sendPictures(docket, from);
        return gotPictures.docket;
      })
    );
    unpacking = false;
  }
  const editTable = (edit: TableEdit) =>
    attempt(() =>
      edits.byServer((docket) => send<Docket>('POST', `/api/dockets/${docket.id}/table`, { version: docket.version, edit }))
    );

  // What is at risk: looked at for what is saved.
  const look = new RecordsLook();
  $effect(() => {
    const { docket } = edits;
    return untrack(() => look.look(docket));
  });
  const atRisk = $derived(new Set(look.found?.risks.map((risk) => risk.record) ?? []));
  async function mend({ change: how }: RiskMend): Promise<void> {
    if ('records' in how) edits.change({ ...edits.current, choices: { ...choices, records: how.records } });
    else await editTable(how.table);
  }

  let below = $state<'table' | 'contact sheet'>('table');
  let only = $state.raw<readonly number[] | null>(null);
  /** The panel of the field that is chosen comes into sight, however it was chosen. */
  $effect(() => {
    const id = work.chosen;
    if (id === null) return;
    void tick().then(() => document.getElementById(`field-${id}`)?.scrollIntoView({ block: 'nearest' }));
  });
  function show(number: number, id?: number): void {
    shown.show(number);
    if (id !== undefined) work.chosen = id;
  }

  function keys(event: KeyboardEvent): void {
    if (isBehindDialog()) return;
    if (event.key === 'Escape' && work.drawing !== null) work.drawing = null;
    else if (event.key === 'Enter' && work.drawing !== null && !isTyping(event)) {
      event.preventDefault();
      work.drawn(null);
    } else if (!isTyping(event) && !event.ctrlKey && !event.altKey && !event.metaKey) {
      if (event.key === 'PageDown') shown.step(1);
      else if (event.key === 'PageUp') shown.step(-1);
      else return;
      event.preventDefault();
    }
  }
</script>

<svelte:head><title>Records of {edits.current.name} · Zing Mast</title></svelte:head>
<svelte:window onkeydown={keys} />
<DocketSaving {edits} loaded={data.docket} />

<div class="flex h-full">
  <div class="flex min-w-0 grow flex-col">
    <header class="flex min-h-12 flex-wrap items-center gap-x-3 gap-y-1 px-3 py-1">
      <a class="btn btn-sm btn-ghost" href="/dockets/{edits.docket.id}"
        ><ArrowLeft size={16} aria-hidden="true" />Docket {edits.docket.id}</a
      >
      <h1 class="truncate text-lg font-semibold">Records of {edits.current.name}</h1>
      {#if record !== null}
        <RecordSteps {record} numbers={shown.numbers} prints={shown.prints} onshow={show} />
      {/if}
    </header>
    <section class="relative min-h-0 grow basis-3/5" aria-label="Fields on the piece, to scale">
      <FieldsView
        docket={edits.docket}
        {choices}
        fields={work.shown}
        chosen={work.chosen}
        {record}
        {unit}
        drawing={work.drawing !== null}
        onchoose={(id) => (work.chosen = id)}
        onplace={(id, place) => work.put(id, place)}
        ondraw={(place) => work.drawn(place)}
        onremove={(id) => work.remove(id)}
      />
      {#if choices.mirror}
        <p class="bg-base-100 absolute top-8 right-2 px-2 py-1 text-sm">Seen as it reads; it is printed mirrored.</p>
      {/if}
      {#if work.drawing !== null}
        <p class="bg-base-100 absolute top-8 left-9 px-2 py-1 text-sm" role="status">
          Pull up a place for it, or press Enter to have one found. Esc leaves it.
        </p>
      {/if}
    </section>
    {#if table}
      <section class="border-base-300 flex min-h-0 basis-2/5 flex-col border-t" aria-label="Records">
        <div role="tablist" class="flex gap-1 px-2 pt-1" aria-label="Records as">
          {#each ['table', 'contact sheet'] as const as one (one)}
            <button
              role="tab"
              class="btn btn-xs {below === one ? 'btn-active' : 'btn-ghost'}"
              aria-selected={below === one}
              onclick={() => (below = one)}>{one === 'table' ? 'Table' : 'Contact sheet'}</button
            >
          {/each}
        </div>
        <div class="min-h-0 grow">
          {#if below === 'table'}
            <RecordTable
              docketId={edits.docket.id}
              {table}
              {record}
              {only}
              printed={records.only}
              onprinted={(text) => change({ only: text })}
              onshow={show}
              onall={() => (only = null)}
              onedit={editTable}
            />
          {:else if fields.length === 0}
            <p class="p-4 text-sm">There is no field yet that could say anything.</p>
          {:else}
            <ContactSheet docket={edits.docket} numbers={shown.numbers} {record} marked={atRisk} onshow={show} />
          {/if}
        </div>
      </section>
    {/if}
  </div>
  <aside class="border-base-300 bg-base-100 flex w-96 shrink-0 flex-col overflow-y-auto border-l" aria-label="Fields and table">
    <div class="flex items-center gap-1 p-2">
      <StepButtons {edits} onstep={(by) => attempt(() => edits.step(by))} />
      <span class="text-base-content/70 ml-auto text-xs" role="status">{edits.saving || edits.unsaved ? 'Saving…' : 'Saved'}</span
      >
    </div>
    {#if edits.other}<OtherWindow other={edits.other} onmine={() => edits.useMine()} onclose={() => (edits.other = null)} />{/if}
    <div class="space-y-4 p-3 pt-0">
      <TableLine
        {records}
        copies={edits.docket.choices.copies}
        {taken}
        busy={reading}
        onfile={(from) => void take(from, {})}
        onagain={(how) => void takeAgain(how)}
        onchange={change}
      />
      <FieldList
        {work}
        {shown}
        {records}
        size={choices}
        areas={data.areas}
        settings={data.settings}
        faces={data.faces}
        onareas={takeAreas}
        onalike={() => change({ overrides: [] })}
      />
      {#if records.pictures || fields.some((one) => one.is === 'picture')}
        <PicturesLine
          pictures={records.pictures}
          taken={gotPictures}
          busy={unpacking}
          onfile={(from) => void takePictures(from)}
        />
      {/if}
      <Matches {records} onchange={change} onfield={(column) => work.addFor(column)} />
      {#if table && fields.length > 0}
        <Risks
          looked={look.found}
          failed={look.failed}
          busy={look.busy || edits.unsaved}
          share={look.share}
          count={shown.numbers.length}
          {records}
          faces={data.faces}
          {record}
          onshow={show}
          onfilter={(list) => {
            only = list;
            below = 'table';
          }}
          onmend={(how) => void mend(how)}
        />
      {/if}
    </div>
  </aside>
</div>
