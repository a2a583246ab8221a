import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { faceOf, type FaceName } from '../../tests/made/faces';
import { Fitting, isInside, type TextStyle } from './fitting';

const style = (more: Partial<TextStyle> = {}): TextStyle => ({ wrap: false, lineSpacing: 1, letterSpacing: 0, ...more });
const WORDS = ['Ada', 'Bartholomäus', 'von', 'Ærø-Sund', 'Li', 'Maximilian', 'To', 'fjord', 'İğdır', 'クル', 'O’Neill', 'x'];
const text = fc.array(fc.constantFrom(...WORDS), { minLength: 1, maxLength: 7 }).map((words) => words.join(' '));
const box = fc.record({
  width: fc.double({ min: 2, max: 300, noNaN: true }),
  height: fc.double({ min: 2, max: 120, noNaN: true })
});
const face = fc.constantFrom<FaceName>('latin', 'serif', 'arabic');
const styles = fc.record({
  wrap: fc.boolean(),
  lineSpacing: fc.double({ min: 0.7, max: 2, noNaN: true }),
  letterSpacing: fc.constantFrom(0, 0.05, 0.3)
});

/** The block as it is drawn at a size. */
const laid = (words: string, name: FaceName, how: TextStyle, width: number, size: number) =>
  new Fitting(words, faceOf(name), how).block(width / size);

describe('the largest size of a text in a box', () => {
  it('is inside of the box, and nothing larger is', () => {
    fc.assert(
      fc.property(text, box, face, styles, (words, room, name, how) => {
        const size = new Fitting(words, faceOf(name), how).largest(room);
        expect(isInside(laid(words, name, how, room.width, size), size, room)).toBe(true);
        for (const more of [1.001, 1.01, 1.05, 1.2, 1.5, 2, 3])
          expect(isInside(laid(words, name, how, room.width, size * more), size * more, room), `${more}`).toBe(false);
      }),
      { numRuns: 150 }
    );
  });

  it('has all its ink inside, letters that hang over too', () => {
    fc.assert(
      fc.property(text, box, styles, (words, room, how) => {
        const size = new Fitting(words, faceOf('serif'), how).largest(room);
        const { lines } = laid(words, 'serif', how, room.width, size);
        for (const { line, baseline } of lines) {
          const { ink } = line;
          if (!ink) continue;
          expect((Math.max(ink.right, line.width) - Math.min(0, ink.left)) * size).toBeLessThanOrEqual(room.width * (1 + 1e-6));
          expect((baseline - ink.top) * size).toBeGreaterThanOrEqual(-1e-6 * room.height);
          expect((baseline - ink.bottom) * size).toBeLessThanOrEqual(room.height * (1 + 1e-6));
        }
      }),
      { numRuns: 100 }
    );
  });

  it('grows with the box, and a longer text is never larger', () => {
    const longer = new Fitting('Anna Lena Marie', faceOf('latin'), style({ wrap: true })).largest({ width: 40, height: 20 });
    const shorter = new Fitting('Anna', faceOf('latin'), style({ wrap: true })).largest({ width: 40, height: 20 });
    expect(longer).toBeLessThanOrEqual(shorter);
    expect(new Fitting('Anna', faceOf('latin'), style()).largest({ width: 80, height: 40 })).toBeCloseTo(
      2 * new Fitting('Anna', faceOf('latin'), style()).largest({ width: 40, height: 20 }),
      9
    );
  });

  it('is any for what has nothing to be seen', () => {
    for (const nothing of ['', '   '])
      expect(new Fitting(nothing, faceOf('latin'), style()).largest({ width: 9, height: 9 })).toBe(Infinity);
  });
});

describe('lines', () => {
  it('end where words do, and where the text itself ends them', () => {
    const lines = (words: string, width: number, how = style({ wrap: true })) =>
      new Fitting(words, faceOf('latin'), how).block(width).lines.map(({ line }) => line.glyphs.length);
    expect(lines('one two three', 4.1)).toEqual([7, 5]);
    expect(lines('one two three', 0.1)).toEqual([3, 3, 5]);
    expect(lines('one\ntwo three', 100)).toEqual([3, 9]);
    expect(lines('one\ntwo three', 0.1, style())).toEqual([3, 9]);
    expect(lines('half-way', 2.5)).toEqual([5, 3]);
  });

  it('stand below each other by the spacing', () => {
    const { lines, height } = new Fitting('a\nb', faceOf('latin'), style({ lineSpacing: 1.5 })).block(100);
    const { ascender, descender, gap } = faceOf('latin');
    expect(lines[1]!.baseline - lines[0]!.baseline).toBeCloseTo(1.5 * (ascender + descender + gap), 9);
    expect(height).toBeCloseTo(ascender + descender + 1.5 * (ascender + descender + gap), 9);
  });
});
