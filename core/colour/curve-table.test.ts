import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { placeInTable, readTable } from './curve-table';

const rising = fc
  .array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 1, maxLength: 40 })
  .map((steps) => steps.reduce((table, step) => [...table, table.at(-1)! + step], [0]));
const share = fc.double({ min: 0, max: 1, noNaN: true });

describe('a curve as a table', () => {
  it('is read back from its values, at the first place that has one', () => {
    fc.assert(
      fc.property(rising, share, (table, place) => {
        const value = readTable(table, place);
        const back = placeInTable(table, value);
        expect(back).toBeLessThanOrEqual(place + 1e-6);
        expect(readTable(table, back)).toBeCloseTo(value, 9);
      })
    );
  });

  it('ends where it ends', () => {
    expect([readTable([2, 4], -1), readTable([2, 4], 9)]).toEqual([2, 4]);
    expect([placeInTable([2, 4], 1), placeInTable([2, 4], 5), placeInTable([1, 1], 1)]).toEqual([0, 1, 0]);
  });
});
