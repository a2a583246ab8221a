import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isPrinted, readNumbers, readRanges, withRecord, writeNumbers, writeRanges } from './ranges';

const NUMBERS = Array.from({ length: 30 }, (_, i) => i + 1);
const chosen = (only: string) => NUMBERS.filter((number) => isPrinted(only, number));

describe('ranges of records', () => {
  it('are written as short as they can be', () => {
    expect(writeRanges(readRanges('5, 1-3, 4; 9-12 10-14, 20-'))).toBe('1-5, 9-14, 20-');
    expect(writeRanges([])).toBe('');
    expect(writeRanges(readRanges('-7'))).toBe('1-7');
  });

  it('have one record more or fewer after a tick, and all others as before', () => {
    const range = fc
      .tuple(fc.integer({ min: 1, max: 30 }), fc.integer({ min: 0, max: 9 }))
      .map(([from, by]) => ({ from, to: from + by }));
    fc.assert(
      fc.property(fc.array(range, { maxLength: 5 }), fc.constantFrom(...NUMBERS), fc.boolean(), (ranges, record, printed) => {
        const only = writeRanges(ranges);
        const before = chosen(only);
        const expected = printed
          ? [...new Set([...before, record])].sort((p, q) => p - q)
          : before.filter((one) => one !== record);
        if (
          ranges.length > 0 &&
          writeRanges(ranges.flatMap(({ from, to }) => (from === record && to === record ? [] : [{ from, to }]))) === '' &&
          !printed
        )
          expect(() => withRecord(only, record, printed)).toThrow('One record at least');
        else expect(chosen(withRecord(only, record, printed))).toEqual(expected);
      })
    );
  });

  it('are nothing again when all are ticked', () => {
    const without = withRecord('', 4, false);
    expect(without).toBe('1-3, 5-');
    expect(withRecord(without, 4, true)).toBe('');
    expect(withRecord('', 1, false)).toBe('2-');
    expect(() => withRecord('7', 7, false)).toThrow('One record at least is printed.');
  });
});

describe('numbers of records as text', () => {
  it('are short where they rise by one, and keep their order', () => {
    expect(writeNumbers([])).toBe('');
    expect(writeNumbers([4])).toBe('4');
    expect(writeNumbers([1, 2, 3, 9, 8, 7, 8])).toBe('1-3,9,8,7-8');
    expect(writeNumbers(Uint32Array.from({ length: 100_000 }, (_, i) => i + 1))).toBe('1-100000');
  });

  it('are read as they were written', () => {
    const numbers = fc.array(fc.integer({ min: 1, max: 12 }));
    fc.assert(fc.property(numbers, (all) => void expect(readNumbers(writeNumbers(all))).toEqual(all)));
  });
});
