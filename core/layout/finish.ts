import { turnedSize } from '../geometry/matrix';
import type { Box } from '../geometry/box';
import { FreeSpace } from './free-space';
import { cornered, type Ground } from './ground';
import { sumOf, type Item, type Part, type PlacedCopy, type Placement, type TooLarge } from './placement';
import type { Packed, Spot } from './skyline';
import { countStraightCuts } from './straight-cuts';

/** From packed pieces to a layout: margins, alignment, pins, free places, figures. */

const MOST_GHOSTS = 200;
/** Free places are looked for where that is done at once. */
const MOST_COPIES_FOR_GHOSTS = 1500;

/** A layout of nothing, with the reason. */
export function refused(ground: Ground, refusal: string): Placement {
  return {
    parts: [],
    length: 0,
    areaM2: 0,
    wasteM2: 0,
    wasteShare: 0,
    cuts: null,
    tooLarge: [],
    refusal
  };
}

/** @param left numbers of the items that fit nowhere */
const tooLarge = ({ items, usable, field, rule, stock }: Ground, left: ReadonlySet<number>): TooLarge[] =>
  [...left].map((kind) => {
    const { id, width, height, mayTurn } = items[kind]!;
    const along = field.height === Infinity ? null : field.height - rule.gapY;
    return { id, width, height, mayTurn, kind: stock.kind, across: usable, along };
  });

/** Copies of a docket in the order in which they lie, pinned ones keeping their own numbers. */
export function numbers(ground: Ground): (id: string) => number {
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
export function finish(ground: Ground, packed: Packed, rowGhosts?: readonly Spot[]): Placement {
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
      if (items[spot.kind]!.noSpare) continue;
      const ghost = copyAt(spot, 0);
      if (ghost.x + ghost.width <= ground.stock.width - rule.margin + 1e-6) ghosts[spot.bin]?.push(ghost);
    }
  }
  return complete(ground, bins, ghosts, packed.left, rowGhosts !== undefined);
}

/** @param contours where pieces are placed by them: what they cover, and their boxes */
export function complete(
  ground: Ground,
  bins: PlacedCopy[][],
  ghosts: PlacedCopy[][],
  left: ReadonlySet<number>,
  rows: boolean,
  contours?: { area: (copy: PlacedCopy) => number; box: (copy: PlacedCopy) => Box }
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
  const box = contours?.box ?? ((copy: PlacedCopy): Box => copy);
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
    const region: Box = { x: 0, y: 0, width: stock.width, height: length };
    const cuts = contours ? null : (countStraightCuts(copies, region) ?? null);
    for (const copy of [...copies, ...free]) {
      const pin = copy.pinned && ground.pins.find(({ id, copy: n }) => id === copy.id && n === copy.copy);
      Object.assign(copy, pin ? { x: pin.x, y: pin.y } : cornered(stock, copy));
    }
    const usedM2 = copies.reduce((sum, copy) => sum + area(copy), 0) / 1e6;
    return { copies, ghosts: free, length, reach: Math.max(before, reach), usedM2, cuts };
  });
  return sumOf(parts, stock, tooLarge(ground, left));
}

/** Moves all pieces of a part to the middle or to an edge. */
function align(ground: Ground, copies: PlacedCopy[], box: (copy: PlacedCopy) => Box): void {
  const share = { left: 0, centre: 0.5, right: 1 }[ground.rule.align];
  const right = copies.map(box).reduce((most, b) => Math.max(most, b.x + b.width), 0);
  const shift = Math.max(0, ground.stock.width - ground.rule.margin - right) * share;
  for (const copy of copies) copy.x += shift;
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
  for (const item of ground.items.filter(({ noSpare }) => !noSpare).sort((p, q) => q.width * q.height - p.width * p.height)) {
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
