import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { ResultStep } from '$lib/calibration';
import { temporaryFolder } from '../../../../tests/harness';
import { openDatabase, type Db } from '../platform/db/open';
import { KeptResults } from './kept-results';

let folder: ReturnType<typeof temporaryFolder>;
let db: Db;
let kept: KeptResults;

beforeEach(() => {
  folder = temporaryFolder();
  db = openDatabase(folder.path);
  kept = new KeptResults(db);
  db.exec(`
    INSERT INTO machine (id, kind, name, url) VALUES (1, 'printer', 'Petrel 13', '');
    INSERT INTO media (id, name, card) VALUES (1, 'Skerry film', '{}');
  `);
  condition();
});
afterEach(() => {
  db.close();
  folder.remove();
});

const condition = () => db.exec("INSERT INTO condition (id, machine_id, media_id, mode_code, mode) VALUES (1, 1, 1, 'm', '{}')");

/** One that is found at a time, and what it says. */
const find = (step: ResultStep, madeAt: number, document: object): number =>
  Number(
    db
      .prepare('INSERT INTO condition_result (condition_id, step, document, made_at) VALUES (1, ?, ?, ?)')
      .run(step, JSON.stringify(document), madeAt).lastInsertRowid
  );

let seq = 0;
function count(results: object): void {
  db.prepare("INSERT INTO condition_state (condition_id, seq, results, what, made_at) VALUES (1, ?, ?, '', 0)").run(
    ++seq,
    JSON.stringify(results)
  );
  db.prepare('UPDATE condition SET seq = ?').run(seq);
}

const PROFILE = { restsOn: { start: 1 }, source: 'measured', hash: 'made' };

describe('results that are kept', () => {
  it('are those of the state that counts, in the order of the steps', () => {
    const start = find('start', 1, { restsOn: {}, hash: 'own' });
    const profile = find('profile', 2, PROFILE);
    count({ profile, start });
    expect(kept.heads(1).map(({ step, id }) => [step, id])).toEqual([
      ['start', start],
      ['profile', profile]
    ]);
    count({ start });
    expect(kept.heads(1).map(({ step }) => step)).toEqual(['start']);
    expect(kept.heads(2)).toEqual([]);
  });

  it('are read once, whole or in brief, and cannot be changed by one who reads', () => {
    count({ profile: find('profile', 1, PROFILE) });
    const [head] = kept.heads(1);
    expect(kept.brief(head!)).toEqual({ restsOn: { start: 1 }, source: 'measured', total: null });
    const found = kept.found(head!);
    expect(found.document).toEqual({ source: 'measured', hash: 'made' });
    db.exec("UPDATE condition_result SET document = '{}'");
    expect(kept.found(kept.heads(1)[0]!)).toBe(found);
    expect(() => (found.restsOn.start = 7)).toThrow(TypeError);
  });

  it('tell the total of a limit in brief, and of no other step', () => {
    const total = find('total', 1, { restsOn: {}, limits: { total: 2.8 }, source: 'imported' });
    count({ total });
    expect(kept.brief(kept.heads(1)[0]!)).toEqual({ restsOn: {}, source: null, total: 2.8 });
  });

  it('are not taken for those of a condition that is gone, whose number was given again', () => {
    const first = find('profile', 1, PROFILE);
    count({ profile: first });
    expect(kept.found(kept.heads(1)[0]!).document).toMatchObject({ hash: 'made' });
    db.exec('DELETE FROM condition');
    expect(kept.heads(1)).toEqual([]);
    condition();
    const second = find('profile', 2, { ...PROFILE, hash: 'another' });
    expect(second).toBe(first);
    count({ profile: second });
    expect(kept.found(kept.heads(1)[0]!).document).toMatchObject({ hash: 'another' });
  });
});
