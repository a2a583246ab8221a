import { turnedSize, type Point } from '../geometry/matrix';
import type { Rect } from '../geometry/path';
import { FreeSpace, fillAround } from './free-space';
import { fillRows } from './rows';
import { BY_SIZE, searchOrders } from './search';
import { fillSkyline, type Field, type Lot, type Packed, type Spot } from './skyline';
import { clearAround, countStraightCuts, fillGuillotine } from './straight-cuts';
import { ringsArea, ShapePlacer, turnRings, type ShapeLot, type ShapeSpot } from './true-shape';

/** The placing rules, in the order in which they are compared. */
export const PLACING_RULES = ['apart', 'rows', 'straight', 'close', 'shapes', 'hand'] as const;
export type PlacingRule = (typeof PLACING_RULES)[number];

export type Alignment = 'left' | 'centre' | 'right';
export const EFFORTS = ['quick', 'normal', 'thorough'] as const;
export type Effort = (typeof EFFORTS)[number];

/** Which corner of a sheet the first piece lies at, seen from above with the start of the print at the front. */
export const CORNERS = ['front left', 'front right', 'back left', 'back right'] as const;
export type Corner = (typeof CORNERS)[number];

export type Stock = { kind: 'roll'; width: number } | { kind: 'sheet'; width: number; height: number; corner: Corner };

/** Copies of one docket: the size that prints, with bleed and marks. */
export interface Item {
  id: string;
  width: number;
  height: number;
  copies: number;
  /** Whether a quarter turn is allowed. */
  mayTurn: boolean;
  /** Its contour (even-odd) in its own place, for true shape. */
  shape?: Point[][];
}

/** A copy that stays where it was put by hand: its box, in its own strip or sheet. */
export interface Pin {
  id: string;
  copy: number;
  part: number;
  x: number;
  y: number;
  turn: number;
}

export interface PlaceRule {
  placing: PlacingRule;
  /** Across and along the roll, between pieces. */
  gapX: number;
  gapY: number;
  /** Left free on both edges, and before and after the run. */
  margin: number;
  lead: number;
  tail: number;
  align: Alignment;
  /** One copy a row, in the first two rules. */
  single: boolean;
  /** Spare copies where they cost nothing: none, in rows that are begun, wherever one fits. */
  fill: 'none' | 'row' | 'all';
  /** A roll's run is no longer than this, mm; nothing for as long as it takes. */
  longest: number | null;
  /** Degrees that true shape may turn pieces by; 0 for not at all. */
  turnStep: number;
  effort: Effort;
  /** The search ends after so many steps; nothing for all that the effort allows. */
  steps: number | null;
}

export interface PlacedCopy {
  id: string;
  /** Which copy of its docket, from 0. */
  copy: number;
  /** The box of the turned piece. */
  x: number;
  y: number;
  width: number;
  height: number;
  /** Degrees clockwise. */
  turn: number;
  pinned: boolean;
}

/** A strip of the roll, or a sheet. */
export interface Part {
  copies: PlacedCopy[];
  /** Places that cost no film, ready to be claimed. */
  ghosts: PlacedCopy[];
  /** Of the roll with lead and tail, or of the sheet. */
  length: number;
  /** How far pieces reach, from the start. */
  reach: number;
  /** m² that pieces cover. */
  usedM2: number;
  /** Straight cuts that free every piece; nothing where pieces interlock. */
  cuts: number | null;
}

export interface Placement {
  parts: Part[];
  /** Of all parts. */
  length: number;
  areaM2: number;
  /** m² that no piece covers, and their share. */
  wasteM2: number;
  wasteShare: number;
  cuts: number | null;
  /** Dockets with no copy that fits, with the widest that would. */
  tooWide: { id: string; width: number; usable: number }[];
  /** Why the rule cannot be followed; then nothing is placed. */
  refusal: string | null;
}

/** Copies beyond these are lots that stay together while orders are tried. */
const MOST_LOTS = 400;
/** Steps grow with the square of the lots: so much work in all. About 0.3, 2 and 20 s. */
const WORK: Record<Effort, number> = { quick: 6e6, normal: 5e7, thorough: 5e8 };
const MOST_STEPS: Record<Effort, number> = { quick: 500, normal: 5000, thorough: 50_000 };
/** Fillings of true shape. */
const SHAPE_FILLS: Record<Effort, number> = { quick: 1, normal: 8, thorough: 60 };
const MOST_GHOSTS = 200;
/** Free places are looked for where that is done at once. */
const MOST_COPIES_FOR_GHOSTS = 1500;

