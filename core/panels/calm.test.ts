import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { calmSeams, type CalmChoices } from './calm';
import { detailOf, detailUnder, transposed, withSpared, type Detail } from './detail';
import { courseAt, reachOf, type Seam } from './wall';

const COLUMNS = 300;
const ROWS = 100;
/** A wall of 3 × 1 m, a cm a cell; busy everywhere but where it says. */
const EXTENT = 3000;
function made(calm: (column: number, row: number) => boolean): Detail {
  const cells = new Uint8Array(COLUMNS * ROWS).fill(200);
  for (let row = 0; row < ROWS; row++)
    for (let column = 0; column < COLUMNS; column++) if (calm(column, row)) cells[row * COLUMNS + column] = 0;
  return { columns: COLUMNS, rows: ROWS, cells };
}
const CHOICES: CalmChoices = {
  rangeMm: 200,
  curved: false,
  rooms: [1300, 1300, 1300],
  leastMm: 100,
  corners: [],
  cornerMm: 100
};
const SEAMS: Seam[] = [
  { at: 1000, course: [] },
  { at: 2000, course: [] }
];

describe('detail of a picture', () => {
  it('is nothing where nothing changes, all of it at edges, and more where more changes', () => {
    const width = 64;
    const pixels = new Uint8Array(width * 32 * 3).fill(240);
    // Stripes on the left, a slope in the middle, one that is not seen on the right.
    for (let y = 0; y < 32; y++)
      for (let x = 0; x < width; x++) {
        const v = x < 20 ? (x % 4 < 2 ? 0 : 255) : x < 40 ? 60 + 4 * x : 240 - ((x - 40) >> 1);
        pixels.fill(v, (y * width + x) * 3, (y * width + x) * 3 + 3);
      }
    const { columns, rows, cells } = detailOf(pixels, width, 32);
    expect([columns, rows]).toEqual([32, 16]);
    const at = (column: number) => cells[5 * columns + column]!;
    expect(at(4)).toBe(255);
    expect(at(15)).toBeGreaterThan(0);
    expect(at(15)).toBeLessThan(40);
    expect(at(28)).toBe(0);
    // Crowded around, though nothing changes there itself: the middle of a frame of lines.
    const frame = new Uint8Array(200 * 200 * 3).fill(255);
    for (let i = 92; i < 108; i++) for (const [x, y] of [[i, 92], [i, 107], [92, i], [107, i]] as const) frame.fill(0, (y * 200 + x) * 3, (y * 200 + x) * 3 + 3); // prettier-ignore
    const inFrame = detailOf(frame, 200, 200);
    expect(inFrame.cells[48 * 100 + 48]!).toBeGreaterThan(80);
    expect(inFrame.cells[20 * 100 + 20]!).toBe(0);
    expect(transposed(transposed({ columns, rows, cells })).cells).toEqual(cells);
  });

  it('counts in full where a place is to be spared, and nowhere else', () => {
    const none = made(() => true);
    const spared = withSpared(none, { widthMm: EXTENT, heightMm: 1000 }, [{ x: 500, y: 200, width: 100, height: 300 }]);
    expect(spared.cells.reduce((sum, v) => sum + v, 0)).toBe(255 * 10 * 30);
    expect(none.cells.every((v) => v === 0)).toBe(true);
    expect(detailUnder(spared, EXTENT, { at: 550, course: [] })).toMatchObject({ mean: 0.3, worst: 1 });
    expect(detailUnder(spared, EXTENT, { at: 550, course: [] }).worstAt).toBeCloseTo(0.25, 6);
    expect(detailUnder(spared, EXTENT, { at: 650, course: [] })).toMatchObject({ mean: 0, worst: 0 });
  });
});

describe('calm seams', () => {
  it('find the one calm column within their range, and stay where there is none calmer', () => {
    fc.assert(
      fc.property(fc.integer({ min: 85, max: 115 }), fc.integer({ min: 185, max: 215 }), (first, second) => {
        const detail = made((column) => column === first || column === second);
        const found = calmSeams(detail, EXTENT, SEAMS, CHOICES)!;
        expect(found.map(({ at }) => at)).toEqual([first * 10 + 5, second * 10 + 5]);
        expect(found.every((seam) => detailUnder(detail, EXTENT, seam).mean === 0)).toBe(true);
      }),
      { numRuns: 30 }
    );
    const busy = calmSeams(
      made(() => false),
      EXTENT,
      SEAMS,
      CHOICES
    )!;
    expect(busy.map(({ at }) => Math.abs((at % 1000) - 5))).toEqual([0, 0]);
  });

  it('follow a way that bends gently, near it all the way, where they may', () => {
    const way = (row: number) => Math.round(100 + 6 * Math.sin((row / ROWS) * 2 * Math.PI));
    const detail = made((column, row) => Math.abs(column - way(row)) <= 1);
    const [seam] = calmSeams(detail, EXTENT, SEAMS.slice(0, 1), { ...CHOICES, curved: true, rooms: [3000, 3000] }) as [Seam];
    expect(seam.course.length).toBeGreaterThan(10);
    for (let row = 0; row < ROWS; row += 5)
      expect(Math.abs(seam.at + courseAt(seam, row / (ROWS - 1)) - (way(row) * 10 + 5))).toBeLessThan(30);
    const straight = calmSeams(detail, EXTENT, SEAMS.slice(0, 1), { ...CHOICES, rooms: [3000, 3000] })!;
    expect(detailUnder(detail, EXTENT, seam).mean).toBeLessThan(0.15);
    expect(detailUnder(detail, EXTENT, straight[0]!).mean).toBeGreaterThan(0.4);
  });

  it('leave no strip wider than its room, whatever the artwork is, and keep away from corners', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ minLength: 400, maxLength: 400 }),
        fc.integer({ min: 1020, max: 1200 }),
        fc.boolean(),
        fc.integer({ min: 800, max: 1200 }),
        (noise, room, curved, corner) => {
          const cells = Uint8Array.from({ length: COLUMNS * ROWS }, (_, i) => noise[(i * 31 + (i >> 7)) % 400]!);
          const detail = { columns: COLUMNS, rows: ROWS, cells };
          const choices = { ...CHOICES, curved, rooms: [room, room, room], corners: [corner], cornerMm: 30 };
          const found = calmSeams(detail, EXTENT, SEAMS, choices);
          if (!found) return;
          const edges = [{ at: 0, course: [] }, ...found, { at: EXTENT, course: [] }];
          edges.slice(1).forEach((right, i) => {
            const left = edges[i]!;
            expect(right.at + reachOf(right).most - left.at - reachOf(left).least).toBeLessThanOrEqual(room + 1e-6);
          });
          for (const seam of found) {
            const { least, most } = reachOf(seam);
            expect(seam.at + least > corner + 29 || seam.at + most < corner - 29).toBe(true);
          }
        }
      ),
      { numRuns: 60 }
    );
  });

  it('are none where no places keep the strips within their rooms', () => {
    expect(
      calmSeams(
        made(() => true),
        EXTENT,
        SEAMS,
        { ...CHOICES, rooms: [700, 700, 700] }
      )
    ).toBeUndefined();
    expect(
      calmSeams(
        made(() => true),
        EXTENT,
        [],
        CHOICES
      )
    ).toEqual([]);
  });
});
