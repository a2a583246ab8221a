import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  apply,
  chain,
  determinant,
  IDENTITY,
  invert,
  rotation,
  scaling,
  translation,
  turnedInPlace,
  turnedSize,
  turnRings,
  type Matrix,
  type Point
} from './matrix';
import {
  alongSegment,
  areaWithin,
  bounds,
  contains,
  distanceTo,
  distanceToSegment,
  flatten,
  lengthOf,
  parsePathData,
  pathData,
  polylinePath,
  rectanglePath,
  signedArea,
  subpaths,
  transformPath,
  type Path,
  type Segment
} from './path';

const figure = fc.integer({ min: -4000, max: 4000 }).map((v) => v / 8);
const point: fc.Arbitrary<Point> = fc.record({ x: figure, y: figure });
const degrees = fc.integer({ min: -720, max: 720 });
const factor = fc.integer({ min: 1, max: 40 }).map((v) => v / 8);
/** Turned, stretched, sheared, mirrored and moved. */
const map: fc.Arbitrary<Matrix> = fc
  .record({
    turn: degrees,
    sx: factor,
    sy: factor,
    shear: fc.integer({ min: -8, max: 8 }).map((v) => v / 8),
    isMirrored: fc.boolean(),
    by: point
  }) // prettier-ignore
  .map(({ turn, sx, sy, shear, isMirrored, by }) =>
    [scaling(isMirrored ? -sx : sx, sy), [1, 0, shear, 1, 0, 0] as Matrix, rotation(turn), translation(by.x, by.y)].reduce(chain)
  );
const near = (p: Point, q: Point, within = 1e-6) => expect(Math.hypot(p.x - q.x, p.y - q.y)).toBeLessThan(within);
const segment: fc.Arbitrary<Segment> = fc.oneof(
  fc.record({ kind: fc.constant('line' as const), to: point }),
  fc.record({ kind: fc.constant('curve' as const), c1: point, c2: point, to: point })
);
const path: fc.Arbitrary<Path> = fc
  .array(fc.record({ from: point, pieces: fc.array(segment, { minLength: 1, maxLength: 4 }), isClosed: fc.boolean() }), {
    minLength: 1,
    maxLength: 3
  }) // prettier-ignore
  .map(
    (parts) =>
    parts.flatMap(({ from, pieces, isClosed }): Path => [{ kind: 'move', to: from }, ...pieces, ...(isClosed ? [{ kind: 'close' as const }] : [])]) // prettier-ignore
  );
const ring = fc.array(point, { minLength: 3, maxLength: 9 });

describe('maps of the plane', () => {
  it('go one after another, and back again', () => {
    fc.assert(
      fc.property(map, map, map, point, (m, n, o, p) => {
        near(apply(chain(m, n), p), apply(n, apply(m, p)), 1e-4);
        near(apply(chain(chain(m, n), o), p), apply(chain(m, chain(n, o)), p), 1e-2);
        near(apply(chain(m, invert(m)), p), p, 1e-5);
        near(apply(chain(IDENTITY, m), p), apply(m, p));
        expect(determinant(chain(m, n))).toBeCloseTo(determinant(m) * determinant(n), 3);
      })
    );
    expect(() => invert(scaling(1, 0))).toThrow('no inverse');
  });

  it('turn a rectangle in its place, in the box that it is said to take', () => {
    fc.assert(
      fc.property(factor, factor, degrees, (width, height, turn) => {
        const corners = [0, width].flatMap((x) => [0, height].map((y) => apply(turnedInPlace(width, height, turn), { x, y })));
        const box = bounds([{ points: corners, closed: true }])!;
        near(box, { x: 0, y: 0 });
        const size = turnedSize(width, height, turn);
        near({ x: box.width, y: box.height }, { x: size.width, y: size.height });
      })
    );
    // Quarter turns are exact: a piece that is turned lies where one that is not does.
    for (const turn of [0, 90, 180, 270]) expect(rotation(turn).every(Number.isInteger)).toBe(true);
    expect(turnRings([[{ x: 3, y: 1 }]], 90)).toEqual([[{ x: -1, y: 3 }]]);
  });
});