interface Ground {
  stock: Stock;
  rule: PlaceRule;
  items: Item[];
  pins: Pin[];
  /** Where pieces can lie: gaps included, so that pieces with their gaps touch. */
  field: Field;
  usable: number;
  /** Of a strip or sheet: what is left free before pieces. */
  before: number;
  binCost: number;
}

function groundOf(stock: Stock, rule: PlaceRule, items: readonly Item[], pins: readonly Pin[]): Ground {
  const usable = stock.width - 2 * rule.margin;
  const sheet = stock.kind === 'sheet';
  const before = sheet ? rule.margin : rule.lead;
  const high = sheet
    ? stock.height - 2 * rule.margin
    : rule.longest === null
      ? Infinity
      : Math.max(1, rule.longest - rule.lead - rule.tail);
  const byId = new Map(items.map((item) => [item.id, item]));
  const kept = pins.filter((pin) => pin.copy < (byId.get(pin.id)?.copies ?? 0));
  return {
    stock,
    rule,
    items: items.filter((item) => item.copies > 0),
    pins: kept,
    field: { width: usable + rule.gapX, height: high + rule.gapY },
    usable,
    before,
    binCost: sheet ? stock.height * 4 : rule.lead + rule.tail
  };
}

/** Boxes of pinned copies by part, gaps included, in the field's own place. */
function pinnedBoxes(ground: Ground): Rect[][] {
  const boxes: Rect[][] = [];
  for (const pin of ground.pins) {
    const item = ground.items.find((one) => one.id === pin.id)!;
    const { width, height } = turnedSize(item.width, item.height, pin.turn);
    while (boxes.length <= pin.part) boxes.push([]);
    const at = cornered(ground.stock, { x: pin.x, y: pin.y, width, height });
    boxes[pin.part]!.push({
      x: at.x - ground.rule.margin,
      y: at.y - ground.before,
      width: width + ground.rule.gapX,
      height: height + ground.rule.gapY
    });
  }
  return boxes;
}

const freeCopies = (ground: Ground, item: Item): number => item.copies - ground.pins.filter((pin) => pin.id === item.id).length;

function lotsOf(ground: Ground): Lot[] {
  const { gapX, gapY } = ground.rule;
  const total = ground.items.reduce((sum, item) => sum + freeCopies(ground, item), 0);
  const chunk = Math.max(1, Math.ceil(total / MOST_LOTS));
  return ground.items.flatMap((item, kind) => {
    const lots: Lot[] = [];
    for (let left = freeCopies(ground, item); left > 0; left -= chunk)
      lots.push({
        kind,
        width: item.width + gapX,
        height: item.height + gapY,
        turnedWidth: item.height + gapX,
        turnedHeight: item.width + gapY,
        count: Math.min(chunk, left),
        mayTurn: item.mayTurn && Math.abs(item.width - item.height) > 1e-6
      });
    return lots;
  });
}

/** A rule's layouts of a run, better and better; it yields nothing after steps that gave none, and ends. */
export function* place(
  stock: Stock,
  rule: PlaceRule,
  items: readonly Item[],
  pins: readonly Pin[]
): Generator<Placement | undefined, void> {
  let step = 0;
  for (const better of search(stock, rule, items, pins)) {
    yield better;
    if (rule.steps !== null && ++step >= rule.steps) return;
  }
}

