import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { temporaryFolder } from '../../../../../tests/harness';
import { freshNumber } from './fresh-number';
import { openDatabase, type Db } from './open';

const MIGRATIONS = 'src/lib/server/platform/db/migrations';

describe('numbers of new rows', () => {
  let folder: ReturnType<typeof temporaryFolder>;
  let db: Db;
  beforeEach(() => {
    folder = temporaryFolder();
    db = openDatabase(folder.path);
    // What others refer to has numbers beyond those that are given here, or none that are asked for.
    db.pragma('foreign_keys = OFF');
  });
  afterEach(() => {
    db.close();
    folder.remove();
  });

  const PUT = {
    artwork: "INSERT INTO artwork (id, name, file_hash, bytes, state, added_at) VALUES (@id, 'a', 'h', 1, 'ready', 0)",
    condition: "INSERT INTO condition (id, machine_id, media_id, mode_code, mode) VALUES (@id, 1, 1, 'mode ' || @id, '{}')",
    chart: "INSERT INTO chart (id, condition_id, kind, document, made_at) VALUES (@id, 1, 'linear', '{}', 0)",
    docket: "INSERT INTO docket (id, artwork_id, page, name, choices, added_at) VALUES (@id, 1, 0, 'd', '{}', 0)",
    lane: "INSERT INTO lane (id, machine_id, media_id, condition_id, rule, release) VALUES (@id, @id, 1, 1, '{}', '{}')",
    machine: "INSERT INTO machine (id, kind, name, url) VALUES (@id, 'printer', 'Petrel 13', 'url ' || @id)",
    media: "INSERT INTO media (id, name, card) VALUES (@id, 'film ' || @id, '{}')",
    network_printer: "INSERT INTO network_printer (id, uuid, document, changed_at) VALUES (@id, 'uuid ' || @id, '{}', 0)",
    run: "INSERT INTO run (id, condition_id, rule, state, added_at) VALUES (@id, 1, '{}', 'laying out', 0)",
    watched_folder: "INSERT INTO watched_folder (id, document) VALUES (@id, '{}')",
    jig: "INSERT INTO jig (id, name, document, changed_at) VALUES (@id, 'jig ' || @id, '{}', 0)",
    named_colour: `INSERT INTO named_colour (id, name, l, a, b, hue, chroma, collection, origin, note, others, words, changed_at)
      VALUES (@id, '', 0, 0, 0, 0, 0, '', '', '', '[]', '', 0)`
  } as const;

  it.each(Object.keys(PUT) as (keyof typeof PUT)[])('are given once, whatever goes: %s', (table) => {
    fc.assert(
      fc.property(fc.array(fc.option(fc.nat(20)), { maxLength: 30 }), (steps) => {
        db.exec(`DELETE FROM ${table}; DELETE FROM artwork_page; DELETE FROM gone_number`);
        const given: number[] = [];
        for (const step of steps) {
          if (step !== null) db.prepare(`DELETE FROM ${table} WHERE id = ?`).run(given[step % Math.max(1, given.length)] ?? 0);
          else {
            const fresh = freshNumber(db, table);
            db.prepare(PUT[table]).run({ id: fresh });
            given.push(fresh);
          }
        }
        expect(given).toEqual([...given].sort((p, q) => p - q));
        expect(new Set(given).size).toBe(given.length);
      }),
      { numRuns: 30 }
    );
  });

  it('are given once wherever rows can go', () => {
    // Rows of these stay, go with what they belong to and are said by nobody else, or have their own way.
    const OTHERS = [
      'arrival',
      'artwork_page',
      'baseline',
      'condition_result',
      'cut_task',
      'docket_bin',
      'drift',
      'font',
      'jig_bin',
      'machine_note',
      'print',
      'recipe',
      'settings',
      'task'
    ];
    const tables = db
      .prepare<[], string>(
        "SELECT m.name FROM sqlite_schema m, pragma_table_info(m.name) c WHERE m.type = 'table' AND c.name = 'id' AND c.pk = 1 AND c.type = 'INTEGER' AND m.sql NOT LIKE '%AUTOINCREMENT%' ORDER BY 1"
      )
      .pluck()
      .all();
    expect(tables.filter((name) => !OTHERS.includes(name))).toEqual(Object.keys(PUT).sort());
  });

  it('are given once also where a row goes with another', () => {
    db.pragma('foreign_keys = ON');
    db.exec(`INSERT INTO machine (id, kind, name, url) VALUES (1, 'printer', 'Petrel 13', '');
      INSERT INTO media (id, name, card) VALUES (1, 'Skerry film', '{}')`);
    db.prepare(PUT.condition).run({ id: 1 });
    for (const id of [1, 2, 3]) db.prepare(PUT.chart).run({ id });
    db.exec("INSERT INTO run (id, condition_id, rule, state, chart_id, added_at) VALUES (7, 1, '{}', 'laying out', 3, 0)");
    db.exec('DELETE FROM condition');
    expect([freshNumber(db, 'chart'), freshNumber(db, 'run')]).toEqual([4, 8]);
  });
});

it('numbers that something older still says are given to nothing new', () => {
  const db = new Database(':memory:');
  db.pragma('foreign_keys = OFF');
  db.function('fold', { deterministic: true }, String);
  const names = readdirSync(MIGRATIONS).sort();
  const last = names.indexOf('026-numbers.sql');
  const run = (name: string) => db.exec(readFileSync(join(MIGRATIONS, name), 'utf8'));
  for (const name of names.slice(0, last)) run(name);
  const step = (n: number, document: object) =>
    db
      .prepare('INSERT INTO docket_step (docket_id, step, document, made_at) VALUES (1, ?, ?, 0)')
      .run(n, JSON.stringify(document));
  step(0, { artworkId: 4, choices: { conditionId: 3, jig: { id: 2 } } });
  step(1, { artworkId: 9, choices: { conditionId: null } });
  db.prepare("INSERT INTO recipe (name, document, changed_at) VALUES ('Tags', ?, 0)").run(
    JSON.stringify({ sets: { media: { is: 'condition', conditionId: 8 }, jig: { is: 'jig', id: 6 } } })
  );
  db.prepare('INSERT INTO recipe_version (recipe_id, version, document, made_at) VALUES (1, 1, ?, 0)').run(
    JSON.stringify({ sets: { media: { is: 'condition', conditionId: 11 } } })
  );
  db.prepare("INSERT INTO docket_bin (id, docket, steps, binned_at) VALUES (7, ?, '[]', 0)").run(
    JSON.stringify({ artwork_id: 12, choices: JSON.stringify({ conditionId: 2, jig: { id: 13 } }) })
  );
  db.exec(`INSERT INTO task (kind, subject, state, added_at) VALUES ('rip', '9', 'done', 0), ('rip', '21', 'failed', 0), ('build', '40', 'done', 0);
    INSERT INTO recipe_use VALUES (1, 5, 1, 0);
    INSERT INTO arrival (source, place, name, way, state, dockets, runs, came_at, changed_at)
      VALUES ('Tags', 'a.pdf', 'a.pdf', 'lay out', 'done', '[3, 17]', '[22]', 0, 0)`);
  for (const name of names.slice(last)) run(name);
  expect(freshNumber(db, 'artwork')).toBe(13);
  expect(freshNumber(db, 'condition')).toBe(12);
  expect(freshNumber(db, 'jig')).toBe(14);
  expect(freshNumber(db, 'named_colour')).toBe(1);
  expect(freshNumber(db, 'docket')).toBe(18);
  expect(freshNumber(db, 'run')).toBe(23);
  expect(freshNumber(db, 'chart')).toBe(1);
  db.close();
});
