import type { Db } from '../platform/db/open';

/** What a docket names among its records. Each has an index on dockets and on their steps. */
const NAMED = { record_table: 'table', picture_set: 'pictures' } as const;
/** What no docket and no step of one names is kept for so long: it may be just about to be named. */
const KEPT_MS = 86_400_000;

/** Lets go of what nothing names any more; its files go with the sweep. */
export function forgetUnnamed(db: Db, table: keyof typeof NAMED): void {
  const path = `records.${NAMED[table]}.hash`;
  db.prepare(
    `DELETE FROM ${table} WHERE added_at < ?
       AND NOT EXISTS (SELECT 1 FROM docket WHERE json_extract(choices, '$.${path}') = ${table}.hash)
       AND NOT EXISTS (SELECT 1 FROM docket_step WHERE json_extract(document, '$.choices.${path}') = ${table}.hash)
       AND NOT EXISTS (SELECT 1 FROM docket_bin WHERE instr(docket, ${table}.hash) OR instr(steps, ${table}.hash))`
  ).run(Date.now() - KEPT_MS);
}
