import { z } from 'zod';
import { boxAround, type Box } from '../geometry/box';
import { apply, chain, rotation, translation, turnedSize, type Matrix, type Point } from '../geometry/matrix';
import { flatten, parsePathData } from '../geometry/path';
import { CORNERS, rectangle, type StockJig } from './placement';

/**
 * A jig: what holds things in their places on a bed. Lengths are mm, angles degrees clockwise as the print is seen from above; x goes from
 * the left edge of the bed, y from its front, where the print begins.
 */

const figure = (what: string, least: number, most: number, unit = 'mm') =>
  z
    .number({ error: `The ${what} must be a figure.` })
    .min(least, `The ${what} is ${least} to ${most.toLocaleString('en-GB')} ${unit}.`)
    .max(most, `The ${what} is ${least} to ${most.toLocaleString('en-GB')} ${unit}.`);

export const MOST_BED_MM = 10_000;
export const MOST_POCKETS = 5000;
const MOST_PATH = 20_000;

/** What lies in a pocket, lying as it is looked at. */
export const Thing = z.object({
  widthMm: figure('width of the thing', 1, 5000),
  heightMm: figure('height of the thing', 1, 5000),
  outline: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('rectangle'), radiusMm: figure('radius of the corners', 0, 2500) }),
    z.object({ kind: z.literal('ellipse') }),
    /** In mm from the top left of its box, as SVG path data of lines and curves. */
    z.object({
      kind: z.literal('path'),
      data: z.string().max(MOST_PATH, 'This outline has too many points.').refine(isOutline, 'This outline is open, or is none.')
    })
  ])
});
export type Thing = z.infer<typeof Thing>;

/** A place's own small difference from the grid. */
export const Nudge = z.object({
  dx: figure('offset', -MOST_BED_MM, MOST_BED_MM),
  dy: figure('offset', -MOST_BED_MM, MOST_BED_MM),
  turn: figure('turn', -180, 180, '°')
});
export type Nudge = z.infer<typeof Nudge>;

const count = (what: string) =>
  z.int(`The ${what} are a whole number.`).min(1, `There is one of the ${what} at least.`).max(1000, `At most 1,000 ${what}.`);

/** Corners from which places are counted; from the middle they lie around it. */
export const ORIGINS = [...CORNERS, 'centre'] as const;

/** Characters of a jig's name. */
export const MOST_NAME = 80;

export const Jig = z.object({
  name: z.string().trim().min(1, 'A jig needs a name.').max(MOST_NAME, `A name has at most ${MOST_NAME} characters.`),
  note: z.string().max(2000, 'A note has at most 2,000 characters.').default(''),
  bed: z.object({
    widthMm: figure('width of the bed', 50, MOST_BED_MM),
    lengthMm: figure('length of the bed', 50, MOST_BED_MM),
    /** The machine's own corner, where it counts from: on one that is left-handed it is another. */
    origin: z.enum(CORNERS).default('front left')
  }),
  /** What holds the things, where it is smaller than the bed: its own size, and its front left corner on the bed. */
  plate: z
    .object({
      x: figure('place of the plate', 0, MOST_BED_MM),
      y: figure('place of the plate', 0, MOST_BED_MM),
      widthMm: figure('width of the plate', 10, MOST_BED_MM),
      lengthMm: figure('length of the plate', 10, MOST_BED_MM)
    })
    .nullable()
    .default(null),
  thing: Thing,
  /** How high things stand above what they lie on; nothing where it is not known. */
  thicknessMm: figure('thickness of the thing', 0.01, 1000).nullable().default(null),
  /** Nothing for as many as fit. */
  columns: count('columns').nullable(),
  rows: count('rows').nullable(),
  gapX: figure('gap across', 0, 2000),
  gapY: figure('gap along', 0, 2000),
  /** Both gaps are changed together. */
  linked: z.boolean().default(true),
  from: z.enum(ORIGINS),
  /** From that corner to the edge of the first place; from the middle of the bed to the middle of all. */
  startX: figure('distance of the first place', -MOST_BED_MM, MOST_BED_MM),
  startY: figure('distance of the first place', -MOST_BED_MM, MOST_BED_MM),
  /** Every second row, or column, lies half a pitch on. */
  shift: z.enum(['none', 'rows', 'columns']).default('none'),
  /** How things lie in it. */
  turn: z.union([z.literal(0), z.literal(90), z.literal(180), z.literal(270)]).default(0),
  /** Every second one the other way round. */
  turnSecond: z.boolean().default(false),
  /** By `placeKey`. */
  nudges: z.record(z.string().regex(/^\d{1,4}\.\d{1,4}$/), Nudge).default({}),
  off: z
    .array(z.string().regex(/^\d{1,4}\.\d{1,4}$/))
    .max(MOST_POCKETS)
    .default([]),
  order: z
    .object({ along: z.enum(['rows', 'columns']), from: z.enum(CORNERS), thereAndBack: z.boolean() })
    .default({ along: 'rows', from: 'front left', thereAndBack: false })
});
export type Jig = z.infer<typeof Jig>;