function* search(
  stock: Stock,
  rule: PlaceRule,
  items: readonly Item[],
  pins: readonly Pin[]
): Generator<Placement | undefined, void> {
  const ground = groundOf(stock, rule, items, pins);
  const taken = pinnedBoxes(ground);
  if (ground.usable <= 0) {
    yield refused(ground, `The margins of ${rule.margin} mm leave nothing of ${stock.width} mm.`);
    return;
  }
  switch (rule.placing) {
    case 'apart':
    case 'rows':
      yield inRows(ground, taken);
      return;
    case 'shapes':
      yield* byShape(ground);
      return;
    case 'hand': {
      const lots = lotsOf(ground);
      yield finish(ground, fillAround(lots, [...lots.keys()], ground.field, taken));
      return;
    }
    case 'straight': {
      const clearings = taken.map((boxes) => clearAround(boxes, ground.field.width));
      if (clearings.some((clearing) => !clearing)) {
        yield refused(ground, 'The pinned copies interlock: no straight cuts free them. Unpin one.');
        return;
      }
      const around = clearings.filter((clearing) => clearing !== undefined);
      const divided = (lots: readonly Lot[], order: ArrayLike<number>) => fillGuillotine(lots, order, ground.field, around);
      // A skyline may happen to be one that straight cuts free, and then beat what was divided.
      yield* best(
        ground,
        taken.length > 0 ? [divided] : [divided, (lots, order) => separable(ground, fillSkyline(lots, order, ground.field))]
      );
      return;
    }
    case 'close':
      if (taken.length > 0) yield* searched(ground, (lots, order) => fillAround(lots, order, ground.field, taken));
      // Interlocking, or what straight cuts free where that is shorter.
      else
        yield* best(ground, [
          (lots, order) => fillSkyline(lots, order, ground.field),
          (lots, order) => fillGuillotine(lots, order, ground.field)
        ]);
  }
}

type Fill = (lots: readonly Lot[], order: ArrayLike<number>) => Packed;

/** The best of several ways to fill, one search after the other. */
function* best(ground: Ground, fills: readonly Fill[]): Generator<Placement | undefined, void> {
  let least = Infinity;
  for (const fill of fills) {
    for (const better of searched(ground, fill)) {
      const cost = better ? better.length + better.parts.length * 1e-3 : Infinity;
      yield cost < least - 1e-9 ? better : undefined;
      least = Math.min(least, cost);
    }
  }
}

/** A packing that straight cuts free; one that they do not is of no use, whatever its length. */
function separable(ground: Ground, packed: Packed): Packed {
  const free = packed.used.every((used, bin) => {
    const boxes = packed.spots
      .filter((spot) => spot.bin === bin)
      .map(({ kind, x, y, turned }) => {
        const { width, height } = ground.items[kind]!;
        return { x, y, ...turnedSize(width, height, turned ? 90 : 0) };
      });
    return countStraightCuts(boxes, { x: 0, y: 0, width: ground.field.width, height: used }) !== undefined;
  });
  return free ? packed : { ...packed, used: packed.used.map(() => Infinity) };
}

/** The end of a rule's search. */
export function placed(stock: Stock, rule: PlaceRule, items: readonly Item[], pins: readonly Pin[]): Placement {
  let last: Placement | undefined;
  for (const better of place(stock, rule, items, pins)) last = better ?? last;
  return last ?? refused(groundOf(stock, rule, items, pins), 'There is nothing to place.');
}

function* searched(ground: Ground, fill: Fill): Generator<Placement | undefined, void> {
  const lots = lotsOf(ground);
  const area = lots.reduce((sum, lot) => sum + lot.width * lot.height * lot.count, 0);
  const steps = Math.min(
    MOST_STEPS[ground.rule.effort],
    Math.max(BY_SIZE.length, WORK[ground.rule.effort] / (lots.length ** 2 + 1))
  );
  const least = area / ground.field.width + ground.binCost;
  let step = 0;
  for (const packed of searchOrders(lots, BY_SIZE, (order) => fill(lots, order), ground.binCost, least)) {
    yield packed?.used.every(Number.isFinite) ? finish(ground, packed) : undefined;
    if (++step >= steps) return;
  }
}

function inRows(ground: Ground, taken: readonly Rect[][]): Placement {
  const { gapX, gapY, single, placing } = ground.rule;
  const items = ground.items.map((item, kind) => ({
    kind,
    width: item.width + gapX,
    height: item.height + gapY,
    turnedWidth: item.height + gapX,
    turnedHeight: item.width + gapY,
    count: freeCopies(ground, item),
    mayTurn: item.mayTurn
  }));
  const rows = fillRows(items, ground.field, { apart: placing === 'apart', single, whole: ground.stock.kind === 'sheet' }, taken);
  if (taken.length === 0) {
    const share = { left: 0, centre: 0.5, right: 1 }[ground.rule.align];
    for (const block of rows.blocks)
      for (const spot of block.spots) spot.x += Math.max(0, ground.field.width - block.width) * share;
  }
  return finish(ground, rows, rows.free);
}

function refused(ground: Ground, refusal: string): Placement {
  return {
    parts: [],
    length: 0,
    areaM2: 0,
    wasteM2: 0,
    wasteShare: 0,
    cuts: null,
    tooWide: tooWide(ground, new Set()),
    refusal
  };
}

