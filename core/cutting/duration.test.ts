import { describe, expect, it } from 'vitest';
import { MOVES, secondsAlong } from '$standins/cutter/motion';
import { seededRandom } from '../geometry/random';
import { DEFAULT_KNIVES } from '../media/knife';
import { strokesOf } from './blade';
import { cuttingSeconds, USUAL_MOVES, waySeconds } from './duration';
import type { CutLine } from './order';

const circle = (cx: number, cy: number, r: number, n = 120) =>
  Array.from({ length: n }, (_, i) => ({ x: cx + r * Math.cos((2 * Math.PI * i) / n), y: cy + r * Math.sin((2 * Math.PI * i) / n) })); // prettier-ignore

describe('how long a cut takes', () => {
  it('is that of even speeding up and slowing down, and never less than at full speed', () => {
    const way = [{ x: 0, y: 0 }, { x: 300, y: 0 }]; // prettier-ignore
    expect(waySeconds(way, 400, USUAL_MOVES)).toBeCloseTo(300 / 400 + 400 / 5000, 6);
    // Too short to come to speed.
    expect(waySeconds([{ x: 0, y: 0 }, { x: 2, y: 0 }], 400, USUAL_MOVES)).toBeCloseTo(2 * Math.sqrt(2 / 5000), 6); // prettier-ignore
    expect(waySeconds([], 400, USUAL_MOVES)).toBe(0);
    const round = circle(0, 0, 40);
    expect(waySeconds(round, 400, USUAL_MOVES)).toBeGreaterThan((2 * Math.PI * 40 * 0.99) / 400);
  });

  it('grows with the corners, and with slower knives', () => {
    const random = seededRandom(2);
    for (let trial = 0; trial < 50; trial++) {
      const way = Array.from({ length: 12 }, () => ({ x: 200 * random(), y: 200 * random() }));
      const length = way.slice(1).reduce((sum, p, i) => sum + Math.hypot(p.x - way[i]!.x, p.y - way[i]!.y), 0);
      const straight = waySeconds([{ x: 0, y: 0 }, { x: length, y: 0 }], 400, USUAL_MOVES); // prettier-ignore
      expect(waySeconds(way, 400, USUAL_MOVES)).toBeGreaterThan(straight);
      expect(waySeconds(way, 200, USUAL_MOVES)).toBeGreaterThan(waySeconds(way, 400, USUAL_MOVES));
    }
  });

  it('is within 5 % of what a machine takes whose two motors differ', () => {
    const random = seededRandom(4);
    for (let trial = 0; trial < 12; trial++) {
      const lines: CutLine[] = Array.from({ length: 60 }, (_, i) => {
        const [x, y] = [1200 * random(), 2000 * random()];
        const size = 5 + 80 * random();
        const points = i % 3 === 0 ? circle(x, y, size / 2, 90) : i % 3 === 1 ? [{ x, y }, { x: x + size, y }, { x: x + size, y: y + size }, { x, y: y + size }] : circle(x, y, size, 5); // prettier-ignore
        return { points, closed: true, tool: trial % 2 === 0 ? 'kiss cut' : 'through cut' };
      });
      const strokes = strokesOf(lines, DEFAULT_KNIVES);
      let at = { x: 0, y: 0 };
      let truth = 0;
      for (const { tool, points } of strokes) {
        truth += secondsAlong([at, points[0]!], MOVES.travel) + MOVES.lift + secondsAlong(points, DEFAULT_KNIVES[tool].speed * 10); // prettier-ignore
        at = points.at(-1)!;
      }
      expect(Math.abs(cuttingSeconds(strokes, DEFAULT_KNIVES, MOVES) / truth - 1)).toBeLessThan(0.05);
    }
  });
});
