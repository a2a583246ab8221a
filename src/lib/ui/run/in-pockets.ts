import { pinOf, type Pin, type PlacedCopy, type Placement, type StockJig } from '$core/layout/placement';

/** Putting copies in pockets by hand: what lies in a pocket comes to where the other came from. */

export interface PocketMove {
  id: string;
  copy: number;
  part: number;
  /** Where it goes, in its own load. */
  pocket: number;
}

type Named = Pick<PocketMove, 'id' | 'copy' | 'part'>;

/**
 * Where copies go that are dragged by so much: each to the pocket that is nearest.
 *
 * @param dx mm
 */
export function movesBy(jig: StockJig, layout: Placement, names: readonly Named[], dx: number, dy: number): PocketMove[] {
  return names.flatMap((name) => {
    const copy = layout.parts[name.part]?.copies.find(({ id, copy }) => id === name.id && copy === name.copy);
    const from = copy && jig.pockets.find(({ number }) => number === copy.pocket);
    if (!from) return [];
    const to = { x: from.x + dx, y: from.y + dy };
    const far = (p: { x: number; y: number }) => Math.hypot(p.x - to.x, p.y - to.y);
    const nearest = jig.pockets.reduce((best, one) => (far(one) < far(best) ? one : best));
    // Dropped far from all pockets it stays where it is.
    const reach = Math.hypot(jig.thing.width, jig.thing.height);
    return far(nearest) > reach || nearest === from ? [] : [{ ...name, pocket: nearest.number }];
  });
}

/**
 * All copies of a layout pinned to their pockets, with some of them moved.
 *
 * @returns nothing where none moves
 */
export function inPockets(layout: Placement, moves: readonly PocketMove[]): Pin[] | undefined {
  if (moves.length === 0) return undefined;
  const key = (part: number, pocket: number | undefined) => `${part}.${pocket ?? 0}`;
  const lies = new Map<string, { copy: PlacedCopy; part: number }>();
  layout.parts.forEach(({ copies }, part) => copies.forEach((copy) => lies.set(key(part, copy.pocket), { copy, part })));
  for (const { id, copy, part, pocket } of moves) {
    const from = [...lies].find(([, one]) => one.part === part && one.copy.id === id && one.copy.copy === copy)?.[0];
    const to = key(part, pocket);
    if (from === undefined || from === to) continue;
    const [mine, other] = [lies.get(from)!, lies.get(to)];
    lies.set(to, mine);
    if (other) lies.set(from, other);
    else lies.delete(from);
  }
  return [...lies].map(([at, { copy, part }]) => ({ ...pinOf(copy, part), pocket: Number(at.split('.')[1]) }));
}
