import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Point } from '../geometry/matrix';
import {
  addNode,
  fitInto,
  fromNodes,
  isSmooth,
  moveHandle,
  moveNode,
  nearestOn,
  removeNode,
  reverse,
  setSmooth,
  snap,
  startAt,
  toNodes,
  withLine,
  type Node,
  type NodeLine
} from './nodes';

const figure = fc.integer({ min: -500, max: 500 }).map((v) => v / 4);
const point: fc.Arbitrary<Point> = fc.record({ x: figure, y: figure });
const handle = fc.option(point, { nil: undefined });
const node: fc.Arbitrary<Node> = fc.record({ at: point, before: handle, after: handle });
const line: fc.Arbitrary<NodeLine> = fc.record({ nodes: fc.array(node, { minLength: 2, maxLength: 6 }), closed: fc.boolean() });
const share = fc.integer({ min: 1, max: 9 }).map((v) => v / 10);

const pieces = ({ nodes, closed }: NodeLine) => (closed ? nodes.length : nodes.length - 1);
/** A place on a piece, by its cubic written out (a straight piece is one whose handles lie in its ends). */
function on({ nodes }: NodeLine, piece: number, t: number): Point {
  const [from, to] = [nodes[piece]!, nodes[(piece + 1) % nodes.length]!];
  const isStraight = !from.after && !to.before;
  const along = (k: 'x' | 'y') => {
    const [a, d] = [from.at[k], to.at[k]];
    if (isStraight) return a + (d - a) * t;
    const [b, c] = [(from.after ?? from.at)[k], (to.before ?? to.at)[k]];
    return (1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t ** 2 * c + t ** 3 * d;
  };
  return { x: along('x'), y: along('y') };
}
const near = (p: Point, q: Point) => expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeLessThan(1e-6);
const T = [0, 0.25, 0.5, 0.9, 1];

describe('a line of nodes', () => {
  it('is the same path again', () => {
    fc.assert(
      fc.property(line, (one) => {
        const [again] = toNodes(fromNodes([one]));
        // A closed line whose last node lies on its first has that once.
        fc.pre(again?.nodes.length === one.nodes.length);
        expect(again.closed).toBe(one.closed);
        for (let piece = 0; piece < pieces(one); piece++) for (const t of T) near(on(again, piece, t), on(one, piece, t));
      })
    );
  });

  it('keeps its shape where it gets a node more, at the end of an open line too', () => {
    fc.assert(
      fc.property(line, fc.nat(5), share, (one, n, t) => {
        const index = n % one.nodes.length;
        const more = addNode(one, index, t);
        const piece = !one.closed && index === one.nodes.length - 1 ? index - 1 : index;
        expect(more.nodes).toHaveLength(one.nodes.length + 1);
        for (const s of T) {
          near(on(more, piece, s), on(one, piece, s * t));
          near(on(more, piece + 1, s), on(one, piece, t + (1 - t) * s));
          for (let other = 0; other < pieces(one); other++)
            if (other !== piece) near(on(more, other > piece ? other + 1 : other, s), on(one, other, s));
        }
      })
    );
  });

  it('runs the other way, or from another node, over the same places', () => {
    fc.assert(
      fc.property(line, fc.nat(5), (one, n) => {
        const back = reverse(one);
        expect(reverse(back)).toEqual(one);
        const count = one.nodes.length;
        for (let piece = 0; piece < count - 1; piece++)
          for (const t of T) near(on(back, count - 2 - piece, 1 - t), on(one, piece, t));
        const index = n % count;
        const moved = startAt(one, index);
        expect(moved.nodes[0]).toEqual(one.closed ? one.nodes[index] : one.nodes[0]);
        if (one.closed)
          for (let piece = 0; piece < count; piece++) near(on(moved, piece, 0.3), on(one, (piece + index) % count, 0.3));
      })
    );
  });

  it('is found where it is nearest to a place', () => {
    fc.assert(
      fc.property(line, fc.nat(5), share, point, (one, n, t, p) => {
        const piece = n % pieces(one);
        const found = nearestOn(one, p);
        const place = on(one, found.index, found.t);
        expect(Math.hypot(place.x - p.x, place.y - p.y)).toBeCloseTo(found.distance, 6);
        // No place of the line is nearer, but for a step of the search.
        const [q, step] = [on(one, piece, t), on(one, piece, t + 0.025)];
        const slack = 3 * Math.hypot(step.x - q.x, step.y - q.y) + 1;
        expect(found.distance).toBeLessThanOrEqual(Math.hypot(q.x - p.x, q.y - p.y) + slack);
      })
    );
  });

  it('is moved with its handles, loses nodes, and is none any more where too few are left', () => {
    fc.assert(
      fc.property(line, fc.nat(5), point, (one, n, to) => {
        const index = n % one.nodes.length;
        const { at, before, after } = one.nodes[index]!;
        const moved = moveNode(one, index, to).nodes[index]!;
        expect(moved.at).toEqual(to);
        for (const [was, is] of [
          [before, moved.before],
          [after, moved.after]
        ])
          if (was) near({ x: is!.x - to.x, y: is!.y - to.y }, { x: was.x - at.x, y: was.y - at.y });
          else expect(is).toBeUndefined();
        const less = removeNode(one, index);
        const left = one.nodes.length - 1;
        expect(less.nodes).toHaveLength(left < (one.closed ? 3 : 2) ? 0 : left);
        expect(withLine([one, one], 1, () => less)).toHaveLength(less.nodes.length > 0 ? 2 : 1);
      })
    );
  });

  it('that is smooth at a node stays so when a handle is dragged, each handle as long as it was', () => {
    fc.assert(
      fc.property(line, fc.nat(5), point, fc.constantFrom('before' as const, 'after' as const), (one, n, to, which) => {
        const index = n % one.nodes.length;
        const smooth = setSmooth(one, index, true);
        const before = smooth.nodes[index]!;
        fc.pre(isSmooth(before) && Math.hypot(to.x - before.at.x, to.y - before.at.y) > 0.01);
        const after = moveHandle(smooth, index, which, to).nodes[index]!;
        const other = which === 'before' ? 'after' : 'before';
        const length = ({ at, [other]: p }: Node) => Math.hypot(p!.x - at.x, p!.y - at.y);
        expect(after[which]).toEqual(to);
        expect(isSmooth(after)).toBe(true);
        expect(length(after)).toBeCloseTo(length(before), 6);
        const straight = setSmooth(smooth, index, false).nodes[index]!;
        expect([straight.before, straight.after]).toEqual([undefined, undefined]);
        // Where it is a corner only that handle goes along.
        const corner = { ...smooth, nodes: smooth.nodes.map((one, i) => (i === index ? { ...one, [other]: { x: one.at.x + 3, y: one.at.y + 900 } } : one)) }; // prettier-ignore
        if (!isSmooth(corner.nodes[index]!))
          expect(moveHandle(corner, index, which, to).nodes[index]![other]).toEqual(corner.nodes[index]![other]);
      })
    );
  });

  it('fits into a box, and back again', () => {
    const size = fc.integer({ min: 1, max: 400 });
    const box = fc.record({ x: figure, y: figure, width: size, height: size });
    fc.assert(
      fc.property(fc.array(line, { minLength: 1, maxLength: 3 }), box, box, (lines, from, to) => {
        const there = fitInto(lines, from, to);
        const back = fitInto(there, to, from);
        for (const [l, one] of lines.entries())
          for (const [i, { at }] of one.nodes.entries()) {
            const now = there[l]!.nodes[i]!.at;
            expect((now.x - to.x) / to.width).toBeCloseTo((at.x - from.x) / from.width, 6);
            expect((now.y - to.y) / to.height).toBeCloseTo((at.y - from.y) / from.height, 6);
            near(back[l]!.nodes[i]!.at, at);
          }
      })
    );
    // What has no width is moved and not stretched.
    const upright: NodeLine = { nodes: [{ at: { x: 5, y: 0 } }, { at: { x: 5, y: 10 } }], closed: false };
    const [moved] = fitInto([upright], { x: 5, y: 0, width: 0, height: 10 }, { x: 50, y: 20, width: 30, height: 40 });
    expect(moved!.nodes.map(({ at }) => at)).toEqual([{ x: 50, y: 20 }, { x: 50, y: 60 }]); // prettier-ignore
  });
});

describe('a dragged point', () => {
  it('snaps to what is nearest: a place, else guides across and along, each for itself', () => {
    fc.assert(
      fc.property(
        point,
        fc.array(point),
        fc.array(figure),
        fc.array(figure),
        fc.integer({ min: 0, max: 40 }),
        (p, places, x, y, reach) => {
          const { at, snapped } = snap(p, places, { x, y }, reach);
          const far = (q: Point) => Math.hypot(q.x - p.x, q.y - p.y);
          const least = Math.min(...places.map(far));
          if (least <= reach) {
            expect([snapped, far(at)]).toEqual([true, least]);
            return;
          }
          const onGuide = (own: number, guides: number[]) => {
            const off = Math.min(...guides.map((guide) => Math.abs(guide - own)));
            return off <= reach ? off : 0;
          };
          expect(Math.abs(at.x - p.x)).toBeCloseTo(onGuide(p.x, x), 9);
          expect(Math.abs(at.y - p.y)).toBeCloseTo(onGuide(p.y, y), 9);
          const isOn = (own: number, guides: number[]) => guides.some((guide) => Math.abs(guide - own) <= reach);
          expect(snapped).toBe(isOn(p.x, x) || isOn(p.y, y));
        }
      )
    );
  });
});
