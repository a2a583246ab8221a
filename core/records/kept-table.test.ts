import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { editTable, keptTable, replaceTable, type KeptTable, type TableEdit } from './kept-table';

const crew = () =>
  keptTable({
    columns: ['name', 'boat', 'no'],
    rows: [
      ['Ada Vik', 'Kittiwake', '10'],
      ['Li Quay', 'Kittiwake', '9'],
      ['Zoë Ng', 'Tern', '101']
    ]
  });
const after = (...edits: TableEdit[]) => edits.reduce(editTable, crew());

describe('a table that is edited', () => {
  it('has cells changed, rows added and taken out, each record under its own number', () => {
    const table = after(
      { is: 'take out rows', records: [2] },
      { is: 'add rows', rows: [['Ove Pier'], ['Þóra', 'Tern', '7', 'more than there are columns']] },
      { is: 'cell', record: 4, column: 'boat', value: 'Gannet' }
    );
    expect(table.numbers).toEqual([1, 3, 4, 5]);
    expect(table.rows.slice(2)).toEqual([
      ['Ove Pier', 'Gannet', ''],
      ['Þóra', 'Tern', '7']
    ]);
    // The last one's number is not given again.
    const again = editTable(editTable(table, { is: 'take out rows', records: [5] }), { is: 'add rows', rows: [['Anna']] });
    expect(again.numbers).toEqual([1, 3, 4, 6]);
  });

  it('is sorted as people count, records with what they have', () => {
    const up = after({ is: 'sort', column: 'no', down: false });
    expect(up.rows.map((row) => row[2])).toEqual(['9', '10', '101']);
    expect(up.numbers).toEqual([2, 1, 3]);
    // Alike ones stay in their order, whichever way it is sorted.
    expect(after({ is: 'sort', column: 'boat', down: true }).numbers).toEqual([3, 1, 2]);
    expect(after({ is: 'sort', column: 'boat', down: false }).numbers).toEqual([1, 2, 3]);
  });

  it('has columns made of others, or of a counter', () => {
    const table = after(
      { is: 'add column', name: 'label', content: '{NAME, upper case} of {Boat}' },
      { is: 'add column', name: 'berth', content: '{count, from 5, step 5, like 001}' },
      { is: 'add column', name: 'table', content: '' },
      { is: 'take out column', column: 'no' },
      { is: 'rename column', column: 'boat', name: ' Boat  name ' }
    );
    expect(table.columns).toEqual(['name', 'Boat name', 'label', 'berth', 'table']);
    expect(table.rows[2]).toEqual(['Zoë Ng', 'Tern', 'ZOË NG of Tern', '015', '']);
  });

  it.each<[TableEdit, string]>([
    [{ is: 'cell', record: 9, column: 'boat', value: '' }, 'The table has no record 9.'],
    [{ is: 'cell', record: 1, column: 'ship', value: '' }, 'The table has no column “ship”.'],
    [{ is: 'cell', record: 2, column: 'boat', value: 'x'.repeat(10_001) }, 'Record 2, boat, would have 10,001 characters'],
    [{ is: 'take out rows', records: [1, 7] }, 'The table has no record 7.'],
    [{ is: 'add column', name: 'boat', content: '' }, 'There is a column “boat” already.'],
    [{ is: 'add column', name: 'x', content: '{name' }, 'A { is never closed.'],
    [{ is: 'rename column', column: 'boat', name: '' }, 'A column’s name has 1 to 100 characters.'],
    [{ is: 'add rows', rows: Array.from({ length: 100_000 }, () => []) }, 'The table would have 100,003 rows; at most 100,000.']
  ])('says why %j cannot be done', (edit, sentence) => {
    expect(() => after(edit)).toThrow(sentence);
  });

  it('keeps as many numbers as rows, none twice, and is not changed itself', () => {
    const edit = fc.oneof<fc.Arbitrary<TableEdit>[]>(
      fc.record({
        is: fc.constant('add rows' as const),
        rows: fc.array(fc.array(fc.string(), { maxLength: 4 }), { maxLength: 3 })
      }),
      fc.record({
        is: fc.constant('take out rows' as const),
        records: fc.array(fc.integer({ min: 1, max: 5 }), { maxLength: 2 })
      }),
      fc.record({ is: fc.constant('sort' as const), column: fc.constant('name'), down: fc.boolean() }),
      fc.record({
        is: fc.constant('cell' as const),
        record: fc.integer({ min: 1, max: 5 }),
        column: fc.constant('no'),
        value: fc.string()
      })
    );
    fc.assert(
      fc.property(fc.array(edit, { maxLength: 12 }), (edits) => {
        let table: KeptTable = crew();
        for (const one of edits) {
          const before = JSON.stringify(table);
          const was = table;
          try {
            table = editTable(table, one);
          } catch {
            // A record that is not there.
          }
          expect(JSON.stringify(was)).toBe(before);
        }
        expect(new Set(table.numbers).size).toBe(table.rows.length);
        expect(table.numbers).toHaveLength(table.rows.length);
        expect(table.next).toBeGreaterThan(Math.max(0, ...table.numbers));
        for (const row of table.rows) expect(row).toHaveLength(3);
      })
    );
  });
});

describe('a newer table', () => {
  it('keeps the numbers of records that are in both, by a column that tells them apart, whatever their order', () => {
    const { table, news, key } = replaceTable(crew(), {
      columns: ['No', 'Name', 'BOAT'],
      rows: [
        ['101', 'Zoë Ng', 'Gannet'],
        ['12', 'Ove Pier', 'Tern'],
        ['10', 'Ada Vik', 'Kittiwake']
      ]
    });
    expect(key).toBe('name');
    expect(table.numbers).toEqual([3, 4, 1]);
    expect(news).toEqual({ added: [4], gone: [2], changed: [3] });
    expect(table.next).toBe(5);
  });

  it('goes by the column that is said, or by whole rows where none tells them apart', () => {
    const doubled = keptTable({ columns: ['name'], rows: [['Ada'], ['Ada'], ['Li']] });
    const { table, news, key } = replaceTable(doubled, {
      columns: ['name', 'club'],
      rows: [
        ['Li', ''],
        ['Ada', ''],
        ['Ada', ''],
        ['Ada', '']
      ]
    });
    expect(key).toBeNull();
    expect(table.numbers).toEqual([3, 1, 2, 4]);
    expect(news).toEqual({ added: [4], gone: [], changed: [] });
    const byNo = replaceTable(crew(), { columns: ['name', 'no'], rows: [['Ada Quay', '10']] }, 'no');
    expect([byNo.key, byNo.table.numbers, byNo.news]).toEqual(['no', [1], { added: [], gone: [2, 3], changed: [1] }]);
  });

  it('is the same again where nothing changed', () => {
    const before = crew();
    const { table, news } = replaceTable(before, { columns: before.columns, rows: before.rows });
    expect(table).toEqual(before);
    expect(news).toEqual({ added: [], gone: [], changed: [] });
  });
});
