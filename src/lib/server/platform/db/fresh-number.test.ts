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
    db.exec(`INSERT INTO machine (id, kind, name, url) VALUES (1, 'printer', 'Petrel 13', '');
      INSERT INTO media (id, name, card) VALUES (1, 'Skerry film', '{}')`);
  });
  afterEach(() => {
    db.close();
    folder.remove();
  });

  const PUT = {
    artwork: "INSERT INTO artwork (id, name, file_hash, bytes, state, added_at) VALUES (@id, 'a', 'h', 1, 'ready', 0)",
    condition: "INSERT INTO condition (id, machine_id, media_id, mode_code, mode) VALUES (@id, 1, 1, 'mode ' || @id, '{}')",
    jig: "INSERT INTO jig (id, name, document, changed_at) VALUES (@id, 'jig ' || @id, '{}', 0)",
    named_colour: `INSERT INTO named_colour (id, name, l, a, b, hue, chroma, collection, origin, note, others, words, changed_at)
      VALUES (@id, '', 0, 0, 0, 0, 0, '', '', '', '[]', '', 0)`
  } as const;

  it.each(Object.keys(PUT) as (keyof typeof PUT)[])('are given once, whatever goes: %s', (table) => {
    fc.assert(
      fc.property(fc.array(fc.option(fc.nat(20)), { maxLength: 30 }), (steps) => {
        db.exec(`DELETE FROM ${table}; DELETE FROM gone_number`);
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
  run('026-numbers.sql');
  expect(freshNumber(db, 'artwork')).toBe(13);
  expect(freshNumber(db, 'condition')).toBe(12);
  expect(freshNumber(db, 'jig')).toBe(14);
  expect(freshNumber(db, 'named_colour')).toBe(1);
  db.close();
});
