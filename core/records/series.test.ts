import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { editTable, keptTable } from './kept-table';
import { readRanges } from './ranges';
import { copiesColumn, seriesOf } from './series';

const table = keptTable({
  columns: ['name', 'Qty.'],
  rows: ['2', '', '0', '1', ' 3 '].map((copies, i) => [`n${i + 1}`, copies])
});
const series = (over: Partial<Parameters<typeof seriesOf>[1]>, of = table) => [
  ...seriesOf(of, { only: '', each: 1, copiesFrom: null, ...over })
];

describe('the records of a run', () => {
  it('are all of them in the table’s order, so many of each, or some by their numbers', () => {
    expect(series({})).toEqual([1, 2, 3, 4, 5]);
    expect(series({ each: 2, only: '4-, 2' })).toEqual([2, 2, 4, 4, 5, 5]);
    expect(series({ only: '7' })).toEqual([]);
    const sorted = editTable(table, { is: 'sort', column: 'name', down: true });
    expect(series({ only: '2 – 4' }, sorted)).toEqual([4, 3, 2]);
  });

  it('have copies from a column: no figure is none', () => {
    expect(copiesColumn(table.columns)).toBe('Qty.');
    expect(copiesColumn(['Name', 'Number'])).toBeNull();
    expect(series({ copiesFrom: 'qty' })).toEqual([1, 1, 4, 5, 5, 5]);
    expect(() => series({ copiesFrom: 'amount' })).toThrow('The table has no column “amount”');
    const odd = editTable(table, { is: 'cell', record: 3, column: 'Qty.', value: '2.5' });
    expect(() => series({ copiesFrom: 'qty' }, odd)).toThrow('Record 3 has “2.5” in Qty.: copies are a whole number');
  });

  it('are not more than can be printed', () => {
    const long = keptTable({ columns: ['a'], rows: Array.from({ length: 101 }, () => ['']) });
    expect(() => series({ each: 1000 }, long)).toThrow('more than 100,000 copies');
  });

  it('are told by ranges as people write them', () => {
    expect(readRanges('1-3, 7; 9', 20)).toEqual([
      { from: 1, to: 3 },
      { from: 7, to: 7 },
      { from: 9, to: 9 }
    ]);
    expect(readRanges(' -3 18– ', 20)).toEqual([
      { from: 1, to: 3 },
      { from: 18, to: 20 }
    ]);
    for (const text of ['x', '1-2-3', '-', '12345678', '3.5']) expect(() => readRanges(text, 20)).toThrow('no range of records');
    expect(() => readRanges('9-3', 20)).toThrow('ends before it begins');
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(999), fc.nat(999))), (pairs) => {
        const ranges = pairs.map(([a, b]) => ({ from: Math.min(a, b), to: Math.max(a, b) }));
        expect(readRanges(ranges.map(({ from, to }) => `${from} - ${to}`).join(', '), 1000)).toEqual(ranges);
      })
    );
  });
});