describe('an outline', () => {
  it('is the same again from its text, and moves as its points do', () => {
    fc.assert(
      fc.property(path, map, (one, m) => {
        expect(parsePathData(pathData(one, 6))).toEqual(one);
        const [there, moved] = [flatten(transformPath(one, m), 0.01), flatten(one, 0.01)];
        expect(there.length).toBe(moved.length);
        for (const [i, { points }] of moved.entries()) near(there[i]!.points[0]!, apply(m, points[0]!), 1e-5);
      })
    );
    for (const bad of ['M1', 'L1 2', 'M1 2 L', 'M0 0Q1 2 3 4', 'M0 0L1 x', 'M0 0Z1'])
      expect(() => parsePathData(bad), bad).toThrow(RangeError);
    expect(parsePathData('')).toEqual([]);
  });

  it('as straight lines lies within the tolerance of its curves, and keeps their ends', () => {
    fc.assert(
      fc.property(point, fc.tuple(point, point, point), fc.constantFrom(0.01, 0.1, 1), (from, [c1, c2, to], tolerance) => {
        const [line] = flatten([{ kind: 'move', to: from }, { kind: 'curve', c1, c2, to }], tolerance); // prettier-ignore
        fc.pre(line !== undefined && !line.closed);
        near(line.points[0]!, from);
        near(line.points.at(-1)!, to);
        for (let k = 0; k <= 97; k++) {
          const [t, u] = [k / 97, 1 - k / 97];
          const at = (of: 'x' | 'y') => u ** 3 * from[of] + 3 * u * u * t * c1[of] + 3 * u * t * t * c2[of] + t ** 3 * to[of];
          expect(distanceTo(line, { x: at('x'), y: at('y') })).toBeLessThanOrEqual(tolerance * 1.001 + 1e-9);
        }
      })
    );
  });

  it('that comes back to its start is closed, said or not, and has that point once', () => {
    fc.assert(
      fc.property(ring, (points) => {
        fc.pre(Math.hypot(points[0]!.x - points.at(-1)!.x, points[0]!.y - points.at(-1)!.y) > 1e-3);
        const said = flatten(polylinePath({ points, closed: true }), 0.1);
        const unsaid = flatten(polylinePath({ points: [...points, points[0]!], closed: false }), 0.1);
        expect(said).toEqual([{ points, closed: true }]);
        expect(unsaid).toEqual(said);
        expect(flatten(polylinePath({ points, closed: false }), 0.1)).toEqual([{ points, closed: false }]);
      })
    );
    const two = [...rectanglePath({ x: 0, y: 0, width: 4, height: 2 }), ...rectanglePath({ x: 9, y: 9, width: 1, height: 1 })];
    expect(subpaths(two).map((part) => part.length)).toEqual([5, 5]);
    // After one is closed a line goes on from its start.
    const goesOn: Path = [...rectanglePath({ x: 1, y: 1, width: 4, height: 2 }), { kind: 'line', to: { x: 9, y: 9 } }];
    expect(flatten(goesOn, 0.1)[1]).toEqual({ points: [{ x: 1, y: 1 }, { x: 9, y: 9 }], closed: false }); // prettier-ignore
  });
});

describe('rings', () => {
  it('have an area that maps change by their determinant, and that runs the other way when they do', () => {
    fc.assert(
      fc.property(ring, map, (points, m) => {
        const area = signedArea(points);
        const moved = signedArea(points.map((p) => apply(m, p)));
        expect(Math.abs(moved - area * determinant(m))).toBeLessThan(1e-2 + Math.abs(moved) * 1e-6);
        expect(signedArea(points.toReversed())).toBeCloseTo(-area, 4);
        const hole = points.map(({ x, y }) => ({ x: x / 2, y: y / 2 })).toReversed();
        expect(areaWithin([points, hole])).toBeCloseTo(Math.abs(area) * 0.75, 3);
      })
    );
    expect(signedArea([{ x: 0, y: 0 }, { x: 3, y: 0 }, { x: 3, y: 2 }, { x: 0, y: 2 }])).toBe(6); // prettier-ignore
  });

  it('hold what lies on one side of all their edges, where they are convex', () => {
    const convex = fc
      .record({ angles: fc.uniqueArray(fc.integer({ min: 0, max: 359 }), { minLength: 3, maxLength: 12 }), r: factor, at: point })
      .map(({ angles, r, at }) => angles.sort((a, b) => a - b).map((a) => apply(rotation(a), { x: 20 * r, y: 0 })).map((p) => ({ x: p.x + at.x, y: p.y + at.y }))); // prettier-ignore
    fc.assert(
      fc.property(convex, fc.integer({ min: -30, max: 30 }), fc.integer({ min: -30, max: 30 }), (points, dx, dy) => {
        const p = { x: points[0]!.x + dx, y: points[0]!.y + dy };
        // On the edge it may fall on either side.
        fc.pre(distanceTo({ points, closed: true }, p) > 1e-6);
        const sides = points.map((a, i) => {
          const b = points[(i + 1) % points.length]!;
          return (b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x);
        });
        expect(contains(points, p)).toBe(sides.every((side) => side > 0));
      })
    );
  });

  it('are as long, and as far from a place, wherever they are moved to', () => {
    fc.assert(
      fc.property(ring, fc.boolean(), degrees, point, point, (points, closed, turn, by, p) => {
        const m = chain(rotation(turn), translation(by.x, by.y));
        const line = { points, closed };
        const moved = { points: points.map((one) => apply(m, one)), closed };
        expect(lengthOf(moved)).toBeCloseTo(lengthOf(line), 4);
        expect(distanceTo(moved, apply(m, p))).toBeCloseTo(distanceTo(line, p), 4);
        // No farther than any of its points, and no nearer than the nearest of many places along it.
        const corners = Math.min(...points.map((q) => Math.hypot(q.x - p.x, q.y - p.y)));
        expect(distanceTo(line, p)).toBeLessThanOrEqual(corners + 1e-9);
        const [a, b] = [points[0]!, points[1]!];
        const along = Array.from({ length: 201 }, (_, k) => Math.hypot(a.x + ((b.x - a.x) * k) / 200 - p.x, a.y + ((b.y - a.y) * k) / 200 - p.y)); // prettier-ignore
        const step = Math.hypot(b.x - a.x, b.y - a.y) / 200;
        expect(distanceToSegment(a, b, p)).toBeLessThanOrEqual(Math.min(...along) + 1e-9);
        expect(distanceToSegment(a, b, p)).toBeGreaterThanOrEqual(Math.min(...along) - step);
        const t = alongSegment(a, b, p);
        expect(t >= 0 && t <= 1).toBe(true);
      })
    );
  });
});
