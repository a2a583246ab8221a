import { parse } from 'csv-parse/sync';
import * as sheets from '@e965/xlsx';
import { decode } from 'iconv-lite';
import { DELIMITERS, type Delimiter, type Encoding, type TableChoices } from './table-choices';
import { MOST_CELLS, MOST_ROWS, TableError, tableOf, type Table } from './table';

/** Tables of any kind: text with any delimiter and encoding, spreadsheets (XLSX, ODS, XLS), JSON. */

/** A table, and how it was read. */
export interface ReadTable {
  table: Table;
  kind: 'text' | 'spreadsheet' | 'JSON';
  encoding?: Encoding;
  delimiter?: Delimiter;
  heading: boolean;
  sheets: string[];
  sheet?: string;
  /** What was changed as it was taken, in sentences. */
  notes: string[];
}

const startsWith = (bytes: Uint8Array, ...magic: number[]) => magic.every((byte, i) => bytes[i] === byte);
/** A zip, and the compound files of old spreadsheets. */
const isSpreadsheet = (bytes: Uint8Array) =>
  startsWith(bytes, 0x50, 0x4b, 3, 4) || startsWith(bytes, 0xd0, 0xcf, 0x11, 0xe0, 0xa1, 0xb1, 0x1a, 0xe1);

/** @throws TableError in a sentence for the operator */
export function readTable(bytes: Uint8Array, choices: TableChoices = {}): ReadTable {
  if (bytes.length === 0) throw new TableError('The file is empty.');
  if (isSpreadsheet(bytes)) return ofSpreadsheet(bytes, choices);
  const encoding = choices.encoding ?? encodingOf(bytes);
  const text = decode(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length), encoding);
  return readText(text, choices, encoding);
}

