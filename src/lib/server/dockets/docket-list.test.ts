import fc from 'fast-check';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import { temporaryFolder } from '../../../../tests/harness';
import { openDatabase } from '../platform/db/open';
import { Events } from '../platform/events';
import { pageOf } from '../platform/listing';
import { daysBetween } from '$lib/due';
import { DOCKET_LIST, dueClasses, type DocketLine, type DocketStage } from './docket-list';
import { DocketShelf } from './docket-shelf';

const folder = temporaryFolder();
const db = openDatabase(folder.path);
const shelf = new DocketShelf({ db, events: new Events() });
afterAll(() => {
  db.close();
  folder.remove();
});
const DOCKETS = [1, 2, 3];
const RUNS = [1, 2, 3];
const QUERY = { words: '', sort: 'number', down: true, facets: {} };
const list = (over: object = {}) => pageOf<DocketLine>(db, DOCKET_LIST, { ...QUERY, ...over }, 0);
const idsOf = (over: object = {}) => list(over).rows.map(({ id }) => id);

beforeEach(() => {
  for (const table of [
    'cut_task',
    'print',
    'run_docket',
    'run',
    'docket_step',
    'docket',
    'docket_bin',
    'artwork',
    'condition',
    'machine'
  ])
    db.exec(`DELETE FROM ${table}`);
  db.exec(`INSERT INTO machine (id, kind, name, url) VALUES (1, 'printer', 'Petrel 13', 'http://x');
    INSERT OR IGNORE INTO media (id, name, card) VALUES (1, 'Film', '{}');
    INSERT OR IGNORE INTO condition (id, machine_id, media_id, mode_code, mode) VALUES (1, 1, 1, 'm', '{}');
    INSERT INTO artwork (id, name, file_hash, bytes, state, added_at) VALUES (1, 'a', 'h', 1, 'ready', 0)`);
  for (const id of DOCKETS) {
    const choices = {
      conditionId: 1,
      copies: id,
      widthMm: 90.5,
      heightMm: 60,
      cut: id === 1,
      intent: 'relative',
      mayTurn: true,
      bleedMm: 3,
      bleedFrom: 'page'
    };
    db.prepare('INSERT INTO docket (id, artwork_id, page, name, customer, choices, added_at) VALUES (?, 1, 0, ?, ?, ?, 0)').run(
      id,
      `Flag ${id}`,
      'Łódź',
      JSON.stringify(choices)
    );
    db.prepare('INSERT INTO docket_step (docket_id, step, document, made_at) VALUES (?, 0, ?, 7)').run(
      id,
      `{"name":"Flag ${id}"}`
    );
  }
});

