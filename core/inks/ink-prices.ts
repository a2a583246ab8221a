import type { Ink } from './ink-set';
import type { LayerInk } from './stack';

/** What inks cost, in the shop's money. A shop pays one price for all of its ink until it says what some of it costs by itself. */

/** Ink: how much of it, ml, and what that costs. */
export interface InkUse {
  ml: number;
  cost: number;
}

export const NO_INK: InkUse = { ml: 0, cost: 0 };

export const sumOfInk = (uses: Iterable<InkUse>): InkUse =>
  [...uses].reduce((sum, { ml, cost }) => ({ ml: sum.ml + ml, cost: sum.cost + cost }), NO_INK);

export const timesInk = ({ ml, cost }: InkUse, times: number): InkUse => ({ ml: ml * times, cost: cost * times });

/** Of some inks, one after another, what a ml costs; nothing for what the shop pays for any. */
export type Prices = readonly (number | null)[];

/** By layer, the prices of the inks that it is laid down with. Of layers that have none of their own nothing is said. */
export type LayerPrices = Partial<Record<LayerInk, Prices>>;

/** @param own what a ml of some inks of a machine costs, by their names */
export const pricesOf = (inks: readonly Pick<Ink, 'name'>[], own: Readonly<Record<string, number>>): Prices =>
  // Machines name their inks: not what any object has besides.
  inks.map(({ name }) => (Object.hasOwn(own, name) ? own[name]! : null));

export function pricesByLayer(inks: readonly Pick<Ink, 'role'>[], all: Prices): LayerPrices {
  const prices: Partial<Record<LayerInk, (number | null)[]>> = {};
  inks.forEach(({ role }, i) => (prices[role === 'light' ? 'colour' : role] ??= []).push(all[i] ?? null));
  return Object.fromEntries(Object.entries(prices).filter(([, list]) => list.some((price) => price !== null)));
}

/**
 * What a ml costs of what some inks lay down together, before it is known how much of each: as if of all alike.
 *
 * @param usual what the shop pays for any ink
 */
export const meanPrice = (prices: Prices | undefined, usual: number): number =>
  prices && prices.length > 0 ? prices.reduce<number>((sum, price) => sum + (price ?? usual), 0) / prices.length : usual;

/** @param ml of each ink, in the order of their prices; what is beyond them is any ink */
export const inkUse = (ml: readonly number[], prices: Prices, usual: number): InkUse => ({
  ml: ml.reduce((sum, one) => sum + one, 0),
  cost: ml.reduce((sum, one, i) => sum + one * (prices[i] ?? usual), 0)
});
