import type { Override, RecordChoices } from './choices';
import { overrideOf, withOverride } from './for-one';
import type { Field } from './field';
import type { TableEdit } from './kept-table';

/** What may go wrong with records, and what is done about it. */

export const RISKS = [
  'does not fit',
  'small',
  'missing letters',
  'empty',
  'other form',
  'no code',
  'no picture',
  'coarse picture',
  'double'
] as const;
export type RiskKind = (typeof RISKS)[number];

export interface Risk {
  kind: RiskKind;
  record: number;
  /** The field’s number; none for a record that is there twice. */
  field?: number;
  /** What is the matter, for a person. */
  sentence: string;
}

/** Something that puts a risk right: of all records, or of the one that is told. */
export interface RiskMend {
  label: string;
  change: { records: RecordChoices } | { table: TableEdit };
}

/** A font that has more scripts than others. */
const WIDE_FONT = 'DejaVu Sans';

/**
 * What can be done about a risk. What is only put right in the table has no mend here: its cell is shown.
 *
 * @param all of its kind
 * @param faces names of the fonts that there are
 */
export function mendsOf(risk: Risk, all: readonly Risk[], records: RecordChoices, faces: readonly string[]): RiskMend[] {
  const field = records.fields.find(({ id }) => id === risk.field);
  const changed = (next: Field): RecordChoices => ({
    ...records,
    fields: records.fields.map((one) => (one.id === next.id ? next : one))
  });
  const mends: RiskMend[] = [];
  if (risk.kind === 'double') {
    const doubles = [...new Set(all.map(({ record }) => record))];
    mends.push({ label: `Take record ${risk.record} out`, change: { table: { is: 'take out rows', records: [risk.record] } } });
    if (doubles.length > 1)
      mends.push({ label: `Take these ${doubles.length} out`, change: { table: { is: 'take out rows', records: doubles } } });
  }
  if (!field) return mends;
  if (risk.kind === 'empty' && !/[[\]]/.test(field.content))
    mends.push({
      label: 'Say nothing where it is empty',
      change: { records: changed({ ...field, content: `[${field.content}]` }) }
    });
  if (risk.kind === 'no code' && field.is === 'code' && field.kind !== 'QR')
    mends.push({ label: 'As QR, which has any text', change: { records: changed({ ...field, kind: 'QR' }) } });
  if (risk.kind === 'no picture' && field.is === 'picture')
    mends.push({ label: 'Print those without a picture', change: { records: changed({ ...field, without: true }) } });
  if (field.is !== 'text') return mends;
  if (risk.kind === 'does not fit' || risk.kind === 'small') {
    if (!field.wrap) mends.push({ label: 'On more lines', change: { records: changed({ ...field, wrap: true }) } });
    if (field.size.is === 'fixed') {
      const own: Override = {
        text: null,
        place: null,
        ...overrideOf(records, risk.record, field.id),
        record: risk.record,
        field: field.id,
        size: { is: 'largest' }
      };
      mends.push({ label: `Record ${risk.record} as large as fits`, change: { records: withOverride(records, own) } });
    }
    if (field.size.is !== 'largest')
      mends.push({ label: 'Each as large as fits', change: { records: changed({ ...field, size: { is: 'largest' } }) } });
  }
  if (risk.kind === 'missing letters' && field.font !== WIDE_FONT && faces.includes(WIDE_FONT))
    mends.push({ label: `Letter it in ${WIDE_FONT}`, change: { records: changed({ ...field, font: WIDE_FONT }) } });
  return mends;
}
