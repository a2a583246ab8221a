<script lang="ts">
  import { beforeNavigate } from '$app/navigation';
  import ArrowLeft from '@lucide/svelte/icons/arrow-left';
  import Redo from '@lucide/svelte/icons/redo-2';
  import Undo from '@lucide/svelte/icons/undo-2';
  import { tick, untrack } from 'svelte';
  import { toast } from 'svelte-sonner';
  import { overridden, type RecordChoices, type TableRef } from '$core/records/choices';
  import type { Field, FieldPlace } from '$core/records/field';
  import { freePlace } from '$core/records/field-placing';
  import type { TableEdit } from '$core/records/kept-table';
  import { fieldOf } from '$core/records/found-areas';
  import { fieldFor, NEW_FIELDS, newText } from '$core/records/new-field';
  import { readNumbers } from '$core/records/ranges';
  import { overrideOf, withField, withoutField, withOwn, withPlace } from '$core/records/for-one';
  import type { RiskMend } from '$core/records/risks';
  import type { TableChoices } from '$core/records/table-choices';
  import type { TableTaken } from '$lib/server/dockets/docket-records';
  import type { TablePage } from '$lib/server/records/workers/tables';
  import type { Docket } from '$lib/server/dockets/dockets';
  import type { RecordPrinted } from '$lib/server/printing/print';
  import { attempt, send } from '$lib/ui/common/client';
  import { DocketEdits } from '$lib/ui/docket/docket-edits.svelte';
  import OtherWindow from '$lib/ui/docket/OtherWindow.svelte';
  import { isBehindDialog, isTyping } from '$lib/ui/frame/places';
  import ContactSheet from '$lib/ui/records/ContactSheet.svelte';
  import { exampleOf } from '$lib/ui/records/example';
  import FieldPanel from '$lib/ui/records/FieldPanel.svelte';
  import FieldsView from '$lib/ui/records/FieldsView.svelte';
  import Matches from '$lib/ui/records/Matches.svelte';
  import RecordAlone from '$lib/ui/records/RecordAlone.svelte';
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
  $effect(() => {
    const { docket } = data;
    untrack(() => edits.adopt(docket));
  });
  beforeNavigate(() => void edits.flush());
  $effect(() => {
    if (edits.away) toast.error(edits.away, { id: 'away' });
    if (edits.refused) toast.error(edits.refused, { id: 'refused' });
  });

  const { choices } = $derived(edits.current);
  const { records } = $derived(choices);
  const { table, fields } = $derived(records);
  const { unit } = $derived(data.settings);
  const change = (part: Partial<RecordChoices>) =>
    edits.change({ ...edits.current, choices: { ...choices, records: { ...records, ...part } } });

  // The record that is shown.
  let wanted = $state<number | null>(null);
  const numbers = $derived(readNumbers(data.numbers));
  const record = $derived(wanted !== null && numbers.includes(wanted) ? wanted : (numbers[0] ?? null));
  const place = $derived(record === null ? -1 : numbers.indexOf(record));
  const step = (by: number) => {
    const next = numbers[Math.max(0, Math.min(numbers.length - 1, place + by))];
    if (next !== undefined) wanted = next;
  };
  let row = $state.raw<TablePage['rows'][number]>();
  let printed = $state.raw<{ record: number; prints: RecordPrinted[] } | null>(null);
  $effect(() => {
    const [number, hash] = [record, table?.hash];
    if (number === null || hash === undefined) {
      row = undefined;
      return;
    }
    let gone = false;
    const { id } = edits.docket;
    void send<TablePage>('GET', `/api/dockets/${id}/table?records=${number}`)
      .then(({ rows }) => gone || (row = rows[0]))
      .catch(() => undefined);
    // Whoever goes through records quickly does not ask when each was printed.
    const resting = setTimeout(() => {
      void send<RecordPrinted[]>('GET', `/api/dockets/${id}/records/${number}`)
        .then((prints) => gone || (printed = { record: number, prints }))
        .catch(() => undefined);
    }, 300);
    return () => {
      gone = true;
      clearTimeout(resting);
    };
  });

  // Fields, and what one record has otherwise.
  let chosen = $state<number | null>(null);
  let alone = $state(false);
  const shownFields = $derived(
    fields.map((field) => {
      const own = record === null ? undefined : overrideOf(records, record, field.id);
      return own ? overridden(field, own) : field;
    })
  );
  const field = $derived(shownFields.find(({ id }) => id === chosen));
  const own = $derived(record !== null && chosen !== null ? overrideOf(records, record, chosen) : undefined);
  const example = (of: Field) => exampleOf(of, records, row?.cells ?? [], row?.place ?? 0, data.settings.lists);
  const changeTo = (next: RecordChoices) => edits.change({ ...edits.current, choices: { ...choices, records: next } });
  const keep = (next: Field) => changeTo(withField(records, next, alone ? record : null));
  const sayAlone = (text: string | null) =>
    record !== null && chosen !== null && changeTo(withOwn(records, record, chosen, { text }));
  const takeBack = () => change({ overrides: records.overrides.filter((one) => one.record !== record || one.field !== chosen) });
  /** Moved on the picture. */
  const put = (id: number, at: FieldPlace) => changeTo(withPlace(records, id, at, record, alone));
  function remove(id: number): void {
    changeTo(withoutField(records, id));
    chosen = null;
  }
  function add(next: Field): void {
    change({ fields: [...fields, next] });
    chosen = next.id;
    alone = false;
  }
  /** What the artwork keeps free, and no field is in the place of yet. */
  const free = $derived(data.areas.filter((area) => !fields.some(({ name }) => name === area.name)));
  function takeAreas(): void {
    const next = free.reduce<Field[]>((list, area) => [...list, fieldOf(list, area)], [...fields]);
    // What a form has in its fields does not print below what records say.
    const inForm = free.some(({ name }) => edits.docket.artwork.facts.formFields.some((one) => one.name === name));
    edits.change({
      ...edits.current,
      choices: { ...choices, ...(inForm && { fieldsOff: true }), records: { ...records, fields: next } }
    });
  }
  let drawing = $state<Field['is'] | null>(null);
  const KINDS: [Field['is'], string][] = [
    ['text', 'New lettering'],
    ['code', 'New code'],
    ['picture', 'New picture']
  ];
  function drawn(at: FieldPlace | null): void {
    const is = drawing;
    drawing = null;
    if (is === null) return;
    const free =
      at ??
      freePlace(
        fields.map((one) => one.place),
        choices,
        is !== 'text'
      );
    add(NEW_FIELDS[is](fields, free));
  }
  function copy(): void {
    if (!field) return;
    const at = { ...field.place, x: field.place.x + 3, y: field.place.y + 3 };
    const { id, name } = newText(fields, at, '', field.name);
    add({ ...field, id, name, place: at });
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
    const id = chosen;
    if (id === null) return;
    void tick().then(() => document.getElementById(`field-${id}`)?.scrollIntoView({ block: 'nearest' }));
  });
  function show(number: number, id?: number): void {
    wanted = number;
    if (id !== undefined) chosen = id;
  }

  const stepBack = (by: -1 | 1) => attempt(() => edits.step(by));
  function keys(event: KeyboardEvent): void {
    if (isBehindDialog()) return;
    if (event.key === 'Escape' && drawing !== null) drawing = null;
    else if (event.key === 'Enter' && drawing !== null && !isTyping(event)) {
      event.preventDefault();
      drawn(null);
    } else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'z') {
      event.preventDefault();
      void stepBack(event.shiftKey ? 1 : -1);
    } else if (!isTyping(event) && !event.ctrlKey && !event.altKey && !event.metaKey) {
      if (event.key === 'PageDown') step(1);
      else if (event.key === 'PageUp') step(-1);
      else return;
      event.preventDefault();
    }
  }
