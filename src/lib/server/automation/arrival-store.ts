import { basename } from 'node:path';
import type { Arrival, ArrivalState, CameFrom, Way } from '$lib/arrivals';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';

export interface ArrivalRow {
  id: number;
  source: 'folder' | 'program' | 'printer';
  folder_id: number | null;
  printer_id: number | null;
  /** As JSON, where it was printed. */
  asked: string | null;
  place: string;
  name: string;
  customer: string;
  copies: number | null;
  bytes: number;
  hash: string | null;
  identity: string | null;
  /** A table that lay beside it, in the same folder. */
  table_place: string | null;
  table_hash: string | null;
  table_identity: string | null;
  sent_as: string | null;
  despite_looks: number;
  moved: number;
  way: Way;
  recipe_id: number | null;
  artwork_id: number | null;
  dockets: string;
  runs: string;
  meant: number;
  state: ArrivalState;
  reason: string | null;
  came_at: number;
  changed_at: number;
}

/** With the names of where it came from. */
type ListedRow = ArrivalRow & { path: string | null; printer: string | null; recipe: string | null };

/** What is known of a thing as it arrives. */
export type NewArrival = Pick<
  ArrivalRow,
  'source' | 'place' | 'name' | 'customer' | 'copies' | 'bytes' | 'hash' | 'despite_looks' | 'way' | 'recipe_id' | 'artwork_id' | 'state' | 'reason'
> &
  Partial<
    Pick<ArrivalRow, 'folder_id' | 'printer_id' | 'asked' | 'identity' | 'table_place' | 'table_hash' | 'table_identity' | 'sent_as'>
  >; // prettier-ignore

/** What is not known of most. */
const NOTHING = {
  folder_id: null,
  printer_id: null,
  asked: null,
  identity: null,
  table_place: null,
  table_hash: null,
  table_identity: null,
  sent_as: null
};

export const NEEDS_PERSON: readonly ArrivalState[] = ['waiting', 'refused'];
const ON_ITS_WAY: readonly ArrivalState[] = ['reading', 'made', 'laid out'];

interface Needs {
  db: Db;
  events: Events;
}