const tooWide = (ground: Ground, left: ReadonlySet<number>): Placement['tooWide'] =>
  [...left].map((kind) => {
    const { id, width, height } = ground.items[kind]!;
    return { id, width: Math.min(width, height), usable: ground.usable };
  });

/** Copies of a docket in the order in which they lie, pinned ones keeping their own numbers. */
function numbers(ground: Ground): (id: string) => number {
  const pinned = new Map<string, Set<number>>();
  for (const pin of ground.pins) pinned.set(pin.id, (pinned.get(pin.id) ?? new Set()).add(pin.copy));
  const next = new Map<string, number>();
  return (id) => {
    let n = next.get(id) ?? 0;
    while (pinned.get(id)?.has(n)) n++;
    next.set(id, n + 1);
    return n;
  };
}

/** From the field's places to the stock's: margins, alignment, pins, free places, corners and figures. */
function finish(ground: Ground, packed: Packed, rowGhosts?: readonly Spot[]): Placement {
  const { rule, before, items } = ground;
  const next = numbers(ground);
  const copyAt = (spot: Spot, copy: number): PlacedCopy => {
    const { id, width, height } = items[spot.kind]!;
    return {
      id,
      copy,
      x: rule.margin + spot.x,
      y: before + spot.y,
      ...turnedSize(width, height, spot.turned ? 90 : 0),
      turn: spot.turned ? 90 : 0,
      pinned: false
    };
  };
  const bins = packed.used.map((): PlacedCopy[] => []);
  // Counted as they lie along the roll.
  const sorted = [...packed.spots].sort((p, q) => p.bin - q.bin || p.y - q.y || p.x - q.x);
  for (const spot of sorted) bins[spot.bin]!.push(copyAt(spot, next(items[spot.kind]!.id)));
  const ghosts = bins.map((): PlacedCopy[] => []);
  if (rowGhosts) {
    for (const spot of rowGhosts) {
      const ghost = copyAt(spot, 0);
      if (ghost.x + ghost.width <= ground.stock.width - rule.margin + 1e-6) ghosts[spot.bin]?.push(ghost);
    }
  }
  return complete(ground, bins, ghosts, packed.left, rowGhosts !== undefined);
}

function complete(
  ground: Ground,
  bins: PlacedCopy[][],
  ghosts: PlacedCopy[][],
  left: ReadonlySet<number>,
  rows: boolean,
  contours?: { area: (copy: PlacedCopy) => number; box: (copy: PlacedCopy) => Rect }
): Placement {
  const { rule, before, stock, items } = ground;
  for (const pin of ground.pins) {
    const item = items.find((one) => one.id === pin.id)!;
    const size = turnedSize(item.width, item.height, pin.turn);
    while (bins.length <= pin.part) bins.push([]);
    bins[pin.part]!.push({
      id: pin.id,
      copy: pin.copy,
      ...size,
      ...cornered(stock, { x: pin.x, y: pin.y, ...size }),
      turn: pin.turn,
      pinned: true
    });
  }
  const next = new Map(items.map((item) => [item.id, item.copies]));
  const area = contours?.area ?? ((copy: PlacedCopy) => copy.width * copy.height);
  const box = contours?.box ?? ((copy: PlacedCopy): Rect => copy);
  const end = (list: readonly PlacedCopy[]) => list.map(box).reduce((most, b) => Math.max(most, b.y + b.height), 0);
  const parts = bins.map((copies, index): Part => {
    const reach = end(copies);
    if (!rows && ground.pins.length === 0) align(ground, copies, box);
    let free = ghosts[index] ?? [];
    const wholeSheet = stock.kind === 'sheet' ? stock.height - rule.margin : reach;
    if (!contours && (rule.fill === 'all' || !rows)) free = [...free, ...freePlaces(ground, [...copies, ...free], wholeSheet)];
    if (rule.fill === 'all' || (rule.fill === 'row' && rows)) {
      for (const ghost of free) {
        const copy = next.get(ghost.id) ?? 0;
        next.set(ghost.id, copy + 1);
        copies.push({ ...ghost, copy });
      }
      free = [];
      // Sheets that are filled alike are told by lying alike.
      copies.sort((p, q) => p.y - q.y || p.x - q.x);
    }
    const length = stock.kind === 'sheet' ? stock.height : end(copies) + rule.tail;
    const region: Rect = { x: 0, y: 0, width: stock.width, height: length };
    const cuts = contours ? null : (countStraightCuts(copies, region) ?? null);
    for (const copy of [...copies, ...free]) {
      const pin = copy.pinned && ground.pins.find(({ id, copy: n }) => id === copy.id && n === copy.copy);
      Object.assign(copy, pin ? { x: pin.x, y: pin.y } : cornered(stock, copy));
    }
    const usedM2 = copies.reduce((sum, copy) => sum + area(copy), 0) / 1e6;
    return { copies, ghosts: free, length, reach: Math.max(before, reach), usedM2, cuts };
  });
  return sumOf(parts, stock.width, tooWide(ground, left));
}

