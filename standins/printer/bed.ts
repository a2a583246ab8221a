import { z } from 'zod';
import { apply, chain, rotation, translation, type Point } from '$core/geometry/matrix';
import { seededRandom } from '$core/geometry/random';
import { homographyOf, inverse, type Homography } from '$core/photo/homography';
import { DOT, markDiameter, markPlaces, RING_INNER, type Bed } from '$core/layout/bed-marks';

/** What lies on a flatbed: things where they truly lie, which is a little beside where they should, and how a camera sees them. */

const Outline = z.array(z.array(z.object({ x: z.number(), y: z.number() })).max(2000)).max(20);

/** Things as they should lie; lengths mm, from the front left corner of the bed. */
export const LaidOut = z.object({
  things: z
    .array(
      z.object({
        x: z.number(),
        y: z.number(),
        turn: z.number(),
        width: z.number().min(1).max(5000),
        height: z.number().min(1).max(5000),
        /** From the top left of its box; a rectangle where nothing is said. */
        outline: Outline.optional(),
        thicknessMm: z.number().min(0).max(1000).default(0)
      })
    )
    .max(5000),
  colour: z.tuple([z.number(), z.number(), z.number()]).default([181, 138, 58]),
  /** All of them lie so far off, turned about the corner that is counted from: a jig that was laid in askew. */
  off: z
    .object({ dx: z.number().default(0), dy: z.number().default(0), turn: z.number().min(-10).max(10).default(0) })
    .prefault({}),
  /** Each of them lies so far beside its place besides, at the most. */
  scatterMm: z.number().min(0).max(20).default(0),
  scatterTurn: z.number().min(0).max(45).default(0),
  seed: z.int().min(0).default(1)
});
export type LaidOut = z.infer<typeof LaidOut>;

export interface LyingThing extends Point {
  turn: number;
  width: number;
  height: number;
  outline: Point[][];
  thicknessMm: number;
}

/** Where things truly lie. The same seed lays them down the same way. */
export function layDown({ things, off, scatterMm, scatterTurn, seed }: LaidOut): LyingThing[] {
  const random = seededRandom(seed);
  const within = (most: number) => (random() * 2 - 1) * most;
  const moved = chain(rotation(off.turn), translation(off.dx, off.dy));
  return things.map(({ outline, thicknessMm, width, height, ...thing }) => {
    const turn = thing.turn + within(scatterTurn) + off.turn;
    const at = apply(moved, { x: thing.x + within(scatterMm), y: thing.y + within(scatterMm) });
    const box = [{ x: 0, y: 0 }, { x: width, y: 0 }, { x: width, y: height }, { x: 0, y: height }]; // prettier-ignore
    return { ...at, turn, width, height, thicknessMm, outline: outline ?? [box] };
  });
}

/** A thing's outline where it lies. */
export function outlineOn({ x, y, turn, width, height, outline }: LyingThing): Point[][] {
  const toBed = chain(chain(translation(-width / 2, -height / 2), rotation(turn)), translation(x, y));
  return outline.map((ring) => ring.map((p) => apply(toBed, p)));
}

/** How a camera over the bed is held. */
export const Shot = z.object({
  px: z.coerce.number().int().min(400).max(6000).default(3000),
  seed: z.coerce.number().int().min(0).default(1),
  /** The sheet of marks lies under the things. */
  marks: z
    .enum(['yes', 'no'])
    .default('yes')
    .transform((said) => said === 'yes')
});
export type Shot = z.infer<typeof Shot>;

export interface TakenPhoto {
  rgb: Uint8Array;
  width: number;
  height: number;
  /** mm of the bed → pixels: what whoever looks at the photo does not know. */
  toPicture: Homography;
}

const TABLE = [92, 96, 100];
const PAPER = [232, 230, 222];
const INK = [28, 28, 30];
/** Rays a pixel, along each side. */
const RAYS = 2;

/**
 * A photo of the bed, taken by hand from above: in perspective, turned any way round, darker towards a corner, with noise.
 */
