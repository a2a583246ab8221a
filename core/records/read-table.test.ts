import * as sheets from '@e965/xlsx';
import { zipSync } from 'fflate';
import { encode } from 'iconv-lite';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { encodingOf, readTable, readText } from './read-table';
import { DELIMITERS, type Encoding } from './table-choices';
import { MOST_CHARACTERS, MOST_ROWS, TableError } from './table';

const LINES = [
  ['Name', 'Sail number', 'Größe', 'Fee'],
  ['Ævar Þorsson', 'ISL 12', 'XL', '12,50'],
  ['Zoë “Zip” Müller', 'GER 7', 'S', '9,00'],
  ['José Peña', 'ESP 1 104', 'M', '']
];
const quoted = (cell: string, delimiter: string) =>
  cell.includes(delimiter) || cell.includes('"') || cell.includes('\n') ? `"${cell.replace(/"/g, '""')}"` : cell;
const textOf = (lines: readonly (readonly string[])[], delimiter: string, end = '\r\n') =>
  lines.map((line) => line.map((cell) => quoted(cell, delimiter)).join(delimiter)).join(end);

const utf16 = (text: string, big: boolean) => {
  const bytes = Buffer.from(text, 'utf16le');
  return big ? bytes.swap16() : bytes;
};
const ENCODED: [string, Encoding, (text: string) => Uint8Array][] = [
  ['UTF-8', 'utf-8', (text) => Buffer.from(text)],
  ['UTF-8 with a mark', 'utf-8', (text) => Buffer.from(`\ufeff${text}`)],
  ['UTF-16', 'utf-16le', (text) => utf16(text, false)],
  ['UTF-16 with a mark', 'utf-16le', (text) => utf16(`\ufeff${text}`, false)],
  ['UTF-16, the other way round', 'utf-16be', (text) => utf16(text, true)],
  ['UTF-16, the other way round, with a mark', 'utf-16be', (text) => utf16(`\ufeff${text}`, true)],
  ['Windows western', 'windows-1252', (text) => encode(text, 'windows-1252')]
];

describe('a table of text', () => {
  it.each(ENCODED.flatMap((encoded) => DELIMITERS.map((delimiter) => [...encoded, delimiter] as const)))(
    'in %s is read as it was written',
    (_, encoding, encoded, delimiter) => {
      const read = readTable(encoded(textOf(LINES, delimiter)));
      expect(read).toMatchObject({ kind: 'text', encoding, delimiter, heading: true, notes: [] });
      expect(read.table.columns).toEqual(LINES[0]);
      expect(read.table.rows).toEqual(LINES.slice(1));
    }
  );

  it('in another encoding is read when it is said', () => {
    // Cyrillic, as Windows has it: its bytes are letters of the western one too.
    const bytes = Uint8Array.from([0xcc, 0xee, 0xf0, 0xe5, 0x2c, 0x4e, 0x6f, 0x0a, 0xd2, 0xe8, 0xf5, 0xe0, 0xff, 0x2c, 0x37]);
    expect(encodingOf(bytes)).toBe('windows-1252');
    expect(readTable(bytes, { encoding: 'windows-1251' }).table).toEqual({ columns: ['Море', 'No'], rows: [['Тихая', '7']] });
  });

  it('comes back whatever its cells hold', () => {
    const cell = fc.string({ unit: 'grapheme', maxLength: 12 }).map((text) => text.replace(/[\0\ufeff\s]+/gu, ' ').trim());
    const rows = fc
      .integer({ min: 2, max: 5 })
      .chain((n) => fc.array(fc.array(cell, { minLength: n, maxLength: n }), { minLength: 1, maxLength: 8 }));
    fc.assert(
      fc.property(rows, fc.constantFrom(...DELIMITERS), (lines, delimiter) => {
        const kept = [lines[0]!.map((_, i) => `Column ${i + 1}`), ...lines, lines[0]!.map(() => 'end')];
        const { table } = readTable(Buffer.from(textOf(kept, delimiter)), { delimiter, heading: true });
        // An empty line is none.
        const isLine = (line: string[]) => line.some((text) => text !== '');
        expect(table.rows.filter(isLine)).toEqual(kept.slice(1).filter(isLine));
      })
    );
  });

  it('keeps lines within cells, and formulas are text', () => {
    const { table } = readText('who\tnote\nPier\t"two\nlines"\nQuay\t=cmd|calc');
    expect(table.rows).toEqual([
      ['Pier', 'two\nlines'],
      ['Quay', '=cmd|calc']
    ]);
  });

  it('has no heading where the first row is like the others, and the operator can say otherwise', () => {
    const read = readText('1,Pier\n2,Quay');
    expect(read).toMatchObject({
      heading: false,
      table: {
        columns: ['Column 1', 'Column 2'],
        rows: [
          ['1', 'Pier'],
          ['2', 'Quay']
        ]
      }
    });
    expect(readText('1,Pier\n2,Quay', { heading: true }).table).toEqual({ columns: ['1', 'Pier'], rows: [['2', 'Quay']] });
  });

  it('gives each column a name of its own, and fills up short rows, and says so', () => {
    const { table, notes } = readText('name,name,,name 2\na,b,c,d\ne\n,,,\n');
    expect(table.columns).toEqual(['name', 'name 3', 'Column 3', 'name 2']);
    expect(table.rows).toEqual([
      ['a', 'b', 'c', 'd'],
      ['e', '', '', '']
    ]);
    expect(notes).toEqual([
      'More than one column is called “name”: they have numbers now.',
      '1 row has fewer cells than there are columns: the rest is empty.'
    ]);
  });
});