/** Parts and their figures. @param width of the roll or sheet, mm */
export function sumOf(parts: Part[], width: number, tooWide: Placement['tooWide'] = []): Placement {
  const length = parts.reduce((sum, part) => sum + part.length, 0);
  const areaM2 = (length * width) / 1e6;
  const wasteM2 = Math.max(0, areaM2 - parts.reduce((sum, part) => sum + part.usedM2, 0));
  return {
    parts,
    length,
    areaM2,
    wasteM2,
    wasteShare: areaM2 > 0 ? wasteM2 / areaM2 : 0,
    cuts: parts.some((part) => part.cuts === null) ? null : parts.reduce((sum, part) => sum + (part.cuts ?? 0), 0),
    tooWide,
    refusal: null
  };
}

/** Moves all pieces of a part to the middle or to an edge. */
function align(ground: Ground, copies: PlacedCopy[], box: (copy: PlacedCopy) => Rect): void {
  const share = { left: 0, centre: 0.5, right: 1 }[ground.rule.align];
  const right = copies.map(box).reduce((most, b) => Math.max(most, b.x + b.width), 0);
  const shift = Math.max(0, ground.stock.width - ground.rule.margin - right) * share;
  for (const copy of copies) copy.x += shift;
}

/** A sheet is filled from its own corner, the front being the start of the print: its places as if that were front left, or back. */
function cornered(stock: Stock, box: Rect): { x: number; y: number } {
  if (stock.kind === 'roll') return { x: box.x, y: box.y };
  return {
    x: stock.corner.endsWith('right') ? stock.width - box.x - box.width : box.x,
    y: stock.corner.startsWith('back') ? stock.height - box.y - box.height : box.y
  };
}

/** Places for more copies between those that lie there, the largest dockets first. */
function freePlaces(ground: Ground, copies: readonly PlacedCopy[], reach: number): PlacedCopy[] {
  if (copies.length === 0 || copies.length > MOST_COPIES_FOR_GHOSTS) return [];
  const { rule, before, field } = ground;
  const space = new FreeSpace(field.width, reach - before + rule.gapY);
  for (const c of copies)
    space.occupy({ x: c.x - rule.margin, y: c.y - before, width: c.width + rule.gapX, height: c.height + rule.gapY });
  const found: PlacedCopy[] = [];
  const turns = (item: Item) => (item.mayTurn ? [0, 90] : [0]);
  for (const item of [...ground.items].sort((p, q) => q.width * q.height - p.width * p.height)) {
    for (const turn of turns(item)) {
      const size = turnedSize(item.width, item.height, turn);
      for (;;) {
        const at = space.find(size.width + rule.gapX, size.height + rule.gapY);
        if (!at || found.length >= MOST_GHOSTS) break;
        space.occupy({ ...at, width: size.width + rule.gapX, height: size.height + rule.gapY });
        found.push({ id: item.id, copy: 0, x: rule.margin + at.x, y: before + at.y, ...size, turn, pinned: false });
      }
    }
  }
  return found;
}

function boxOf(rings: readonly (readonly Point[])[]): Rect {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const ring of rings)
    for (const p of ring) {
      x0 = Math.min(x0, p.x);
      y0 = Math.min(y0, p.y);
      x1 = Math.max(x1, p.x);
      y1 = Math.max(y1, p.y);
    }
  return { x: x0, y: y0, width: x1 - x0, height: y1 - y0 };
}

const rectangle = (width: number, height: number): Point[][] => [
  [
    { x: 0, y: 0 },
    { x: width, y: 0 },
    { x: width, y: height },
    { x: 0, y: height }
  ]
];

