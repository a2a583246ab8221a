import { grow, intersect } from '$core/geometry/areas';
import type { Point } from '$core/geometry/matrix';
import { shapeAt, type Item, type Placement, type PlaceRule } from '$core/layout/placement';
import { place } from '$core/layout/placing';
import { seededRandom } from '$core/geometry/random';
import { BY_SIZE, searchOrders } from '$core/layout/search';
import { fillSkyline, type Field, type Lot, type Packed } from '$core/layout/skyline';
import { fillGuillotine } from '$core/layout/straight-cuts';
import { areaWithin } from '$core/geometry/path';
import type { ShapeLot } from '$core/layout/true-shape';

const RULE: PlaceRule = {
  placing: 'close',
  gapX: 0,
  gapY: 0,
  margin: 0,
  lead: 0,
  tail: 0,
  align: 'left',
  single: false,
  fill: 'none',
  longest: null,
  turnStep: 90,
  effort: 'normal',
  steps: null
};

const STRIP_MM = 1000;
const STRIP: Field = { width: STRIP_MM, height: Infinity };

/** Pieces of a full strip, cut by straight cuts at random: their perfect packing is the strip. */
function cutStrip(pieces: number, seed: number): { lots: Lot[]; length: number } {
  const random = seededRandom(seed);
  const length = STRIP_MM * (0.8 + random() * 1.4);
  const parts = [{ w: STRIP_MM, h: length }];
  while (parts.length < pieces) {
    parts.sort((p, q) => q.w * q.h - p.w * p.h);
    const part = parts.splice(Math.floor(random() ** 2 * Math.min(parts.length, pieces / 4)), 1)[0]!;
    const share = 0.25 + random() * 0.5;
    if (random() < part.w / (part.w + part.h))
      parts.push({ w: part.w * share, h: part.h }, { w: part.w * (1 - share), h: part.h });
    else parts.push({ w: part.w, h: part.h * share }, { w: part.w, h: part.h * (1 - share) });
  }
  return {
    lots: parts.map((p, kind) => ({
      kind,
      width: p.w,
      height: p.h,
      turnedWidth: p.h,
      turnedHeight: p.w,
      count: 1,
      mayTurn: true
    })),
    length
  };
}

const SIZES = [20, 30, 50, 80, 120, 200, 300, 500];

/** Density reached in so many seconds, as a share of the perfect one: the mean over the made instances. */
type Fill = (lots: readonly Lot[], order: ArrayLike<number>, field: Field) => Packed;

function density(fill: Fill, seconds: number): number {
  let sum = 0;
  for (const [i, size] of SIZES.entries()) {
    const { lots, length } = cutStrip(size, 100 + i);
    const end = performance.now() + seconds * 1000;
    let best = Infinity;
    for (const packed of searchOrders(lots, BY_SIZE, (order) => fill(lots, order, STRIP), 0, length)) {
      if (packed) best = packed.used[0] ?? Infinity;
      if (performance.now() > end) break;
    }
    sum += length / best;
  }
  return (100 * sum) / SIZES.length;
}

const disc = (r: number, n = 48) =>
  Array.from({ length: n }, (_, i) => ({
    x: r + r * Math.cos((i * 2 * Math.PI) / n),
    y: r + r * Math.sin((i * 2 * Math.PI) / n)
  }));
const QUARTERS = [0, 90, 180, 270];