/** The same of text that was pasted. */
export function readText(text: string, choices: TableChoices = {}, encoding?: Encoding): ReadTable {
  if (text.trim() === '') throw new TableError('There is nothing in the table.');
  if (text.includes('\0')) throw new TableError('This is no table: it is neither text nor a spreadsheet.');
  const said = encoding ? { encoding } : {};
  const lines = /^\s*[[{]/.test(text) ? jsonLines(text) : undefined;
  if (lines) return { ...tableOf(lines, true), kind: 'JSON', heading: true, sheets: [], ...said };
  const delimiter = choices.delimiter ?? delimiterOf(text);
  const cells = cellsOf(text, delimiter);
  const heading = choices.heading ?? hasHeading(cells);
  return { ...tableOf(cells, heading), kind: 'text', delimiter, heading, sheets: [], ...said };
}

/** The encoding of a text, by its mark or its bytes: where it is no UTF it is taken for the one that most other tables have. */
export function encodingOf(bytes: Uint8Array): Encoding {
  if (startsWith(bytes, 0xef, 0xbb, 0xbf)) return 'utf-8';
  if (startsWith(bytes, 0xff, 0xfe)) return 'utf-16le';
  if (startsWith(bytes, 0xfe, 0xff)) return 'utf-16be';
  // Delimiters and line ends of UTF-16 have a zero for their other half.
  const zeros = [0, 0];
  const looked = Math.min(bytes.length, 65_536);
  for (let i = 0; i < looked; i++) if (bytes[i] === 0) zeros[i & 1]!++;
  if (Math.max(...zeros) > looked / 50 && Math.min(...zeros) < Math.max(...zeros) / 10)
    return zeros[1]! > zeros[0]! ? 'utf-16le' : 'utf-16be';
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    return 'utf-8';
  } catch {
    return 'windows-1252';
  }
}

/** Cells of a text. @throws TableError */
function cellsOf(text: string, delimiter: string, rows = MOST_ROWS + 2): string[][] {
  try {
    return parse(text, {
      delimiter,
      bom: true,
      relax_quotes: true,
      relax_column_count: true,
      skip_empty_lines: true,
      trim: delimiter !== '\t',
      to: rows
    });
  } catch (error) {
    const at = (error as { lines?: number }).lines;
    throw new TableError(
      `The table cannot be read${at === undefined ? '' : ` from line ${at} on`}: a cell begins with a quotation mark that is never closed.`
    );
  }
}

const LOOKED_AT = 60;

/** The delimiter that divides the first rows most alike. */
function delimiterOf(text: string): Delimiter {
  let best: Delimiter = ',';
  let most = 0;
  for (const delimiter of DELIMITERS) {
    let counts: number[];
    try {
      counts = cellsOf(text.slice(0, 200_000), delimiter, LOOKED_AT).map((row) => row.length);
    } catch {
      continue;
    }
    // The last row may be cut off.
    if (counts.length > 2) counts.pop();
    const usual = counts.toSorted((p, q) => p - q)[counts.length >> 1] ?? 1;
    const alike = counts.filter((n) => n === usual).length / counts.length;
    const score = usual < 2 ? 0 : alike * alike * (1 + Math.log(usual));
    if (score > most) [best, most] = [delimiter, score];
  }
  return best;
}

const NUMBER_OR_DATE = /^[^\p{L}]*\d[^\p{L}]*$/u;

/** Whether the first row names the columns: most of it in words of their own, and none of them below. */
export function hasHeading(lines: readonly (readonly string[])[]): boolean {
  const [first, ...rest] = lines;
  if (!first || rest.length === 0) return false;
  const named = first.map((cell) => cell.trim()).filter((cell) => cell !== '');
  if (named.length < first.length / 2 || named.some((cell) => NUMBER_OR_DATE.test(cell) || cell.length > 60)) return false;
  return (
    new Set(named).size * 2 > named.length &&
    !rest.slice(0, LOOKED_AT).some((row) => row.some((c, i) => c !== '' && c === first[i]))
  );
}

/** Rows of JSON, an object a line or an array of objects; the first row names the columns. Nothing where it is no JSON. */
function jsonLines(text: string): string[][] | undefined {
  let records: unknown[];
  try {
    const whole: unknown = JSON.parse(text);
    records = Array.isArray(whole) ? whole : [whole];
  } catch {
    const lines = text.split(/\r?\n/).filter((line) => line.trim() !== '');
    try {
      JSON.parse(lines[0] ?? '');
    } catch {
      return undefined;
    }
    records = lines.map((line, i): unknown => {
      try {
        return JSON.parse(line);
      } catch {
        throw new TableError(`Line ${(i + 1).toLocaleString('en-GB')} is not JSON as the lines before it are.`);
      }
    });
  }
  const columns = new Map<string, number>();
  records.forEach((record, i) => {
    if (typeof record !== 'object' || record === null || Array.isArray(record))
      throw new TableError(`Record ${(i + 1).toLocaleString('en-GB')} has no names for its values.`);
    for (const key of Object.keys(record)) if (!columns.has(key)) columns.set(key, columns.size);
  });
  const names = [...columns.keys()];
  const cell = (value: unknown): string =>
    value === null || value === undefined ? '' : typeof value === 'string' ? value : JSON.stringify(value);
  return [names, ...records.map((record) => names.map((name) => cell((record as Record<string, unknown>)[name])))];
}

/** What is seen in a sheet: values of formulas as they were last worked out, and no macro is run. */
function ofSpreadsheet(bytes: Uint8Array, choices: TableChoices): ReadTable {
  let book: sheets.WorkBook;
  try {
    book = sheets.read(bytes, {
      type: 'array',
      dense: true,
      cellFormula: false,
      cellHTML: false,
      cellDates: true,
      UTC: true,
      sheetRows: MOST_ROWS + 2
    });
  } catch (error) {
    const why = error instanceof Error && /password/i.test(error.message) ? 'it is locked with a password' : 'it is broken';
    throw new TableError(`The spreadsheet cannot be read: ${why}. Save it anew, or as CSV.`);
  }
  const named = book.SheetNames;
  if (choices.sheet !== undefined && !named.includes(choices.sheet))
    throw new TableError(`The file has no sheet “${choices.sheet}”. It has ${named.map((name) => `“${name}”`).join(', ')}.`);
  // Unless one is chosen: the first that has anything in it.
  const linesOf = (name: string): string[][] => {
    const sheet = book.Sheets[name];
    const range = sheet?.['!ref'];
    if (!sheet || !range) return [];
    const { s, e } = sheets.utils.decode_range(range);
    const cells = (e.r - s.r + 1) * (e.c - s.c + 1);
    if (cells > 4 * MOST_CELLS)
      throw new TableError(
        `The sheet “${name}” reaches over ${cells.toLocaleString('en-GB')} cells. Delete what is empty around the table.`
      );
    return (sheet['!data'] ?? []).flatMap((row) => {
      const line = Array.from(row ?? [], (cell) => shown(cell).trim());
      return line.some((text) => text !== '') ? [line] : [];
    });
  };
  const name = choices.sheet ?? named.find((one) => linesOf(one).length > 0) ?? named[0];
  if (name === undefined) throw new TableError('The spreadsheet has no sheet.');
  const lines = trimmed(linesOf(name));
  if (lines.length === 0) throw new TableError(`There is nothing on the sheet “${name}”.`);
  const heading = choices.heading ?? hasHeading(lines);
  return { ...tableOf(lines, heading), kind: 'spreadsheet', heading, sheets: named, sheet: name };
}

/** What is seen of a cell; a day as every reader of them understands it. */
function shown(cell: sheets.CellObject | undefined): string {
  if (!cell || cell.v === undefined) return '';
  if (cell.v instanceof Date)
    return Number.isNaN(cell.v.getTime())
      ? ''
      : cell.v
          .toISOString()
          .replace(/T00:00:00.000Z$/, '')
          .replace('.000Z', '');
  return cell.w ?? String(cell.v);
}

/** Without columns at the left and right that are empty in every row. */
function trimmed(lines: string[][]): string[][] {
  let [first, last] = [Infinity, -1];
  for (const line of lines)
    line.forEach((cell, i) => {
      if (cell === '') return;
      first = Math.min(first, i);
      last = Math.max(last, i);
    });
  return last < 0 ? [] : lines.map((line) => line.slice(first, last + 1));
}
