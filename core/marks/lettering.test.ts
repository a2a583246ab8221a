import { describe, expect, it } from 'vitest';
import { textFlats, rectangles, type Rectangle } from './lettering';
import { textWidth } from './line-of-text';

const area = (flats: readonly Rectangle[]) => flats.reduce((sum, { width, height }) => sum + width * height, 0);

describe('lettering', () => {
  it('is the same whichever way accents are written, as file names of other systems have them', () => {
    for (const name of ['Łódź', 'Ängelholm', 'Čačak', 'Ίος']) {
      const apart = name.normalize('NFD');
      expect(apart).not.toBe(name);
      expect(textFlats(apart, 3)).toEqual(textFlats(name, 3));
      expect(textWidth(apart, 3)).toBe(textWidth(name, 3));
    }
  });

  it('shows where it lacks a letter, and takes no place for what nobody sees', () => {
    for (const name of ['אב', 'عم', '船体']) expect(textFlats(name, 3)).toEqual(textFlats('??', 3));
    expect(textFlats('a\u200bb\u0000', 3)).toEqual(textFlats('ab', 3));
    // Half of a pair, where a long name was cut.
    expect(textFlats('a\ud83d', 3)).toEqual(textFlats('a', 3));
    expect(area(textFlats('Жук', 3).flats)).toBeGreaterThan(2);
  });

  it('has as much ink as its cells, in rectangles that do not overlap', () => {
    const bits = Uint8Array.from([0, 1, 1, 0, 0, 1, 1, 1, 1, 1, 1, 1]);
    const made = rectangles(bits, 4, 0.5);
    expect(area(made)).toBe(9 * 0.25);
    for (const [i, p] of made.entries())
      for (const q of made.slice(i + 1))
        expect(p.x < q.x + q.width && q.x < p.x + p.width && p.y < q.y + q.height && q.y < p.y + p.height).toBe(false);
  });
});
