import { turnedSize, turnRings } from '../geometry/matrix';
import { areaWithin } from '../geometry/path';
import {
  isJig,
  sumOf,
  type Item,
  type JigStock,
  type Part,
  type Pin,
  type PlacedCopy,
  type Placement,
  type PocketRule,
  type Stock,
  type StockJig,
  type StockPocket
} from './placement';

/** Copies in the pockets of a jig, load after load: nothing is left out. */

export const DEFAULT_POCKETS: PocketRule = {
  anchor: 'middle',
  marginMm: 0,
  sharing: 'in order',
  turn: 0,
  edge: 'cut off',
  size: 'own',
  side: 'front',
  touched: []
};

/** How far beyond its pocket a piece may reach for rounding's sake, mm. */
const ROUND_MM = 0.01;

/** @param pins where copies were put by hand, for the rule that heeds them */
export function placeInPockets(stock: JigStock, rule: PocketRule, items: readonly Item[], pins: readonly Pin[] = []): Placement {
  const used = items.filter(({ copies }) => copies > 0);
  const refused = refusalOf(stock, rule, used);
  if (refused !== null) return { ...sumOf([], stock), refusal: refused };
  const byId = new Map(used.map((item) => [item.id, item]));
  const loads = rule.sharing === 'by hand' ? loadsByHand(stock, used, pins) : loadsOf(stock, rule.sharing, used);
  const parts = loads.map((load): Part => {
    const copies = load.map(({ id, copy, pocket }) => placedIn(stock, rule, byId.get(id)!, copy, pocket));
    const usedM2 = thingsM2(stock.jig, copies.length);
    const reach = copies.reduce((most, { y, height }) => Math.max(most, y + height), 0);
    return { copies, ghosts: [], length: stock.height, reach, usedM2, cuts: null };
  });
  return sumOf(parts, stock);
}

/** m² of so many things of a jig. */
const thingsM2 = ({ thing }: StockJig, count: number): number => (count * areaWithin(thing.outline)) / 1e6;

/** What pieces cover of a sheet that is full, m²: in a jig the things in all of its pockets. */
export const fullM2 = (stock: Extract<Stock, { kind: 'sheet' }>): number =>
  isJig(stock) ? thingsM2(stock.jig, stock.jig.pockets.length) : (stock.width * stock.height) / 1e6;

/** Why nothing can be placed, with the figure. */
function refusalOf(stock: JigStock, rule: PocketRule, items: readonly Item[]): string | null {
  const { pockets, thing, name, fault } = stock.jig;
  if (fault !== undefined) return fault;
  if (pockets.length === 0) return `All pockets of ${name} are switched off.`;
  const off = pockets.find((pocket) => {
    const { width, height } = turnedSize(thing.width, thing.height, pocket.turn);
    const reach = Math.max(
      -(pocket.x - width / 2),
      -(pocket.y - height / 2),
      pocket.x + width / 2 - stock.width,
      pocket.y + height / 2 - stock.height
    );
    return reach > ROUND_MM;
  });
  if (off)
    return `Pocket ${pockets.indexOf(off) + 1} of ${name} lies off what is printed on, which is ${Math.round(stock.width)} × ${Math.round(stock.height)} mm. Choose another media or jig, or move its places.`;
  if (rule.edge !== 'inside') return null;
  for (const { width, height } of items.map(({ width, height }) => turnedSize(width, height, rule.turn))) {
    if (width > thing.width + ROUND_MM || height > thing.height + ROUND_MM)
      return `A piece of ${round(width)} × ${round(height)} mm is larger than the pockets of ${name}, which are ${round(thing.width)} × ${round(thing.height)} mm. Make its docket smaller, turn it, or let it be cut off at the edge.`;
  }
  return null;
}

const round = (mm: number): number => Math.round(mm * 10) / 10;

interface Put {
  id: string;
  copy: number;
  pocket: StockPocket;
}

