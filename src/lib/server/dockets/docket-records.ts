import { ppiAtDistance } from '$core/checks/size';
import { roleOf } from '$core/artwork/roles';
import type { RecordChoices, TableRef } from '$core/records/choices';
import type { Field } from '$core/records/field';
import { fieldOf, foundAreas, type FoundArea } from '$core/records/found-areas';
import { stringify } from 'csv-stringify/sync';
import type { TableEdit, TableNews } from '$core/records/kept-table';
import type { TableChoices } from '$core/records/table-choices';
import { copiesColumn } from '$core/records/series';
import { Problem } from '../platform/problem';
import type { Settings } from '../platform/settings';
import type { Overlays, RecordsOf } from '../records/overlays';
import type { FieldPictureSets, PicturesTaken } from '../records/pictures';
import type { TableRead, Tables } from '../records/tables';
import type { RecordsLooked } from '../records/workers/records';
import type { RowsRequest, TablePage } from '../records/workers/tables';
import type { Docket, Dockets } from './dockets';
import type { PreparedDockets } from './prepared-dockets';
import type { DocketEditing } from './docket-editing';

/** Lettering of fields that is smaller is told, where the shop says nothing of it. */
const LEAST_PT = 6;
const MOST_ROWS_AT_ONCE = 500;
const ROWS_A_TURN = 500;
/** Pictures in one file: taller ones are slow to draw and to show. */
const MOST_PICTURES_AT_ONCE = 60;

/** A docket with a table, and how that was read. */
export interface TableTaken {
  docket: Docket;
  read: Omit<TableRead, 'table'>;
  /** What it changed of the table before. */
  news: TableNews | null;
}

interface Needs {
  dockets: Dockets;
  docketEditing: DocketEditing;
  preparedDockets: PreparedDockets;
  overlays: Overlays;
  pictureSets: FieldPictureSets;
  settings: Settings;
  tables: Tables;
}

