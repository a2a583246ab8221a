import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { keptTable } from './kept-table';
import { placesWith } from './table-search';

const table = {
  ...keptTable({ columns: ['name', 'boat'], rows: [] }),
  rows: [
    ['Ada Vik', 'Tern'],
    ['Ærø', 'GANNET ii'],
    ['', '']
  ],
  numbers: [7, 12, 3]
};

describe('rows of a table', () => {
  it('are found by words in any order and case, of any of their cells, and by their number', () => {
    expect(placesWith(table, '')).toEqual([0, 1, 2]);
    expect(placesWith(table, '  gannet  ærø ')).toEqual([1]);
    expect(placesWith(table, 'tern 7')).toEqual([0]);
    expect(placesWith(table, 'tern gannet')).toEqual([]);
  });

  it('are found by their records, and by both', () => {
    expect(placesWith(table, '', [3, 7, 99])).toEqual([0, 2]);
    expect(placesWith(table, 'vik', [3, 7])).toEqual([0]);
    expect(placesWith(table, 'vik', [])).toEqual([]);
  });

  it('are those that a row by row reading finds', () => {
    const cell = fc.constantFrom('a', 'B', 'ab', 'Ç', '');
    fc.assert(
      fc.property(fc.array(fc.tuple(cell, cell), { maxLength: 20 }), fc.constantFrom('a', 'b', 'ç', 'a b'), (rows, words) => {
        const made = keptTable({ columns: ['x', 'y'], rows });
        const found = new Set(placesWith(made, words));
        rows.forEach(([x, y], i) => {
          const has = words.split(' ').every((word) => [`${i + 1}`, x, y].some((one) => one.toLowerCase().includes(word)));
          if (has) expect(found.has(i)).toBe(true);
        });
        expect([...found]).toEqual([...found].sort((p, q) => p - q));
      })
    );
  });
});
