import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { madePiece } from '../../tests/made/laid';
import { NO_FINISHING } from '../marks/finishing';
import { equalParts } from './equal-parts';
import type { Part, Stock } from './placement';

const SHEET: Stock = { kind: 'sheet', width: 1300, height: 2500, corner: 'back left' };
const ROLL: Stock = { kind: 'roll', width: 1300 };

const piece = madePiece({ copies: 9, of: 9 });

/** A sheet of copies at these places; which copies they are differs from sheet to sheet. */
const part = (xs: readonly number[], from = 0): Part => ({
  copies: xs.map((x, i) => ({ id: 'a', copy: from + i, x, y: 10, width: 90, height: 90, turn: 0, pinned: false })),
  ghosts: [],
  length: 2500,
  reach: 100,
  usedM2: 0.1,
  cuts: null
});

describe('sheets that are equal', () => {
  it('are one so many times, in their order, and nothing of them is lost', () => {
    fc.assert(
      fc.property(fc.array(fc.subarray([10, 110, 210], { minLength: 1 }), { maxLength: 8 }), (sheets) => {
        const parts = sheets.map((xs, i) => part(xs, i * 10));
        const groups = equalParts(parts, [piece], SHEET);
        const again = groups.flatMap(({ part: { copies }, times }) => Array<number[]>(times).fill(copies.map(({ x }) => x)));
        expect(again).toEqual(sheets);
        // No two groups side by side could have been one.
        for (const [i, { part: one }] of groups.entries())
          expect(groups[i + 1]?.part.copies.map(({ x }) => x)).not.toEqual(one.copies.map(({ x }) => x));
      })
    );
  });

  it('stay apart where their copies are told apart, and on the roll', () => {
    const two = [part([10]), part([10], 1)];
    expect(equalParts(two, [piece], SHEET)).toMatchObject([{ times: 2 }]);
    for (const told of [
      { finishing: { ...NO_FINISHING, caption: true } },
      { finishing: { ...NO_FINISHING, numbered: true } },
      { records: [3, 4] }
    ])
      expect(equalParts(two, [piece, { ...piece, id: 'b', ...told }], SHEET)).toMatchObject([{ times: 1 }, { times: 1 }]);
    expect(equalParts(two, [piece], ROLL)).toHaveLength(2);
  });
});
