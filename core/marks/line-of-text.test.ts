import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import * as mupdf from '../interpreter/interpreter';
import { fittedLine, MOST_CHARACTERS, textWidth } from './line-of-text';

/** As the interpreter sets it in its own sans: how far a line of capitals so high goes on, mm. */
function setWidth(text: string, heightMm: number): number {
  const font = new mupdf.Font('Helvetica');
  const written = new mupdf.Text();
  const end = written.showString(font, [heightMm / 0.72, 0, 0, -heightMm / 0.72, 0, 0], text);
  for (const made of [written, font]) made.destroy();
  return end[4];
}

describe('the width of a line', () => {
  it('is what is set of plain characters, each of them', () => {
    for (let code = 32; code < 127; code++) {
      const character = String.fromCharCode(code);
      expect([character, textWidth(character, 3)]).toEqual([character, expect.closeTo(setWidth(character, 3), 2)]);
    }
    expect(textWidth('·', 3)).toBeCloseTo(setWidth('·', 3), 2);
  });

  it('is never less than what is set, whatever the script', () => {
    for (const text of ['Łódź ęśćż', 'Ελένη', 'Жук и Щука', '東京 見本', 'Straße № 5 – 20 × 30 …', 'ﷺ مرحبا'])
      expect(textWidth(text, 3)).toBeGreaterThanOrEqual(setWidth(text, 3) - 1e-3);
  });
});

describe('a line in its place', () => {
  const line = fc.tuple(
    fc.string({ maxLength: 160 }),
    fc.constantFrom('', ' · 3 of 40', ' · 1 of 1'),
    fc.double({ min: 1, max: 8, noNaN: true }),
    fc.double({ min: 5, max: 400, noNaN: true })
  );

  it('is no wider than that, no larger than asked for, and keeps its end', () => {
    fc.assert(
      fc.property(line, ([words, tail, asked, most]) => {
        const { text, heightMm } = fittedLine(words, tail, asked, most);
        const alone = tail.replace(/^ · /, '');
        expect(textWidth(text, heightMm)).toBeLessThanOrEqual(most + 1e-6);
        expect(heightMm).toBeLessThanOrEqual(asked);
        expect(text.length).toBeLessThanOrEqual(MOST_CHARACTERS);
        expect(text.endsWith(alone)).toBe(true);
        // It is small only where nothing could be left out any more.
        if (heightMm < 1) expect(text).toBe(alone);
        // Words that fit as they are stay whole.
        const whole = words === '' ? alone : words + tail;
        if (textWidth(whole, 1) <= most && whole.length <= MOST_CHARACTERS) expect(text).toBe(whole);
      }),
      { numRuns: 2000 }
    );
  });

  it('is cut where the reader sees that it was', () => {
    expect(fittedLine('Docket 7 · Berth markers for the regatta', ' · 2 of 9', 3, 20).text).toMatch(/^Docket 7 · B.*… · 2 of 9$/);
    expect(fittedLine('Docket 7', ' · 2 of 9', 3, 3)).toEqual({ text: '2 of 9', heightMm: expect.closeTo(0.8, 0) as number });
    expect(fittedLine('Docket 7', '', 3, 200)).toEqual({ text: 'Docket 7', heightMm: 3 });
  });
});