describe('a spreadsheet', () => {
  const bookOf = (type: 'xlsx' | 'ods' | 'biff8') => {
    const book = sheets.utils.book_new();
    sheets.utils.book_append_sheet(book, sheets.utils.aoa_to_sheet([]), 'Empty');
    const sheet = sheets.utils.aoa_to_sheet(
      [[], ['', 'Name', 'No.', 'Day'], ['', 'Pier', 7, new Date(Date.UTC(2026, 11, 31))], ['', 'Quay', 12.5]],
      { UTC: true }
    );
    sheets.utils.book_append_sheet(book, sheet, 'Crew');
    sheets.utils.book_append_sheet(book, sheets.utils.aoa_to_sheet([['Other'], ['one']]), 'More');
    return new Uint8Array(sheets.write(book, { type: 'array', bookType: type }) as ArrayBuffer);
  };
  it.each(['xlsx', 'ods', 'biff8'] as const)('%s is read as it is seen, from the first sheet that has anything', (type) => {
    const read = readTable(bookOf(type));
    expect(read).toMatchObject({ kind: 'spreadsheet', sheet: 'Crew', sheets: ['Empty', 'Crew', 'More'], heading: true });
    expect(read.table.columns).toEqual(['Name', 'No.', 'Day']);
    expect(read.table.rows).toEqual([
      ['Pier', '7', '2026-12-31'],
      ['Quay', '12.5', '']
    ]);
    expect(readTable(bookOf(type), { sheet: 'More' }).table).toEqual({ columns: ['Other'], rows: [['one']] });
    expect(() => readTable(bookOf(type), { sheet: 'Mor' })).toThrow(
      'The file has no sheet “Mor”. It has “Empty”, “Crew”, “More”.'
    );
  });
});

describe('JSON', () => {
  it('is read line by line, or as a list; values that some records lack are empty', () => {
    const records = [
      { name: 'Pier', no: 7 },
      { no: 8, more: { a: 1 } }
    ];
    const table = {
      columns: ['name', 'no', 'more'],
      rows: [
        ['Pier', '7', ''],
        ['', '8', '{"a":1}']
      ]
    };
    expect(readText(records.map((one) => JSON.stringify(one)).join('\n'))).toMatchObject({ kind: 'JSON', table });
    expect(readText(JSON.stringify(records, null, 2)).table).toEqual(table);
    expect(() => readText('{"a":1}\n{"a":')).toThrow('Line 2 is not JSON as the lines before it are.');
    expect(() => readText('[{"a":1},[2]]')).toThrow('Record 2 has no names for its values.');
  });
});

describe('what cannot be taken', () => {
  const refused = (bytes: Uint8Array | string) => {
    try {
      readTable(typeof bytes === 'string' ? Buffer.from(bytes) : bytes);
      return 'taken';
    } catch (error) {
      expect(error).toBeInstanceOf(TableError);
      return (error as Error).message;
    }
  };
  it('is said in a sentence with its row or cell', () => {
    expect(refused('')).toBe('The file is empty.');
    expect(refused('\n \n')).toBe('There is nothing in the table.');
    expect(refused(Uint8Array.from({ length: 400 }, (_, i) => ((i * 37) % 251 && i % 7 ? (i * 37) % 251 : 0)))).toMatch(
      /no table|nothing/
    );
    expect(refused(`name\n${'a\n'.repeat(MOST_ROWS + 1)}`)).toMatch(/The table has 100,001 rows; at most 100,000 can be taken/);
    expect(refused(`name,note\nPier,b\nQuay,${'x'.repeat(MOST_CHARACTERS + 1)}`)).toBe(
      'Row 2, note, has 10,001 characters; a cell can have 10,000.'
    );
    expect(refused(`${Array.from({ length: 201 }, (_, i) => `c${i}`).join()}\n1`)).toMatch(/201 columns; at most 200/);
    expect(refused('name,note\nPier,"never closed\nQuay,b')).toMatch(/a quotation mark that is never closed/);
  });

  it('spreadsheets that are broken too', () => {
    expect(refused(zipSync({ 'a.txt': new Uint8Array(9) }))).toMatch(/The spreadsheet cannot be read|has no sheet/);
    expect(refused(Uint8Array.of(0x50, 0x4b, 3, 4, 9, 9, 9, 9, 9))).toMatch(/The spreadsheet cannot be read: it is broken/);
    expect(refused(Uint8Array.of(0xd0, 0xcf, 0x11, 0xe0, 0xa1, 0xb1, 0x1a, 0xe1, 0, 0))).toMatch(/cannot be read/);
  });
});
