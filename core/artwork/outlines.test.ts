import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { openBytes } from '../../tests/made/opened';
import { smallPage } from '../../tests/made/small-page';
import type { Point } from '../geometry/matrix';
import { areaWithin, contains } from '../geometry/path';
import { pageOutlines } from './outlines';

/** What a page of 20 × 20 mm covers, mm from its lower left corner. */
function outlinesOf(content: string, resources = ''): Point[][] {
  const document = openBytes(smallPage(content, resources));
  try {
    return pageOutlines(document, 0, { spots: [], layers: [] }).map((ring) => ring.map(({ x, y }) => ({ x, y: 20 - y })));
  } finally {
    document.destroy();
  }
}

const inside = (rings: readonly Point[][], p: Point) => rings.filter((ring) => contains(ring, p)).length % 2 === 1;

interface Shape {
  x: number;
  y: number;
  width: number;
  height: number;
}
/** The ways in which a file says that a rectangle is covered. */
const WAYS: Record<string, (shape: Shape) => string> = {
  filled: ({ x, y, width, height }) => `0 g ${x} ${y} ${width} ${height} re f`,
  'filled the other way round': ({ x, y, width, height }) =>
    `0 g ${x} ${y} m ${x} ${y + height} l ${x + width} ${y + height} l ${x + width} ${y} l h f`,
  'a picture': ({ x, y, width, height }) => picture(`${width} 0 0 ${height} ${x} ${y}`),
  'a picture mirrored': ({ x, y, width, height }) => picture(`${-width} 0 0 ${height} ${x + width} ${y}`),
  'a picture upside down': ({ x, y, width, height }) => picture(`${width} 0 0 ${-height} ${x} ${y + height}`),
  'a picture turned': ({ x, y, width, height }) => picture(`0 ${height} ${-width} 0 ${x + width} ${y}`),
  'a picture that is clipped': ({ x, y, width, height }) =>
    `q ${x} ${y} ${width} ${height} re W n ${picture(`${-width - 4} 0 0 ${height + 4} ${x + width + 2} ${y - 2}`)} Q`,
  'a mask painted': ({ x, y, width, height }) =>
    `q 0 g ${width} 0 0 ${height} ${x} ${y} cm BI /W 1 /H 1 /IM true /BPC 1 /F /AHx ID 00> EI Q`,
  'a thick line': ({ x, y, width, height }) =>
    `0 G 0 J ${height} w ${x + height / 2} ${y + height / 2} m ${Math.max(x + width - height / 2, x + height / 2)} ${y + height / 2} l S`
};
const picture = (matrix: string) => `q ${matrix} cm BI /W 1 /H 1 /CS /G /BPC 8 /F /AHx ID 40> EI Q`;

describe('the outlines of a page', () => {
  it('cover what is drawn, whichever way round it lies and whatever lies on it', () => {
    const shape = fc.record({
      x: fc.integer({ min: 0, max: 14 }),
      y: fc.integer({ min: 0, max: 14 }),
      width: fc.integer({ min: 1, max: 6 }),
      height: fc.integer({ min: 1, max: 6 }),
      way: fc.constantFrom(...Object.keys(WAYS).filter((way) => way !== 'a thick line'))
    });
    fc.assert(
      fc.property(fc.array(shape, { minLength: 1, maxLength: 7 }), (shapes) => {
        const rings = outlinesOf(shapes.map((one) => WAYS[one.way]!(one)).join('\n'));
        for (let x = 0.5; x < 20; x++)
          for (let y = 0.5; y < 20; y++) {
            const covered = shapes.some((s) => x > s.x && x < s.x + s.width && y > s.y && y < s.y + s.height);
            expect([x, y, inside(rings, { x, y })]).toEqual([x, y, covered]);
          }
      }),
      { numRuns: 40 }
    );
  });

  it('leave white out, and what the file marks as cut away', () => {
    expect(outlinesOf('1 g 2 2 5 5 re f 1 1 1 RG 3 w 1 1 m 9 9 l S')).toEqual([]);
    // A frame: even and odd, and one inside the other the other way round.
    expect(areaWithin(outlinesOf('0 g 2 2 10 10 re 4 4 6 6 re f*'))).toBeCloseTo(64, 3);
    expect(areaWithin(outlinesOf('0 g 2 2 10 10 re f 1 g 4 4 6 6 re f'))).toBeCloseTo(100, 3);
  });

  it('have the width of lines, and at least that of a blade', () => {
    const line = outlinesOf(WAYS['a thick line']!({ x: 2, y: 5, width: 12, height: 3 }));
    // Ends are round.
    expect(areaWithin(line)).toBeCloseTo(9 * 3 + Math.PI * 1.5 ** 2, 1);
    expect(areaWithin(outlinesOf('0 G 0 w 2 2 m 12 2 l S'))).toBeCloseTo(10 * 0.05, 1);
  });

  it('are the letters of lettering, with what they leave open', () => {
    const font = '/Font<</F1<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>>>';
    const rings = outlinesOf('BT /F1 14 Tf 0 g 3 4 Td (O) Tj ET', font);
    expect(rings).toHaveLength(2);
    const middle = { x: 3 + 0.389 * 14, y: 4 + 0.36 * 14 };
    expect(inside(rings, middle)).toBe(false);
    expect(inside(rings, { x: 3 + 0.08 * 14, y: middle.y })).toBe(true);
    // As clip they bound a picture.
    const clipped = outlinesOf(`q BT /F1 14 Tf 7 Tr 3 4 Td (O) Tj ET ${picture('20 0 0 20 0 0')} Q`, font);
    expect(areaWithin(clipped)).toBeCloseTo(areaWithin(rings), 1);
  });
});