/** L-shapes, arrows, stars, and rings with smaller pieces that fit into their holes. */
function madeShapes(): ShapeLot[] {
  const polygon = (...xy: number[]) => [Array.from({ length: xy.length / 2 }, (_, i) => ({ x: xy[2 * i]!, y: xy[2 * i + 1]! }))];
  const star = (outer: number, inner: number) => [
    Array.from({ length: 10 }, (_, i) => {
      const r = i % 2 ? inner : outer;
      return { x: outer + r * Math.sin((i * Math.PI) / 5), y: outer - r * Math.cos((i * Math.PI) / 5) };
    })
  ];
  const ring = (outer: number, inner: number) => [
    disc(outer),
    disc(inner)
      .map((p) => ({ x: p.x + outer - inner, y: p.y + outer - inner }))
      .reverse()
  ];
  const shapes: [Point[][], number][] = [
    [polygon(0, 0, 70, 0, 70, 130, 180, 130, 180, 200, 0, 200), 14],
    [polygon(0, 0, 45, 0, 45, 75, 120, 75, 120, 120, 0, 120), 30],
    [polygon(0, 35, 120, 35, 120, 0, 200, 60, 120, 120, 120, 85, 0, 85), 16],
    [polygon(0, 20, 70, 20, 70, 0, 120, 35, 70, 70, 70, 50, 0, 50), 36],
    [star(75, 40), 8],
    [star(32, 17), 30],
    [ring(95, 66), 12],
    [ring(42, 27), 20],
    [[disc(31)], 24],
    [[disc(22)], 30],
    [[disc(12)], 60],
    [polygon(0, 0, 44, 0, 44, 44, 0, 44), 30],
    [polygon(0, 0, 40, 0, 20, 35), 50],
    [polygon(0, 0, 24, 0, 24, 24, 0, 24), 80]
  ];
  return shapes.map(([rings, count], kind) => ({ kind, rings, count, turns: QUARTERS }));
}

/** 1000 copies of 30 sizes, from nothing to a layout, s. */
function packThousand(): number {
  const random = seededRandom(30);
  const items = Array.from({ length: 30 }, (_, i) => ({
    id: String(i),
    width: 30 + random() * 250,
    height: 30 + random() * 250,
    copies: i < 10 ? 34 : 33,
    mayTurn: true
  }));
  const from = performance.now();
  const rule = { ...RULE, placing: 'close' as const };
  for (const layout of place({ kind: 'roll', width: 1600 }, rule, items, [])) {
    if (!layout) continue;
    if (layout.parts.reduce((sum, part) => sum + part.copies.length, 0) !== 1000) throw new Error('Not all copies were placed.');
    return (performance.now() - from) / 1000;
  }
  throw new Error('Nothing was placed.');
}

/** Share of the strip that shapes cover after so many seconds; what overlaps by more than 0.01 mm is an error. */
function shapeDensity(seconds: number): number {
  const shapes = madeShapes();
  const items: Item[] = shapes.map(({ kind, rings, count }) => {
    const points = rings.flat();
    return {
      id: String(kind),
      width: Math.max(...points.map((p) => p.x)),
      height: Math.max(...points.map((p) => p.y)),
      copies: count,
      mayTurn: true,
      shape: rings
    };
  });
  const width = 1300;
  const rule: PlaceRule = { ...RULE, placing: 'shapes', effort: 'thorough' };
  const area = shapes.reduce((sum, { rings, count }) => sum + count * areaWithin(rings), 0);
  const end = performance.now() + seconds * 1000;
  let best: Placement | undefined;
  for (const layout of place({ kind: 'roll', width }, rule, items, [])) {
    best = layout ?? best;
    if (performance.now() > end) break;
  }
  const [part] = best?.parts ?? [];
  if (!part) throw new Error('Nothing was placed.');
  const byId = new Map(items.map((item) => [item.id, item]));
  // Shrunk by a two-hundredth on each side: what then still meets overlaps by more than 0.01 mm.
  const placed = part.copies.map((copy) => grow(shapeAt(byId.get(copy.id)!, copy), -0.005, 'sharp'));
  for (let i = 0; i < placed.length; i++)
    for (let j = 0; j < i; j++) {
      const [p, q] = [part.copies[i]!, part.copies[j]!];
      if (p.x > q.x + q.width || q.x > p.x + p.width || p.y > q.y + q.height || q.y > p.y + p.height) continue;
      if (areaWithin(intersect(placed[i]!, placed[j]!)) > 0) throw new Error(`Pieces ${i} and ${j} overlap.`);
    }
  return (100 * area) / (width * part.length);
}

const FIGURES: Record<string, () => [value: number, unit: string]> = {
  'pack-1s': () => [density(fillSkyline, 1), '%'],
  'pack-5s': () => [density(fillSkyline, 5), '%'],
  'pack-straight': () => [density(fillGuillotine, 5), '%'],
  'pack-1000': () => [packThousand(), 's'],
  'shape-20s': () => [shapeDensity(20), '%']
};

for (const name of process.argv.slice(2)) {
  const [value, unit] = FIGURES[name]!();
  process.stdout.write(`${name}\t${value.toFixed(2)}\t${unit}\n`);
}
