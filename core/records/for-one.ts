import type { Override, RecordChoices } from './choices';
import type { Field, FieldPlace } from './field';

/** What one record has otherwise than all others: its text, its size, and its place in a field. */

export const overrideOf = ({ overrides }: RecordChoices, record: number, field: number): Override | undefined =>
  overrides.find((one) => one.record === record && one.field === field);

/** Records with what one has otherwise; nothing of it left is taken back. */
export function withOverride(records: RecordChoices, own: Override): RecordChoices {
  const others = records.overrides.filter((one) => one.record !== own.record || one.field !== own.field);
  const says = own.text !== null || own.size !== null || own.place !== null;
  return { ...records, overrides: says ? [...others, own] : others };
}

/** Records with a part of what one has otherwise; the rest of it stays. */
export function withOwn(
  records: RecordChoices,
  record: number,
  field: number,
  part: Partial<Pick<Override, 'text' | 'size' | 'place'>>
): RecordChoices {
  const before = overrideOf(records, record, field) ?? { record, field, text: null, size: null, place: null };
  return withOverride(records, { ...before, ...part });
}

/**
 * Records with a field as it is said now. For one record alone its place and size are that one's own; what single records cannot have
 * of their own, all have.
 *
 * @param alone the record; nothing for all of them
 */
export function withField(records: RecordChoices, next: Field, alone: number | null): RecordChoices {
  const before = records.fields.find(({ id }) => id === next.id);
  if (!before) return records;
  const replaced = (one: Field) => ({ ...records, fields: records.fields.map((other) => (other.id === one.id ? one : other)) });
  if (alone === null) return replaced(next);
  const areTexts = next.is === 'text' && before.is === 'text';
  const forAll = areTexts ? { ...next, place: before.place, size: before.size } : { ...next, place: before.place };
  const size = areTexts && !isSame(next.size, before.size) ? next.size : null;
  return withOwn(replaced(forAll), alone, next.id, { place: isSame(next.place, before.place) ? null : next.place, size });
}

/**
 * Records with a field moved: what is seen moves.
 *
 * @param record the one that is shown
 * @param isAlone changes are of that one alone; they are too where it has a place of its own
 */
export function withPlace(
  records: RecordChoices,
  id: number,
  at: FieldPlace,
  record: number | null,
  isAlone: boolean
): RecordChoices {
  const base = records.fields.find((one) => one.id === id);
  if (!base) return records;
  if (record !== null && (isAlone || overrideOf(records, record, id)?.place))
    return withOwn(records, record, id, { place: isSame(at, base.place) ? null : at });
  return { ...records, fields: records.fields.map((one) => (one.id === id ? { ...one, place: at } : one)) };
}

/** Records without a field, nor what any has otherwise in it. */
export const withoutField = (records: RecordChoices, id: number): RecordChoices => ({
  ...records,
  fields: records.fields.filter((one) => one.id !== id),
  overrides: records.overrides.filter((one) => one.field !== id)
});

const isSame = (p: unknown, q: unknown) => JSON.stringify(p) === JSON.stringify(q);
