import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { formatClosely, formatLength } from './length';
import { FigureError, parseFigure, parseLength } from './typed';

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
    expect(() => parseLength(text)).toThrow(FigureError);
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

describe('formatClosely', () => {
  it.each([
    [0.005, 'mm', '0.005 mm'],
    [0.25, 'mm', '0.25 mm'],
    [3.25, 'mm', '3.25 mm'],
    [90.04, 'mm', '90 mm'],
    [0.5, 'in', '0.01969 in'],
    [-0.125, 'mm', '-0.125 mm']
  ] as const)('%d in %s is %s', (mm, unit, text) => {
    expect(formatClosely(mm, unit)).toBe(text);
  });

  it('is read back within what a printer can tell', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 60, noNaN: true }), fc.constantFrom('mm', 'in'), (mm, unit) => {
        expect(Math.abs(parseLength(formatClosely(mm, unit)) - mm)).toBeLessThanOrEqual(Math.max(0.0006, mm * 0.006));
      })
    );
  });
});

describe('parseFigure', () => {
  it.each([
    ['40', 40],
    ['12,5', 12.5],
    [' 3*8 + 10 ', 34],
    ['1/3', 1 / 3],
    ['-20', -20],
    ['−20', -20],
    ['(2 + 1) × 5', 15]
  ])('%s is %d', (text, value) => {
    expect(parseFigure(text)).toBeCloseTo(value, 12);
  });

  it('takes the unit that stands beside its box, and no other', () => {
    expect(parseFigure('37.5 %', '%')).toBe(37.5);
    expect(parseFigure('45°', '°')).toBe(45);
    expect(parseFigure('2*6 s', 's')).toBe(12);
    expect(() => parseFigure('40 %')).toThrow(FigureError);
    expect(() => parseFigure('40mm', '%')).toThrow('“40mm” is a length. Write a figure such as 12, 2.5 or 3*8+10.');
  });

  it('takes any length where the unit of its box is one', () => {
    expect(parseFigure('1.3m', 'mm')).toBeCloseTo(1300, 9);
    expect(parseFigure('2*6', 'pt')).toBeCloseTo(12, 9);
    expect(parseFigure('25.4mm', 'pt')).toBeCloseTo(72, 9);
    expect(parseFigure('4\' 2"', 'm')).toBeCloseTo(1.27, 9);
    expect(() => parseFigure('30 %', 'mm')).toThrow('“30 %” is not a length. Write a figure such as 350, 1.2m, 48in or 3*85+10.');
  });

  it.each(['', ' ', '%', 'abc', '3+', '1/0', '1,200', '1e3', 'Infinity', '12$'])('refuses “%s” in a sentence', (text) => {
    expect(() => parseFigure(text, '%')).toThrow(FigureError);
    expect(() => parseFigure(text, '%')).toThrow(/\.$/);
  });

  it('never gives what is no number, whatever is typed', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 12, unit: fc.constantFrom(...'0123456789.,+-*/() %m') }), (text) => {
        try {
          expect(Number.isFinite(parseFigure(text, '%'))).toBe(true);
        } catch (error) {
          expect(error).toBeInstanceOf(FigureError);
        }
      })
    );
  });
});
