import type { Point } from '$core/geometry/matrix';
import { pieceOf } from '$core/layout/pieces';
import type { RunPiece } from '$core/layout/run-piece';
import { toRunPieces } from '$lib/run-pieces';
import type { Condition } from '../conditions/condition';
import type { Docket } from '../dockets/dockets';
import type { Db } from '../platform/db/open';
import type { RunDocketRow } from './run';

/** How much of a docket lies in a run: all of it, or some of its copies. */
export type RunPart = Pick<RunDocketRow, 'copies' | 'first' | 'records' | 'pieces' | 'division'>;

/** All of it. */
export const WHOLE: RunPart = { copies: null, first: 0, records: null, pieces: null, division: null };

export const isWhole = ({ copies, records, pieces }: RunPart): boolean => copies === null && records === null && pieces === null;

/** Keeps a part of a docket in a run, where the docket is not in it yet. */
export function putPart(db: Db, runId: number, docketId: number, position: number, part: RunPart & { held: number }): void {
  const { copies, first, held, records, pieces, division } = part;
  db.prepare(
    'INSERT INTO run_docket (run_id, docket_id, position, copies, first, held, records, pieces, division) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)'
  ).run(runId, docketId, position, copies, first, held, records, pieces, division);
}

/** Of a wall, how many copies of which panels are in a run; nothing for all of them. */
export const panelsIn = ({ pieces }: Pick<RunPart, 'pieces'>): [piece: number, copies: number][] | null =>
  pieces === null ? null : (JSON.parse(pieces) as [number, number][]);

/** The record of each copy of a docket that is in a run; nothing where it has no records. */
function recordsIn({ records, copies, first }: RunPart, series: Uint32Array | undefined): number[] | undefined {
  if (!series) return undefined;
  if (records !== null) return JSON.parse(records) as number[];
  return [...series.subarray(first, copies === null ? undefined : first + copies)];
}

/** The pieces of a part as they are laid out. @param series the record of each of the docket's copies */
export function piecesOf(
  docket: Docket,
  part: RunPart,
  { condition, contour, series }: { condition: Condition; contour?: Point[][] | undefined; series: Uint32Array | undefined }
): RunPiece[] {
  const records = recordsIn(part, series);
  const copies = records?.length ?? part.copies;
  return toRunPieces(docket, { condition, contour, copies, first: part.first, records, pieces: panelsIn(part) });
}

/**
 * Several parts of a docket as one.
 *
 * @param pieces of each of them
 * @param division of the docket's wall where a part does not say it
 * @throws RangeError where panels of a wall are of several divisions: they would not meet
 */
export function together(parts: readonly RunPart[], pieces: readonly (readonly RunPiece[])[], division: string | null): RunPart {
  const all = pieces.flat();
  const records = all.flatMap((piece) => piece.records ?? []);
  const isWall = all.some(({ panel }) => panel);
  const panels = new Map<number, number>();
  for (const { id, copies } of all) {
    const { piece } = pieceOf(id);
    panels.set(piece, (panels.get(piece) ?? 0) + copies);
  }
  const divisions = new Set(parts.map((part) => part.division ?? division));
  if (isWall && divisions.size > 1) throw new RangeError('Its panels are of several divisions.');
  return {
    copies: all.reduce((sum, { copies }) => sum + copies, 0),
    first: Math.min(...parts.map(({ first }) => first)),
    records: records.length > 0 ? JSON.stringify(records) : null,
    pieces: isWall ? JSON.stringify([...panels]) : null,
    division: isWall ? [...divisions][0]! : null
  };
}

/** A part as it is printed on so many equal sheets. */
export function partTimes(part: RunPart, times: number): RunPart {
  const panels = panelsIn(part);
  const records = part.records === null ? null : (JSON.parse(part.records) as number[]);
  return {
    ...part,
    copies: part.copies === null ? null : part.copies * times,
    pieces: panels && JSON.stringify(panels.map(([piece, copies]) => [piece, copies * times])),
    records: records && JSON.stringify(Array.from({ length: times }, () => records).flat())
  };
}

/** How many there are of each: copies of panels, of records, or of all that are alike. */
function counted(pieces: readonly RunPiece[]): Map<string, number> {
  const counts = new Map<string, number>();
  const add = (key: string, copies: number) => counts.set(key, (counts.get(key) ?? 0) + copies);
  for (const { id, copies, records } of pieces)
    if (records) for (const record of records) add(`${record}`, 1);
    else add(id, copies);
  return counts;
}

/** How many copies of a docket are in none of its parts, and how many of its parts in none of it. @param whole all of the docket */
export function comparedWith(whole: readonly RunPiece[], parts: readonly RunPiece[]): { missing: number; over: number } {
  const [wanted, there] = [counted(whole), counted(parts)];
  const beyond = (these: Map<string, number>, those: Map<string, number>) =>
    [...these].reduce((sum, [key, count]) => sum + Math.max(0, count - (those.get(key) ?? 0)), 0);
  return { missing: beyond(wanted, there), over: beyond(there, wanted) };
}

/**
 * What of a docket is in none of its parts, as a part of its own; nothing where they are all of it.
 *
 * @param whole all of the docket
 * @param division of its wall
 */
export function restOf(whole: readonly RunPiece[], parts: readonly RunPiece[], division: string | null): RunPart | undefined {
  const there = counted(parts);
  /** Takes so many of a kind as are there already, and leaves the others. */
  const left = (key: string, count: number): number => {
    const known = there.get(key) ?? 0;
    there.set(key, Math.max(0, known - count));
    return Math.max(0, count - known);
  };
  const rest = whole.flatMap((piece): RunPiece[] => {
    const records = piece.records?.filter((record) => left(`${record}`, 1) > 0);
    const copies = records ? records.length : left(piece.id, piece.copies);
    return copies === 0 ? [] : [{ ...piece, copies, ...(records && { records }) }];
  });
  if (rest.length === 0) return undefined;
  const first = parts.reduce((sum, { copies }) => sum + copies, 0);
  return together([{ ...WHOLE, first }], [rest], division);
}
