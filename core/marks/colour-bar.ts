import type { Amounts, Flat } from './print-list';

export const BAR_MM = 8;
const BAR_PATCHES: Amounts[] = [
  [1, 0, 0, 0],
  [0.5, 0, 0, 0],
  [0, 1, 0, 0],
  [0, 0.5, 0, 0],
  [0, 0, 1, 0],
  [0, 0, 0.5, 0],
  [0, 0, 0, 1],
  [0, 0, 0, 0.5],
  [1, 1, 0, 0],
  [1, 0, 1, 0],
  [0, 1, 1, 0],
  [0.5, 0.4, 0.4, 0]
];

/** Patches of every ink, whole and half, of two inks, and of a grey, side by side as far as they fit. */
export const colourBar = (x: number, y: number, width: number): Flat[] =>
  BAR_PATCHES.slice(0, Math.max(0, Math.floor(width / BAR_MM))).map((inks, i) => ({
    x: x + i * BAR_MM,
    y,
    width: BAR_MM,
    height: BAR_MM,
    inks
  }));
