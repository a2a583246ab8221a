import { describe, expect, it } from 'vitest';
import { codeField, nameField } from '../../tests/made/fields';
import { NO_RECORDS, type RecordChoices } from '../records/choices';
import type { CheckInput } from './check';
import { columns, unfilled } from './records';

const TABLE = { hash: 'a'.repeat(64), name: 'crew.csv', columns: ['Full name', 'No.'], count: 7 };
const input = (records: Partial<RecordChoices>) => ({ records: { ...NO_RECORDS, ...records } }) as CheckInput;
const told = (records: Partial<RecordChoices>) =>
  [...unfilled(input(records)), ...columns(input(records))].map(({ id, level }) => [id, level]);

describe('records of a docket', () => {
  it('are looked at only where there are any', () => {
    expect(told({})).toEqual([]);
    expect(unfilled({} as CheckInput)).toEqual([]);
  });

  it('need a table for their fields, and fields for their table', () => {
    expect(told({ fields: [nameField, codeField] })).toEqual([['records-no-table', 'stop']]);
    expect(unfilled(input({ fields: [nameField] }))[0]!.sentence).toMatch(/^1 field is on the piece/);
    expect(told({ table: TABLE })).toEqual([['records-no-field', 'look']]);
  });

  it('need a column for every name, and are told which might be meant', () => {
    const fields = [nameField, codeField];
    expect(told({ table: TABLE, fields })).toEqual([
      ['records-column-name', 'stop'],
      ['records-column-number', 'stop']
    ]);
    expect(columns(input({ table: TABLE, fields }))[0]!.sentence).toContain('Is it “Full name”?');
    expect(told({ table: TABLE, fields, chosen: { name: 'Full name', number: 'No.' } })).toEqual([]);
  });
});
