import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { ContentError } from '$core/records/content';
import type { KeptTable } from '$core/records/kept-table';
import { SeriesError } from '$core/records/ranges';
import { TableError } from '$core/records/table';
import { Problem } from '../platform/problem';
import { refusal, type Told } from '../platform/told';

/** A table by its file. */
export interface TableFile {
  hash: string;
  path: string;
}

/** @throws Problem where it is gone, or none */
export function readTableFile({ path }: TableFile): KeptTable {
  try {
    return JSON.parse(gunzipSync(readFileSync(path)).toString()) as KeptTable;
  } catch {
    throw new Problem(409, 'The table of this docket cannot be read any more. Take its file again.');
  }
}

/** What core says of a table is said to a person. */
export function told<T>(work: () => T): Told<T> {
  try {
    return { ok: true, made: work() };
  } catch (error) {
    if (error instanceof TableError || error instanceof SeriesError || error instanceof ContentError)
      return { ok: false, status: 422, why: error.message };
    return refusal(error);
  }
}
