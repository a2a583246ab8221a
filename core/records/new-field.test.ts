import { describe, expect, it } from 'vitest';
import { fill, parseContent } from './content';
import { Field, Fields } from './field';
import { matchNames } from './names';
import { askedColumns, askFor, fieldFor, newText } from './new-field';

const SIZE = { widthMm: 90, heightMm: 50 };

describe('a new field', () => {
  it('is one that can be kept, for every column of a table', () => {
    const fields: Field[] = [];
    for (const column of ['Name', 'name', 'QR code', 'a {b}, c', 'count', 'x'.repeat(100)])
      fields.push(fieldFor(fields, column, SIZE));
    expect(Fields.parse(fields)).toEqual(fields);
    expect(fields.map(({ is }) => is)).toEqual(['text', 'text', 'code', 'text', 'text', 'text']);
    expect(new Set(fields.map(({ name }) => name)).size).toBe(6);
    expect(newText([fields[0]!, fields[0]!], fields[0]!.place, '', 'Name').name).toBe('Name 2');
  });

  it.each(['Name', 'a {b}, c', 'count', 'No. [x] \\', ' two  words '])('asks for the column %s and finds it', (column) => {
    const content = askFor(column);
    const [asked] = askedColumns(content);
    expect(matchNames([asked!], [column]).columns[asked!]).toBe(column);
    expect(fill(parseContent(content), (name) => (name === asked ? 'value' : undefined), 0).text).toBe('value');
  });

  it('asks for nothing where its text cannot be understood', () => {
    expect(askedColumns('No. {number')).toEqual([]);
    expect(askedColumns('No. {number}[, {club}] {count}')).toEqual(['number', 'club']);
  });
});
