import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { completionsAt } from './completion';
import { parseContent } from './content';

const COLUMNS = ['FIRST_NAME', 'Last-Name', 'Boat name', 'Pass No.', 'count'];
const labels = (text: string, caret = text.length) => completionsAt(text, caret, COLUMNS)?.options.map(({ label }) => label);
const accepted = (text: string, which: number, caret = text.length) => {
  const { from, to, options } = completionsAt(text, caret, COLUMNS)!;
  return text.slice(0, from) + options[which]!.put + text.slice(to);
};

describe('what may be meant while a field’s text is typed', () => {
  it('are the columns that are like it, written as they are asked for', () => {
    expect(labels('No. {')).toEqual([...COLUMNS, 'a counter']);
    expect(labels('No. {name')).toEqual(['FIRST_NAME', 'Last-Name', 'Boat name']);
    expect(labels('{boa')).toEqual(['Boat name']);
    expect(accepted('Of the {boa', 0)).toBe('Of the {Boat name}');
    // One that is called as the counter is does not become it.
    expect(accepted('{cou', 0)).toBe('{COUNT}');
    expect(accepted('{cou', 1)).toBe('{count}');
  });

  it('are forms after a comma, and those of the counter after it', () => {
    expect(labels('{last name, up')).toEqual(['upper case']);
    expect(accepted('{last name, up', 0)).toBe('{last name, upper case}');
    expect(accepted('{pass no, upper case, 0042', 0)).toBe('{pass no, upper case, like 0042}');
    expect(completionsAt('{a, tid', 7, COLUMNS, ['Tides', 'Duties'])?.options).toEqual([
      { label: 'in Tides', put: '{a, in Tides}' }
    ]);
    expect(labels('{count, ')).toEqual(['from 1', 'step 10', 'like 001']);
    expect(accepted('{count, from 10, st', 0)).toBe('{count, from 10, step 10}');
  });

  it('replace what stands there already, and are none outside of braces', () => {
    expect(accepted('{boa} of {last name}', 0, 4)).toBe('{Boat name} of {last name}');
    expect(accepted('{boat na} of {last name}', 0, 4)).toBe('{Boat name} of {last name}');
    expect(accepted('{la and {x}', 0, 3)).toBe('{Last-Name} and {x}');
    for (const text of ['', 'No. ', '{boat name} ', '\\{', '{zzz']) expect(labels(text)).toBeUndefined();
  });

  it('always give a text that can be understood', () => {
    const piece = fc.constantFrom('{', '{la', '{count', ', ', '}', ' of ', 'like ', 'a', 'No. ');
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 5 }), (pieces) => {
        const before = pieces.join('').replace(/\{[^}]*$/, '');
        try {
          parseContent(before);
        } catch {
          return;
        }
        for (const typed of ['{', '{na', '{last name, ', '{count, f']) {
          const text = before + typed;
          const found = completionsAt(text, text.length, COLUMNS);
          for (const { put } of found?.options ?? []) expect(() => parseContent(text.slice(0, found!.from) + put)).not.toThrow();
        }
      })
    );
  });
});
