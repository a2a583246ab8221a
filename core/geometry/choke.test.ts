import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { kernelsModule } from '../../tests/made/kernels';
import { Kernels } from '../kernels/kernels';
import { choke, discAround } from './choke';

let kernels: Kernels;
beforeAll(() => (kernels = new Kernels(kernelsModule())));

/** Plain: the least around each pixel, what lies beyond being empty. */
function plain(plane: Uint8Array, width: number, height: number, reach: number): Uint8Array {
  const places = discAround({ x: reach, y: reach });
  return plane.map((own, i) => {
    const [x, y] = [i % width, Math.floor(i / width)];
    return places.reduce((least, { dx, dy, floor }) => {
      const [px, py] = [x + dx, y + dy];
      const there = px >= 0 && px < width && py >= 0 && py < height ? plane[py * width + px]! : 0;
      return Math.min(least, Math.max(there, Math.round(floor * 255)));
    }, own);
  });
}

/** A shape as soft at its edges as it is drawn: `inside` is how far a place lies within it, pixels. */
const shape = (width: number, height: number, inside: (x: number, y: number) => number) =>
  Uint8Array.from({ length: width * height }, (_, i) =>
    Math.round(255 * Math.min(1, Math.max(0, inside((i % width) + 0.5, Math.floor(i / width) + 0.5) + 0.5)))
  );

describe('a plane that is drawn in', () => {
  it('is the least around each pixel, as a plain computation has it', () => {
    const planes = fc.record({
      width: fc.integer({ min: 1, max: 70 }),
      height: fc.integer({ min: 1, max: 40 }),
      reach: fc.double({ min: 0.3, max: 9, noNaN: true }),
      seed: fc.array(fc.constantFrom(0, 255, 255, 255, 90), { minLength: 1, maxLength: 40 }),
      run: fc.integer({ min: 1, max: 60 })
    });
    fc.assert(
      fc.property(planes, ({ width, height, reach, seed, run }) => {
        const plane = Uint8Array.from({ length: width * height }, (_, i) => seed[Math.floor(i / run) % seed.length]!);
        expect(choke(plane, width, height, { x: reach, y: reach }, kernels)).toEqual(plain(plane, width, height, reach));
      }),
      { numRuns: 60 }
    );
  });

  it.each([1, 2, 5.67, 12.3])('by %d pixels has its edge where a distance transform has it, to half a pixel', (reach) => {
    const side = 160;
    // A disc, a slanted half, and a square that stands on its corner: edges in every direction.
    const shapes: ((x: number, y: number) => number)[] = [
      (x, y) => 60.3 - Math.hypot(x - 80, y - 80),
      (x, y) => (x - 80) * Math.cos(0.4) + (y - 80) * Math.sin(0.4),
      (x, y) => (60 - Math.abs(x - 80) - Math.abs(y - 80)) / Math.SQRT2
    ];
    for (const inside of shapes) {
      const made = choke(shape(side, side, inside), side, side, { x: reach, y: reach }, kernels);
      const wrong = made.filter((v, i) => {
        const [x, y] = [(i % side) + 0.5, Math.floor(i / side) + 0.5];
        const left = inside(x, y) - reach;
        const tells = Math.min(x, y, side - x, side - y) > reach + 2 && Math.abs(left) > 0.5;
        return tells && v > 127 !== left > 0;
      });
      expect(wrong).toHaveLength(0);
    }
  });

  it('lets what is soft fade: never more than before, and in the same order', () => {
    const fade = Uint8Array.from({ length: 200 * 8 }, (_, i) => Math.min(255, (i % 200) * 1.3));
    const made = choke(fade, 200, 8, { x: 6, y: 6 }, kernels);
    const middle = [...made.subarray(4 * 200 - 200, 4 * 200)];
    middle.forEach((v, x) => expect(v).toBeLessThanOrEqual(fade[x]!));
    // Far from all edges it is as it was six pixels before: rows above and below are too near the border here.
    const tall = choke(
      new Uint8Array(200 * 40).map((_, i) => Math.min(255, (i % 200) * 1.3)),
      200,
      40,
      { x: 6, y: 6 },
      kernels
    );
    for (let x = 20; x < 180; x++) expect(Math.abs(tall[20 * 200 + x]! - fade[x - 6]!)).toBeLessThan(4);
  });

  it('across and along by what each is said to be', () => {
    const square = shape(60, 60, (x, y) => Math.min(x - 10, 50 - x, y - 10, 50 - y));
    const made = choke(square, 60, 60, { x: 8, y: 2 }, kernels);
    const covered = (x: number, y: number) => made[y * 60 + x]! > 127;
    expect([covered(17, 30), covered(19, 30), covered(30, 11), covered(30, 13)]).toEqual([false, true, false, true]);
  });
});

describe('a plane that is drawn out', () => {
  it('is what is left when all around it is drawn in', () => {
    const dot = shape(64, 64, (x, y) => 8 - Math.hypot(x - 32, y - 32));
    const made = choke(dot, 64, 64, { x: -5, y: -5 }, kernels);
    for (let i = 0; i < made.length; i++) {
      const inside = 13 - Math.hypot((i % 64) + 0.5 - 32, Math.floor(i / 64) + 0.5 - 32);
      if (Math.abs(inside) > 0.5) expect(made[i]! > 127).toBe(inside > 0);
    }
  });

  it('and in again has its edge where it was, to half a pixel', () => {
    const dot = shape(64, 64, (x, y) => 12 - Math.hypot(x - 32, y - 32));
    const out = choke(dot, 64, 64, { x: -4, y: -4 }, kernels);
    const back = choke(out, 64, 64, { x: 4, y: 4 }, kernels);
    back.forEach((v, i) => {
      const inside = 12 - Math.hypot((i % 64) + 0.5 - 32, Math.floor(i / 64) + 0.5 - 32);
      if (Math.abs(inside) > 0.5) expect(v > 127).toBe(inside > 0);
    });
  });

  it('by nothing is the same plane', () => {
    const plane = new Uint8Array(16);
    expect(choke(plane, 4, 4, { x: 0, y: 0 }, kernels)).toBe(plane);
  });
});
