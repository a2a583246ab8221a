import type { Point } from '../geometry/matrix';
import { turnedSize } from '../geometry/matrix';
import { boxAround, type Box } from '../geometry/box';
import { areaWithin } from '../geometry/path';
import { complete, finish, numbers, refused } from './finish';
import { fillAround } from './free-space';
import { cornered, freeCopies, groundOf, lotsOf, pinnedBoxes, type Ground } from './ground';
import { DEFAULT_POCKETS, placeInPockets } from './in-pockets';
import {
  boxCorner,
  isJig,
  shapeAt,
  rectangle,
  type Effort,
  type Item,
  type Pin,
  type PlacedCopy,
  type Placement,
  type PlaceRule,
  type Stock
} from './placement';
import { fillRows } from './rows';
import { BY_SIZE, searchOrders } from './search';
import { fillSkyline, type Lot, type Packed } from './skyline';
import { clearAround, countStraightCuts, fillGuillotine } from './straight-cuts';
import { ShapePlacer, type ShapeLot, type ShapeSpot } from './true-shape';

/** Steps grow with the square of the lots: so much work in all. About 0.3, 2 and 20 s. */
const WORK: Record<Effort, number> = { quick: 6e6, normal: 5e7, thorough: 5e8 };
const MOST_STEPS: Record<Effort, number> = { quick: 500, normal: 5000, thorough: 50_000 };
/** Fillings of true shape. */
const SHAPE_FILLS: Record<Effort, number> = { quick: 1, normal: 8, thorough: 60 };
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
  if (isJig(stock)) {
    yield placeInPockets(stock, rule.pockets ?? DEFAULT_POCKETS, items, pins);
    return;
  }
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

function inRows(ground: Ground, taken: readonly Box[][]): Placement {
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

/** Contours cannot be turned over: on sheets they always start at the front left. */
function* byShape(run: Ground): Generator<Placement | undefined, void> {
  const ground: Ground = run.stock.kind === 'roll' ? run : { ...run, stock: { ...run.stock, corner: 'front left' } };
  const { rule, items, before } = ground;
  if (!items.some((item) => item.shape)) {
    yield refused(
      ground,
      'No docket here is placed by a contour: each is cut by none, or has marks around it. Close fit is the thriftiest.'
    );
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
    taken[pin.part]!.push(shapeAt(item, { x: pinAt.x - rule.margin, y: pinAt.y - before, turn: pin.turn }));
  }
  const placer = new ShapePlacer(lots, { width: ground.usable, height: ground.field.height - rule.gapY }, gap, taken);
  const byId = new Map(items.map((item) => [item.id, item]));
  const areas = new Map(items.map((item) => [item.id, areaWithin(item.shape ?? rectangle(item.width, item.height))]));
  const sizes = [
    (lot: ShapeLot) => areaWithin(lot.rings),
    (lot: ShapeLot) => lot.rings.reduce((most, ring) => Math.max(most, areaWithin([ring])), 0)
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
      box: (copy) => boxAround(shapeAt(byId.get(copy.id)!, copy))!
    });
  }
}