/** One thing's place. */
export interface Pocket {
  /** `placeKey` of its column and row. */
  key: string;
  /** Counted in the order in which pockets are filled, from 1; 0 where it is switched off. */
  number: number;
  column: number;
  row: number;
  /** Its middle, and how the thing lies in it. */
  x: number;
  y: number;
  turn: number;
  isOff: boolean;
}

export class JigError extends Error {
  override name = 'JigError';
}

/** Columns and rows are counted from the left and from the front, from 1. */
export const placeKey = (column: number, row: number): string => `${column}.${row}`;

/** The thing's box as it lies. */
const boxOf = ({ thing, turn }: Pick<Jig, 'thing' | 'turn'>) => turnedSize(thing.widthMm, thing.heightMm, turn);

/** From one place to the next, across and along. */
export function pitchOf(jig: Pick<Jig, 'thing' | 'turn' | 'gapX' | 'gapY'>): { x: number; y: number } {
  const { width, height } = boxOf(jig);
  return { x: width + jig.gapX, y: height + jig.gapY };
}

/** The gaps that a pitch leaves. @throws JigError where it is less than the thing */
export function gapsOf(jig: Pick<Jig, 'thing' | 'turn'>, pitch: { x: number; y: number }): { gapX: number; gapY: number } {
  const { width, height } = boxOf(jig);
  for (const [is, least, way] of [[pitch.x, width, 'across'], [pitch.y, height, 'along']] as const) // prettier-ignore
    if (is < least - 1e-9)
      throw new JigError(`A pitch of ${round(is)} mm ${way} is less than the thing, which takes ${round(least)} mm: they would lie on each other.`); // prettier-ignore
  return { gapX: Math.max(0, pitch.x - width), gapY: Math.max(0, pitch.y - height) };
}

const round = (mm: number): number => Math.round(mm * 100) / 100;

/** Columns and rows of its grid. @throws JigError with more places than there may be */
export function gridOf(jig: Jig): { columns: number; rows: number } {
  const { width, height } = boxOf(jig);
  const pitch = pitchOf(jig);
  const { bed, from, startX, startY, shift } = jig;
  // From a corner what lies before the first place is lost; from the middle what it is moved by, on both sides.
  const lost = (start: number) => (from === 'centre' ? 2 * Math.abs(start) : start);
  const fit = (room: number, size: number, step: number) => Math.max(1, Math.floor((room - size) / step + 1 + 1e-9));
  const across = (moved: number) => jig.columns ?? fit(bed.widthMm - lost(startX) - moved, width, pitch.x);
  const along = (moved: number) => jig.rows ?? fit(bed.lengthMm - lost(startY) - moved, height, pitch.y);
  // One row alone has no second one that lies half a pitch on.
  const half = (is: boolean, step: number) => (is ? step / 2 : 0);
  const rows = along(half(shift === 'columns' && across(0) > 1, pitch.y));
  const columns = across(half(shift === 'rows' && rows > 1, pitch.x));
  if (columns * rows > MOST_POCKETS)
    throw new JigError(`${columns} × ${rows} are ${(columns * rows).toLocaleString('en-GB')} places; a jig has at most ${MOST_POCKETS.toLocaleString('en-GB')}.`); // prettier-ignore
  return { columns, rows };
}