export function takePhoto(
  things: readonly LyingThing[],
  colour: readonly number[],
  bed: Bed,
  { px, seed, marks }: Shot
): TakenPhoto {
  const random = seededRandom(seed + 7919);
  const lies = bed.widthMm >= bed.lengthMm;
  const [width, height] = lies ? [px, Math.round(px * 0.75)] : [Math.round(px * 0.75), px];
  const [w, l] = [bed.widthMm, bed.lengthMm];
  const fit = 0.84 * Math.min(width / w, height / l);
  const half = random() < 0.5 ? 180 : 0;
  const turn = rotation(half + (random() * 2 - 1) * 5);
  const corner = (x: number, y: number) => {
    const at = apply(turn, { x: (x - w / 2) * fit, y: (y - l / 2) * fit });
    const jitter = () => (random() * 2 - 1) * 0.05 * Math.min(w, l) * fit;
    return { x: width / 2 + at.x + jitter(), y: height / 2 + at.y + jitter() };
  };
  const plane = [{ x: 0, y: 0 }, { x: w, y: 0 }, { x: w, y: l }, { x: 0, y: l }]; // prettier-ignore
  const toPicture = homographyOf(plane.map((from) => ({ from, to: corner(from.x, from.y) })));
  const scene = sceneOf(things, colour, bed, marks);
  const [a, b, c, d, e, f, g, h, i] = inverse(toPicture) as [number, number, number, number, number, number, number, number, number]; // prettier-ignore
  const light = { x: random(), y: random() };
  const rgb = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let [red, green, blue] = [0, 0, 0];
      for (let ray = 0; ray < RAYS * RAYS; ray++) {
        // As `project` has it, without a point for each ray.
        const u = x + ((ray % RAYS) + 0.5) / RAYS;
        const v = y + (Math.floor(ray / RAYS) + 0.5) / RAYS;
        const by = g * u + h * v + i;
        const seen = scene((a * u + b * v + c) / by, (d * u + e * v + f) / by);
        red += seen[0]!;
        green += seen[1]!;
        blue += seen[2]!;
      }
      const falls = (1 - 0.22 * ((x / width - light.x) ** 2 + (y / height - light.y) ** 2)) / (RAYS * RAYS);
      const at = (y * width + x) * 3;
      // Noise of a sensor: of two throws nearly that of many.
      const noise = (random() + random() - 1) * 9;
      rgb[at] = Math.max(0, Math.min(255, red * falls + noise));
      rgb[at + 1] = Math.max(0, Math.min(255, green * falls + noise));
      rgb[at + 2] = Math.max(0, Math.min(255, blue * falls + noise));
    }
  return { rgb, width, height, toPicture };
}

/** What of a square of the bed is seen: paper, one thing that covers it, or more than one of paper, things and marks. */
const [BARE, COVERED, MIXED] = [0, 1, 2];

