import { closed, xyzOf, type Ground, type SeenLayer } from '$core/colour/stack-look';
import type { LaidLayer } from '$core/inks/stack';
import type { Body } from '$core/media/card';
import type { Physics } from './physics';

/** What a stack of our inks looks like, cell by cell of what came out. */

/** Mean amounts of a layer, of colour by channel, of any other ink in full drops of one channel. */
export type CellLayer = readonly number[];

export const groundOf = (body: Body, colour: string): Ground => ({ body, colour: xyzOf(colour) });

/** @param cell by layer, from the media upwards */
export const seenLayers = (layers: readonly LaidLayer[], cell: readonly CellLayer[], physics: Physics): SeenLayer[] =>
  layers.flatMap(({ ink }, i): SeenLayer[] => {
    const amounts = cell[i]!;
    if (ink === 'white') return [{ ink, amount: amounts[0] ?? 0 }];
    // Bare of ink it takes nothing.
    if (ink !== 'colour' || amounts.every((amount) => amount === 0)) return [];
    return [{ ink, filter: physics.filter(amounts) }];
  });

/** How much a cell shines, 0 for matt … 1: varnish by how it is cured, else what the media and its inks do. */
export function glossOf(layers: readonly LaidLayer[], cell: readonly CellLayer[], media: number): number {
  return layers.reduce((gloss, { ink, curing }, i) => {
    if (ink !== 'varnish') return gloss;
    const covered = closed(cell[i]?.[0] ?? 0);
    return gloss * (1 - covered) + covered * (curing === 'matt' ? 0.12 : 0.95);
  }, media);
}
