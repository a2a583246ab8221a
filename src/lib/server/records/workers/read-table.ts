import { readFileSync, writeFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { keptTable } from '$core/records/kept-table';
import { readTable as read } from '$core/records/read-table';
import { type TableChoices } from '$core/records/table-choices';
import { TableError } from '$core/records/table';
import { Problem } from '../../platform/problem';

export interface ReadTableRequest {
  from: string;
  /** Where the table is written to as it is kept. */
  to: string;
  how: TableChoices;
}

/** Reads a customer's table. */
export function readTable({ from, to, how }: ReadTableRequest) {
  try {
    const { table, ...rest } = read(readFileSync(from), how);
    writeFileSync(to, gzipSync(JSON.stringify(keptTable(table)), { level: 1 }));
    return { ...rest, columns: table.columns, count: table.rows.length };
  } catch (error) {
    if (error instanceof TableError) throw new Problem(422, error.message);
    throw error;
  }
}