/** The colour at each place of the bed. */
function sceneOf(
  things: readonly LyingThing[],
  colour: readonly number[],
  bed: Bed,
  marks: boolean
): (x: number, y: number) => readonly number[] {
  // A net over the bed: of most of its squares it is known what is seen wherever one looks.
  const cell = 5;
  const [columns, rows] = [Math.ceil(bed.widthMm / cell) + 1, Math.ceil(bed.lengthMm / cell) + 1];
  const squares = new Uint8Array(columns * rows).fill(BARE);
  const edges = new Map<number, Point[][][]>();
  /** Squares of the bed that a box touches. */
  const squaresOf = (points: readonly Point[]): number[] => {
    const span = (list: readonly number[], most: number) => {
      const first = Math.max(0, Math.floor(Math.min(...list) / cell));
      const last = Math.min(most, Math.floor(Math.max(...list) / cell));
      return Array.from({ length: Math.max(0, last - first + 1) }, (_, k) => first + k);
    };
    const along = span(
      points.map(({ x }) => x),
      columns - 1
    );
    return span(
      points.map(({ y }) => y),
      rows - 1
    ).flatMap((row) => along.map((column) => row * columns + column));
  };
  const [outer, places] = [markDiameter(bed) / 2, marks ? markPlaces(bed) : []];
  for (const { x, y } of places)
    for (const at of squaresOf([{ x: x - outer, y: y - outer }, { x: x + outer, y: y + outer }])) squares[at] = MIXED; // prettier-ignore
  for (const thing of things) {
    const rings = outlineOn(thing);
    const mixed = new Set(rings.flatMap((ring) => ring.flatMap((p, i) => squaresOf([p, ring[(i + 1) % ring.length]!]))));
    for (const at of mixed) {
      edges.set(at, [...(edges.get(at) ?? []), rings]);
      if (squares[at] === BARE) squares[at] = MIXED;
    }
    for (const at of squaresOf(rings.flat())) {
      const middle = { x: ((at % columns) + 0.5) * cell, y: (Math.floor(at / columns) + 0.5) * cell };
      if (!mixed.has(at) && isWithin(rings, middle)) squares[at] = COVERED;
    }
  }
  return (x, y) => {
    if (x < 0 || y < 0 || x > bed.widthMm || y > bed.lengthMm) return TABLE;
    const at = Math.floor(y / cell) * columns + Math.floor(x / cell);
    if (squares[at] === BARE) return PAPER;
    if (squares[at] === COVERED || edges.get(at)?.some((rings) => isWithin(rings, { x, y }))) return colour;
    for (const mark of places) {
      const [dx, dy] = [x - mark.x, y - mark.y];
      const r = Math.sqrt(dx * dx + dy * dy) / outer;
      if (r < 1) return r > RING_INNER || r < DOT ? INK : PAPER;
    }
    return PAPER;
  };
}

/** Even-odd. */
export function isWithin(rings: readonly (readonly Point[])[], { x, y }: Point): boolean {
  let inside = false;
  for (const ring of rings)
    for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
      const [p, q] = [ring[i]!, ring[j]!];
      if (p.y > y !== q.y > y && x < ((q.x - p.x) * (y - p.y)) / (q.y - p.y) + p.x) inside = !inside;
    }
  return inside;
}

/** Where on a thing its print lies: the middle of what is printed near it, as the thing is looked at, mm from its middle. */
export interface OnThing {
  /** None where nothing is printed on it. */
  print: { x: number; y: number; turn: number } | null;
}

/**
 * @param inked how much ink a cell of the output has, from 0
 * @param cellMm of a cell of the output
 */
export function printsOn(
  things: readonly LyingThing[],
  output: { columns: number; rows: number; cellMm: { x: number; y: number }; inked: (cell: number) => number }
): OnThing[] {
  const { columns, rows, cellMm, inked } = output;
  return things.map((thing) => {
    const rings = outlineOn(thing);
    const back = chain(translation(-thing.x, -thing.y), rotation(-thing.turn));
    const reach = Math.hypot(thing.width, thing.height) / 2;
    let [sum, sx, sy, xx, yy, xy] = [0, 0, 0, 0, 0, 0];
    for (let r = Math.max(0, Math.floor((thing.y - reach) / cellMm.y)); r < Math.min(rows, (thing.y + reach) / cellMm.y); r++)
      for (
        let c = Math.max(0, Math.floor((thing.x - reach) / cellMm.x));
        c < Math.min(columns, (thing.x + reach) / cellMm.x);
        c++
      ) {
        const ink = inked(r * columns + c);
        const at = { x: (c + 0.5) * cellMm.x, y: (r + 0.5) * cellMm.y };
        if (ink === 0 || !isWithin(rings, at)) continue;
        const { x, y } = apply(back, at);
        sum += ink;
        sx += ink * x;
        sy += ink * y;
        xx += ink * x * x;
        yy += ink * y * y;
        xy += ink * x * y;
      }
    if (sum === 0) return { print: null };
    const [x, y] = [sx / sum, sy / sum];
    const [a, b, c] = [xx / sum - x * x, yy / sum - y * y, xy / sum - x * y];
    return { print: { x, y, turn: (Math.atan2(2 * c, a - b) * 90) / Math.PI } };
  });
}
