import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { PageLine } from '../artwork/facts';
import { wholePage } from '../artwork/preparation';
import type { Point } from '../geometry/matrix';
import {
  areaWithin,
  bounds,
  contains,
  distanceTo,
  flatten,
  lengthOf,
  pathData,
  polylinePath,
  rectanglePath,
  signedArea,
  type Polyline
} from '../geometry/path';
import { bridge } from './bridge';
import { traceField } from './contour';
import { dashes, withTabs } from './dashes';
import { finishedLines, madeOutline, pageShape } from './docket-lines';
import { DEFAULT_CUT, type CutChoices, type MadeLine } from '../artwork/cut-choices';
import { fitRing } from './fit';
import { crossings, doubles, islands, slivers } from './line-faults';
import { addNode, fromNodes, moveNode, nearestOn, reverse, setSmooth, startAt, toNodes } from './nodes';
import { grow, unite } from '../geometry/areas';
import { coverage } from './trace-outline';

const MM = 25.4 / 150;

/** Coverage of pixels by what `inside` says, from 8 × 8 places of each. */
function raster(width: number, height: number, inside: (x: number, y: number) => boolean): Uint8Array {
  const field = new Uint8Array(width * height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      let n = 0;
      for (let j = 0; j < 8; j++) for (let i = 0; i < 8; i++) if (inside((x + (i + 0.5) / 8) * MM, (y + (j + 0.5) / 8) * MM)) n++;
      field[y * width + x] = Math.round((n * 255) / 64);
    }
  }
  return field;
}

const circleRing = (cx: number, cy: number, r: number, n = 400): Point[] =>
  Array.from({ length: n }, (_, i) => ({
    x: cx + r * Math.cos((i * 2 * Math.PI) / n),
    y: cy + r * Math.sin((i * 2 * Math.PI) / n)
  }));
const box = (x: number, y: number, w: number, h: number): Point[] => [
  { x, y },
  { x: x + w, y },
  { x: x + w, y: y + h },
  { x, y: y + h }
];

/** The farthest that each lies from the other. */
function apart(lines: readonly Polyline[], truth: Polyline): number {
  const there = Math.max(...lines.flatMap((line) => line.points.map((p) => distanceTo(truth, p))));
  const back = Math.max(...truth.points.map((p) => Math.min(...lines.map((line) => distanceTo(line, p)))));
  return Math.max(there, back);
}

const made = (part: Partial<MadeLine>): MadeLine => ({
  id: 'a',
  tool: 'kiss cut',
  from: { kind: 'page', shape: 'rectangle', radiusMm: 0 },
  offsetMm: 0,
  corners: 'round',
  smoothMm: 0.02,
  holes: true,
  smallestMm2: 0,
  bridgeMm: 0,
  ...part
});

