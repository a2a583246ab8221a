import { describe, expect, it } from 'vitest';
import { strokesOf } from '$core/cutting/blade';
import { DEFAULT_KNIVES } from '$core/media/knife';
import { distanceTo } from '$core/geometry/path';
import type { CutLine } from '$core/cutting/order';
import { bladeWays } from './tip';

const square: CutLine = {
  points: [{ x: 20, y: 10 }, { x: 30, y: 10 }, { x: 30, y: 20 }, { x: 10, y: 20 }, { x: 10, y: 10 }], // prettier-ignore
  closed: true,
  tool: 'kiss cut'
};

describe('the blade of the cutter', () => {
  it('cuts the line when its head is led round the corners, once a stroke in the waste has turned it', () => {
    const waste = [{ x: 0, y: 0 }, { x: 5, y: 0 }]; // prettier-ignore
    const [stroke] = strokesOf([square], DEFAULT_KNIVES, 0);
    const [, way] = bladeWays([waste, stroke!.points], [1, 1]);
    expect(Math.max(...way!.map((p) => distanceTo(square, p)))).toBeLessThan(0.05);
    // Turned by nothing it comes in from where it happened to trail.
    const [alone] = bladeWays([stroke!.points], [1]);
    expect(Math.max(...alone!.map((p) => distanceTo(square, p)))).toBeGreaterThan(0.1);
  });

  it('under a pen without an offset goes where the head goes', () => {
    expect(bladeWays([square.points], [2])).toEqual([square.points]);
  });
});
