import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { deltaE00, type Triple } from '../colour/lab';
import type { Inks } from '../colour/separation';
import { ITSELF, layOutNeighbours, neighboursOf } from './neighbours';

const lab: fc.Arbitrary<Triple> = fc.tuple(
  fc.double({ min: 8, max: 92, noNaN: true }),
  fc.double({ min: -90, max: 90, noNaN: true }),
  fc.double({ min: -90, max: 90, noNaN: true })
);
const chromaOf = ([, a, b]: Triple) => Math.hypot(a, b);

describe('the neighbours of a colour', () => {
  it('are 75, each with a code of its own, and the colour itself in the middle', () => {
    fc.assert(
      fc.property(lab, (of) => {
        const all = neighboursOf(of);
        expect(new Set(all.map(({ code }) => code)).size).toBe(75);
        for (const { code } of all) expect(code).toMatch(/^[ABC][1-5][1-5]$/);
        all.find(({ code }) => code === ITSELF)!.lab.forEach((v, i) => expect(v).toBeCloseTo(of[i]!, 6));
      })
    );
  });

  it('lie a step apart that is seen, and none is so far that it is another colour', () => {
    fc.assert(
      fc.property(lab, (of) => {
        const all = new Map(neighboursOf(of).map(({ code, lab: near }) => [code, near]));
        for (const code of ['A33', 'C33', 'B34', 'B23', 'B43']) {
          const delta = deltaE00(of, all.get(code)!);
          // CIEDE2000's turn for blues, and what is cut off at the ends of lightness, are not followed exactly.
          expect(delta).toBeGreaterThan(0.7);
          expect(delta).toBeLessThan(4.5);
        }
        for (const near of all.values()) expect(deltaE00(of, near)).toBeLessThan(14);
      })
    );
  });

  it('are lighter in the first block and darker in the last, and more colourful to the right', () => {
    fc.assert(
      fc.property(
        lab.filter((of) => chromaOf(of) > 20),
        (of) => {
          const all = new Map(neighboursOf(of).map(({ code, lab: near }) => [code, near]));
          for (const hue of [1, 3, 5]) {
            expect(all.get(`A${hue}3`)![0]).toBeGreaterThan(all.get(`B${hue}3`)![0]);
            expect(all.get(`B${hue}3`)![0]).toBeGreaterThan(all.get(`C${hue}3`)![0]);
            const chromas = [1, 2, 3, 4, 5].map((step) => chromaOf(all.get(`B${hue}${step}`)!));
            for (let i = 1; i < 5; i++) expect(chromas[i]!).toBeGreaterThan(chromas[i - 1]!);
          }
        }
      )
    );
  });

  it('of a grey go along a* and b*, since it has no hue to turn', () => {
    const all = new Map(neighboursOf([50, 0.5, -0.5]).map(({ code, lab: near }) => [code, near]));
    expect(all.get('B35')).toEqual([50, 2.5, -0.5]);
    expect(all.get('B53')).toEqual([50, 0.5, 1.5]);
  });
});

describe('the sheet of neighbours', () => {
  const patches = neighboursOf([50, 40, 20]).map(({ code }) => ({ id: code, inks: [0.2, 0.4, 0.1, 0] as Inks }));
  const text = (words: string, heightMm: number) => ({
    width: words.length * heightMm,
    flats: [{ x: 0, y: 0, width: words.length * heightMm * 0.6, height: heightMm }]
  });
  const laid = (widthMm: number) => layOutNeighbours(patches, 'C7', 'Ferry red', { widthMm, marginMm: 5 }, text);

  it.each([80, 200, 320, 1300])('lies within a media of %s mm, no patch on another', (widthMm) => {
    const { layout, flats } = laid(widthMm);
    expect(layout.patches).toHaveLength(75);
    for (const { x, y } of layout.patches) {
      expect(x).toBeGreaterThanOrEqual(5);
      expect(x + layout.patchMm).toBeLessThanOrEqual(widthMm - 5 + 1e-9);
      expect(y + layout.patchMm).toBeLessThan(layout.lengthMm);
    }
    layout.patches.forEach((p, i) =>
      layout.patches.slice(i + 1).forEach((q) => {
        const apart = Math.abs(p.x - q.x) >= layout.patchMm - 1e-9 || Math.abs(p.y - q.y) >= layout.patchMm - 1e-9;
        expect(apart).toBe(true);
      })
    );
    for (const { y, height } of flats) expect(y + height).toBeLessThanOrEqual(layout.lengthMm);
  });

  it('has each code under its patch, and a bar under the colour itself', () => {
    const { layout, flats } = laid(1300);
    for (const { x, y } of layout.patches) {
      const below = flats.filter(
        (flat) => flat.x >= x && flat.x < x + layout.patchMm && flat.y > y + layout.patchMm && flat.y < y + 20
      );
      expect(below.length).toBeGreaterThan(0);
    }
    const itself = layout.patches.find(({ id }) => id === ITSELF)!;
    expect(flats.some(({ x, width, height }) => x === itself.x + 9 && width === 4 && height === 0.6)).toBe(true);
  });

  it('is refused where not one block fits across', () => {
    expect(() => laid(75)).toThrow('A sheet of neighbours needs 70 mm of width; 65 mm of this media can be used.');
  });
});
