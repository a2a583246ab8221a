import Database from 'better-sqlite3';
import { afterAll, describe, expect, it } from 'vitest';
import { keepStatements } from './statements';

const db = new Database(':memory:');
db.exec("CREATE TABLE thing (id INTEGER PRIMARY KEY, name TEXT); INSERT INTO thing VALUES (1, 'flag'), (2, 'board')");
keepStatements(db);
afterAll(() => db.close());

const SQL = 'SELECT id, name FROM thing WHERE id > ? ORDER BY id';

describe('statements that are kept', () => {
  it('are prepared once', () => {
    expect(db.prepare(SQL)).toBe(db.prepare(SQL));
    expect(db.prepare(SQL).pluck()).toBe(db.prepare(SQL).pluck());
  });

  it('give rows in the way that each of their users asked for, in whatever order they ask', () => {
    const plain = db.prepare(SQL);
    const pluck = db.prepare(SQL).pluck();
    const raw = db.prepare(SQL).raw();
    for (let i = 0; i < 2; i++) {
      expect(raw.all(0)).toEqual([
        [1, 'flag'],
        [2, 'board']
      ]);
      expect(plain.get(1)).toEqual({ id: 2, name: 'board' });
      expect(pluck.all(0)).toEqual([1, 2]);
    }
  });

  it('see a table that was changed since', () => {
    const all = db.prepare('SELECT * FROM thing WHERE id = ?');
    expect(all.get(1)).toEqual({ id: 1, name: 'flag' });
    db.exec('ALTER TABLE thing ADD COLUMN size INTEGER DEFAULT 7');
    expect(db.prepare('SELECT * FROM thing WHERE id = ?').get(1)).toEqual({ id: 1, name: 'flag', size: 7 });
    expect(() => db.prepare('SELECT nothing FROM thing')).toThrow(/nothing/);
  });

  it('are as many as are asked for, the latest of them at hand', () => {
    for (let i = 0; i < 1200; i++) expect(db.prepare(`SELECT ${i} AS n`).pluck().get()).toBe(i);
    expect(db.prepare('SELECT 0 AS n').get()).toEqual({ n: 0 });
  });
});