/** The in-tray as it is kept. */
export class ArrivalStore {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** The newest first. @param before the number that the list goes on before */
  list({
    states,
    words = '',
    from,
    before,
    most
  }: {
    states?: readonly ArrivalState[] | undefined;
    words?: string;
    from?: CameFrom | undefined;
    before?: number | undefined;
    most: number;
  }): Arrival[] {
    return this.#needs.db
      .prepare<[object], ListedRow>(
        `SELECT a.*, json_extract(f.document, '$.path') AS path, json_extract(p.document, '$.name') AS printer, r.name AS recipe
         FROM arrival a LEFT JOIN watched_folder f ON f.id = a.folder_id LEFT JOIN network_printer p ON p.id = a.printer_id
           LEFT JOIN recipe r ON r.id = a.recipe_id
         WHERE (@states IS NULL OR a.state IN (SELECT value FROM json_each(@states))) AND (@before IS NULL OR a.id < @before)
           AND (@source IS NULL OR (a.source = @source AND (@sourceId IS NULL OR a.folder_id = @sourceId OR a.printer_id = @sourceId)))
           AND (@words = '' OR instr(fold(a.name || ' ' || a.customer || ' ' || a.place), fold(@words)) > 0)
         ORDER BY a.id DESC LIMIT @most`
      )
      .all({
        states: states ? JSON.stringify(states) : null,
        words,
        source: from?.source ?? null,
        sourceId: from?.id ?? null,
        before: before ?? null,
        most
      })
      .map((row) => this.#toArrival(row));
  }

  /** How many there are of each state. */
  counts(): Partial<Record<ArrivalState, number>> {
    const rows = this.#needs.db
      .prepare<[], { state: ArrivalState; n: number }>('SELECT state, count(*) AS n FROM arrival GROUP BY state')
      .all();
    return Object.fromEntries(rows.map(({ state, n }) => [state, n]));
  }

  /** How many wait for a person. */
  toSee(): number {
    const count = this.#needs.db.prepare<[], number>("SELECT count(*) FROM arrival WHERE state IN ('waiting', 'refused')");
    return count.pluck().get() ?? 0;
  }

  row(id: number): ArrivalRow {
    const row = this.#needs.db.prepare<[number], ArrivalRow>('SELECT * FROM arrival WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is nothing like this in the in-tray.');
    return row;
  }

  /** Within the transaction of who calls. */
  add(arrival: NewArrival): number {
    const now = Date.now();
    return Number(
      this.#needs.db
        .prepare(
          `INSERT INTO arrival (source, folder_id, printer_id, asked, place, name, customer, copies, bytes, hash, identity, table_place, table_hash, table_identity, sent_as, despite_looks, way, recipe_id, artwork_id, state, reason, came_at, changed_at)
           VALUES (@source, @folder_id, @printer_id, @asked, @place, @name, @customer, @copies, @bytes, @hash, @identity, @table_place, @table_hash, @table_identity, @sent_as, @despite_looks, @way, @recipe_id, @artwork_id, @state, @reason, @now, @now)`
        )
        .run({ ...NOTHING, ...arrival, now }).lastInsertRowid
    );
  }

  change(
    id: number,
    change: Partial<Pick<ArrivalRow, 'state' | 'reason' | 'dockets' | 'runs' | 'recipe_id' | 'moved' | 'way' | 'meant'>>
  ): void {
    const names = Object.keys(change);
    this.#needs.db
      .prepare(`UPDATE arrival SET ${names.map((name) => `${name} = @${name}`).join()}, changed_at = @now WHERE id = @id`)
      .run({ ...change, id, now: Date.now() });
  }

  /** What still lies in a folder though it was taken, as after a kill. */
  unmoved(folderId: number): ArrivalRow[] {
    return this.#needs.db.prepare<[number], ArrivalRow>('SELECT * FROM arrival WHERE folder_id = ? AND moved = 0').all(folderId);
  }

  /** The arrival of a file that lies in its folder still. */
  ofFile(folderId: number, place: string, identity: string): ArrivalRow | undefined {
    return this.#needs.db
      .prepare<[number, string, string], ArrivalRow>(
        'SELECT * FROM arrival WHERE folder_id = ? AND place = ? AND moved = 0 AND identity = ?'
      )
      .get(folderId, place, identity);
  }

  /** The arrival that took a table with it which lies in its folder still. */
  ofTable(folderId: number, place: string, identity: string): ArrivalRow | undefined {
    return this.#needs.db
      .prepare<[number, string, string], ArrivalRow>(
        'SELECT * FROM arrival WHERE folder_id = ? AND table_place = ? AND moved = 0 AND table_identity = ?'
      )
      .get(folderId, place, identity);
  }

  /** What a program sent under a name of its own. */
  sentAs(key: string): number | undefined {
    return this.#needs.db.prepare<[string], number>('SELECT id FROM arrival WHERE sent_as = ?').pluck().get(key);
  }

  get(id: number): Arrival {
    const [found] = this.list({ most: 1, before: id + 1 });
    if (found?.id !== id) throw new Problem(404, 'There is nothing like this in the in-tray.');
    return found;
  }

  /** One of the same content that was taken from the same place. */
  earlier(id: number): ArrivalRow | undefined {
    return this.#needs.db
      .prepare<[number], ArrivalRow>(
        `SELECT e.* FROM arrival a JOIN arrival e ON e.folder_id = a.folder_id AND e.place = a.place AND e.hash = a.hash AND e.table_hash IS a.table_hash AND e.id < a.id
         WHERE a.id = ? AND e.dockets != '[]' ORDER BY e.id DESC LIMIT 1`
      )
      .get(id);
  }

  /** What was on its way. */
  onTheirWay(): number[] {
    return this.#needs.db
      .prepare<[string], number>('SELECT id FROM arrival WHERE state IN (SELECT value FROM json_each(?)) ORDER BY id')
      .pluck()
      .all(JSON.stringify(ON_ITS_WAY));
  }

  ofArtwork(artworkId: number): number[] {
    return this.#needs.db
      .prepare<[number], number>("SELECT id FROM arrival WHERE artwork_id = ? AND state = 'reading' ORDER BY id")
      .pluck()
      .all(artworkId);
  }

  #toArrival(row: ListedRow): Arrival {
    const dockets = this.#needs.db
      .prepare<[string], { id: number; name: string; runId: number | null }>(
        'SELECT id, name, run_id AS runId FROM docket WHERE id IN (SELECT value FROM json_each(?)) ORDER BY id'
      )
      .all(row.dockets);
    const { id, source, place, name, customer, copies, bytes, way, state, reason } = row;
    return {
      ...{ id, source, place, name, customer, copies, bytes, way, state, reason, dockets },
      folder: row.folder_id === null || row.path === null ? null : { id: row.folder_id, path: row.path },
      printer: row.printer,
      table: row.table_place === null ? null : basename(row.table_place),
      recipe: row.recipe_id === null ? null : { id: row.recipe_id, name: row.recipe ?? '' },
      artworkId: row.artwork_id,
      cameAt: row.came_at
    };
  }
}
