import type { DocketChoices, DocketDocument } from '$lib/docket-choices';
import type { Db } from '../platform/db/open';
import { leaveGoneConditions } from './gone-conditions';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';

/** How long what was deleted can be brought back. */
const KEPT_MS = 7 * 86_400_000;
/** What a docket is made of; the database makes the rest of it. */
const COLUMNS = [
  'id',
  'artwork_id',
  'page',
  'name',
  'customer',
  'due_on',
  'note',
  'priority',
  'version',
  'step',
  'previous_artwork_id',
  'previous_page',
  'added_at',
  'put_away',
  'choices'
] as const;

/** A column of one that was deleted. The artwork that its own took the place of may be gone meanwhile. */
function comesBack(column: (typeof COLUMNS)[number]): string {
  const kept = `json_extract(@docket, '$.${column}')`;
  return column === 'previous_artwork_id' ? `(SELECT id FROM artwork WHERE id = ${kept})` : kept;
}

/** What all of some dockets have; a value is missing where they differ. */
export type SharedValues = Partial<
  Pick<DocketDocument, 'customer' | 'dueOn' | 'note' | 'priority'> &
    Pick<DocketChoices, 'conditionId' | 'intent' | 'mayTurn' | 'copies' | 'bleedMm' | 'bleedFrom'>
>;
const SHARED: Readonly<Record<keyof SharedValues, string>> = {
  customer: 'customer',
  dueOn: 'due_on',
  note: 'note',
  priority: 'priority',
  conditionId: 'condition_id',
  copies: 'copies',
  intent: `json_extract(choices, '$.intent')`,
  mayTurn: `json_extract(choices, '$.mayTurn')`,
  bleedMm: `json_extract(choices, '$.bleedMm')`,
  bleedFrom: `json_extract(choices, '$.bleedFrom')`
};

interface Needs {
  db: Db;
  events: Events;
}

/** What is done with dockets in numbers when their work is over: put away, brought back, deleted, and deleted no more. */
export class DocketShelf {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.db.prepare('DELETE FROM docket_bin WHERE binned_at < ?').run(Date.now() - KEPT_MS);
  }

  /**
   * Puts dockets away, or brings them back into the open list.
   *
   * @returns those that it changed; others are as asked for already, or gone
   */
  putAway(ids: readonly number[], away: boolean): number[] {
    const { db, events } = this.#needs;
    const changed = db
      .prepare<[number, string, number], number>(
        'UPDATE docket SET put_away = ? WHERE id IN (SELECT value FROM json_each(?)) AND away != ? RETURNING id'
      )
      .pluck()
      .all(away ? 1 : 0, JSON.stringify(ids), away ? 1 : 0);
    if (changed.length > 0) events.changed('dockets', changed);
    return changed;
  }

  /** What all of some dockets have, for changing them together. */
  shared(ids: readonly number[]): SharedValues {
    const names = Object.keys(SHARED) as (keyof SharedValues)[];
    const columns = names.map(
      (name) => `CASE WHEN min(${SHARED[name]}) IS max(${SHARED[name]}) AND count(${SHARED[name]}) IN (0, count(*))
        THEN json_quote(min(${SHARED[name]})) END AS ${name}`
    );
    const row = this.#needs.db
      .prepare<[string], Record<keyof SharedValues, string | null>>(
        `SELECT ${columns.join()} FROM docket WHERE id IN (SELECT value FROM json_each(?))`
      )
      .get(JSON.stringify(ids));
    return Object.fromEntries(
      names.flatMap((name) => {
        const text = row?.[name];
        if (text === null || text === undefined) return [];
        const value = JSON.parse(text) as unknown;
        return [[name, name === 'mayTurn' ? value === 1 : value]];
      })
    ) as SharedValues;
  }

  /**
   * Deletes dockets that are in no run. They can be brought back for a week.
   *
   * @returns what was deleted, and what is in a run and stays
   */
  remove(ids: readonly number[]): { removed: number[]; inRuns: number[] } {
    const { db, events } = this.#needs;
    const asked = JSON.stringify(ids);
    const result = db.transaction(() => {
      const inRuns = db
        .prepare<[string], number>(
          'SELECT id FROM docket WHERE id IN (SELECT value FROM json_each(?)) AND run_id IS NOT NULL ORDER BY id'
        )
        .pluck()
        .all(asked);
      const removed = db
        .prepare<[string], number>(
          'SELECT id FROM docket WHERE id IN (SELECT value FROM json_each(?)) AND run_id IS NULL ORDER BY id'
        )
        .pluck()
        .all(asked);
      const put = db.prepare(
        `INSERT OR REPLACE INTO docket_bin (id, docket, steps, binned_at)
         SELECT id, json_object(${COLUMNS.map((column) => `'${column}', ${column}`).join()}),
           (SELECT coalesce(json_group_array(json_array(step, document, made_at)), '[]') FROM docket_step WHERE docket_id = docket.id), ?
         FROM docket WHERE id = ?`
      );
      const drop = db.prepare('DELETE FROM docket WHERE id = ?');
      for (const id of removed) {
        put.run(Date.now(), id);
        drop.run(id);
      }
      return { removed, inRuns };
    })();
    if (result.removed.length > 0) events.changed('dockets', result.removed);
    return result;
  }

  /**
   * Brings back what was deleted, as it was.
   *
   * @throws Problem 409 where its artwork is gone meanwhile; none is brought back then
   */
  restore(ids: readonly number[]): number[] {
    const { db, events } = this.#needs;
    const back = db.transaction(() => {
      const rows = db
        .prepare<[string], { id: number; docket: string; steps: string }>(
          'SELECT id, docket, steps FROM docket_bin WHERE id IN (SELECT value FROM json_each(?))'
        )
        .all(JSON.stringify(ids));
      const put = db.prepare(`INSERT INTO docket (${COLUMNS.join()}) SELECT ${COLUMNS.map(comesBack).join()}`);
      const putSteps = db.prepare(
        `INSERT INTO docket_step (docket_id, step, document, made_at)
         SELECT ?, json_extract(value, '$[0]'), json_extract(value, '$[1]'), json_extract(value, '$[2]') FROM json_each(?)`
      );
      for (const { id, docket, steps } of rows) {
        const { artwork_id: artworkId, name } = JSON.parse(docket) as { artwork_id: number; name: string };
        if (!db.prepare('SELECT 1 FROM artwork WHERE id = ?').get(artworkId))
          throw new Problem(409, `${name} cannot be brought back: its artwork was deleted meanwhile.`);
        put.run({ docket });
        putSteps.run(id, steps);
        db.prepare('DELETE FROM docket_bin WHERE id = ?').run(id);
      }
      leaveGoneConditions(db, ids);
      return rows.map(({ id }) => id);
    })();
    if (back.length > 0) events.changed('dockets', back);
    return back;
  }
}