/** The table of a docket, its records as pictures, and what of them is at risk. */
export class DocketRecords {
  readonly #needs: Needs;
  readonly #looks = new Map<symbol, { id: number; share: number }>();

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /**
   * Gives a docket a table from a file; in the place of one that it has already, records that are in both keep their numbers.
   *
   * @param key the column that tells records apart
   * @throws Problem with the row or cell at fault: then the docket is as it was
   */
  async take(
    id: number,
    version: number,
    { bytes, name, how, key }: { bytes: Uint8Array; name: string; how: TableChoices; key: string | undefined }
  ): Promise<TableTaken> {
    const { dockets, tables } = this.#needs;
    mustBeOf(dockets.get(id), version);
    const { table: newer, ...read } = await tables.read(bytes, name, how);
    const docket = dockets.get(id);
    mustBeOf(docket, version);
    const { records } = docket.choices;
    const replaced = records.table ? await tables.replace(records.table, newer, key) : undefined;
    const table = replaced?.table ?? newer;
    const copiesFrom = records.table ? records.copiesFrom : copiesColumn(table.columns);
    const taken = await this.#keep(id, version, {
      ...records,
      table,
      copiesFrom: copiesFrom !== null && table.columns.includes(copiesFrom) ? copiesFrom : null
    });
    return { docket: taken, read, news: replaced?.news ?? null };
  }

  /** Places that the artwork keeps free for what differs, on the piece as it reads: fields are mirrored with it. */
  areas(docket: Docket): FoundArea[] {
    const { settings, preparedDockets } = this.#needs;
    const { choices, artwork } = docket;
    const { lines, preparation } = preparedDockets.get(docket);
    const role = (name: string) => roleOf(name, settings.current.rules, choices.roles);
    return foundAreas(artwork.facts, lines, role, { ...preparation, mirror: false }, choices);
  }

  /** Puts a field into each place that the artwork keeps free. */
  fill(id: number): Promise<Docket> {
    const docket = this.#needs.dockets.get(id);
    const { records } = docket.choices;
    const fields = this.areas(docket).reduce<Field[]>((all, area) => [...all, fieldOf(all, area)], records.fields);
    return this.#keep(id, docket.version, { ...records, fields });
  }

  /** Gives a docket pictures for its fields from a zip. @throws Problem for one that cannot be read: then the docket is as it was */
  async takePictures(
    id: number,
    version: number,
    source: AsyncIterable<Uint8Array>,
    name: string
  ): Promise<Omit<PicturesTaken, 'pictures'> & { docket: Docket }> {
    const { dockets, pictureSets } = this.#needs;
    mustBeOf(dockets.get(id), version);
    const { pictures, ...rest } = await pictureSets.take(source, name);
    const docket = dockets.get(id);
    mustBeOf(docket, version);
    return { ...rest, docket: await this.#keep(id, version, { ...docket.choices.records, pictures }) };
  }

  /** Changes a docket's table; a step that can be taken back like any other. @throws Problem for what cannot be done */
  async edit(id: number, version: number, edit: TableEdit): Promise<Docket> {
    const { dockets, tables } = this.#needs;
    const docket = dockets.get(id);
    mustBeOf(docket, version);
    const { records } = docket.choices;
    if (!records.table) throw new Problem(409, 'This docket has no table.');
    const table = await tables.edit(records.table, edit);
    // A column that is called otherwise is the same for whatever asks for it.
    const renamed =
      edit.is === 'rename column'
        ? { from: edit.column, to: table.columns[records.table.columns.indexOf(edit.column)]! }
        : undefined;
    const now = (column: string) => (column === renamed?.from ? renamed.to : column);
    const chosen = renamed
      ? Object.fromEntries(Object.entries(records.chosen).map(([name, column]) => [name, now(column)]))
      : records.chosen;
    const copiesFrom = records.copiesFrom === null ? null : now(records.copiesFrom);
    return this.#keep(id, version, {
      ...records,
      table,
      chosen,
      copiesFrom: copiesFrom !== null && table.columns.includes(copiesFrom) ? copiesFrom : null
    });
  }

  /** Rows of a docket's table, from one on: all, those with some words in them, or some records. */
  async rows(id: number, from: number, of: Pick<RowsRequest, 'words' | 'records'>): Promise<TablePage> {
    const { dockets, tables } = this.#needs;
    const { table } = dockets.get(id).choices.records;
    return table ? tables.rows(table, { from, most: MOST_ROWS_AT_ONCE, ...of }) : { total: 0, rows: [] };
  }

  /** The numbers of all records with some words in them. */
  async matching(id: number, words: string): Promise<number[]> {
    const { dockets, tables } = this.#needs;
    const { table } = dockets.get(id).choices.records;
    return table ? tables.matching(table, words) : [];
  }

  /** A docket's table as a file: commas, UTF-8 with its mark; what a spreadsheet would work out stays text. */
  async written(id: number): Promise<{ name: string; csv: AsyncIterable<string> }> {
    const { dockets, tables } = this.#needs;
    const { table } = dockets.get(id).choices.records;
    if (!table) throw new Problem(409, 'This docket has no table.');
    // One that is lost is said before anything is sent.
    await tables.rows(table, { from: 0, most: 1 });
    return { name: `${table.name.replace(/\.[^.]*$/, '') || 'table'}.csv`, csv: csvOf(tables, table) };
  }

  /** The records that a docket prints, each once, in their order. */
  numbers(id: number): Set<number> {
    return new Set(this.#needs.preparedDockets.series(this.#needs.dockets.get(id)));
  }

  /** The first record that a docket prints. */
  first(id: number): number | undefined {
    return this.#needs.preparedDockets.series(this.#needs.dockets.get(id))?.[0];
  }

  /** What all records of a docket come to, and what of them is at risk. */
  async looked(id: number, signal: AbortSignal = new AbortController().signal): Promise<RecordsLooked> {
    const { dockets, overlays, settings } = this.#needs;
    const distance = dockets.get(id).choices.viewingMm ?? settings.current.limits.viewingMm;
    const limits = { leastPt: LEAST_PT, leastPpi: ppiAtDistance(distance), unit: settings.current.unit };
    const look = Symbol(`look at ${id}`);
    const progress = (share: number) => void this.#looks.set(look, { id, share });
    try {
      return await overlays.looked(this.#recordsOf(id), limits, { signal, progress });
    } finally {
      this.#looks.delete(look);
    }
  }

  /** How much of a docket's records was looked at, 0…1; of several looks the one that is farthest. */
  lookedShare(id: number): number {
    return Math.max(0, ...[...this.#looks.values()].filter((look) => look.id === id).map(({ share }) => share));
  }

  /** Pictures of records without their artwork, one below the other. @returns the path of a PNG */
  async pictures(id: number, records: readonly number[], px: number): Promise<string> {
    if (records.length === 0 || records.length > MOST_PICTURES_AT_ONCE)
      throw new Problem(422, `1 to ${MOST_PICTURES_AT_ONCE} records are drawn at once.`);
    const { dockets, overlays, preparedDockets } = this.#needs;
    const named = Object.entries(preparedDockets.get(dockets.get(id)).preparation.named?.spots ?? {});
    return overlays.pictures(this.#recordsOf(id), records, px, Object.fromEntries(named.map(([name, { lab }]) => [name, lab])));
  }

  #recordsOf(id: number): RecordsOf {
    const { dockets, preparedDockets } = this.#needs;
    const records = preparedDockets.recordsOf(dockets.get(id));
    if (!records) throw new Problem(409, 'This docket has no records: it needs a table, and a field.');
    return records;
  }

  async #keep(id: number, version: number, records: RecordChoices): Promise<Docket> {
    const { dockets, tables, docketEditing } = this.#needs;
    await tables.ready(records);
    return docketEditing.change(id, version, { choices: { ...dockets.get(id).choices, records } });
  }
}

/** A table as text, some rows at a time. */
async function* csvOf(tables: Tables, table: TableRef): AsyncGenerator<string> {
  const how = { escape_formulas: true, record_delimiter: 'windows' } as const;
  yield stringify([table.columns], { ...how, bom: true });
  for (let from = 0; from < table.count; from += ROWS_A_TURN) {
    const { rows } = await tables.rows(table, { from, most: ROWS_A_TURN });
    yield stringify(
      rows.map(({ cells }) => cells),
      how
    );
  }
}

function mustBeOf(docket: Docket, version: number): void {
  if (docket.version !== version) throw new Problem(409, 'This docket was changed in another window meanwhile.');
}
