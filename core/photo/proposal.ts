import { Jig, MOST_POCKETS, placeKey, pocketsOf } from '../layout/jig';
import { median } from './median';
import { PhotoError } from './targets';
import type { FoundThing } from './things';

/** From things that were found to a jig: a grid as far as they lie in one, and each place's own difference from it. */

/** A thing as its jig has it: as wide as it is along x, its turn within 45° of that. */
interface Laid {
  x: number;
  y: number;
  turn: number;
  width: number;
  height: number;
}

const upright = ({ x, y, turn, longMm, shortMm }: FoundThing): Laid =>
  Math.abs(turn) <= 45
    ? { x, y, turn, width: longMm, height: shortMm }
    : { x, y, turn: turn - 90 * Math.sign(turn), width: shortMm, height: longMm };

/** Differences that are no more than a photo's own are none, mm and degrees. */
const NOTHING_MM = 0.05;
const NOTHING_TURN = 0.1;

const round = (v: number, digits = 2): number => Math.round(v * 10 ** digits) / 10 ** digits + 0;

/** Values that lie together, each group's in order. */
function groups(values: readonly number[], apart: number): number[] {
  const order = values.map((_, i) => i).sort((p, q) => values[p]! - values[q]!);
  const group = new Array<number>(values.length).fill(0);
  let at = 0;
  order.forEach((i, n) => {
    if (n > 0 && values[i]! - values[order[n - 1]!]! > apart) at++;
    group[i] = at;
  });
  return group;
}

/** The straight line through places by their numbers. */
function lineThrough(numbers: readonly number[], at: readonly number[]): { first: number; step: number } {
  const n = numbers.length;
  const [meanN, meanAt] = [numbers.reduce((s, v) => s + v, 0) / n, at.reduce((s, v) => s + v, 0) / n];
  const spread = numbers.reduce((s, v) => s + (v - meanN) ** 2, 0);
  const step = spread > 0 ? numbers.reduce((s, v, i) => s + (v - meanN) * (at[i]! - meanAt), 0) / spread : 0;
  return { first: meanAt - step * meanN, step };
}

/** Columns and rows from 0 by which things lie, some of them free; nothing where they lie in no grid. */
interface Grid {
  columns: number[];
  rows: number[];
  shift: 'none' | 'rows';
  x: { first: number; step: number };
  y: { first: number; step: number };
}

/** Where a grid has no thing there is one missing: numbers go by the least distance between neighbours. */
function numbered(
  values: readonly number[],
  size: number
): { numbers: number[]; line: { first: number; step: number } } | undefined {
  const group = groups(values, size / 2);
  const count = Math.max(...group) + 1;
  const middles = Array.from({ length: count }, (_, g) => median(values.filter((_, i) => group[i] === g)));
  if (count === 1) return { numbers: group, line: { first: middles[0]!, step: 0 } };
  const gaps = middles.slice(1).map((v, i) => v - middles[i]!);
  const least = Math.min(...gaps);
  let at = 0;
  const placeOf = [0, ...gaps.map((gap) => (at += Math.round(gap / least)))];
  const numbers = group.map((g) => placeOf[g]!);
  return { numbers, line: lineThrough(numbers, values) };
}

function gridThrough(things: readonly Laid[], width: number, height: number): Grid | undefined {
  const down = numbered(
    things.map(({ y }) => y),
    height
  );
  if (!down) return undefined;
  const plain = (shift: Grid['shift'], xs: readonly number[]): Grid | undefined => {
    const across = numbered(xs, width);
    if (!across) return undefined;
    const grid: Grid = { columns: across.numbers, rows: down.numbers, shift, x: across.line, y: down.line };
    const places = new Set(things.map((_, i) => placeKey(grid.columns[i]!, grid.rows[i]!)));
    const off = things.map((_, i) => Math.max(
        Math.abs(xs[i]! - across.line.first - across.line.step * across.numbers[i]!),
        Math.abs(things[i]!.y - down.line.first - down.line.step * down.numbers[i]!)
      )); // prettier-ignore
    // Two at one place, or far from theirs, are in no grid; nor do pitches less than the thing make one.
    const count = (Math.max(...grid.columns) + 1) * (Math.max(...grid.rows) + 1);
    const isOne =
      // Where most of a grid would be empty there is none.
      count <= MOST_EMPTY * things.length &&
      count <= MOST_POCKETS &&
      places.size === things.length &&
      Math.max(...off) < Math.min(width, height) / 3 &&
      (across.line.step === 0 || across.line.step > width * 0.9) &&
      (down.line.step === 0 || down.line.step > height * 0.9);
    return isOne ? grid : undefined;
  };
  const straight = plain('none', things.map(({ x }) => x)); // prettier-ignore
  if (straight) return straight;
  // Every second row half a pitch on: moved back, they lie in a plain one.
  const inRow = new Map<number, number[]>();
  things.forEach(({ x }, i) => inRow.set(down.numbers[i]!, [...(inRow.get(down.numbers[i]!) ?? []), x]));
  const steps = [...inRow.values()].flatMap((row) => {
    const sorted = [...row].sort((p, q) => p - q);
    return sorted.slice(1).map((x, i) => x - sorted[i]!);
  });
  if (steps.length === 0) return undefined;
  const half = median(steps) / 2;
  return plain('rows', things.map(({ x }, i) => x - (down.numbers[i]! % 2 === 1 ? half : 0))); // prettier-ignore
}

