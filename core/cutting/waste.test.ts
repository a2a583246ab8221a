import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DEFAULT_MARKS, registrationMarks } from '../marks/registration';
import type { Box } from '../geometry/box';
import type { CutLine } from './order';
import { TEST_CUT_MM, testCut, wasteFor } from './waste';

const rectangle = ({ x, y, width, height }: Box): CutLine => ({
  points: [{ x, y }, { x: x + width, y }, { x: x + width, y: y + height }, { x, y: y + height }], // prettier-ignore
  closed: true,
  tool: 'kiss cut'
});
const meets = (p: Box, q: Box) => p.x < q.x + q.width && q.x < p.x + p.width && p.y < q.y + q.height && q.y < p.y + p.height;

describe('a place in the waste', () => {
  const side = fc.double({ min: 15, max: 120, noNaN: true });
  const piece = fc.record({
    x: fc.double({ min: 30, max: 500, noNaN: true }),
    y: fc.double({ min: 30, max: 500, noNaN: true }),
    width: side,
    height: side
  });

  it('is off all lines, marks and codes, and between the marks', () => {
    fc.assert(
      fc.property(fc.array(piece, { minLength: 1, maxLength: 12 }), side, (pieces, code) => {
        const marks = registrationMarks(pieces, DEFAULT_MARKS);
        const kept = [{ x: 40, y: 10, width: code, height: 9 }];
        const at = wasteFor({ marks, kept, lines: pieces.map(rectangle) }, 6, 2);
        fc.pre(at !== undefined);
        const place = { ...at!, width: 6, height: 2 };
        const discs = marks.map(({ x, y, diameter }) => ({
          x: x - diameter / 2,
          y: y - diameter / 2,
          width: diameter,
          height: diameter
        }));
        for (const box of [...pieces, ...kept, ...discs]) expect(meets(place, box)).toBe(false);
      })
    );
  });

  it('is nowhere where there is none', () => {
    expect(wasteFor({ marks: [], kept: [], lines: [rectangle({ x: 0, y: 0, width: 50, height: 50 })] }, 6, 2)).toBeUndefined();
    expect(wasteFor({ marks: [], kept: [], lines: [] }, 6, 2)).toBeUndefined();
  });

  it('holds a test cut', () => {
    const points = testCut({ x: 7, y: 9 }, 'through cut').flatMap((line) => line.points);
    for (const { x, y } of points) {
      expect(x).toBeGreaterThanOrEqual(7);
      expect(x).toBeLessThanOrEqual(7 + TEST_CUT_MM.width);
      expect(y).toBeGreaterThanOrEqual(9);
      expect(y).toBeLessThanOrEqual(9 + TEST_CUT_MM.height);
    }
  });
});
