import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { deltaE00 } from '../colour/lab';
import type { Polyline } from '../geometry/path';
import { GAMUT_STEPS_A_DELTA, gamutDeltas, gamutMap, inkAlong, inkMap } from './maps';

const WIDTH = 12;
const HEIGHT = 9;
const COUNT = WIDTH * HEIGHT;
const bytes = (length: number) => fc.uint8Array({ minLength: length, maxLength: length });
const inside = ({ x, y, width, height }: { x: number; y: number; width: number; height: number }, i: number) => {
  const [px, py] = [(i % WIDTH) + 0.5, Math.floor(i / WIDTH) + 0.5];
  return px >= x && px <= x + width && py >= y && py <= y + height;
};

describe('the map of ink', () => {
  it('tells what a count of its pixels tells, and shows where the most ink is', () => {
    fc.assert(
      fc.property(bytes(COUNT * 4), fc.integer({ min: 50, max: 400 }), (cmyk, percent) => {
        const limit = percent / 100;
        const map = inkMap(cmyk, WIDTH, HEIGHT, limit);
        const totals = Array.from({ length: COUNT }, (_, i) => [0, 1, 2, 3].reduce((sum, k) => sum + cmyk[i * 4 + k]!, 0));
        const over = totals.map((total) => total > limit * 255 + 4);
        expect(map.most).toBeCloseTo(Math.max(...totals) / 255, 9);
        expect(map.shareAbove).toBeCloseTo(over.filter(Boolean).length / COUNT, 9);
        expect(map.inked).toBeCloseTo(totals.filter((total) => total > 6).length / COUNT, 9);
        // What is above the limit is marked, and nothing else is marked so.
        for (const [i, isOver] of over.entries()) expect(map.picture[i * 4 + 3] === 235).toBe(isOver);
        if (!over.some(Boolean)) expect(map.worst).toBeNull();
        else expect(inside(map.worst!, totals.indexOf(Math.max(...totals)))).toBe(true);
      })
    );
  });
});

describe('the map of what is out of reach', () => {
  it('tells its share, mean and worst, and shows where that is', () => {
    fc.assert(
      fc.property(bytes(COUNT * 3), fc.integer({ min: 1, max: 40 }), (deltas, limit) => {
        const map = gamutMap(deltas, 3, WIDTH, HEIGHT, limit);
        const own = Array.from({ length: COUNT }, (_, i) => deltas[i * 3]! / GAMUT_STEPS_A_DELTA);
        const out = own.filter((delta) => delta > limit);
        expect(map.share).toBeCloseTo(out.length / COUNT, 9);
        expect(map.worst).toBeCloseTo(Math.max(...own), 9);
        if (out.length === 0) {
          expect([map.place, map.mean]).toEqual([null, 0]);
          expect(map.picture.every((v) => v === 0)).toBe(true);
          return;
        }
        expect(map.mean).toBeCloseTo(out.reduce((sum, delta) => sum + delta, 0) / out.length, 6);
        expect(inside(map.place!, own.indexOf(Math.max(...own)))).toBe(true);
        for (const [i, delta] of own.entries()) expect(map.picture[i * 4 + 3]! > 0).toBe(delta > limit);
      })
    );
  });

  it('does not count black that the print has no darker: the source’s tones are stretched to it', () => {
    const black: [number, number, number] = [18, 1, -2];
    const asked = Float32Array.from([0, 0, 0, 100, 0, 0, 55, 30, -40]);
    const printed = Float32Array.from([18, 0, 0, 100, 0, 0, 55, 30, -40]);
    const [dark, light, middle] = gamutDeltas(asked, printed, black);
    expect(dark).toBeLessThan(0.01);
    expect(light).toBeLessThan(0.01);
    // A colour between is asked for a little lighter.
    expect(middle).toBeGreaterThan(0.1);
    expect(middle).toBeLessThan(deltaE00([55, 30, -40], [60, 30, -40]));
  });
});

describe('ink along a line', () => {
  /** Ink in the left part of a picture, up to a column. */
  const leftOf = (column: number, width = 100, height = 60) => {
    const cmyk = new Uint8Array(width * height * 4);
    for (let y = 0; y < height; y++) for (let x = 0; x < column; x++) cmyk[(y * width + x) * 4 + 3] = 255;
    return cmyk;
  };
  const across: Polyline = { closed: false, points: [{ x: 0, y: 30 }, { x: 100, y: 30 }] }; // prettier-ignore

  it('is its share, with the place where an edge is crossed', () => {
    fc.assert(
      fc.property(fc.integer({ min: 5, max: 95 }), (column) => {
        const { share, changes, place } = inkAlong(leftOf(column), 100, 60, [across]);
        expect(share).toBeCloseTo(column / 100, 2);
        expect(changes).toBe(1);
        expect(Math.abs(place!.x - column)).toBeLessThanOrEqual(1);
      })
    );
  });

  it('crosses an edge an even number of times where it comes back to its start, and nothing where it stays beside it', () => {
    const round = (x: number, size: number): Polyline => ({
      closed: true,
      points: [{ x, y: 10 }, { x: x + size, y: 10 }, { x: x + size, y: 50 }, { x, y: 50 }] // prettier-ignore
    });
    expect(inkAlong(leftOf(50), 100, 60, [round(30, 40)])).toMatchObject({ changes: 2 });
    expect(inkAlong(leftOf(50), 100, 60, [round(55, 30)])).toEqual({ share: 0, changes: 0, place: null });
    expect(inkAlong(leftOf(50), 100, 60, [round(5, 30)])).toMatchObject({ share: 1, changes: 0 });
    // Beyond the picture there is none; a hair of ink is no edge.
    expect(inkAlong(leftOf(50), 100, 60, [{ closed: false, points: [{ x: -40, y: -9 }, { x: 300, y: -9 }] }]).share).toBe(0); // prettier-ignore
    expect(inkAlong(leftOf(2), 100, 60, [across]).changes).toBe(0);
    expect(inkAlong(leftOf(50), 100, 60, [])).toEqual({ share: 0, changes: 0, place: null });
  });
});
