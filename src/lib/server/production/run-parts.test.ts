import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { pieceKey, pieceOf } from '$core/layout/pieces';
import type { RunPiece } from '$core/layout/run-piece';
import { comparedWith, isWhole, restOf, together, WHOLE, type RunPart } from './run-parts';

const piece = (index: number, over: Partial<RunPiece>): RunPiece =>
  ({ id: pieceKey({ docket: '4', piece: index }), docket: '4', piece: index, copies: 1, first: 0, ...over }) as RunPiece;

/** A docket of copies, of records, or a wall of panels: as pieces that are laid out. */
const docket = fc.oneof(
  fc.integer({ min: 1, max: 40 }).map((copies) => [piece(0, { copies })]),
  fc
    .array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 20 })
    .map((records) => [piece(0, { copies: records.length, records })]),
  fc
    .array(fc.integer({ min: 1, max: 4 }), { minLength: 1, maxLength: 6 })
    .map((counts) => counts.map((copies, i) => piece(i, { copies, panel: {} as RunPiece['panel'] })))
);

/** Each copy of a docket by itself. */
const single = (pieces: readonly RunPiece[]): RunPiece[] =>
  pieces.flatMap((one) =>
    Array.from({ length: one.copies }, (_, i) => ({ ...one, copies: 1, ...(one.records && { records: [one.records[i]!] }) }))
  );

/** Copies as several parts, dealt out by numbers. */
function dealt(copies: readonly RunPiece[], to: readonly number[]): { parts: RunPart[]; pieces: RunPiece[][] } {
  const lots = new Map<number, RunPiece[]>();
  copies.forEach((copy, i) => {
    const key = to[i % to.length]!;
    lots.set(key, [...(lots.get(key) ?? []), copy]);
  });
  const pieces = [...lots.values()];
  return { pieces, parts: pieces.map((lot) => together([{ ...WHOLE, first: copies.indexOf(lot[0]!) }], [lot], 'as now')) };
}

describe('parts of a docket', () => {
  it('are all of it together, however it was divided', () => {
    fc.assert(
      fc.property(docket, fc.array(fc.nat(4), { minLength: 1, maxLength: 12 }), (whole, to) => {
        const copies = single(whole);
        const { parts, pieces } = dealt(copies, to);
        const one = together(parts, pieces, 'as now');
        expect(one).toMatchObject({ copies: copies.length, first: 0 });
        expect(isWhole(one)).toBe(false);
        expect(comparedWith(whole, pieces.flat())).toEqual({ missing: 0, over: 0 });
        expect(restOf(whole, pieces.flat(), 'as now')).toBeUndefined();
      })
    );
  });

  it('have as a rest what is in none of them, and no more', () => {
    fc.assert(
      fc.property(docket, fc.array(fc.boolean(), { minLength: 1, maxLength: 12 }), fc.nat(3), (whole, isThere, extra) => {
        const copies = single(whole);
        const there = copies.filter((_, i) => isThere[i % isThere.length]);
        const missing = copies.length - there.length;
        const twice = there.slice(0, 1).flatMap((copy) => Array.from({ length: extra }, () => copy));
        expect(comparedWith(whole, [...whole, ...twice])).toEqual({ missing: 0, over: twice.length });
        const rest = restOf(whole, there, 'as now');
        expect(rest?.copies ?? 0).toBe(missing);
        expect(comparedWith(whole, there)).toEqual({ missing, over: 0 });
        if (!rest) return;
        expect(rest.first).toBe(there.length);
        if (rest.records !== null) {
          const all = [...(JSON.parse(rest.records) as number[]), ...there.flatMap(({ records }) => records!)];
          expect(all.sort((p, q) => p - q)).toEqual(copies.flatMap(({ records }) => records!).sort((p, q) => p - q));
        }
        if (rest.pieces !== null)
          for (const [index, count] of JSON.parse(rest.pieces) as [number, number][])
            expect(count + there.filter(({ id }) => pieceOf(id).piece === index).length).toBe(whole[index]!.copies);
      })
    );
  });

  it('of a wall say how many copies of which panels there are, and of which division', () => {
    const wall = [0, 1, 2].map((i) => piece(i, { copies: 2, panel: {} as RunPiece['panel'] }));
    const [left, right] = [[wall[0]!], [wall[1]!, wall[2]!]];
    const part = (division: string | null): RunPart => ({ ...WHOLE, copies: 2, pieces: '[]', division });
    const one = together([part('a'), part(null)], [left, right], 'a');
    expect(JSON.parse(one.pieces!)).toEqual([
      [0, 2],
      [1, 2],
      [2, 2]
    ]);
    expect(one.division).toBe('a');
    expect(() => together([part('a'), part('b')], [left, right], 'a')).toThrow(RangeError);
    // What is no wall has no division that could be another.
    expect(together([part('a'), part('b')], [[piece(0, {})], [piece(0, {})]], null)).toMatchObject({ copies: 2, division: null });
  });
});
