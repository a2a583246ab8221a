import { turnedSize } from '$core/geometry/matrix';
import type { Box } from '$core/geometry/box';
import { pinOf, type Item, type Pin, type Placement, type PlaceRule, type Stock } from '$core/layout/placement';

/** Placing by hand: pins as boxes, how they snap, line up and spread. */

export type CopyOf = Pick<Pin, 'id' | 'copy' | 'part'>;

export const isSame = (p: CopyOf, q: CopyOf): boolean => p.id === q.id && p.copy === q.copy && p.part === q.part;

/** Every copy of a layout as a pin. */
export const allPins = (layout: Placement): Pin[] => layout.parts.flatMap((part, i) => part.copies.map((copy) => pinOf(copy, i)));

export function pinBox(pin: Pin, items: ReadonlyMap<string, Item>): Box {
  const item = items.get(pin.id);
  return { x: pin.x, y: pin.y, ...turnedSize(item?.width ?? 0, item?.height ?? 0, pin.turn) };
}

const e = 1e-6;
const near = (p: Box, q: Box, gapX: number, gapY: number): boolean =>
  p.x < q.x + q.width + gapX - e &&
  q.x < p.x + p.width + gapX - e &&
  p.y < q.y + q.height + gapY - e &&
  q.y < p.y + p.height + gapY - e;

/**
 * Why pins cannot lie as they do; nothing where they can. Contours may lie within each other's boxes: the search itself
 * sees to them.
 */
export function pinsOverlap(
  pins: readonly Pin[],
  moved: readonly Pin[],
  items: ReadonlyMap<string, Item>,
  stock: Stock,
  rule: PlaceRule
): string {
  for (const pin of moved) {
    const box = pinBox(pin, items);
    const end = stock.kind === 'sheet' ? stock.height - rule.margin : Infinity;
    const start = stock.kind === 'sheet' ? rule.margin : rule.lead;
    if (
      box.x < rule.margin - 1e-3 ||
      box.x + box.width > stock.width - rule.margin + 1e-3 ||
      box.y < start - 1e-3 ||
      box.y + box.height > end + 1e-3
    )
      return 'It would lie over the margin. It was put back.';
    if (rule.placing === 'shapes') continue;
    const other = pins.find(
      (one) => one.part === pin.part && !isSame(one, pin) && near(box, pinBox(one, items), rule.gapX - 0.01, rule.gapY - 0.01)
    );
    if (other) return 'It would lie on another pinned copy, or nearer than the gap. It was put back.';
  }
  return '';
}

/** Moves a box to a margin, or to a gap beside another or level with it, where one is within reach. */
export function snap(box: Box, others: readonly Box[], stock: Stock, rule: PlaceRule, reach: number): { x: number; y: number } {
  const start = stock.kind === 'sheet' ? rule.margin : rule.lead;
  const xs = [rule.margin, stock.width - rule.margin - box.width];
  const ys = [start, ...(stock.kind === 'sheet' ? [stock.height - rule.margin - box.height] : [])];
  for (const other of others) {
    xs.push(other.x, other.x + other.width - box.width, other.x + other.width + rule.gapX, other.x - box.width - rule.gapX);
    ys.push(other.y, other.y + other.height - box.height, other.y + other.height + rule.gapY, other.y - box.height - rule.gapY);
  }
  const nearest = (v: number, list: number[]) => {
    const best = list.reduce((p, q) => (Math.abs(q - v) < Math.abs(p - v) ? q : p), Infinity);
    return Math.abs(best - v) <= reach ? best : v;
  };
  return { x: nearest(box.x, xs), y: nearest(box.y, ys) };
}

export type Edge = 'left' | 'right' | 'start' | 'end';

/** Brings pins to one line: across the roll to the left or right one, along it to the first or last. */
export function alignPins(pins: readonly Pin[], edge: Edge, items: ReadonlyMap<string, Item>): Pin[] {
  const boxes = pins.map((pin) => pinBox(pin, items));
  const left = Math.min(...boxes.map((b) => b.x));
  const right = Math.max(...boxes.map((b) => b.x + b.width));
  const start = Math.min(...boxes.map((b) => b.y));
  const end = Math.max(...boxes.map((b) => b.y + b.height));
  return pins.map((pin, i) => {
    const { width, height } = boxes[i] as Box;
    if (edge === 'left') return { ...pin, x: left };
    if (edge === 'right') return { ...pin, x: right - width };
    return edge === 'start' ? { ...pin, y: start } : { ...pin, y: end - height };
  });
}

/** Spreads pins so that equal gaps lie between them, the outer ones staying. */
export function distributePins(pins: readonly Pin[], along: boolean, items: ReadonlyMap<string, Item>): Pin[] {
  const list = pins
    .map((pin) => ({ pin, box: pinBox(pin, items) }))
    .sort((p, q) => (along ? p.box.y - q.box.y : p.box.x - q.box.x));
  const size = (b: Box) => (along ? b.height : b.width);
  const at = (b: Box) => (along ? b.y : b.x);
  const first = list[0];
  const last = list.at(-1);
  if (!first || !last || list.length < 3) return [...pins];
  const room = at(last.box) + size(last.box) - at(first.box) - list.reduce((sum, { box }) => sum + size(box), 0);
  let place = at(first.box);
  return list.map(({ pin, box }) => {
    const moved = along ? { ...pin, y: place } : { ...pin, x: place };
    place += size(box) + room / (list.length - 1);
    return moved;
  });
}