describe('a docket in a list', () => {
  it('says its choices from columns, and is found by what it is called', () => {
    expect(list().rows[2]).toMatchObject({
      id: 1,
      copies: 1,
      widthMm: 90.5,
      cut: 1,
      media: 'Film',
      machine: 'Petrel 13',
      worst: null
    });
    expect(idsOf({ words: 'lodz 2' })).toEqual([2]);
    db.prepare("UPDATE docket SET name = 'Bánner', note = 'for the quay' WHERE id = 2").run();
    expect([idsOf({ words: 'BANNER quay' }), idsOf({ words: 'flag' })]).toEqual([[2], [3, 1]]);
    db.prepare('UPDATE docket SET worst = 0').run();
    db.prepare("UPDATE docket SET choices = json_set(choices, '$.copies', 44) WHERE id = 3").run();
    // Changed, it is looked at anew.
    expect(list().rows.map(({ copies, worst }) => [copies, worst])).toEqual([
      [44, null],
      [2, 0],
      [1, 0]
    ]);
  });

  it('is as far as its runs and cuts are, whatever happened in whatever order', () => {
    const act = fc.oneof(
      fc.record({ do: fc.constant('put in' as const), run: fc.constantFrom(...RUNS), docket: fc.constantFrom(...DOCKETS) }),
      fc.record({ do: fc.constant('take out' as const), run: fc.constantFrom(...RUNS), docket: fc.constantFrom(...DOCKETS) }),
      fc.record({
        do: fc.constant('go on' as const),
        run: fc.constantFrom(...RUNS),
        state: fc.constantFrom('laying out', 'ripping', 'ripped', 'printing', 'printed')
      }),
      fc.record({ do: fc.constant('print' as const), run: fc.constantFrom(...RUNS) }),
      fc.record({ do: fc.constant('cut' as const), run: fc.constantFrom(...RUNS) }),
      fc.record({ do: fc.constant('delete' as const), run: fc.constantFrom(...RUNS) })
    );
    fc.assert(
      fc.property(fc.array(act, { maxLength: 30 }), (acts) => {
        db.exec('DELETE FROM cut_task; DELETE FROM print; DELETE FROM run_docket; DELETE FROM run');
        const states = new Map<number, string>();
        const inRun = new Map<number, Set<number>>(RUNS.map((run) => [run, new Set()]));
        const uncut = new Map<number, number>();
        let cuts = 0;
        for (const one of acts) {
          const { run } = one;
          if (one.do === 'put in' || one.do === 'go on') {
            if (!states.has(run)) {
              db.prepare("INSERT INTO run (id, condition_id, rule, state, added_at) VALUES (?, 1, '{}', 'laying out', 0)").run(
                run
              );
              states.set(run, 'laying out');
            }
          }
          if (!states.has(run)) continue;
          if (one.do === 'put in') {
            db.prepare('INSERT OR IGNORE INTO run_docket (run_id, docket_id, position) VALUES (?, ?, 0)').run(run, one.docket);
            inRun.get(run)!.add(one.docket);
          } else if (one.do === 'take out') {
            db.prepare('DELETE FROM run_docket WHERE run_id = ? AND docket_id = ?').run(run, one.docket);
            inRun.get(run)!.delete(one.docket);
          } else if (one.do === 'go on') {
            db.prepare('UPDATE run SET state = ? WHERE id = ?').run(one.state, run);
            states.set(run, one.state);
          } else if (one.do === 'print') {
            const { lastInsertRowid } = db
              .prepare("INSERT INTO print (run_id, machine_id, state, length_mm, started_at) VALUES (?, 1, 'done', 9, 0)")
              .run(run);
            db.prepare("INSERT INTO cut_task (code, print_id, state, knife, added_at) VALUES (?, ?, 'waiting', '{}', 0)").run(
              `C${cuts++}`,
              lastInsertRowid
            );
            uncut.set(run, (uncut.get(run) ?? 0) + 1);
          } else if (one.do === 'cut') {
            db.prepare("UPDATE cut_task SET state = 'cut' WHERE print_id IN (SELECT id FROM print WHERE run_id = ?)").run(run);
            uncut.set(run, 0);
          } else if ((uncut.get(run) ?? 0) === 0 && !db.prepare('SELECT 1 FROM print WHERE run_id = ?').get(run)) {
            db.prepare('DELETE FROM run WHERE id = ?').run(run);
            states.delete(run);
            inRun.get(run)!.clear();
          }
        }
        const stageOf = (docket: number): { run: number | null; stage: DocketStage } => {
          const runs = RUNS.filter((run) => inRun.get(run)!.has(docket)).sort((p, q) => q - p);
          const run = runs.find((one) => states.get(one) !== 'printed') ?? runs[0];
          if (run === undefined) return { run: null, stage: 'waiting' };
          const state = states.get(run);
          if (state === 'printing') return { run, stage: 'printing' };
          if (state !== 'printed') return { run, stage: 'laid out' };
          return { run, stage: runs.some((one) => (uncut.get(one) ?? 0) > 0) ? 'printed' : 'done' };
        };
        const all = list({ facets: { list: ['open', 'put away'] } }).rows;
        expect(all.map(({ id, runId, stage }) => ({ id, run: runId, stage }))).toEqual(
          [3, 2, 1].map((id) => ({ id, ...stageOf(id) }))
        );
        // What is done leaves the open list by itself.
        expect(idsOf()).toEqual(all.filter(({ stage }) => stage !== 'done').map(({ id }) => id));
      }),
      { numRuns: 150 }
    );
  });
});

