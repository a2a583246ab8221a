import { LIGHT_STRENGTH } from '../inks/divide';
import { PROCESS_CHANNELS, type InkSet } from '../inks/ink-set';
import type { Kernels } from '../kernels/kernels';
import { unpackBits } from '../kernels/twin';
import { BandRipper } from '../rip/rip-band';
import { planesOf, plateLayout, type RipPlan } from '../rip/plan';
import { grain } from '../screening/grain';
import type { Mask } from '../screening/screener';
import { MM_PER_INCH } from '../units/length';

/** How grainy pale tones are with light inks, and how grainy they would be without: of the drops themselves. */

export interface ToneGrain {
  channel: (typeof PROCESS_CHANNELS)[number];
  with: number;
  without: number;
}

/** What a tone is printed in. */
export interface TonePress {
  inks: InkSet;
  /** By channel of the profile, 256 values → share of the fullest drop. */
  curves: readonly ArrayLike<number>[];
  dpi: number;
}

/** A square of the tone is made, mm. */
const SIDE_MM = 24;
/** About how finely a print is looked at, cells an inch. */
const CELLS_AN_INCH = 90;

/**
 * @param tone of each channel that has a light ink, 0…1
 * @param lightness L* of a channel's value, 0…1
 */
export function toneGrain(
  press: TonePress,
  tone: number,
  lightness: (channel: number, value: number) => number,
  kernels: Kernels,
  mask: Mask
): ToneGrain[] {
  return PROCESS_CHANNELS.flatMap((channel, i): ToneGrain[] => {
    const has = press.inks.some((ink) => ink.channel === channel && ink.role === 'light');
    if (!has) return [];
    const valueOf = inverse(press.curves[i]!);
    const look = (inks: InkSet) => grainOf({ ...press, inks }, i, tone, (amount) => lightness(i, valueOf(amount)), kernels, mask);
    return [{ channel, with: look(press.inks), without: look(press.inks.filter(({ role }) => role !== 'light')) }];
  });
}

function grainOf(
  { inks, curves, dpi }: TonePress,
  channel: number,
  tone: number,
  lightness: (amount: number) => number,
  kernels: Kernels,
  mask: Mask
): number {
  const mark = kernels.mark;
  const plan: RipPlan = {
    widthMm: SIDE_MM,
    lengthMm: SIDE_MM,
    dpi: { x: dpi, y: dpi },
    inks,
    layers: [{ ink: 'colour' }],
    totalInk: null,
    sources: [],
    pieces: [],
    marks: [],
    flats: [{ x: 0, y: 0, width: SIDE_MM, height: SIDE_MM, inks: PROCESS_CHANNELS.map((_, i) => (i === channel ? tone : 0)) }]
  };
  const { widthPx, heightPx } = plateLayout(plan);
  const ripper = new BandRipper(kernels, plan, mask, { method: 'blue-noise', curves });
  const { packed, sizes } = ripper.screen({ index: 0, y: 0, rows: heightPx }, []);
  kernels.release(mark);
  const cell = Math.max(8, Math.round(dpi / CELLS_AN_INCH / 8) * 8);
  // The width is filled up with white.
  const columns = Math.floor((SIDE_MM / MM_PER_INCH) * (dpi / cell));
  const amounts = new Float64Array(columns * Math.floor(heightPx / cell));
  const planes = planesOf(plan);
  const strips = sizes.length / planes.length;
  let from = 0;
  planes.forEach(({ ink }, plate) => {
    const bytes = sizes.slice(plate * strips, (plate + 1) * strips).reduce((sum, size) => sum + size, 0);
    const own = inks[ink]!;
    if (own.channel === PROCESS_CHANNELS[channel]) {
      const plane = unpackBits(packed.subarray(from, from + bytes), (widthPx / 4) * heightPx);
      const strength = own.role === 'light' ? LIGHT_STRENGTH : 1;
      const share = [0, ...own.drops.map((pl) => (strength * pl) / own.drops[2])];
      addCells(plane, widthPx, share, cell, columns, amounts);
    }
    from += bytes;
  });
  return grain(amounts.map(lightness), columns, (cell / dpi) * MM_PER_INCH);
}

/** Adds the mean ink of a packed plane to cells. @param share by level of a drop */
function addCells(
  plane: Uint8Array,
  widthPx: number,
  share: readonly number[],
  cell: number,
  columns: number,
  cells: Float64Array
): void {
  const rows = cells.length / columns;
  for (let y = 0; y < rows * cell; y++)
    for (let x = 0; x < columns * cell; x++) {
      const level = (plane[(y * widthPx + x) >> 2]! >> (6 - 2 * (x & 3))) & 3;
      const at = Math.floor(y / cell) * columns + Math.floor(x / cell);
      cells[at] = cells[at]! + share[level]! / (cell * cell);
    }
}

/** From an amount back to the value whose curve asks for it, 0…1. @param curve 256 amounts that do not fall */
function inverse(curve: ArrayLike<number>): (amount: number) => number {
  return (amount) => {
    let high = 1;
    while (high < 255 && curve[high]! < amount) high++;
    const [low, top] = [curve[high - 1]!, curve[high]!];
    const share = top > low ? (amount - low) / (top - low) : 0;
    return Math.min(1, Math.max(0, (high - 1 + share) / 255));
  };
}
