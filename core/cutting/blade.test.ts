import { describe, expect, it } from 'vitest';
import type { Point } from '../geometry/matrix';
import { distanceTo } from '../geometry/path';
import { strokesOf, tipWays, turnedStrokes } from './blade';
import { DEFAULT_KNIVES, type Knife, type KnifeChoice } from '../media/knife';
import type { CutLine } from './order';

/** Where the tip of the blade goes, when its head is led as it is told. */

const NEAR_MM = 0.1;
const withKnife = (knife: Partial<Knife>): KnifeChoice => ({
  ...DEFAULT_KNIVES,
  'kiss cut': { ...DEFAULT_KNIVES['kiss cut'], ...knife }
});
const line = (points: Point[], closed: boolean): CutLine => ({ points, closed, tool: 'kiss cut' });
/** Two legs that turn by an angle, degrees. */
const corner = (turn: number, leg = 20): Point[] => {
  const a = (turn * Math.PI) / 180;
  return [{ x: 0, y: 0 }, { x: leg, y: 0 }, { x: leg + leg * Math.cos(a), y: leg * Math.sin(a) }]; // prettier-ignore
};
const ring = (sides: number, radius: number): Point[] =>
  Array.from({ length: sides }, (_, i) => ({
    x: 50 + radius * Math.cos((2 * Math.PI * i) / sides),
    y: 50 + radius * Math.sin((2 * Math.PI * i) / sides)
  }));

/** The farthest that a way is from a line, and the line from the way, mm. */
function apart(way: readonly Point[], of: CutLine): number {
  const cut = { points: [...way], closed: false };
  const dense = of.points.flatMap((p, i) => {
    const q = of.points[i + 1] ?? (of.closed ? of.points[0]! : p);
    return Array.from({ length: 50 }, (_, k) => ({ x: p.x + ((q.x - p.x) * k) / 50, y: p.y + ((q.y - p.y) * k) / 50 }));
  });
  return Math.max(...way.map((p) => distanceTo(of, p)), ...dense.map((p) => distanceTo(cut, p)));
}

describe('a drag knife', () => {
  it.each([20, 45, 60, 90, 120, 150, 160, -20, -90, -160])('keeps to a corner of %i° within 0.1 mm', (turn) => {
    for (const offset of [0.2, 0.25, 0.5, 0.9]) {
      const asked = line(corner(turn), false);
      const [stroke] = strokesOf([asked], withKnife({ offset }));
      expect(apart(tipWays([stroke!.points], offset).ways[0]!, asked)).toBeLessThan(NEAR_MM);
    }
  });

  it('would cut a corner short without being led round it', () => {
    const asked = line(corner(90), false);
    const [stroke] = strokesOf([asked], withKnife({ offset: 0 }));
    expect(apart(tipWays([stroke!.points], 0.5).ways[0]!, asked)).toBeGreaterThan(0.2);
  });

  it('keeps to curves and polygons, closed, whatever lay before, however it trailed at first', () => {
    const asked = [
      line(ring(120, 3), true),
      line(ring(4, 20).toReversed(), true),
      line(ring(5, 4), true),
      line(corner(-135), false)
    ];
    const knives = withKnife({ offset: 0.4 });
    for (const heading of [0, 90, 200]) {
      const strokes = strokesOf(asked, knives, heading);
      const { ways } = tipWays(strokes.map(({ points }) => points), 0.4, heading); // prettier-ignore
      expect(strokes.map((stroke) => stroke.line)).toEqual([0, 1, 2, 3]);
      ways.forEach((way, i) => expect(apart(way, asked[i]!)).toBeLessThan(NEAR_MM));
    }
  });

  it('that trails otherwise than is thought starts beside its line: the heading matters', () => {
    const asked = line(corner(90), false);
    const [stroke] = strokesOf([asked], withKnife({ offset: 0.5 }), 0);
    expect(apart(tipWays([stroke!.points], 0.5, 180).ways[0]!, asked)).toBeGreaterThan(0.5);
  });
});

describe('other blades', () => {
  const square = line([{ x: 0, y: 0 }, { x: 10, y: 0 }, { x: 10, y: 10 }, { x: 0, y: 10 }], true); // prettier-ignore

  it('are lifted at corners sharper than the lift angle, and at none that are blunter', () => {
    const tangential = { blade: 'tangential knife', liftAngle: 30, overcut: 0 } as const;
    const strokes = strokesOf([square, line(ring(60, 10), true)], withKnife(tangential));
    expect(strokes.filter((stroke) => stroke.line === 0)).toHaveLength(4);
    expect(strokes.filter((stroke) => stroke.line === 1)).toHaveLength(1);
    for (const { points } of strokes.slice(0, 4)) expect(points).toHaveLength(2);
  });

  it('cut a line in passes: a closed one round and round, an open one there and back', () => {
    const way = (cut: CutLine, knife: Partial<Knife>) =>
      strokesOf([cut], withKnife({ offset: 0, overcut: 0, ...knife }))[0]!.points;
    const length = (points: Point[]) => points.reduce((sum, p, i) => sum + (i === 0 ? 0 : Math.hypot(p.x - points[i - 1]!.x, p.y - points[i - 1]!.y)), 0); // prettier-ignore
    expect(length(way(square, { passes: 3 }))).toBeCloseTo(120, 9);
    expect(length(way(square, { passes: 2, overcut: 3 }))).toBeCloseTo(83, 9);
    expect(length(way(square, { overcut: 55 }))).toBeCloseTo(95, 9);
    const there = way(line(corner(90), false), { passes: 2 });
    expect(length(there)).toBeCloseTo(80, 9);
    expect(there.at(-1)).toEqual(there[0]);
  });
});

describe('a knife that trails as nobody knows', () => {
  const line = (tool: CutLine['tool'], x: number): CutLine => ({ points: [{ x, y: 0 }, { x, y: 50 }], closed: false, tool }); // prettier-ignore
  const turn = [{ x: 0, y: 0 }, { x: 5, y: 0 }]; // prettier-ignore
  const lines = [line('kiss cut', 20), line('kiss cut', 30), line('crease', 40), line('through cut', 50), line('kiss cut', 60)];

  it('is turned in the waste before the first line of each tool that is a drag knife, wheels are not', () => {
    const strokes = turnedStrokes(lines, DEFAULT_KNIVES, turn);
    expect(strokes.map(({ line: of }) => of)).toEqual([-1, 0, 1, 2, -1, 3, -1, 4]);
    expect(turnedStrokes(lines, DEFAULT_KNIVES, undefined).map(({ line: of }) => of)).toEqual([0, 1, 2, 3, 4]);
  });

  it('cuts each first line from its start on, whatever it cut before', () => {
    const strokes = turnedStrokes(lines, DEFAULT_KNIVES, turn);
    for (const [i, { line: of, tool, points }] of strokes.entries()) {
      if (of !== -1) continue;
      const next = strokes[i + 1]!;
      // Turned by the stroke in the waste, wherever the tip was.
      const { ways } = tipWays([points, next.points], DEFAULT_KNIVES[tool].offset, 200);
      for (const p of ways[1]!) expect(Math.abs(p.x - lines[next.line]!.points[0]!.x)).toBeLessThan(0.05);
    }
  });
});