describe('many dockets', () => {
  it('are put away and brought back, and those that were as asked for are not told of', () => {
    expect(shelf.putAway([1, 2, 99], true)).toEqual([1, 2]);
    expect(shelf.putAway([1, 2, 3], true)).toEqual([3]);
    expect([idsOf(), idsOf({ words: 'flag' })]).toEqual([[], [3, 2, 1]]);
    expect(shelf.putAway([2], false)).toEqual([2]);
    expect(idsOf()).toEqual([2]);
    // What is laid out after all is open again.
    db.exec("INSERT INTO run (id, condition_id, rule, state, added_at) VALUES (1, 1, '{}', 'laying out', 0)");
    db.exec('INSERT INTO run_docket (run_id, docket_id, position) VALUES (1, 3, 0)');
    expect(idsOf()).toEqual([3, 2]);
  });

  it('are deleted but for those in runs, and brought back as they were, with their steps', () => {
    db.exec("INSERT INTO run (id, condition_id, rule, state, added_at) VALUES (1, 1, '{}', 'laying out', 0)");
    db.exec('INSERT INTO run_docket (run_id, docket_id, position) VALUES (1, 3, 0)');
    db.exec("UPDATE docket SET choices = json_set(choices, '$.note', 'it''s 100 %; \"so\"'), put_away = 1 WHERE id = 1");
    const before = db.prepare('SELECT * FROM docket WHERE id = 1').get();
    expect(shelf.remove([1, 2, 3, 99])).toEqual({ removed: [1, 2], inRuns: [3] });
    expect(idsOf({ words: 'flag' })).toEqual([3]);
    expect(db.prepare('SELECT count(*) FROM docket_step').pluck().get()).toBe(1);
    expect(shelf.restore([1, 2, 99])).toEqual([1, 2]);
    expect(db.prepare('SELECT * FROM docket WHERE id = 1').get()).toEqual(before);
    expect(db.prepare('SELECT document, made_at FROM docket_step WHERE docket_id = 1').get()).toEqual({
      document: '{"name":"Flag 1"}',
      made_at: 7
    });
    // Once.
    expect(shelf.restore([1])).toEqual([]);
  });

  it('of which one’s artwork is gone are not brought back, none of them', () => {
    shelf.remove([1, 2, 3]);
    db.exec('DELETE FROM artwork');
    expect(() => shelf.restore([1, 2])).toThrow(/Flag 1 cannot be brought back: its artwork was deleted meanwhile/);
    expect(list({ words: 'flag' }).count).toBe(0);
  });

  it('whose artwork took the place of one that is gone come back all the same', () => {
    const row = db.prepare<[], Record<string, unknown>>('SELECT * FROM artwork LIMIT 1').get()!;
    const columns = Object.keys(row).join();
    const older = (id: number) =>
      db.exec(`INSERT INTO artwork (${columns}) SELECT ${columns.replace(/\bid\b/, `${id}`)} FROM artwork WHERE id = ${row.id as number}`); // prettier-ignore
    older(71);
    older(72);
    db.exec('UPDATE docket SET previous_artwork_id = 70 + id, previous_page = 0 WHERE id IN (1, 2)');
    shelf.remove([1, 2]);
    db.exec('DELETE FROM artwork WHERE id = 71');
    expect(shelf.restore([1, 2])).toEqual([1, 2]);
    const previous = db.prepare('SELECT previous_artwork_id FROM docket WHERE id IN (1, 2) ORDER BY id').pluck().all();
    expect(previous).toEqual([null, 72]);
  });

  it('of which one’s condition is gone come back without', () => {
    shelf.remove([1, 2]);
    db.exec(
      "UPDATE docket_bin SET docket = json_set(docket, '$.choices', json_set(docket ->> '$.choices', '$.conditionId', 7)) WHERE id = 1"
    );
    shelf.restore([1, 2]);
    const of = (id: number) =>
      db.prepare<[number], number | null>('SELECT condition_id FROM docket WHERE id = ?').pluck().get(id);
    expect([of(1), of(2)]).toEqual([null, 1]);
  });

  it('say what they have alike', () => {
    expect(shelf.shared([1, 2])).toEqual({
      customer: 'Łódź',
      dueOn: '',
      note: '',
      priority: 'normal',
      conditionId: 1,
      intent: 'relative',
      mayTurn: true,
      bleedMm: 3,
      bleedFrom: 'page'
    });
    expect(shelf.shared([2])).toMatchObject({ copies: 2 });
    db.exec("UPDATE docket SET choices = json_set(choices, '$.conditionId', NULL) WHERE id = 1");
    expect(shelf.shared([1, 2])).not.toHaveProperty('conditionId');
  });
});

it('is due in one class of days, as the days between tell it', () => {
  const day = fc.date({ min: new Date('2026-02-20'), max: new Date('2028-03-10'), noInvalidDate: true });
  const iso = (date: Date) => date.toISOString().slice(0, 10);
  const classOf = (days: number | undefined) =>
    days === undefined ? 'no date' : days < 0 ? 'late' : days === 0 ? 'today' : days <= 7 ? 'within a week' : 'later';
  fc.assert(
    fc.property(day, fc.oneof(fc.constant(''), fc.integer({ min: -9, max: 9 }), day.map(iso)), (date, due) => {
      const today = iso(date);
      const dueOn = typeof due === 'number' ? iso(new Date(date.getTime() + due * 86_400_000)) : due;
      const are = dueClasses(db, today).filter(
        ({ when }) => db.prepare<[string]>(`SELECT ${when} FROM (SELECT ? AS due_on) d`).pluck().get(dueOn) === 1
      );
      expect(are.map(({ name }) => name)).toEqual([classOf(daysBetween(today, dueOn))]);
    })
  );
});
