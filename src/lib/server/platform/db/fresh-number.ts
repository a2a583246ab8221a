import type { Db } from './open';

/** Tables whose rows recipes, tickets and their earlier steps say by number. */
type Numbered = 'artwork' | 'condition' | 'jig' | 'named_colour';

/** The number for a new row: one that no row of the table ever had. */
export const freshNumber = (db: Db, table: Numbered): number =>
  db
    .prepare<[string], number>(
      `SELECT 1 + max(coalesce((SELECT max(id) FROM ${table}), 0), coalesce((SELECT most FROM gone_number WHERE of = ?), 0))`
    )
    .pluck()
    .get(table) as number;
