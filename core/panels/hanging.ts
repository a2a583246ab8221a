import type { Wall } from './wall';

/** Columns in the order in which they are hung. */
function columnOrder(order: Wall['order'], columns: number): number[] {
  const all = Array.from({ length: columns }, (_, i) => i);
  if (order === 'from right') return all.reverse();
  if (order !== 'from middle') return all;
  const middle = Math.floor((columns - 1) / 2);
  return all.map((i) => middle + (i % 2 === 1 ? (i + 1) / 2 : -i / 2)).filter((column) => column >= 0 && column < columns);
}

/** Whether figures name each of so many once. */
const namesAll = (figures: readonly number[], count: number): boolean =>
  figures.length === count && new Set(figures).size === count && figures.every((figure) => figure < count);

/**
 * Panels in the order in which they are hung. They are numbered from 0, column by column from the left, in each from its top. In a
 * column the lowest is hung first: what is hung later lies on top, and water runs off it. An order by hand that does not name
 * each of them once is one from the left.
 */
export function hangingOrder({ order, byHand }: Pick<Wall, 'order' | 'byHand'>, columns: number, rows: number): number[] {
  if (order === 'by hand' && namesAll(byHand, columns * rows)) return [...byHand];
  return columnOrder(order, columns).flatMap((column) => Array.from({ length: rows }, (_, i) => column * rows + (rows - 1 - i)));
}

/** The order in which panels are printed, so that the first that is hung lies outermost on the roll: the other way round. */
export const printingOrder = <T>(hanging: readonly T[]): T[] => [...hanging].reverse();
