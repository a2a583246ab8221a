import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { expect, it } from 'vitest';
import { Shop } from '$lib/server/app/shop';
import { startStandIn, temporaryFolder, until } from '../harness';

const MIGRATIONS = 'src/lib/server/platform/db/migrations';
const migration = (name: string) => readFileSync(join(MIGRATIONS, name), 'utf8');

/** An empty database as it was before one of the migrations, and that one. */
function before(name: string): { db: Database.Database; last: string } {
  const db = new Database(':memory:');
  db.pragma('foreign_keys = OFF');
  db.function('fold', { deterministic: true }, String);
  const earlier = readdirSync(MIGRATIONS).filter((one) => one < name);
  for (const one of earlier.sort()) db.exec(migration(one));
  return { db, last: name };
}

it('opens a data folder of before colour was measured, and loses nothing of it', async () => {
  const printer = await startStandIn('printer');
  const folder = temporaryFolder();
  const db = new Database(join(folder.path, 'shop.sqlite'));
  db.exec(migration('001-first.sql'));
  db.exec(migration('002-preparing.sql'));
  db.pragma('user_version = 2');
  db.exec(`
    INSERT INTO machine VALUES (1, 'printer', 'Petrel 13', '${printer.url}');
    INSERT INTO media VALUES (1, 'Gloss white film', 'gloss', 6.4, 1300), (2, 'Matt banner', 'matt', 3.9, 1250);
    INSERT INTO condition VALUES (1, 1, 1, '{"name":"720 × 720, 8 passes","dpi":720,"passes":8}', 'abc');
    INSERT INTO condition VALUES (2, 1, 2, '{"name":"720 × 720, 8 passes","dpi":720,"passes":8}', NULL);
    INSERT INTO run (id, condition_id, rule, state, plan, added_at) VALUES
      (1, 1, '{"gapX":4,"gapY":4,"margin":5,"lead":10,"tail":20,"align":"centre","method":"blue-noise"}', 'ripped', '{}', 0);
    INSERT INTO setting VALUES ('shop', '{"shopName":"Gullway Signs","unit":"mm","currency":"€","inkCostPerMl":0.2}');
  `);
  db.close();

  const shop = new Shop(folder.path);
  try {
    expect(shop.settings.current).toMatchObject({ shopName: 'Gullway Signs', inkCostPerMl: 0.2, tolerance: { mean: 1 } });
    expect(shop.media.list().map(({ card }) => [card.name, card.surface, card.costPerM2, card.widthMm])).toEqual([
      ['Gloss white film', 'gloss', 6.4, 1300],
      ['Matt banner', 'matt', 3.9, 1250]
    ]);
    expect(shop.conditions.list().map(({ id, media, mode }) => [id, media, mode.dpi, mode.passes])).toEqual([
      [1, 'Gloss white film', 720, 8],
      [2, 'Matt banner', 720, 8]
    ]);
    expect(shop.runs.open()).toMatchObject([{ id: 1, state: 'laying out', condition: { id: 1 } }]);
    // What the old profiles were made of has changed: each is begun anew from the machine.
    shop.start();
    await until(() => shop.conditions.list().every(({ profile }) => profile === 'start'));
    expect(shop.db.pragma('foreign_key_check')).toEqual([]);
  } finally {
    await shop.close();
    printer.stop();
    folder.remove();
  }
});

it('tells of what was read of conditions before which of their curves and profiles counted then', () => {
  const { db, last } = before('024-made-of.sql');
  const state = db.prepare('INSERT INTO condition_state (condition_id, seq, results, what, made_at) VALUES (?, ?, ?, ?, ?)');
  state.run(1, 1, '{"start":5}', '', 10);
  // Curves of one's own count with a profile that was made with them.
  state.run(1, 2, '{"start":5,"linear":6}', '', 20);
  state.run(1, 3, '{"start":5,"linear":6,"profile":7,"match":8}', '', 30);
  state.run(1, 4, '{"start":5,"linear":9,"profile":7}', '', 40);
  const baseline = db.prepare('INSERT INTO baseline (condition_id, origin, document, made_at) VALUES (1, ?, ?, ?)');
  for (const at of [5, 15, 25, 30, 99]) baseline.run('', '{}', at);
  const drift = db.prepare(
    "INSERT INTO drift (baseline_id, condition_id, chart_id, mean, p95, worst, document, made_at) VALUES (1, 1, ?, 1, 1, 1, '{}', ?)"
  );
  [35, 45].forEach((at, i) => drift.run(i, at));
  db.exec(migration(last));
  const of = (table: string) => db.prepare<[], string | null>(`SELECT made_of FROM ${table} ORDER BY id`).pluck().all();
  expect(of('baseline')).toEqual([null, '[5,5]', '[5,5]', '[6,7]', '[9,7]']);
  expect(of('drift')).toEqual(['[6,7]', '[9,7]']);
  db.close();
});

it('finds the print that a rest goes on with: the last of its run before it that broke off', () => {
  const { db, last } = before('034-rests.sql');
  const put = db.prepare(
    'INSERT INTO print (id, run_id, machine_id, state, length_mm, printed_mm, from_mm, started_at) VALUES (?, ?, 1, ?, 900, ?, ?, 0)'
  );
  put.run(1, 1, 'failed', 300, 0);
  put.run(2, 2, 'cancelled', 500, 0);
  put.run(3, 1, 'cancelled', 0, 165);
  put.run(4, 1, 'cancelled', 200, 165);
  put.run(5, 1, 'done', 600, 300);
  put.run(6, 1, 'done', 900, 0);
  put.run(7, 3, 'done', 600, 300);
  db.exec(migration(last));
  const rests = db.prepare<[], [number, number | null]>('SELECT id, rest_of FROM print ORDER BY id').raw().all();
  expect(rests).toEqual([[1, null], [2, null], [3, 1], [4, 1], [5, 4], [6, null], [7, null]]); // prettier-ignore
  db.close();
});
