import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { wholePage } from '../artwork/preparation';
import { evenSides } from '../geometry/box';
import { fourInks } from '../inks/ink-set';
import { inkOfPieces } from './ink-of-pieces';
import { plateLayout, type RipPlan } from './plan';

const COARSE = 64;
const DROP = 20;

/** A run of squares of 20 mm at 254 dpi (10 pixels a mm), at these places in mm. */
const planOf = (places: readonly { x: number; y: number }[], lengthMm = 400): RipPlan => ({
  widthMm: 200,
  lengthMm,
  dpi: { x: 254, y: 254 },
  inks: fourInks([5, 10, DROP]),
  layers: [{ ink: 'colour' }],
  totalInk: null,
  sources: [
    {
      prepare: wholePage({ widthMm: 20, heightMm: 20 }),
      file: 'a',
      page: 0,
      widthMm: 20,
      heightMm: 20,
      bleed: evenSides(0),
      intent: 'relative',
      sources: { rgb: '', cmyk: '', grey: '' }
    }
  ],
  pieces: places.map(({ x, y }) => ({ source: 0, x, y, turn: 0 })),
  marks: []
});

/** Means of a run by a function of the cell's middle in mm, 0…255 of cyan. */
function meansOf(plan: RipPlan, cyan: (xMm: number, yMm: number) => number) {
  const { widthPx } = plateLayout(plan);
  const columns = widthPx / COARSE;
  const asked: [number, number][] = [];
  const rows = (from: number, count: number) => {
    asked.push([from, count]);
    const bytes = new Uint8Array(count * columns * 4);
    for (let row = 0; row < count; row++)
      for (let column = 0; column < columns; column++)
        bytes[(row * columns + column) * 4] = cyan(((column + 0.5) * COARSE) / 10, ((from + row + 0.5) * COARSE) / 10);
    return bytes;
  };
  return { rows, asked, columns };
}
/** ml of a cell full of the largest drops. */
const FULL = (COARSE ** 2 * DROP) / 1e9;

describe('the ink of what lies on a run', () => {
  it('is that of the cells that it lies on, group by group', () => {
    const plan = planOf([{ x: 10, y: 10 }, { x: 100, y: 10 }, { x: 100, y: 300 }]); // prettier-ignore
    const { rows } = meansOf(plan, (x, y) => (y > 200 ? 51 : x < 64 ? 255 : 0));
    const [[first, ...others], [second]] = inkOfPieces(plan, [0, 1, 1], 2, rows) as [number[], number[]];
    // 100 … 300 pixels touch the cells from 64 to 320: 4 × 4 of them.
    expect(first).toBeCloseTo(16 * FULL, 12);
    // There is cyan alone, and of each ink its own.
    expect(others).toEqual([0, 0, 0]);
    // So do 1000 … 1200 across and 3000 … 3200 along, a fifth as full.
    expect(second).toBeCloseTo(0.2 * 16 * FULL, 12);
  });

  it('is divided where several lie on a cell, and none of it is lost or counted twice', () => {
    const place = fc.record({
      x: fc.double({ min: 0, max: 179, noNaN: true }),
      y: fc.double({ min: 0, max: 1900, noNaN: true })
    });
    fc.assert(
      fc.property(fc.array(place, { minLength: 1, maxLength: 12 }), fc.nat(250), (places, seed) => {
        const plan = planOf(places, 2000);
        const { rows, columns } = meansOf(plan, (x, y) => (Math.floor(x * 7 + y * 3) + seed) % 256);
        const by = inkOfPieces(plan, places.map((_, i) => i % 3), 3, rows).flat(); // prettier-ignore
        const all = inkOfPieces(plan, places.map(() => 0), 1, rows)[0]![0]!; // prettier-ignore
        expect(by.reduce((sum, ml) => sum + ml, 0)).toBeCloseTo(all, 12);
        // By hand: every cell that any piece touches, once.
        const touched = new Set<number>();
        for (const { x, y } of places) {
          const [left, top] = [Math.round(x * 10), Math.round(y * 10)];
          for (let row = Math.floor(top / COARSE); row < (top + 200) / COARSE; row++)
            for (let column = Math.floor(left / COARSE); column < (left + 200) / COARSE && column < columns; column++)
              touched.add(row * columns + column);
        }
        const whole = rows(0, Math.ceil(plateLayout(plan).heightPx / COARSE));
        const sum = [...touched].reduce((ml, cell) => ml + (whole[cell * 4]! / 255) * FULL, 0);
        expect(all).toBeCloseTo(sum, 10);
      }),
      { numRuns: 60 }
    );
  });

  it('is read a stretch at a time, and only where something lies', () => {
    const plan = planOf([{ x: 0, y: 0 }, { x: 0, y: 9000 }], 10_000); // prettier-ignore
    const { rows, asked } = meansOf(plan, () => 255);
    inkOfPieces(plan, [0, 0], 1, rows);
    expect(asked).toHaveLength(2);
    for (const [, count] of asked) expect(count).toBeLessThanOrEqual(256);
  });
});