describe('contours from pixels', () => {
  const shapes: [string, (x: number, y: number) => boolean, (offset: number) => Polyline][] = [
    [
      'a circle',
      (x, y) => Math.hypot(x - 20.13, y - 17.3) <= 14,
      (d) => ({ closed: true, points: circleRing(20.13, 17.3, 14 + d, 2000) })
    ],
    [
      'a rectangle',
      (x, y) => Math.abs(x - 20.13) <= 15 && Math.abs(y - 17.3) <= 10,
      (d) => ({ closed: true, points: box(20.13 - 15 - d, 17.3 - 10 - d, 30 + 2 * d, 20 + 2 * d) })
    ]
  ];
  it.each(shapes)('follow %s at 150 dpi within 0.1 mm everywhere, also offset', (_name, inside, truth) => {
    const field = raster(240, 210, inside);
    const rings = traceField(field, 240, 210, 128, 4).map((ring) => ring.map((p) => ({ x: p.x * MM, y: p.y * MM })));
    expect(rings).toHaveLength(1);
    const outline = pathData(
      rings.flatMap((ring) => fitRing(ring, MM * 0.3, MM)),
      4
    );
    const from = { kind: 'found', how: 'opaque', threshold: 0.5, background: null, outline } as const;
    const size = { widthMm: 40, heightMm: 35 };
    for (const offsetMm of [0, 2, -2]) {
      const line = madeOutline(made({ from, offsetMm, corners: 'sharp' }), wholePage(size), size);
      expect(apart(flatten(line, 0.002), truth(offsetMm))).toBeLessThan(0.1);
      expect(line.length).toBeLessThan(30);
    }
  });

  it('run clockwise around what is inside, the other way around holes, and close at the edge of the picture', () => {
    const field = raster(100, 80, (x, y) => x < 12 && !(x > 3 && x < 6 && y > 3 && y < 6));
    const areas = traceField(field, 100, 80, 128).map((ring) => signedArea(ring) * MM * MM);
    expect(areas).toHaveLength(2);
    expect(Math.max(...areas)).toBeCloseTo(12 * 80 * MM, 0);
    expect(Math.min(...areas)).toBeCloseTo(-9, 0);
  });

  it('find every pixel once, whatever the picture', () => {
    fc.assert(
      fc.property(fc.array(fc.boolean(), { minLength: 48, maxLength: 48 }), (bits) => {
        const field = Uint8Array.from(bits, (bit) => (bit ? 255 : 0));
        const rings = traceField(field, 8, 6, 128);
        for (let y = 0; y < 6; y++) {
          for (let x = 0; x < 8; x++) {
            const around = rings.filter((ring) => contains(ring, { x: x + 0.5, y: y + 0.5 })).length;
            expect(around % 2 === 1).toBe(bits[y * 8 + x]);
          }
        }
      })
    );
  });

  it('lie on the edge of what differs from a background, whatever the threshold', () => {
    // Twice the colour distance of 40 where covered in full.
    const field = Uint8Array.from(
      raster(240, 210, (x, y) => Math.hypot(x - 20, y - 17) <= 12),
      (v) => (v * 80) / 255
    );
    for (const threshold of [6, 16, 30]) {
      const [ring] = traceField(coverage(field, 240, 210, threshold), 240, 210, 128, 4);
      const worst = Math.max(...(ring ?? []).map((p) => Math.abs(Math.hypot(p.x * MM - 20, p.y * MM - 17) - 12)));
      expect(worst).toBeLessThan(0.05);
    }
  });
});

describe('lines of a docket', () => {
  const size = { widthMm: 100, heightMm: 60 };
  const page: PageLine[] = [{ spot: 'Cut', path: rectanglePath({ x: 10, y: 10, width: 30, height: 20 }) }];
  const linesOf = (cut: Partial<CutChoices>, prepare = wholePage(size)) =>
    finishedLines(page, () => 'kiss cut', prepare, size, { ...DEFAULT_CUT, ...cut });

  it('follow the page when it is turned and mirrored', () => {
    const [line] = linesOf({}, { ...wholePage(size), mirror: true });
    expect(bounds(flatten(line?.outline ?? [], 0.1))).toMatchObject({ x: 60, y: 10, width: 30, height: 20 });
    const turned = finishedLines(
      page,
      () => 'kiss cut',
      { ...wholePage(size), turn: 90 },
      { widthMm: 60, heightMm: 100 },
      DEFAULT_CUT
    );
    expect(bounds(flatten(turned[0]?.outline ?? [], 0.1))).toMatchObject({ x: 30, y: 10, width: 20, height: 30 });
  });

  it('grow by a distance of the finished size, not of the page', () => {
    const large = { widthMm: 200, heightMm: 120 };
    const [line] = finishedLines(page, () => 'kiss cut', wholePage(size), large, {
      ...DEFAULT_CUT,
      customer: { use: true, offsetMm: -0.5, corners: 'sharp' }
    });
    const found = bounds(flatten(line?.outline ?? [], 0.01));
    expect(found?.x).toBeCloseTo(20.5, 2);
    expect(found?.width).toBeCloseTo(59, 2);
  });

  it('keep their straight sides straight when they grow, with few nodes', () => {
    for (const radiusMm of [0, 2, 6, 20]) {
      for (const offsetMm of [-1, 0.3, 5]) {
        const from = { kind: 'page', shape: 'rounded', radiusMm } as const;
        const line = madeOutline(made({ from, offsetMm }), wholePage(size), size);
        const true_ = pageShape('rounded', Math.max(0, radiusMm + offsetMm), {
          widthMm: 100 + 2 * offsetMm,
          heightMm: 60 + 2 * offsetMm
        });
        const wanted = flatten(true_, 0.002)[0]!;
        const moved = { ...wanted, points: wanted.points.map((p) => ({ x: p.x - offsetMm, y: p.y - offsetMm })) };
        // A square corner shrunk stays square; grown, it is round.
        if (radiusMm > 0) expect(apart(flatten(line, 0.002), moved)).toBeLessThan(0.03);
        expect(line.length).toBeLessThan(24);
      }
    }
  });

  it('leave out what is small, and holes when asked', () => {
    const outline = pathData([
      ...rectanglePath({ x: 0, y: 0, width: 40, height: 40 }),
      ...rectanglePath({ x: 10, y: 10, width: 10, height: 10 }),
      ...rectanglePath({ x: 60, y: 0, width: 2, height: 2 })
    ]);
    const from = { kind: 'found', how: 'shapes', threshold: 0, background: null, outline } as const;
    const count = (part: Partial<MadeLine>) => flatten(madeOutline(made({ from, ...part }), wholePage(size), size), 0.1).length;
    expect(count({})).toBe(3);
    expect(count({ smallestMm2: 10 })).toBe(2);
    expect(count({ holes: false })).toBe(2);
    expect(count({ holes: false, bridgeMm: 1 })).toBe(1);
  });

  it('weed without cutting into what stays', () => {
    const all = linesOf({ weed: { border: true, marginMm: 5, everyMm: 4 } });
    const weed = all.filter((line) => line.id === 'weed').flatMap((line) => flatten(line.outline, 0.1));
    expect(weed.filter((line) => line.closed)).toHaveLength(1);
    expect(weed.length).toBeGreaterThan(6);
    const kept = box(10, 10, 30, 20);
    for (const line of weed.filter((one) => !one.closed)) {
      for (const t of [0, 0.25, 0.5, 0.75, 1]) {
        const [p, q] = [line.points[0]!, line.points[1]!];
        expect(contains(kept, { x: p.x + (q.x - p.x) * t, y: p.y + (q.y - p.y) * t })).toBe(false);
      }
    }
  });
});

