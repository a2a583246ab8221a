import { describe, expect, it } from 'vitest';
import { codeField, nameField } from '../../tests/made/fields';
import { NO_RECORDS, overridden, RecordChoices } from './choices';
import { overrideOf } from './for-one';
import { mendsOf, type Risk } from './risks';

const records: RecordChoices = { ...NO_RECORDS, fields: [{ ...nameField, size: { is: 'fixed', pt: 30 } }, codeField] };
const risk = (over: Partial<Risk>): Risk => ({ kind: 'does not fit', record: 7, field: 1, sentence: '', ...over });
const FACES = ['Arimo', 'DejaVu Sans'];
/** By label, what the fields or the table are then. */
const mended = (of: Risk, all = [of], with_ = records) =>
  Object.fromEntries(mendsOf(of, all, with_, FACES).map(({ label, change }) => [label, change]));

describe('a risk', () => {
  it('of lettering that is too large is put right for all, or for the one record', () => {
    const changes = mended(risk({}));
    expect(Object.keys(changes)).toEqual(['On more lines', 'Record 7 as large as fits', 'Each as large as fits']);
    for (const change of Object.values(changes))
      expect(RecordChoices.safeParse('records' in change && change.records).success).toBe(true);
    const one = changes['Record 7 as large as fits']!;
    const own = 'records' in one && overrideOf(one.records, 7, 1);
    expect(own).toEqual({ record: 7, field: 1, text: null, place: null, size: { is: 'largest' } });
    expect(overridden(records.fields[0]!, own || undefined!)).toMatchObject({ size: { is: 'largest' }, place: nameField.place });
    const grown: RecordChoices = { ...records, fields: [{ ...nameField, wrap: true }] };
    expect(mended(risk({ kind: 'small' }), undefined, grown)).toEqual({});
  });

  it('of a value that is empty, of letters, and of doubles', () => {
    expect(mended(risk({ kind: 'empty', field: 2 }))).toMatchObject({
      'Say nothing where it is empty': { records: { fields: [{}, { content: '[PASS/{number}/{name}]' }] } }
    });
    expect(mended(risk({ kind: 'missing letters' }))).toMatchObject({
      'Letter it in DejaVu Sans': { records: { fields: [{ font: 'DejaVu Sans' }, {}] } }
    });
    const doubles = [risk({ kind: 'double', record: 4 }), risk({ kind: 'double', record: 9 })].map(({ field: _, ...one }) => one);
    expect(mended(doubles[0]!, doubles)).toEqual({
      'Take record 4 out': { table: { is: 'take out rows', records: [4] } },
      'Take these 2 out': { table: { is: 'take out rows', records: [4, 9] } }
    });
    expect(mended(risk({ kind: 'no code', field: 2 }))).toMatchObject({
      'As QR, which has any text': { records: { fields: [{}, { kind: 'QR' }] } }
    });
    // What only its cell puts right.
    expect(mended(risk({ kind: 'other form' }))).toEqual({});
  });
});
