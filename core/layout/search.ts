import { seededRandom } from '../geometry/random';
import type { Lot, Packed } from './skyline';

/** mm that a strip or sheet costs beside its own length: lead and tail, or the whole of a sheet. */
export const packedCost = (packed: Pick<Packed, 'used'>, binCost: number): number =>
  packed.used.reduce((sum, used) => sum + used, 0) + packed.used.length * binCost;

export const BY_SIZE: readonly ((lot: Lot) => number)[] = [
  (lot) => lot.width * lot.height,
  (lot) => lot.height,
  (lot) => lot.width,
  (lot) => lot.width + lot.height,
  (lot) => Math.max(lot.width, lot.height)
];

/** So many exchanges a lot without a gain before it starts from a shaken order. */
const PATIENCE = 40;

function exchange(order: Int32Array, random: () => number): void {
  const i = Math.floor(random() * order.length);
  const j = Math.floor(random() * order.length);
  const kept = order[i]!;
  order[i] = order[j]!;
  order[j] = kept;
}

/**
 * Looks for the order of lots that packs best: sorted orders first, largest first, then exchanges of two, then anew from
 * the best order shaken. It yields a packing whenever there is a better one, and nothing after any other step, so that
 * the caller can stop it; it ends by itself only when nothing can be better. The same lots give the same answers, step
 * by step.
 *
 * @param sizes what to sort by
 * @param least a cost that no packing can be below
 */
export function* searchOrders<L, P extends Pick<Packed, 'used'>>(
  lots: readonly L[],
  sizes: readonly ((lot: L) => number)[],
  fill: (order: Int32Array) => P,
  binCost: number,
  least: number
): Generator<P | undefined, void> {
  const n = lots.length;
  const random = seededRandom(n + 1);
  const attempt = (order: Int32Array) => {
    const packed = fill(order);
    return { packed, cost: packedCost(packed, binCost), order };
  };
  let best: { cost: number; order: Int32Array } | undefined;
  for (const size of sizes) {
    const made = attempt(Int32Array.from(lots.keys()).sort((p, q) => size(lots[q]!) - size(lots[p]!) || p - q));
    const better = !best || made.cost < best.cost - 1e-9;
    if (better) best = made;
    yield better ? made.packed : undefined;
  }
  if (!best || n < 2) return;
  let current = best;
  let idle = 0;
  while (best.cost > least + 1e-6) {
    const order = Int32Array.from(current.order);
    exchange(order, random);
    if (idle > 0 && random() < 0.3) exchange(order, random);
    const made = attempt(order);
    idle = made.cost < current.cost - 1e-9 ? 0 : idle + 1;
    // Among layouts of no use all are alike.
    if (made.cost <= current.cost + 1e-9 || current.cost === Infinity) current = made;
    const better = made.cost < best.cost - 1e-9;
    if (better) best = made;
    yield better ? made.packed : undefined;
    if (idle > PATIENCE * n) {
      idle = 0;
      const shaken = Int32Array.from(best.order);
      for (let k = 0; k < Math.max(2, n / 5); k++) exchange(shaken, random);
      current = attempt(shaken);
    }
  }
}
