import { describe, expect, it } from 'vitest';
import { codeField, nameField } from '../../tests/made/fields';
import { hasRecords, NO_RECORDS, overridden, RecordChoices } from './choices';

const TABLE = { hash: 'a'.repeat(64), name: 'crew.csv', columns: ['name'], count: 7 };
const own = { record: 3, field: 1, text: null, size: null, place: null };

describe('what a docket says of its records', () => {
  it('is nothing at first, and then has all that is not said', () => {
    expect(RecordChoices.parse({})).toEqual(NO_RECORDS);
    expect(NO_RECORDS).toEqual({
      fields: [],
      table: null,
      pictures: null,
      chosen: {},
      only: '',
      each: 1,
      copiesFrom: null,
      order: 'rows',
      overrides: []
    });
    expect(RecordChoices.parse({ overrides: [{ record: 3, field: 1 }] }).overrides).toEqual([own]);
  });

  it('prints records where there are fields and a table', () => {
    expect(hasRecords(NO_RECORDS)).toBe(false);
    expect(hasRecords({ ...NO_RECORDS, table: TABLE })).toBe(false);
    expect(hasRecords({ ...NO_RECORDS, fields: [nameField] })).toBe(false);
    expect(hasRecords({ ...NO_RECORDS, fields: [nameField], table: TABLE })).toBe(true);
  });

  it.each([
    [{ each: 0 }, 'At least 1 copy.'],
    [{ each: 1.5 }, 'whole numbers'],
    [{ only: '1,'.repeat(3000) }, 'So many ranges cannot be kept'],
    [{ fields: [nameField, nameField] }, 'Two fields have the same number.'],
    [{ fields: [{ ...nameField, name: ' ' }] }, 'A field has a name.'],
    [{ fields: [{ ...nameField, place: { ...nameField.place, width: 0 } }] }, 'The width is at least 0.5 mm.'],
    [{ fields: [{ ...nameField, size: { is: 'fixed', pt: 0 } }] }, 'Lettering is 1 to 10,000 pt.'],
    [{ fields: [{ ...codeField, thinner: 2 }] }, 'The reduction of bars is at most 0.5 mm.'],
    [{ table: { ...TABLE, hash: '../../shop.sqlite' } }, '']
  ])('refuses %j with a sentence', (part, sentence) => {
    const result = RecordChoices.safeParse(part);
    expect(result.success).toBe(false);
    expect(result.error!.issues[0]!.message).toContain(sentence);
  });

  it('has a field of one record otherwise in its size and its place', () => {
    const place = { ...nameField.place, x: 40 };
    expect(overridden(nameField, own)).toEqual(nameField);
    expect(overridden(nameField, { ...own, place, size: { is: 'fixed', pt: 9 } })).toEqual({
      ...nameField,
      place,
      size: { is: 'fixed', pt: 9 }
    });
    // A code has no size of its own.
    expect(overridden(codeField, { ...own, size: { is: 'largest' } })).toEqual(codeField);
  });
});
