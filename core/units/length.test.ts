import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatLength, LengthError, parseLength } from './length';

describe('parseLength', () => {
  it.each([
    ['350', 350],
    ['1.2m', 1200],
    ['1,2 m', 1200],
    ['48in', 1219.2],
    ['4\' 6"', 1371.6],
    ["4'6", 1371.6],
    ['3*85+10', 265],
    ['(2+1)*85mm', 255],
    ['1m - 3*20', 940],
    ['-5', -5],
    ['72pt', 25.4]
  ])('%s is %d mm', (text, mm) => {
    expect(parseLength(text)).toBeCloseTo(mm, 9);
  });

  it('takes bare figures in the unit of the shop', () => {
    expect(parseLength('2*3', 'in')).toBeCloseTo(152.4, 9);
    expect(parseLength('2+10mm', 'cm')).toBeCloseTo(30, 9);
  });

  it.each(['', 'abc', '3 furlongs', '4mm*4mm', '1/0', '3+', '(3', '3 4', '1e999', 'NaN', '12$'])('refuses “%s”', (text) => {
    expect(() => parseLength(text)).toThrow(LengthError);
  });

  it('does not guess what a comma before three figures means', () => {
    expect(() => parseLength('1,200')).toThrow('“1,200” may be 1200 or 1.2. Write it without the comma.');
    expect(() => parseLength('3*12,500')).toThrow(/12500 or 12.5/);
    expect(parseLength('0,125')).toBeCloseTo(0.125, 9);
    expect(parseLength('1,25')).toBeCloseTo(1.25, 9);
    expect(parseLength('1,2500')).toBeCloseTo(1.25, 9);
  });

  it('reads back what formatLength prints', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 10_000_000 }), fc.constantFrom('mm', 'cm', 'm', 'in', 'ft'), (tenths, unit) => {
        const mm = tenths / 10;
        expect(Math.abs(parseLength(formatLength(mm, unit)) - mm)).toBeLessThan(0.51);
      })
    );
  });
});