/** How things lie that were found. */
export interface Proposal {
  jig: Jig;
  things: number;
  /** They lie in a grid; otherwise each has its own place in one row. */
  inGrid: boolean;
}

/**
 * A jig of what was found, with the rest as another has it.
 *
 * @param base its bed, name, order of filling
 * @throws PhotoError where they make no jig
 */
export function proposalOf(found: readonly FoundThing[], base: Jig): Proposal {
  const things = found.map(upright);
  const [width, height] = [median(things.map((one) => one.width)), median(things.map((one) => one.height))];
  const fills = median(found.map((one) => one.fills));
  const size = { widthMm: Math.max(1, round(width, 1)), heightMm: Math.max(1, round(height, 1)) };
  const missing = (1 - fills) * width * height;
  // A rounded rectangle lacks (4 − π) r² at its corners.
  const radius = Math.sqrt(Math.max(0, missing) / (4 - Math.PI));
  const outline: Jig['thing']['outline'] =
    fills < ELLIPSE
      ? { kind: 'ellipse' }
      : { kind: 'rectangle', radiusMm: fills > SQUARE ? 0 : round(Math.min(radius, width / 2, height / 2), 1) };
  const plain = { ...base, thing: { ...size, outline }, turn: 0 as const, turnSecond: false, from: 'front left' as const, nudges: {}, off: [] }; // prettier-ignore
  const grid = gridThrough(things, width, height);
  const inOrder = things.map((_, i) => i).sort((p, q) => things[p]!.y - things[q]!.y || things[p]!.x - things[q]!.x);
  if (!grid) {
    const columns = Math.min(things.length, MOST_COLUMNS);
    const rows = Math.ceil(things.length / columns);
    const jig = { ...plain, shift: 'none' as const, columns, rows, gapX: 0, gapY: 0, startX: 0, startY: 0 };
    const nth = new Map(inOrder.map((i, n) => [i, n]));
    const placeOf = (i: number) => ({ column: (nth.get(i)! % columns) + 1, row: Math.floor(nth.get(i)! / columns) + 1 });
    return finished(jig, things, placeOf, false);
  }
  const [columns, rows] = [Math.max(...grid.columns) + 1, Math.max(...grid.rows) + 1];
  const jig = {
    ...plain,
    shift: grid.shift,
    columns,
    rows,
    gapX: columns > 1 ? round(Math.max(0, grid.x.step - size.widthMm)) : base.gapX,
    gapY: rows > 1 ? round(Math.max(0, grid.y.step - size.heightMm)) : base.gapY,
    linked: false,
    startX: round(grid.x.first - size.widthMm / 2),
    startY: round(grid.y.first - size.heightMm / 2)
  };
  return finished(jig, things, (i) => ({ column: grid.columns[i]! + 1, row: grid.rows[i]! + 1 }), true);
}

/** Of a jig whose things lie in no grid; more go into further rows. */
const MOST_COLUMNS = 1000;
/** Places of a grid for each thing, at the most. */
const MOST_EMPTY = 4;

/** Fills less than a rectangle or its corners leave out. */
const ELLIPSE = 0.83;
/** Fills so much that its corners are none that a photo shows. */
const SQUARE = 0.993;

/** With each place's difference, and places switched off where nothing was found. */
function finished(
  jig: Jig,
  things: readonly Laid[],
  placeOf: (i: number) => { column: number; row: number },
  inGrid: boolean
): Proposal {
  const at = new Map(pocketsOf(jig).map((pocket) => [pocket.key, pocket]));
  const nudges: Jig['nudges'] = {};
  const found = new Set<string>();
  things.forEach(({ x, y, turn }, i) => {
    const { column, row } = placeOf(i);
    const key = placeKey(column, row);
    const place = at.get(key)!;
    found.add(key);
    const [dx, dy] = [x - place.x, y - place.y];
    const none = Math.max(Math.abs(dx), Math.abs(dy)) < NOTHING_MM && Math.abs(turn) < NOTHING_TURN;
    if (!none) nudges[key] = { dx: round(dx), dy: round(dy), turn: Math.abs(turn) < NOTHING_TURN ? 0 : round(turn) };
  });
  const off = [...at.keys()].filter((key) => !found.has(key));
  const whole = Jig.safeParse({ ...jig, nudges, off });
  if (!whole.success) throw new PhotoError(`What is found makes no jig: ${whole.error.issues[0]?.message ?? 'it cannot be.'}`);
  return { jig: whole.data, things: things.length, inGrid };
}
