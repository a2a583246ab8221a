import { formatTape, type ShopUnit } from '$core/units/length';
import type { LaneOffer } from '$lib/server/production/lane-offers';

/** What would become of dockets in a lane, in a sentence that is read while they are over it. */
export function offerInWords(offer: LaneOffer | null, dockets: number, unit: ShopUnit): string {
  if (!offer) return 'Looking at what would change …';
  if (offer.cannot) return offer.cannot;
  if (offer.tooLarge) return offer.tooLarge;
  const others = dockets - offer.here;
  const mode = others === 0 ? 'no other mode' : `${others === dockets ? '' : `${others} of ${dockets} `}to ${offer.mode}`;
  const length = offer.lengthMm === null ? '' : `, ${formatTape(offer.lengthMm, unit)}`;
  const gamut =
    offer.outOfGamut === null
      ? ', colours not measured yet'
      : `, ${(offer.outOfGamut * 100).toFixed(1)} % of colours out of reach${offer.measured > 1 ? ' at most' : ''}`;
  return `${mode}${length}${gamut}`.replace(/^t/, 'T').replace(/^n/, 'N');
}
