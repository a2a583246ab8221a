import { existsSync, writeFileSync } from 'node:fs';
import pino from 'pino';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { PlatesKept } from '$lib/docket-choices';
import { temporaryFolder } from '../../../../tests/harness';
import { openDatabase, type Db } from '../platform/db/open';
import { Events } from '../platform/events';
import { Settings } from '../platform/settings';
import { PlateFiles } from './plate-files';
import { PlateKeeping } from './plate-keeping';

const DAY = 86_400_000;
const NOW = 100 * DAY;
let folder: ReturnType<typeof temporaryFolder>;
let db: Db;
let settings: Settings;
let plateFiles: PlateFiles;
let keeping: PlateKeeping;

/** A run in a state, with plates of 1000 bytes, whose prints ended so many days ago; nothing for one that goes on. */
function run(id: number, state: string, ended: (number | null)[]): void {
  db.prepare("INSERT INTO run (id, condition_id, rule, state, plates_name, added_at) VALUES (?, 1, '{}', ?, ?, 0)").run(
    id,
    state,
    `run-${id}`
  );
  for (const days of ended)
    db.prepare(
      "INSERT INTO print (run_id, machine_id, key, state, length_mm, started_at, ended_at) VALUES (?, 1, ?, 'done', 1, 0, ?)"
    ).run(id, `${id}-${days}`, days === null ? null : NOW - days * DAY);
  const paths = plateFiles.paths(`run-${id}`);
  writeFileSync(paths.plates, Buffer.alloc(900));
  writeFileSync(paths.overview, Buffer.alloc(100));
}
/** A docket in a run that says how long its plates are kept. */
function says(of: number, docket: number, kept: PlatesKept): void {
  db.prepare(
    "INSERT OR IGNORE INTO artwork (id, name, file_hash, bytes, state, added_at) VALUES (1, 'A', 'a', 1, 'ready', 0)"
  ).run();
  db.prepare('INSERT OR IGNORE INTO docket (id, artwork_id, page, name, added_at, choices) VALUES (?, 1, 0, ?, 0, ?)').run(
    docket,
    `D${docket}`,
    JSON.stringify({ platesKept: kept })
  );
  db.prepare('INSERT INTO run_docket (run_id, docket_id, position) VALUES (?, ?, 1)').run(of, docket);
}
const hasPlates = (id: number) =>
  [
    db.prepare('SELECT plates_name IS NOT NULL FROM run WHERE id = ?').pluck().get(id) === 1,
    existsSync(plateFiles.paths(`run-${id}`).plates)
  ].join();

beforeEach(() => {
  folder = temporaryFolder();
  db = openDatabase(folder.path);
  db.exec(`
    INSERT INTO machine (id, kind, name, url) VALUES (1, 'printer', 'P', 'http://p');
    INSERT INTO media (id, name, card) VALUES (1, 'Film', '{}');
    INSERT INTO condition (id, machine_id, media_id, mode_code, mode) VALUES (1, 1, 1, 'm', '{}');
  `);
  const events = new Events();
  settings = new Settings(db, events);
  plateFiles = new PlateFiles(folder.path);
  keeping = new PlateKeeping({ db, events, settings, plateFiles, log: pino({ level: 'silent' }) });
  run(1, 'printed', [40]);
  run(2, 'printed', [40, 10]);
  run(3, 'printed', [40, null]);
  run(4, 'ripped', [40]);
  run(5, 'ripped', []);
});
afterEach(() => {
  db.close();
  folder.remove();
});

describe('plates of printed runs', () => {
  it('stay as long as nothing else is said', async () => {
    await keeping.look(NOW);
    expect([1, 2, 3, 4, 5].map(hasPlates)).toEqual(Array(5).fill('true,true'));
    expect(await keeping.room()).toEqual({ all: 5000, printed: 2000, printedRuns: 2 });
  });

  it('go when the last print ended longer ago than they are kept; what is not printed, or prints, keeps them', async () => {
    settings.change({ platesDays: 30 });
    await keeping.look(NOW);
    expect([1, 2, 3, 4, 5].map(hasPlates)).toEqual(['false,false', 'true,true', 'true,true', 'true,true', 'true,true']);
    await keeping.look(NOW + 21 * DAY);
    expect(hasPlates(2)).toBe('false,false');
    expect(await keeping.room()).toEqual({ all: 3000, printed: 0, printedRuns: 0 });
  });

  it('stay as long as the docket says that says the longest, whatever the shop does', async () => {
    run(6, 'printed', [40]);
    for (const [of, docket, kept] of [
      [1, 1, 7],
      [2, 2, 'as the shop'],
      [2, 3, 15],
      [6, 4, 'always'],
      [6, 1, 7]
    ] as const)
      says(of, docket, kept);
    await keeping.look(NOW);
    // A week, and the longer of 15 days and for good, and until a person does.
    expect([1, 2, 6].map(hasPlates)).toEqual(['false,false', 'true,true', 'true,true']);
    settings.change({ platesDays: 12 });
    await keeping.look(NOW);
    expect(hasPlates(2)).toBe('true,true');
    await keeping.look(NOW + 6 * DAY);
    expect([2, 6].map(hasPlates)).toEqual(['false,false', 'true,true']);
    expect(await keeping.clear()).toEqual({ runs: 1, bytes: 1000 });
  });

  it('go at once by hand, and it is said what that freed', async () => {
    expect(await keeping.clear()).toEqual({ runs: 2, bytes: 2000 });
    expect(await keeping.clear()).toEqual({ runs: 0, bytes: 0 });
    expect(hasPlates(3)).toBe('true,true');
  });
});
