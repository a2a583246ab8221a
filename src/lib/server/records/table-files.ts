import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { ContentError } from '$core/records/content';
import type { KeptTable } from '$core/records/kept-table';
import { SeriesError } from '$core/records/ranges';
import { TableError } from '$core/records/table';
import { Problem } from '../platform/problem';

/** A table by its file. */
export interface TableFile {
  hash: string;
  path: string;
}

/** What was done, or why it cannot be, as it is said to a person: threads hand over no errors of their own kind. */
export type Told<T> = { ok: true; made: T } | { ok: false; status: number; why: string };

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
    if (error instanceof Problem) return { ok: false, status: error.status, why: error.message };
    if (error instanceof TableError || error instanceof SeriesError || error instanceof ContentError)
      return { ok: false, status: 422, why: error.message };
    throw error;
  }
}

/** @throws Problem for what cannot be done */
export function made<T>(said: Told<T>): T {
  if (said.ok) return said.made;
  throw new Problem(said.status, said.why);
}
