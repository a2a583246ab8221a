import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { columnsOf, ContentError, fill, parseContent } from './content';
import { dateLike, numberLike, readDate, readNumber } from './forms';

const RECORD: Record<string, string> = {
  name: 'anna-lena VON der see',
  number: '42',
  price: '1234,5',
  day: '31.1.2027',
  contact: '',
  'first name': 'Anna'
};
const said = (text: string, place = 0) => fill(parseContent(text), (column) => RECORD[column], place);

describe('a field’s text', () => {
  it.each([
    ['No. {number}, {first name}', 'No. 42, Anna'],
    ['{ name , upper case }', 'ANNA-LENA VON DER SEE'],
    ['{name, each word}', 'Anna-Lena Von Der See'],
    ['{number, like 0001}', '0042'],
    ['{price, like €1,000.00}', '€1,234.50'],
    ['{price, like 1.000,0 kr}', '1.234,5 kr'],
    ['{day, like Thursday 31 December 2026}', 'Sunday 31 January 2027'],
    ['{day, like 12/31/26}', '01/31/27'],
    ['{day, like 31 DEC}', '31 JAN'],
    ['{first name}[ c/o {contact}]!', 'Anna!'],
    ['{first name}[, No. {number}]', 'Anna, No. 42'],
    ['\\{number\\} \\[\\] \\\\', '{number} [] \\'],
    ['', '']
  ])('%s says %s', (text, wanted) => {
    expect(said(text).text).toBe(wanted);
  });

  it('is a tick where a value says yes, and nothing where it says no, or nothing', () => {
    const ticked = (value: string) => fill(parseContent('{member, ticked}'), () => value, 0);
    for (const yes of ['x', 'X', 'yes', '1', ' TRUE ', 'ja', 'sí', '✓'])
      expect(ticked(yes)).toEqual({ text: '✓', empty: [], unlike: [] });
    for (const no of ['', 'no', '0', 'nein', 'yesterday']) expect(ticked(no)).toEqual({ text: '', empty: [], unlike: [] });
  });

  it('counts from where it is told, in steps, in the form of an example', () => {
    const at = (text: string) => [0, 1, 9].map((place) => said(text, place).text);
    expect(at('{count}')).toEqual(['1', '2', '10']);
    expect(at('{count, from 100, step -5}')).toEqual(['100', '95', '55']);
    expect(at('B {count, from 7, like 001}')).toEqual(['B 007', 'B 008', 'B 016']);
  });

  it('tells which columns it asks for, which are empty, and what has not the form', () => {
    expect(columnsOf(parseContent('{a} [{b} {count}] {a} {c}'))).toEqual(['a', 'b', 'c']);
    expect(said('{contact}{gone}[{contact}]')).toMatchObject({ text: '', empty: ['contact', 'gone'] });
    expect(said('{name, like 001}')).toMatchObject({ text: RECORD['name'], unlike: ['name'] });
  });

  it.each([
    ['{name', 'A { is never closed.', 0],
    ['a [b', 'A [ is never closed.', 2],
    ['a ] b', 'A ] closes nothing; for the sign itself write \\].', 2],
    ['[a [b]]', 'A part that may go cannot have another within it.', 3],
    ['x{}', 'Between { and } stands the name of a column.', 1],
    ['{a, big}', 'A value is upper case, lower case, each word, ticked, “in” a list or “like” an example, not “big”.', 0],
    ['{count, by 3}', 'A counter has “from”, “step” and “like”, each with a number, and “in” a list, not “by 3”.', 0],
    ['{a, like }', 'After “like” stands an example.', 0]
  ])('%s is refused: %s', (text, message, at) => {
    const refused = () => parseContent(text);
    expect(refused).toThrow(ContentError);
    expect(refused).toThrow(message);
    try {
      refused();
    } catch (error) {
      expect((error as ContentError).at).toBe(at);
    }
  });

  it('says any text that is written with its signs marked', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 60 }), (text) => {
        expect(said(text.replace(/[\\{}[\]]/g, '\\$&')).text).toBe(text);
      })
    );
  });

  it('is understood or refused, whatever it is', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: fc.constantFrom('{', '}', '[', ']', '\\', ',', 'a', ' ', 'like 1', 'count', '0'), maxLength: 30 }),
        (text) => {
          try {
            expect(typeof said(text).text).toBe('string');
          } catch (error) {
            expect(error).toBeInstanceOf(ContentError);
          }
        }
      )
    );
  });
});

describe('numbers', () => {
  it.each([
    ['42', 42],
    ['1234.5', 1234.5],
    ['1,234.50', 1234.5],
    ['1.234,50', 1234.5],
    ['1 234,5', 1234.5],
    ['1,234', 1234],
    ['1.500', 1.5],
    ['0,125', 0.125],
    ['1,234,567', 1234567],
    ['−7', -7]
  ])('%s is %d', (text, value) => expect(readNumber(text)).toBe(value));
  it.each(['', 'B41', '1,23,4', '12.34.56,7', '--1', '1e5', '.'])('%s is none', (text) =>
    expect(readNumber(text)).toBeUndefined()
  );

  it('come back from the form that they are written in', () => {
    const figure = fc.integer({ min: -9_999_999, max: 9_999_999 }).map((cents) => cents / 100);
    fc.assert(
      fc.property(figure, fc.constantFrom('1,234.50', '1.234,50', '0000.00', '1 234.50', '1.00', '0,00'), (value, like) => {
        expect(readNumber(numberLike(value, like)!)).toBeCloseTo(value, 9);
      })
    );
    expect(numberLike(5, 'no figure')).toBeUndefined();
    expect(numberLike(1234567, '1,000')).toBe('1,234,567');
  });
});

describe('dates', () => {
  it.each([
    '2027-01-31',
    '31.1.2027',
    '31/01/27',
    '31 January 2027',
    '31st Jan 2027',
    'Sunday, 31 January 2027',
    '2027-01-31T10:00'
  ])('%s is the last of January', (text) => expect(readDate(text)?.toISOString()).toBe('2027-01-31T00:00:00.000Z'));
  it.each(['31.2.2027', '2027-13-01', '31', 'January', '1/2/3/4', ''])('%s is none', (text) =>
    expect(readDate(text)).toBeUndefined()
  );

  it('come back from the form that they are written in', () => {
    const days = fc.integer({ min: 0, max: 36_000 }).map((day) => new Date(Date.UTC(2000, 0, 1 + day)));
    fc.assert(
      fc.property(days, fc.constantFrom('31.12.2026', '2026-12-31', '31 December 2026', 'Thu 31 Dec 2026'), (day, like) => {
        expect(readDate(dateLike(day, like)!)?.getTime()).toBe(day.getTime());
      })
    );
    expect(dateLike(new Date(), 'someday')).toBeUndefined();
  });
});
