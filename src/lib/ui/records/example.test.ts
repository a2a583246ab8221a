import { describe, expect, it } from 'vitest';
import { NO_RECORDS } from '$core/records/choices';
import { nameField } from '../../../../tests/made/fields';
import { exampleOf } from './example';

const records = { ...NO_RECORDS, table: { hash: 'a'.repeat(64), name: 't', columns: ['NAME', 'Berth'], count: 9 } };
const says = (content: string, place = 4) => exampleOf({ ...nameField, content }, records, ['Ada', '12'], place);

describe('the example beside a field', () => {
  it('is what it says of the record that is shown', () => {
    expect(says('{name}, {berth, like 001}')).toBe('Ada, 012');
    expect(says('{count, from 10, step 10}')).toBe('50');
  });

  it('is none without a table, or where the text cannot be understood', () => {
    expect(says('{name')).toBe('');
    expect(exampleOf(nameField, NO_RECORDS, ['Ada'], 0)).toBe('');
    expect(exampleOf(nameField, records, [], 0)).toBe('');
  });
});