describe('tabs and perforation', () => {
  const square = rectanglePath({ x: 0, y: 0, width: 50, height: 30 });
  it('take off exactly the gaps', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 12 }), fc.double({ min: 0.2, max: 3, noNaN: true }), (count, length) => {
        const lines = flatten(withTabs(square, count, length), 0.01);
        expect(lines).toHaveLength(count);
        expect(lines.reduce((sum, line) => sum + lengthOf(line), 0)).toBeCloseTo(160 - count * length, 6);
      })
    );
  });
  it('cut and skip in turn, in the proportion asked for, and come out even', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.5, max: 8, noNaN: true }), fc.double({ min: 0.3, max: 4, noNaN: true }), (cut, skip) => {
        const lines = flatten(dashes(square, cut, skip), 0.01);
        const total = lines.reduce((sum, line) => sum + lengthOf(line), 0);
        expect(total / 160).toBeCloseTo(cut / (cut + skip), 6);
      })
    );
  });
});

describe('bridges', () => {
  it('make one piece of many, and add no more than they are wide', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.tuple(fc.integer({ min: 0, max: 6 }), fc.integer({ min: 0, max: 6 })), {
          minLength: 2,
          maxLength: 8,
          selector: ([x, y]) => `${x}/${y}`
        }),
        (places) => {
          const rings = places.map(([x, y]) => circleRing(x * 30, y * 30, 10, 60));
          const joined = bridge(rings, 2).filter((ring) => signedArea(ring) > 0);
          expect(joined).toHaveLength(1);
          for (const ring of rings)
            expect(
              contains(joined[0] ?? [], ring[0]!) || distanceTo({ points: joined[0] ?? [], closed: true }, ring[0]!) < 0.01
            ).toBe(true);
        }
      ),
      { numRuns: 30 }
    );
  });
});

describe('a piece that lies in the hole of another', () => {
  // A ring with a dot in its middle.
  const [ring, hole, dot] = [circleRing(0, 0, 30, 90), circleRing(0, 0, 20, 90).reverse(), circleRing(0, 0, 6, 60)];
  const inside = (rings: readonly Point[][], p: Point) => rings.filter((one) => contains(one, p)).length % 2 === 1;

  it('is bridged across the hole, and the rest of the hole stays', () => {
    const joined = bridge([ring, hole, dot], 2);
    expect(joined.filter((one) => signedArea(one) > 0)).toHaveLength(1);
    expect(inside(joined, { x: 0, y: 0 })).toBe(true);
    expect(inside(joined, { x: 25, y: 0 })).toBe(true);
    // Of the room around the dot only the bridge is taken, 14 mm long and 2 wide.
    const taken = areaWithin([ring]) - areaWithin([hole]) + areaWithin([dot]);
    expect(areaWithin(joined) - taken).toBeGreaterThan(26);
    expect(areaWithin(joined) - taken).toBeLessThan(31);
  });

  it('is no line of its own where holes are not cut', () => {
    const outline = [ring, hole, dot].flatMap((points) => polylinePath({ points, closed: true }));
    const from = { kind: 'found', how: 'opaque', threshold: 0.5, background: null, outline: pathData(outline) } as const;
    const size = { widthMm: 80, heightMm: 80 };
    const lines = (holes: boolean) => flatten(madeOutline(made({ from, holes }), wholePage(size), size), 0.01);
    expect(lines(true)).toHaveLength(3);
    expect(lines(false)).toHaveLength(1);
  });
});

