import { mlPerSquareMetre, type DropVolumes } from './drops';
import { meanPrice, type InkUse, type LayerPrices } from './ink-prices';
import type { Spread } from './spread';
import type { ExtraInk, LayerInk } from './stack';

/** How much of a layer one copy has: as if it were full drops of one channel (of colour, of the print mode) on so much of it, m². */
export interface LaidInk {
  /** Of the layer. */
  id: number;
  ink: LayerInk;
  m2: number;
  /** How it lies over the docket's picture. */
  spread: Spread;
}

/** What tells how much ink a full drop has, and what it costs. */
export interface LaidOn {
  mode: { dpi: number; drops: DropVolumes };
  press: { fullDrop: Partial<Record<ExtraInk, number>> };
  inkPrices: LayerPrices;
}

/**
 * The ink of one layer of a copy; nothing of an ink that the machine does not have.
 *
 * @param usual what the shop pays for a ml of any ink
 */
export function laidInk({ ink, m2 }: Pick<LaidInk, 'ink' | 'm2'>, { mode, press, inkPrices }: LaidOn, usual: number): InkUse {
  const drop = ink === 'colour' ? mode.drops[2] : (press.fullDrop[ink] ?? 0);
  const ml = m2 * mlPerSquareMetre({ x: mode.dpi, y: mode.dpi }, [drop, drop, drop]);
  return { ml, cost: ml * meanPrice(inkPrices[ink], usual) };
}

export const formatMl = (ml: number): string => `${ml.toFixed(ml < 10 ? 1 : 0)} ml`;