</script>

<svelte:head><title>Records of {edits.current.name} · Zing Mast</title></svelte:head>
<svelte:window onkeydown={keys} onbeforeunload={(event) => edits.holdPage(event)} />

<div class="flex h-full">
  <div class="flex min-w-0 grow flex-col">
    <header class="flex min-h-12 flex-wrap items-center gap-x-3 gap-y-1 px-3 py-1">
      <a class="btn btn-sm btn-ghost" href="/dockets/{edits.docket.id}"
        ><ArrowLeft size={16} aria-hidden="true" />Docket {edits.docket.id}</a
      >
      <h1 class="truncate text-lg font-semibold">Records of {edits.current.name}</h1>
      {#if record !== null}
        <RecordSteps {record} {numbers} prints={printed?.record === record ? printed.prints : []} onshow={show} />
      {/if}
    </header>
    <section class="relative min-h-0 grow basis-3/5" aria-label="Fields on the piece, to scale">
      <FieldsView
        docket={edits.docket}
        {choices}
        fields={shownFields}
        {chosen}
        {record}
        {unit}
        drawing={drawing !== null}
        onchoose={(id) => (chosen = id)}
        onplace={put}
        ondraw={drawn}
        onremove={remove}
      />
      {#if choices.mirror}
        <p class="bg-base-100 absolute top-8 right-2 px-2 py-1 text-sm">Seen as it reads; it is printed mirrored.</p>
      {/if}
      {#if drawing !== null}
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
            <ContactSheet docket={edits.docket} {numbers} {record} marked={atRisk} onshow={show} />
          {/if}
        </div>
      </section>
    {/if}
  </div>
  <aside class="border-base-300 bg-base-100 flex w-96 shrink-0 flex-col overflow-y-auto border-l" aria-label="Fields and table">
    <div class="flex items-center gap-1 p-2">
      <button class="btn btn-sm btn-square" disabled={!edits.canUndo} aria-label="Take back" onclick={() => stepBack(-1)}
        ><Undo size={16} /></button
      >
      <button class="btn btn-sm btn-square" disabled={!edits.canRedo} aria-label="Make again" onclick={() => stepBack(1)}
        ><Redo size={16} /></button
      >
      <span class="text-base-content/70 ml-auto text-xs" role="status"
        >{edits.saving || edits.unsaved ? 'Saving…' : 'All is saved'}</span
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
      <section aria-label="Fields" class="space-y-2">
        <h2 class="panel-title">Fields</h2>
        {#if fields.length === 0}
          <p class="text-base-content/80 text-sm">
            Places on the piece that each record fills with lettering, a code or a picture of its own.
          </p>
        {/if}
        {#if free.length > 0}
          <p class="text-sm">
            The artwork keeps {free.length === 1 ? 'a place' : `${free.length} places`} free: {free
              .slice(0, 8)
              .map(({ name }) => name)
              .join(', ')}{free.length > 8 ? '…' : ''}.
            <button class="btn btn-xs" onclick={takeAreas}>{free.length === 1 ? 'Make it a field' : 'Make them fields'}</button>
          </p>
        {/if}
        <ul class="text-sm">
          {#each shownFields as one (one.id)}
            <li class="border-base-300 border-b" id="field-{one.id}">
              <button
                class="flex w-full items-baseline gap-2 py-1 text-left {one.id === chosen ? 'font-semibold' : ''}"
                aria-expanded={one.id === chosen}
                onclick={() => (chosen = one.id === chosen ? null : one.id)}
                ><span class="max-w-36 shrink-0 truncate">{one.name}</span><span class="text-base-content/70 truncate font-normal"
                  >{one.is === 'code' ? `${one.kind}: ` : one.is === 'picture' ? 'Picture: ' : ''}{one.content}</span
                ></button
              >
              {#if one.id === chosen && field}
                <div class="border-primary mb-2 border-l-4 pl-2">
                  {#if record !== null}
                    <RecordAlone
                      {record}
                      {own}
                      bind:alone
                      others={example(fields.find(({ id }) => id === chosen)!)}
                      onsay={sayAlone}
                      onback={takeBack}
                    />
                  {/if}
                  <FieldPanel
                    field={alone ? field : fields.find(({ id }) => id === chosen)!}
                    columns={table?.columns ?? []}
                    lists={data.settings.lists.map((list) => list.name)}
                    faces={data.faces}
                    {unit}
                    size={choices}
                    example={example(field)}
                    others={(alone ? shownFields : fields).filter(({ id }) => id !== chosen)}
                    onchange={keep}
                    oncopy={copy}
                    onremove={() => remove(one.id)}
                  />
                </div>
              {/if}
            </li>
          {/each}
        </ul>
        <p class="flex flex-wrap gap-2">
          {#each KINDS as [is, label] (is)}
            <button class="btn btn-sm" aria-pressed={drawing === is} onclick={() => (drawing = drawing === is ? null : is)}
              >{label}</button
            >
          {/each}
        </p>
        {#if records.overrides.length > 0}
          <p class="text-sm">
            {records.overrides.length} of single records:
            {#each [...new Set(records.overrides.map((one) => one.record))].slice(0, 20) as number (number)}
              <button class="link mr-1" onclick={() => show(number)}>{number}</button>
            {/each}
            <button class="btn btn-xs" onclick={() => change({ overrides: [] })}>All as the others</button>
          </p>
        {/if}
      </section>
      {#if records.pictures || fields.some((one) => one.is === 'picture')}
        <PicturesLine
          pictures={records.pictures}
          taken={gotPictures}
          busy={unpacking}
          onfile={(from) => void takePictures(from)}
        />
      {/if}
      <Matches {records} onchange={change} onfield={(column) => add(fieldFor(fields, column, choices))} />
      {#if table && fields.length > 0}
        <Risks
          looked={look.found}
          failed={look.failed}
          busy={look.busy || edits.unsaved}
          share={look.share}
          count={numbers.length}
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
