import { turnedSize } from '../geometry/matrix';
import type { Box } from '../geometry/box';
import type { Item, Pin, PlaceRule, Stock } from './placement';
import type { Field, Lot } from './skyline';

/** Copies beyond these are lots that stay together while orders are tried. */
const MOST_LOTS = 400;
/** What a run is placed on, worked out once. */
export interface Ground {
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

export function groundOf(stock: Stock, rule: PlaceRule, items: readonly Item[], pins: readonly Pin[]): Ground {
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
export function pinnedBoxes(ground: Ground): Box[][] {
  const boxes: Box[][] = [];
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

export const freeCopies = (ground: Ground, item: Item): number =>
  item.copies - ground.pins.filter((pin) => pin.id === item.id).length;

export function lotsOf(ground: Ground): Lot[] {
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

/** A sheet is filled from its own corner, the front being the start of the print: its places as if that were front left, or back. */
export function cornered(stock: Stock, box: Box): { x: number; y: number } {
  if (stock.kind === 'roll') return { x: box.x, y: box.y };
  return {
    x: stock.corner.endsWith('right') ? stock.width - box.x - box.width : box.x,
    y: stock.corner.startsWith('back') ? stock.height - box.y - box.height : box.y
  };
}
