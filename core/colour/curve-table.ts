/** Curves as tables of even steps, read in both directions. */

/** Between two of a table's values. @param place 0…1 along it; beyond it is its end */
export function readTable(table: ArrayLike<number>, place: number): number {
  const x = Math.min(1, Math.max(0, place)) * (table.length - 1);
  const cell = Math.min(table.length - 2, Math.floor(x));
  return table[cell]! + (x - cell) * (table[cell + 1]! - table[cell]!);
}

/** Where a table that never falls has a value, 0…1: the first place that does, the nearest end where none does. */
export function placeInTable(table: ArrayLike<number>, value: number): number {
  const last = table.length - 1;
  if (value <= table[0]!) return 0;
  if (value > table[last]!) return 1;
  let [low, high] = [0, last];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (table[middle]! < value) low = middle;
    else high = middle;
  }
  return (low + (value - table[low]!) / (table[high]! - table[low]!)) / last;
}
