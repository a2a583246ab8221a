import type { Db } from './open';

/** Tables whose rows may go, while recipes, earlier steps of tickets, printed sheets, tasks or open pages still say them by number. */
type Numbered =
  | 'artwork'
  | 'chart'
  | 'condition'
  | 'docket'
  | 'jig'
  | 'lane'
  | 'machine'
  | 'media'
  | 'named_colour'
  | 'network_printer'
  | 'run'
  | 'watched_folder';

/** The number for a new row: one that no row of the table ever had. */
export const freshNumber = (db: Db, table: Numbered): number =>
  db
    .prepare<[string], number>(
      `SELECT 1 + max(coalesce((SELECT max(id) FROM ${table}), 0), coalesce((SELECT most FROM gone_number WHERE of = ?), 0))`
    )
    .pluck()
    .get(table) as number;
