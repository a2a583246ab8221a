import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply } from '../../geometry/matrix';
import { svgSize, toPage } from './size';

const none = () => undefined;
const MM = 72 / 25.4;

describe('the size of an SVG', () => {
  const cases: [Record<string, string>, number, number][] = [
    [{ width: '90mm', height: '5cm' }, 90 * MM, 50 * MM],
    [{ width: '96', height: '1in' }, 72, 72],
    [{ width: '10pt', height: '2pc' }, 10, 24],
    [{ width: '1e2px', height: '+.5in' }, 75, 36],
    // One alone: the view box gives the other.
    [{ width: '100', viewBox: '0 0 200 50' }, 75, 18.75],
    [{ height: '100', viewBox: '0 0 200 50' }, 300, 75],
    [{ width: '100%', height: '100%', viewBox: '0 0 200 50' }, 150, 37.5],
    [{ viewBox: '10 10 200 50' }, 150, 37.5],
    [{ width: '0', height: '-4', viewBox: '0,0,8,4' }, 6, 3]
  ];
  it.each(cases)('%o', (root, width, height) => {
    const size = svgSize(root, none);
    expect(size.width).toBeCloseTo(width, 6);
    expect(size.height).toBeCloseTo(height, 6);
  });

  it('says when the file does not', () => {
    expect(svgSize({ viewBox: '0 0 8 4' }, none).note).toMatch(/does not say/);
    expect(svgSize({ width: '3', viewBox: '0 0 8 4' }, none).note).toBeUndefined();
    expect(svgSize({}, () => ({ x: 1, y: 2, width: 8, height: 4 }))).toMatchObject({
      width: 6,
      height: 3,
      viewBox: { x: 1, y: 2 }
    });
    expect(() => svgSize({}, none)).toThrow(/no size/);
    expect(() => svgSize({ viewBox: '0 0 0 4' }, none)).toThrow(/no size/);
  });

  const side = fc.double({ min: 1, max: 5000, noNaN: true });
  it('lays the view box into the page: all of it, or over all of it, or stretched', () => {
    fc.assert(
      fc.property(side, side, side, side, fc.constantFrom('', 'xMinYMax', 'xMaxYMid slice', 'none'), (w, h, bw, bh, aspect) => {
        const size = svgSize({ width: `${w}`, height: `${h}`, viewBox: `3 7 ${bw} ${bh}`, preserveAspectRatio: aspect }, none);
        const m = toPage(size);
        const corner = apply(m, { x: 3, y: 7 });
        const far = apply(m, { x: 3 + bw, y: 7 + bh });
        const [left, right, bottom, top] = [corner.x, size.width - far.x, far.y, size.height - corner.y];
        const little = 1e-6 * Math.max(w, h);
        if (aspect === 'none') for (const gap of [left, right, bottom, top]) expect(Math.abs(gap)).toBeLessThan(little);
        else {
          expect(m[0]).toBeCloseTo(-m[3], 9);
          for (const gap of [left, right, bottom, top]) expect(aspect.includes('slice') ? -gap : gap).toBeGreaterThan(-little);
          if (aspect === 'xMinYMax') expect([Math.abs(left) < little, Math.abs(bottom) < little]).toEqual([true, true]);
        }
      })
    );
  });
});
