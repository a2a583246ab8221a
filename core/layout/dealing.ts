import type { PlacedCopy, Placement } from './placement';
import type { RunPiece } from './run-piece';

/** Places that are this near to each other down the roll are in one row, mm. */
const ONE_ROW_MM = 0.5;

/** Copies as they are read: row by row, from left to right. @returns their places in the list */
export function inReadingOrder(copies: readonly PlacedCopy[]): number[] {
  const down = copies.map((_, i) => i).sort((p, q) => copies[p]!.y - copies[q]!.y);
  const rows: number[][] = [];
  for (const i of down) {
    const row = rows.at(-1);
    if (row && copies[i]!.y - copies[row[0]!]!.y < ONE_ROW_MM) row.push(i);
    else rows.push([i]);
  }
  return rows.flatMap((row) => row.sort((p, q) => copies[p]!.x - copies[q]!.x || p - q));
}

/**
 * A layout with the record that each copy is. Copies of a docket are all of one size, so that records are dealt to places that
 * are there: row by row and sheet after sheet; or the first place of every sheet first, so that sheets that are cut in a stack
 * leave piles in order. Spare copies begin with the first record again. In a jig each copy is the record of its own number,
 * since pockets are filled in the order that the jig says, or by hand.
 */
export function dealt(layout: Placement, pieces: readonly RunPiece[]): Placement {
  const filled = pieces.filter(({ records }) => records && records.length > 0);
  if (filled.length === 0) return layout;
  const given = layout.parts.map(({ copies }) => new Array<number | undefined>(copies.length));
  const orders = layout.parts.map(({ copies }) => inReadingOrder(copies));
  for (const { id, records, order } of filled) {
    const places = layout.parts.flatMap(({ copies }, part) =>
      orders[part]!.filter((i) => copies[i]!.id === id).map((copy, nth) => ({ part, copy, nth }))
    );
    if (order === 'stack') places.sort((p, q) => p.nth - q.nth || p.part - q.part);
    places.forEach(({ part, copy: i }, n) => {
      const { pocket, copy } = layout.parts[part]!.copies[i]!;
      given[part]![i] = records![(pocket === undefined ? n : copy) % records!.length];
    });
  }
  return {
    ...layout,
    parts: layout.parts.map((part, p) => ({
      ...part,
      copies: part.copies.map((copy, i) => {
        const record = given[p]![i];
        return record === undefined ? copy : { ...copy, record };
      })
    }))
  };
}
