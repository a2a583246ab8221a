import type Database from 'better-sqlite3';
import { LRUCache } from 'lru-cache';

const MOST_KEPT = 500;

interface Kept {
  plain: Database.Statement;
  pluck?: Database.Statement;
  raw?: Database.Statement;
}

/**
 * Has a database prepare each statement once: that takes as long as most of them take to run. How rows come (`pluck`, `raw`)
 * is a state of a statement, so each way has a statement of its own.
 */
export function keepStatements(db: Database.Database): void {
  const prepare = db.prepare.bind(db) as (sql: string) => Database.Statement;
  const kept = new LRUCache<string, Kept>({ max: MOST_KEPT });
  const keep = (sql: string): Kept => {
    const entry: Kept = { plain: prepare(sql) };
    entry.plain.pluck = () => (entry.pluck ??= prepare(sql).pluck());
    entry.plain.raw = () => (entry.raw ??= prepare(sql).raw());
    kept.set(sql, entry);
    return entry;
  };
  db.prepare = ((sql: string) => (kept.get(sql) ?? keep(sql)).plain) as typeof db.prepare;
}