/** Top left corner of the box of a turned rectangle about 0, 0. */
const boxCorner = (width: number, height: number, turn: number): Point => {
  const points = turnRings(rectangle(width, height), turn)[0]!;
  return { x: Math.min(...points.map((p) => p.x)), y: Math.min(...points.map((p) => p.y)) };
};

/** A copy's contour where it lies. */
export function contourOf(item: Item, copy: Pick<PlacedCopy, 'x' | 'y' | 'turn'>): Point[][] {
  const corner = boxCorner(item.width, item.height, copy.turn);
  return turnRings(item.shape ?? rectangle(item.width, item.height), copy.turn).map((ring) =>
    ring.map((p) => ({ x: p.x - corner.x + copy.x, y: p.y - corner.y + copy.y }))
  );
}

/** Contours cannot be turned over: on sheets they always start at the front left. */
function* byShape(run: Ground): Generator<Placement | undefined, void> {
  const ground: Ground = run.stock.kind === 'roll' ? run : { ...run, stock: { ...run.stock, corner: 'front left' } };
  const { rule, items, before } = ground;
  if (!items.some((item) => item.shape)) {
    yield refused(ground, 'No docket here is cut by a contour of its own; close fit is the thriftiest.');
    return;
  }
  const gap = Math.max(rule.gapX, rule.gapY);
  const turnsOf = (item: Item): number[] => {
    if (!item.shape) return item.mayTurn ? [0, 90] : [0];
    if (rule.turnStep === 0 || !item.mayTurn) return [0];
    return Array.from({ length: Math.round(360 / rule.turnStep) }, (_, i) => i * rule.turnStep);
  };
  const lots: ShapeLot[] = items.flatMap((item, kind) => {
    const count = freeCopies(ground, item);
    const chunk = Math.max(1, Math.ceil(count / 12));
    const shape = item.shape ?? rectangle(item.width, item.height);
    return Array.from({ length: Math.ceil(count / chunk) }, (_, i) => ({
      kind,
      rings: shape,
      count: Math.min(chunk, count - i * chunk),
      turns: turnsOf(item)
    }));
  });
  const taken: Point[][][][] = [];
  for (const pin of ground.pins) {
    while (taken.length <= pin.part) taken.push([]);
    const item = items.find((one) => one.id === pin.id)!;
    const pinAt = cornered(ground.stock, { ...turnedSize(item.width, item.height, pin.turn), x: pin.x, y: pin.y });
    taken[pin.part]!.push(contourOf(item, { x: pinAt.x - rule.margin, y: pinAt.y - before, turn: pin.turn }));
  }
  const placer = new ShapePlacer(lots, { width: ground.usable, height: ground.field.height - rule.gapY }, gap, taken);
  const byId = new Map(items.map((item) => [item.id, item]));
  const areas = new Map(items.map((item) => [item.id, ringsArea(item.shape ?? rectangle(item.width, item.height))]));
  const sizes = [
    (lot: ShapeLot) => ringsArea(lot.rings),
    (lot: ShapeLot) => Math.max(...lot.rings.map((ring) => ringsArea([ring])))
  ];
  let fills = 0;
  for (const packed of searchOrders(lots, sizes, (order) => placer.fill(order), ground.binCost, 0)) {
    yield packed && toPlacement(packed);
    if (++fills >= SHAPE_FILLS[rule.effort]) return;
  }

  function toPlacement(packed: { spots: ShapeSpot[]; used: number[]; left: Set<number> }): Placement {
    const next = numbers(ground);
    const bins = packed.used.map((): PlacedCopy[] => []);
    const sorted = [...packed.spots].sort((p, q) => p.bin - q.bin || p.dy - q.dy || p.dx - q.dx);
    for (const spot of sorted) {
      const { id, width, height } = items[spot.kind]!;
      const corner = boxCorner(width, height, spot.turn);
      bins[spot.bin]!.push({
        id,
        copy: next(id),
        x: rule.margin + spot.dx + corner.x,
        y: before + spot.dy + corner.y,
        ...turnedSize(width, height, spot.turn),
        turn: spot.turn,
        pinned: false
      });
    }
    return complete(ground, bins, [], packed.left, false, {
      area: (copy) => areas.get(copy.id) ?? 0,
      box: (copy) => boxOf(contourOf(byId.get(copy.id)!, copy))
    });
  }
}
