import type { Db } from '../platform/db/open';

/**
 * What was kept of dockets, earlier steps or deleted ones, may say a condition that was deleted since: they have none then.
 * Within a transaction of the caller's.
 */
export function leaveGoneConditions(db: Db, ids: readonly number[]): void {
  db.prepare(
    `UPDATE docket SET choices = json_set(choices, '$.conditionId', NULL)
     WHERE id IN (SELECT value FROM json_each(?)) AND condition_id NOT IN (SELECT id FROM condition)`
  ).run(JSON.stringify(ids));
}