/** Its places, in the order in which they are filled; those that are switched off come last. @throws JigError as `gridOf` */
export function pocketsOf(jig: Jig): Pocket[] {
  const { columns, rows } = gridOf(jig);
  const { width, height } = boxOf(jig);
  const pitch = pitchOf(jig);
  const { bed, from, startX, startY, shift, order } = jig;
  const reach = {
    width: (columns - 1) * pitch.x + width + (shift === 'rows' && rows > 1 ? pitch.x / 2 : 0),
    height: (rows - 1) * pitch.y + height + (shift === 'columns' && columns > 1 ? pitch.y / 2 : 0)
  };
  const left =
    from === 'centre'
      ? (bed.widthMm - reach.width) / 2 + startX
      : from.endsWith('left')
        ? startX
        : bed.widthMm - startX - reach.width;
  const front =
    from === 'centre'
      ? (bed.lengthMm - reach.height) / 2 + startY
      : from.startsWith('front')
        ? startY
        : bed.lengthMm - startY - reach.height;
  const off = new Set(jig.off);
  const pockets: Pocket[] = [];
  for (const [column, row] of filled(columns, rows, order)) {
    const key = placeKey(column, row);
    const nudge = jig.nudges[key] ?? { dx: 0, dy: 0, turn: 0 };
    const isSecond = (column + row) % 2 === 1;
    pockets.push({
      key,
      number: 0,
      column,
      row,
      x: left + (column - 1) * pitch.x + width / 2 + (shift === 'rows' && row % 2 === 0 ? pitch.x / 2 : 0) + nudge.dx,
      y: front + (row - 1) * pitch.y + height / 2 + (shift === 'columns' && column % 2 === 0 ? pitch.y / 2 : 0) + nudge.dy,
      turn: (((jig.turn + (jig.turnSecond && isSecond ? 180 : 0) + nudge.turn) % 360) + 360) % 360,
      isOff: off.has(key)
    });
  }
  const on = pockets.filter(({ isOff }) => !isOff);
  on.forEach((pocket, i) => (pocket.number = i + 1));
  return [...on, ...pockets.filter(({ isOff }) => isOff)];
}

/** Columns and rows in the order in which they are filled. */
function* filled(columns: number, rows: number, { along, from, thereAndBack }: Jig['order']): Generator<[number, number]> {
  const counted = (n: number, isUp: boolean) => Array.from({ length: n }, (_, i) => (isUp ? i + 1 : n - i));
  const [isRight, isAway] = [from.endsWith('left'), from.startsWith('front')];
  const outer = along === 'rows' ? counted(rows, isAway) : counted(columns, isRight);
  for (const [nth, o] of outer.entries()) {
    const isBack = thereAndBack && nth % 2 === 1;
    const inner = along === 'rows' ? counted(columns, isRight !== isBack) : counted(rows, isAway !== isBack);
    for (const i of inner) yield along === 'rows' ? [i, o] : [o, i];
  }
}

/** Straight lines that stay so near to curves, mm. */
const FLAT_MM = 0.05;

/** A thing's outline as rings (even-odd) in mm from the top left of its box. */
export function outlineOf({ widthMm: w, heightMm: h, outline }: Thing): Point[][] {
  if (outline.kind === 'path') return flatten(parsePathData(outline.data), FLAT_MM).map(({ points }) => points);
  if (outline.kind === 'ellipse') return [arcs([{ x: w / 2, y: h / 2, from: 0, to: 360 }], w / 2, h / 2)];
  const r = Math.min(outline.radiusMm, w / 2, h / 2);
  if (r === 0) return rectangle(w, h);
  const corner = (x: number, y: number, from: number) => ({ x, y, from, to: from + 90 });
  return [arcs([corner(w - r, r, 270), corner(w - r, h - r, 0), corner(r, h - r, 90), corner(r, r, 180)], r, r)];
}

