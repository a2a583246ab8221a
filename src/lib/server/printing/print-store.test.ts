import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { PlacedCopy } from '$core/layout/placement';
import { temporaryFolder } from '../../../../tests/harness';
import { openDatabase, type Db } from '../platform/db/open';
import type { KeptPlacement } from '../production/run-store';
import { Prints } from './print-store';

let folder: ReturnType<typeof temporaryFolder>;
let db: Db;
let prints: Prints;
/** Two records of docket 5 along a run, the first of them twice; a plain docket beside. */
const copy = (id: string, y: number, record?: number): PlacedCopy =>
  ({ id, x: 0, y, width: 90, height: 50, turn: 0, copy: 0, ...(record !== undefined && { record }) }) as unknown as PlacedCopy;
const LAID = {
  parts: [{ copies: [copy('5', 0, 7), copy('5', 60, 9), copy('5', 120, 7), copy('6', 180)] }]
} as unknown as KeptPlacement;

beforeEach(() => {
  folder = temporaryFolder();
  db = openDatabase(folder.path);
  db.pragma('foreign_keys = OFF');
  prints = new Prints({
    db,
    runs: { ripPlacement: (id: number) => (id === 1 ? LAID : undefined) }
  } as unknown as ConstructorParameters<typeof Prints>[0]);
  db.exec("INSERT INTO machine (id, kind, name, url) VALUES (3, 'printer', 'Petrel 13', '')");
  for (const run of [1, 2]) db.prepare('INSERT INTO run_docket (run_id, docket_id, position) VALUES (?, 5, 0)').run(run);
});
afterEach(() => {
  db.close();
  folder.remove();
});

const put = (what: {
  run?: number;
  machine?: number;
  state: string;
  from?: number;
  printed: number;
  ended: number | null;
  batch?: string;
}) =>
  db
    .prepare(
      `INSERT INTO print (run_id, machine_id, state, length_mm, from_mm, printed_mm, started_at, ended_at, batch) VALUES (?, ?, ?, 200, ?, ?, 0, ?, ?)`
    )
    .run(what.run ?? 1, what.machine ?? 3, what.state, what.from ?? 0, what.printed, what.ended, what.batch ?? null);
const of = (record: number) => prints.ofRecord(5, record).map(({ endedAt }) => endedAt);

describe('what came out of a record', () => {
  it('is in each print that ended, the newest first', () => {
    put({ state: 'done', printed: 200, ended: 10 });
    put({ state: 'done', printed: 200, ended: 30, machine: 99 });
    put({ state: 'printing', printed: 200, ended: null });
    put({ state: 'done', printed: 200, ended: 40, run: 2 });
    expect(prints.ofRecord(5, 9)).toEqual([
      { runId: 1, machine: '', endedAt: 30 },
      { runId: 1, machine: 'Petrel 13', endedAt: 10 }
    ]);
    expect(prints.ofRecord(5, 8)).toEqual([]);
    expect(prints.ofRecord(6, 7)).toEqual([]);
  });

  it('is whole where a print was stopped, and not what lay before where one began', () => {
    put({ state: 'cancelled', printed: 109, ended: 1 });
    put({ state: 'cancelled', printed: 110, ended: 2 });
    put({ state: 'done', from: 60, printed: 140, ended: 3 });
    put({ state: 'cancelled', from: 61, printed: 109, ended: 4 });
    expect(of(7)).toEqual([4, 3, 2, 1]);
    expect(of(9)).toEqual([3, 2]);
  });
});

describe('batches of film', () => {
  it('are those that anything of a docket came out on', () => {
    put({ state: 'done', printed: 200, ended: 1, batch: 'K11' });
    put({ state: 'done', printed: 200, ended: 2, batch: 'H27', run: 2 });
    put({ state: 'failed', printed: 0, ended: 3, batch: 'never begun' });
    put({ state: 'printing', printed: 0, ended: null, batch: 'H27' });
    put({ state: 'done', printed: 200, ended: 4 });
    expect(prints.batchesOf([5, 5, 77])).toEqual(['H27', 'K11']);
    expect(prints.batchesOf([77])).toEqual([]);
  });
});
