import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, describe, expect, it } from 'vitest';
import { temporaryFolder } from '../../../../tests/harness';
import { nearestInk } from './nearest-ink';

const folder = temporaryFolder();
afterAll(() => folder.remove());
const paths = { overview: join(folder.path, 'overview'), coarse: join(folder.path, 'coarse') };
const PLATES = 3;

interface Drop {
  x: number;
  y: number;
  plate: number;
}

/** Writes the means of plates that have ink in some cells of 8 × 8 pixels alone. */
function write({ columns, heightPx, drops }: { columns: number; heightPx: number; drops: readonly Drop[] }): void {
  const file = (cell: number) => {
    const across = (columns * 64) / cell;
    const means = new Uint8Array(across * Math.ceil(heightPx / cell) * PLATES);
    for (const { x, y, plate } of drops) means[(Math.floor(y / cell) * across + Math.floor(x / cell)) * PLATES + plate] = 1;
    return means;
  };
  writeFileSync(paths.overview, file(8));
  writeFileSync(paths.coarse, file(64));
}

const made = fc
  .record({ columns: fc.integer({ min: 1, max: 12 }), heightPx: fc.integer({ min: 1, max: 1500 }) })
  .chain((size) => {
    const pixel = { x: fc.nat(size.columns * 64 - 1), y: fc.nat(size.heightPx - 1) };
    return fc.record({
      ...Object.fromEntries(Object.entries(size).map(([name, value]) => [name, fc.constant(value)])),
      at: fc.record(pixel),
      drops: fc.array(fc.record({ ...pixel, plate: fc.nat(PLATES - 1) }), { maxLength: 8 }),
      shown: fc.array(fc.boolean(), { minLength: PLATES, maxLength: PLATES })
    }) as fc.Arbitrary<typeof size & { at: { x: number; y: number }; drops: Drop[]; shown: boolean[] }>;
  });

describe('the ink that is nearest to a point', () => {
  it('is of a plate that is shown, in the nearest cell of 64 × 64 pixels that has any', async () => {
    await fc.assert(
      fc.asyncProperty(made, async ({ at, drops, shown, ...size }) => {
        write({ ...size, drops });
        const place = await nearestInk({ paths, size: { widthPx: size.columns * 64, heightPx: size.heightPx }, shown, ...at });
        const seen = drops.filter(({ plate }) => shown[plate]);
        if (!place) {
          expect(seen).toEqual([]);
          return;
        }
        const cell = (pixel: number) => Math.floor(pixel / 8);
        expect(seen.some(({ x, y }) => cell(x) === cell(place.x) && cell(y) === cell(place.y))).toBe(true);
        expect(place.y).toBeLessThan(size.heightPx);
        const middle = (pixel: number) => (Math.floor(pixel / 64) + 0.5) * 64;
        const away = ({ x, y }: { x: number; y: number }) => Math.hypot(middle(x) - at.x, middle(y) - at.y);
        expect(away(place)).toBe(Math.min(...seen.map(away)));
      }),
      { numRuns: 400 }
    );
  });

  it('is where the point is, when there is ink', async () => {
    const drops = [0, 1, 2, 3].map((i) => ({ x: 200 + 8 * i, y: 96, plate: 1 }));
    write({ columns: 8, heightPx: 300, drops });
    const request = { paths, size: { widthPx: 512, heightPx: 300 }, shown: [false, true, false] };
    expect(await nearestInk({ ...request, x: 219, y: 99 })).toEqual({ x: 220, y: 100 });
    // From far beyond the end the way is the same.
    expect(await nearestInk({ ...request, x: 5000, y: 90_000 })).toEqual({ x: 228, y: 100 });
    expect(await nearestInk({ ...request, shown: [true, false, true], x: 219, y: 99 })).toBeUndefined();
  });

  it('is not looked for in plates that are gone', async () => {
    const request = { size: { widthPx: 64, heightPx: 64 }, shown: [true], x: 1, y: 1 };
    const gone = nearestInk({ ...request, paths: { ...paths, coarse: `${paths.coarse}.gone` } });
    await expect(gone).rejects.toThrow('The plates of this run are gone. RIP it again.');
  });
});