describe('faults of lines', () => {
  const closed = (points: Point[]): Polyline => ({ points, closed: true });
  it('are found where they are', () => {
    const bow = closed([
      { x: 0, y: 0 },
      { x: 10, y: 10 },
      { x: 10, y: 0 },
      { x: 0, y: 10 }
    ]);
    expect(crossings([bow])).toEqual([{ x: 5, y: 5 }]);
    expect(crossings([closed(box(0, 0, 10, 10)), closed(box(20, 0, 10, 10))])).toEqual([]);
    expect(doubles([closed(box(0, 0, 10, 10)), closed(box(0.02, 0, 10, 10)), closed(box(5, 0, 10, 10))], 0.05)).toEqual([1]);
    expect(islands([closed(box(0, 0, 50, 50)), closed(box(10, 10, 2, 2)), closed(box(70, 0, 2, 2))], 3)).toHaveLength(1);
  });
  it('are not seen in sound ones: circles, rounded and square boxes of any size above the knife', () => {
    fc.assert(
      fc.property(fc.double({ min: 2, max: 80, noNaN: true }), (r) => {
        expect(slivers([circleRing(0, 0, r, 200)], 0.6)).toEqual([]);
        expect(slivers([box(0, 0, r, 2 * r)], 0.6)).toEqual([]);
        expect(crossings([closed(circleRing(0, 0, r, 200))])).toEqual([]);
      }),
      { numRuns: 30 }
    );
  });
});

describe('nodes', () => {
  const shape = pageShape('rounded', 8, { widthMm: 60, heightMm: 40 });
  const lines = () => toNodes(shape);
  const differs = (p: ReturnType<typeof lines>) => apart(flatten(fromNodes(p), 0.002), flatten(shape, 0.002)[0]!);

  it('give the same line again', () => {
    expect(lines()[0]?.nodes).toHaveLength(8);
    expect(differs(lines())).toBeLessThan(0.003);
  });
  it('stay the same shape when one is added, the line reversed, or started elsewhere', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 7 }), fc.double({ min: 0.05, max: 0.95, noNaN: true }), (index, t) => {
        const [line] = lines();
        if (!line) throw new Error('no line');
        expect(differs([addNode(line, index, t)])).toBeLessThan(0.005);
        expect(differs([startAt(reverse(line), index)])).toBeLessThan(0.005);
      })
    );
  });
  it('move alone, and turn smooth and straight', () => {
    const [line] = lines();
    if (!line) throw new Error('no line');
    const moved = moveNode(line, 2, { x: 70, y: 5 });
    expect(moved.nodes[2]?.at).toEqual({ x: 70, y: 5 });
    expect(moved.nodes.filter((node, i) => node.at !== line.nodes[i]?.at)).toHaveLength(1);
    expect(setSmooth(line, 2, false).nodes[2]?.after).toBeUndefined();
    expect(setSmooth(setSmooth(line, 2, false), 2, true).nodes[2]?.after).toBeDefined();
    const { index, distance } = nearestOn(line, { x: 30, y: -1 });
    expect(index).toBe(0);
    expect(distance).toBeCloseTo(1, 1);
  });
});

describe('areas', () => {
  it('grown and shrunk again by the same are the same, when nothing is thin', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.2, max: 4, noNaN: true }), (d) => {
        const [ring] = grow(grow([circleRing(0, 0, 10)], d, 'round'), -d, 'round');
        expect(apart([{ points: ring ?? [], closed: true }], { points: circleRing(0, 0, 10), closed: true })).toBeLessThan(0.02);
      }),
      { numRuns: 20 }
    );
  });
  it('united count overlaps once', () => {
    const area = unite([box(0, 0, 10, 10), box(5, 0, 10, 10)]).reduce((sum, ring) => sum + signedArea(ring), 0);
    expect(area).toBeCloseTo(150, 6);
  });
});