/** Arcs one after the other, degrees clockwise from the right. */
function arcs(list: { x: number; y: number; from: number; to: number }[], rx: number, ry: number): Point[] {
  // The chord of an angle a departs from its arc by r(1 − cos a/2).
  const step = (2 * Math.acos(Math.max(0, 1 - FLAT_MM / Math.max(rx, ry, FLAT_MM))) * 180) / Math.PI;
  return list.flatMap(({ x, y, from, to }) => {
    const isRound = to - from === 360;
    const n = Math.max(2, Math.ceil((to - from) / step));
    return Array.from({ length: isRound ? n : n + 1 }, (_, i) => {
      const at = ((from + ((to - from) * i) / n) * Math.PI) / 180;
      return { x: x + rx * Math.cos(at), y: y + ry * Math.sin(at) };
    });
  });
}

/** A thing as it is drawn → where it lies on the bed. */
export function thingToBed(
  { widthMm, heightMm }: Pick<Thing, 'widthMm' | 'heightMm'>,
  at: Pick<Pocket, 'x' | 'y' | 'turn'>
): Matrix {
  return chain(chain(translation(-widthMm / 2, -heightMm / 2), rotation(at.turn)), translation(at.x, at.y));
}

/** A pocket's outline on the bed. @param outline as `outlineOf` gives it */
export function outlineAt(
  thing: Thing,
  at: Pick<Pocket, 'x' | 'y' | 'turn'>,
  outline: readonly Point[][] = outlineOf(thing)
): Point[][] {
  const toBed = thingToBed(thing, at);
  return outline.map((ring) => ring.map((p) => apply(toBed, p)));
}

/** Whether path data are closed rings of three points at least that a box can be put around. */
function isOutline(data: string): boolean {
  try {
    const lines = flatten(parsePathData(data), FLAT_MM);
    const box = boxAround(lines.map(({ points }) => points));
    return lines.length > 0 && lines.every(({ points, closed }) => closed && points.length > 2) && !!box && box.width > 0 && box.height > 0; // prettier-ignore
  } catch {
    return false;
  }
}

/** The box of what holds the things. */
export const plateOf = ({ bed, plate }: Pick<Jig, 'bed' | 'plate'>): Box =>
  plate
    ? { x: plate.x, y: plate.y, width: plate.widthMm, height: plate.lengthMm }
    : { x: 0, y: 0, width: bed.widthMm, height: bed.lengthMm };

/** What runs are placed in, on a bed of its own. @see mountedJig @throws JigError as `gridOf` */
export function stockJigOf(id: number, jig: Jig): StockJig {
  const { widthMm: width, heightMm: height } = jig.thing;
  return {
    id,
    name: jig.name,
    bed: { width: jig.bed.widthMm, height: jig.bed.lengthMm, origin: jig.bed.origin },
    plate: plateOf(jig),
    thing: { width, height, outline: outlineOf(jig.thing) },
    thicknessMm: jig.thicknessMm,
    pockets: pocketsOf(jig)
      .filter(({ isOff }) => !isOff)
      .map(({ number, column, row, x, y, turn }) => ({ number, line: jig.order.along === 'rows' ? row : column, x, y, turn }))
  };
}

export const NEW_JIG: Jig = Jig.parse({
  name: 'New jig',
  bed: { widthMm: 2000, lengthMm: 1500 },
  thing: { widthMm: 80, heightMm: 50, outline: { kind: 'rectangle', radiusMm: 0 } },
  columns: 6,
  rows: 4,
  gapX: 5,
  gapY: 5,
  from: 'front left',
  startX: 20,
  startY: 20
});