/** Which copy lies in which pocket, by load. */
function loadsOf({ jig }: JigStock, sharing: Exclude<PocketRule['sharing'], 'by hand'>, items: readonly Item[]): Put[][] {
  const { pockets } = jig;
  const left = items.map(({ id, copies }) => ({ id, copies, next: 0 }));
  const take = (one: (typeof left)[number], pocket: StockPocket): Put => ({ id: one.id, copy: one.next++, pocket });
  const isOver = ({ copies, next }: (typeof left)[number]) => next >= copies;
  const loads: Put[][] = [];
  while (left.some((one) => !isOver(one))) {
    const load: Put[] = [];
    let turn = 0;
    let row: number | undefined;
    let ofRow: (typeof left)[number] | undefined;
    for (const pocket of pockets) {
      const open = left.filter((one) => !isOver(one));
      if (open.length === 0) break;
      if (sharing === 'in order') load.push(take(open[0]!, pocket));
      else if (sharing === 'in turn') {
        // The next that has copies left.
        while (isOver(left[turn % left.length]!)) turn++;
        load.push(take(left[turn++ % left.length]!, pocket));
      } else {
        // A row stays one docket's; what it leaves of the row stays empty.
        if (pocket.line !== row) [row, ofRow] = [pocket.line, open[0]];
        if (ofRow && !isOver(ofRow)) load.push(take(ofRow, pocket));
      }
    }
    loads.push(load);
  }
  return loads;
}

/** The same where copies have their pockets by hand: what has none that it can have fills those that are left, in order. */
function loadsByHand({ jig }: JigStock, items: readonly Item[], pins: readonly Pin[]): Put[][] {
  const byNumber = new Map(jig.pockets.map((pocket) => [pocket.number, pocket]));
  const left = new Map(items.map(({ id, copies }) => [id, new Set(Array.from({ length: copies }, (_, i) => i))]));
  const loads: Map<number, Put>[] = [];
  const loadAt = (part: number): Map<number, Put> => {
    while (loads.length <= part) loads.push(new Map());
    return loads[part]!;
  };
  const most = items.reduce((sum, { copies }) => sum + copies, 0);
  for (const { id, copy, part, pocket: number } of pins) {
    const pocket = byNumber.get(number ?? 0);
    // So many loads there are at the most, each with one copy.
    if (!pocket || part >= most || !left.get(id)?.has(copy) || loads[part]?.has(pocket.number)) continue;
    loadAt(part).set(pocket.number, { id, copy, pocket });
    left.get(id)!.delete(copy);
  }
  const rest = items.flatMap(({ id }) => [...left.get(id)!].map((copy) => ({ id, copy })));
  for (let part = 0, next = 0; next < rest.length; part++)
    for (const pocket of jig.pockets) {
      if (next === rest.length) break;
      if (!loadAt(part).has(pocket.number)) loadAt(part).set(pocket.number, { ...rest[next++]!, pocket });
    }
  // In the order of their pockets; a load that was left empty is none.
  const inOrder = (load: Map<number, Put>) => jig.pockets.flatMap(({ number }) => load.get(number) ?? []);
  return loads.filter(({ size }) => size > 0).map(inOrder);
}

/** A copy where it lies in its pocket: turned with the thing. */
function placedIn(stock: JigStock, rule: PocketRule, item: Item, copy: number, pocket: StockPocket): PlacedCopy {
  const { thing } = stock.jig;
  const own = turnedSize(item.width, item.height, rule.turn);
  // In the pocket as the thing is looked at, from its middle.
  const free = { x: Math.max(0, thing.width - own.width) / 2, y: Math.max(0, thing.height - own.height) / 2 };
  const edge = { x: Math.max(0, free.x - rule.marginMm), y: Math.max(0, free.y - rule.marginMm) };
  const side = (low: string, high: string) => (rule.anchor.includes(low) ? -1 : rule.anchor.includes(high) ? 1 : 0);
  const at = { x: side('left', 'right') * edge.x, y: side('top', 'bottom') * edge.y };
  const [middle] = turnRings([[at]], pocket.turn)[0]!;
  const turn = (rule.turn + pocket.turn) % 360;
  const { width, height } = turnedSize(item.width, item.height, turn);
  return {
    id: item.id,
    copy,
    x: pocket.x + middle!.x - width / 2,
    y: pocket.y + middle!.y - height / 2,
    width,
    height,
    turn,
    pinned: false,
    pocket: pocket.number
  };
}

/** Pockets that a load leaves empty, by number. */
export const emptyIn = ({ jig }: JigStock, { copies }: Pick<Part, 'copies'>): number[] => {
  const filled = new Set(copies.map(({ pocket }) => pocket));
  return jig.pockets.flatMap(({ number }) => (filled.has(number) ? [] : [number]));
};
