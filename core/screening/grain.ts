/**
 * How grainy a flat tone looks: the standard deviation of its lightness within windows of a millimetre, where single drops are
 * no longer told apart but their unevenness is.
 */

/** A side of a window, mm. */
const WINDOW_MM = 1;

/**
 * @param lightness L* of cells of a flat tone, row by row
 * @param cellMm the side of a cell; windows have at least four cells
 * @returns the mean of the windows’ standard deviations
 */
export function grain(lightness: ArrayLike<number>, columns: number, cellMm: number): number {
  const side = Math.max(2, Math.round(WINDOW_MM / cellMm));
  const rows = Math.floor(lightness.length / columns);
  let sum = 0;
  let windows = 0;
  for (let y = 0; y + side <= rows; y += side)
    for (let x = 0; x + side <= columns; x += side) {
      let mean = 0;
      let squares = 0;
      for (let dy = 0; dy < side; dy++)
        for (let dx = 0; dx < side; dx++) {
          const value = lightness[(y + dy) * columns + x + dx]!;
          mean += value;
          squares += value * value;
        }
      const count = side * side;
      mean /= count;
      sum += Math.sqrt(Math.max(0, squares / count - mean * mean));
      windows++;
    }
  return windows > 0 ? sum / windows : 0;
}
