import { z } from 'zod';
import { MOST_CONTENT } from './content';
import { FieldPlace, Fields, TextSize, type Field } from './field';
import { MOST_COLUMNS, MOST_ROWS } from './table';

/** What a docket says of its records: the table, the fields that it fills, and which of it is printed. */

/** A table by its file, with what is said of it wherever it is named. */
export const TableRef = z.object({
  hash: z.string().regex(/^[0-9a-f]{64}$/),
  /** Of the file that it came from. */
  name: z.string().max(200),
  columns: z.array(z.string().max(100)).max(MOST_COLUMNS),
  count: z.int().min(0).max(MOST_ROWS)
});
export type TableRef = z.infer<typeof TableRef>;

/** Pictures that came together, for fields to show by their names. */
export const PicturesRef = z.object({
  hash: z.string().regex(/^[0-9a-f]{64}$/),
  /** Of the file that they came in. */
  name: z.string().max(200),
  count: z.int().min(0)
});
export type PicturesRef = z.infer<typeof PicturesRef>;

/** What one record has otherwise than all others. */
export const Override = z.object({
  record: z.int().min(1),
  field: z.int().min(1),
  text: z.string().max(MOST_CONTENT).nullable().default(null),
  size: TextSize.nullable().default(null),
  place: FieldPlace.nullable().default(null)
});
export type Override = z.infer<typeof Override>;

/** How records lie on what is printed. */
export const RECORD_ORDERS = ['rows', 'stack'] as const;
export type RecordOrder = (typeof RECORD_ORDERS)[number];

export const RecordChoices = z.object({
  fields: Fields.default([]),
  table: TableRef.nullable().default(null),
  /** Where fields of pictures look for them first; then among the artwork. */
  pictures: PicturesRef.nullable().default(null),
  /** By name that a field asks for, the column that was chosen for it. */
  chosen: z.record(z.string().max(100), z.string().max(100)).default({}),
  /** Numbers of the records that are printed, as 1-20, 35; all where it is empty. */
  only: z.string().max(5000, 'So many ranges cannot be kept; take records out of the table instead.').default(''),
  /** Copies of each, or the column that says how many. */
  each: z.int('Copies are counted in whole numbers.').min(1, 'At least 1 copy.').max(1000, 'At most 1,000 of each.').default(1),
  copiesFrom: z.string().max(100).nullable().default(null),
  /** One after the other, row by row; or so that sheets that are cut in a stack leave piles in order. */
  order: z.enum(RECORD_ORDERS).default('rows'),
  overrides: z.array(Override).max(1000, 'At most 1,000 changes of single records.').default([])
});
export type RecordChoices = z.infer<typeof RecordChoices>;

export const NO_RECORDS: RecordChoices = RecordChoices.parse({});

/** Whether records are printed: there are fields, and a table that fills them. */
export const hasRecords = ({ fields, table }: RecordChoices): boolean => fields.length > 0 && table !== null;

/** Whether lines for a tool follow the lettering of records. */
export const areCutByRecord = (records: RecordChoices): boolean =>
  hasRecords(records) && records.fields.some((field) => field.is === 'text' && field.cut !== null);

/** A field as one record has it. */
export function overridden(field: Field, { place, size }: Override): Field {
  const placed = place ? { ...field, place } : field;
  return size && placed.is === 'text' ? { ...placed, size } : placed;
}
