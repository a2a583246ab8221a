import { parse } from 'csv-parse/sync';
import { stringify } from 'csv-stringify/sync';
import { plainName } from '../units/names';
import { CgatsError, readCgats, writeCgats } from './cgats';
import { CxfError, readCxf, writeCxf } from './cxf';
import type { Triple } from './lab';
import { NamedColour } from './named-colour';

/** Named colours in open files: CSV, CGATS.17 (ISO 28178) and CxF3 (ISO 17972-1). */

export interface ColourFile {
  kind: 'CSV' | 'CGATS' | 'CxF3';
  colours: NamedColour[];
  /** What was not taken of it, and why. */
  refused: { name: string; why: string }[];
}

export class ColourFileError extends Error {
  override name = 'ColourFileError';
}

export const MOST_COLOURS = 60_000;
/** Of a name that is not taken. */
const SHOWN_NAME = 60;

export const COLOUR_FORMATS = ['csv', 'cgats', 'cxf'] as const;
export type ColourFormat = (typeof COLOUR_FORMATS)[number];

/** @throws ColourFileError in a sentence for the operator */
export function readColours(text: string): ColourFile {
  if (text.trim() === '') throw new ColourFileError('The file is empty.');
  if (text.includes('\0')) throw new ColourFileError('This is no file of colours: it is not text.');
  const file = readAny(text);
  if (file.colours.length > MOST_COLOURS)
    throw new ColourFileError(`The file has ${file.colours.length} colours; ${MOST_COLOURS} are the most.`);
  if (file.colours.length === 0)
    throw new ColourFileError(
      file.refused[0] ? `None of its colours can be taken. ${file.refused[0].why}` : 'The file has no colours.'
    );
  return file;
}

function readAny(text: string): ColourFile {
  try {
    if (/^\s*(?:\uFEFF)?\s*</.test(text)) return checked({ kind: 'CxF3', ...readCxf(text) });
    if (/^BEGIN_DATA_FORMAT\b/m.test(text)) return checked({ kind: 'CGATS', refused: [], colours: ofCgats(text) });
    return checked(ofTable(text));
  } catch (error) {
    if (error instanceof CgatsError || error instanceof CxfError) throw new ColourFileError(error.message);
    throw error;
  }
}

/** Names and figures within bounds, whichever file they come from. */
function checked({ kind, colours, refused }: ColourFile): ColourFile {
  const found = colours.map((colour) => ({ name: colour.name.slice(0, SHOWN_NAME), read: NamedColour.safeParse(colour) }));
  return {
    kind,
    colours: found.flatMap(({ read }) => read.data ?? []),
    refused: [
      ...refused,
      ...found.flatMap(({ name, read }) => (read.error ? [{ name, why: read.error.issues[0]!.message }] : []))
    ]
  };
}

const plain = (name: string, lab: Triple): NamedColour => ({
  name: name.trim(),
  lab,
  others: [],
  collection: '',
  from: '',
  note: ''
});

const ofCgats = (text: string): NamedColour[] => readCgats(text, 'names').patches.map(({ id, lab }) => plain(id, lab));

/** What columns may be called. */
const COLUMNS = {
  name: ['name', 'colour', 'color', 'colourname', 'colorname', 'spotcolour', 'spotcolor', 'sampleid', 'samplename'],
  l: ['l', 'labl', 'ciel', 'lstar'],
  a: ['a', 'laba', 'ciea', 'astar'],
  b: ['b', 'labb', 'cieb', 'bstar'],
  others: ['othernames', 'others', 'aliases', 'alias'],
  collection: ['collection', 'book', 'group', 'palette', 'library'],
  from: ['from', 'source', 'origin', 'customer'],
  note: ['note', 'notes', 'remark', 'comment', 'description']
} as const;
type ColumnName = keyof typeof COLUMNS;

function ofTable(text: string): ColourFile {
  const [first = ''] = text.split(/\r\n|\r|\n/, 1);
  const delimiter = ['\t', ';', ','].reduce((best, one) => (first.split(one).length > first.split(best).length ? one : best));
  let rows: string[][];
  try {
    rows = parse(text, {
      delimiter,
      bom: true,
      relax_quotes: true,
      relax_column_count: true,
      skip_empty_lines: true,
      trim: true,
      to: MOST_COLOURS + 2
    });
  } catch {
    throw new ColourFileError('The table cannot be read: its quotation marks do not match.');
  }
  const heads = (rows[0] ?? []).map(plainName);
  const at = Object.fromEntries(
    Object.entries(COLUMNS).map(([column, words]) => [column, heads.findIndex((head) => words.some((word) => word === head))])
  ) as Record<ColumnName, number>;
  const lacking = (['name', 'l', 'a', 'b'] as const).filter((column) => at[column] < 0);
  if (lacking.length > 0)
    throw new ColourFileError(
      `The table has no column ${lacking.map((one) => (one === 'name' ? 'Name' : `${one.toUpperCase()}*`)).join(', ')}. Its first row names the columns: Name, L*, a*, b*, and, if wanted, Other names, Collection, From, Note.`
    );
  const colours: NamedColour[] = [];
  const refused: ColourFile['refused'] = [];
  rows.slice(1).forEach((row, i) => {
    const cell = (column: ColumnName) => (at[column] < 0 ? '' : (row[at[column]] ?? '').trim());
    const figures = (['l', 'a', 'b'] as const).map((column) => figureOf(cell(column)));
    const name = cell('name');
    if (figures.some((v) => v === undefined)) {
      refused.push({
        name: name || `Row ${i + 2}`,
        why: `Row ${i + 2}: “${cell('l')}”, “${cell('a')}”, “${cell('b')}” are no three figures.`
      });
      return;
    }
    colours.push({
      name,
      lab: figures as Triple,
      others: cell('others')
        .split(/[;|]/)
        .map((one) => one.trim())
        .filter(Boolean),
      collection: cell('collection'),
      from: cell('from'),
      note: cell('note')
    });
  });
  return { kind: 'CSV', colours, refused };
}

/** With a point or a comma. */
function figureOf(text: string): number | undefined {
  const value = /^[+\-−]?\d+(?:[.,]\d+)?$/.test(text) ? Number(text.replace('−', '-').replace(',', '.')) : NaN;
  return Number.isFinite(value) ? value : undefined;
}

/** @returns the file's text */
export function writeColours(colours: readonly NamedColour[], format: ColourFormat, created: Date): string {
  if (format === 'cxf') return writeCxf(colours, created);
  if (format === 'cgats')
    return writeCgats({
      head: {
        ORIGINATOR: 'Zing Mast',
        DESCRIPTOR: 'Named colours',
        CREATED: created.toISOString(),
        MEASUREMENT_SOURCE: 'Illumination=D50 ObserverAngle=2'
      },
      patches: colours.map(({ name, lab }) => ({ id: name, inks: null, lab }))
    });
  return stringify([
    ['Name', 'L*', 'a*', 'b*', 'Other names', 'Collection', 'From', 'Note'],
    ...colours.map(({ name, lab, others, collection, from, note }) => [
      ...[name],
      ...lab.map((v) => v.toFixed(2)),
      others.join('; '),
      collection,
      from,
      note
    ])
  ]);
}
