import type { Box } from '../geometry/box';
import { channelsOf, type InkSet } from '../inks/ink-set';
import type { LaidLayer } from '../inks/stack';
import type { Press } from '../media/press';
import { inksOf } from './finishing';
import type { Finishing } from './finishing-choice';
import type { Amounts, Flat, Mark } from './print-list';

/** What is seen of marks on media that is not white: white under them, or they themselves in white. */

/** White alone, as the first channel of it has it. */
export function whiteAlone(inks: InkSet): Amounts {
  const white = channelsOf(inks).findIndex((channel) => inks.some((ink) => ink.role === 'white' && ink.channel === channel));
  return Array.from({ length: white + 1 }, (_, i) => (i === white ? 1 : 0));
}

/** What marks for people are printed in: on dark media white, where the run has it, since black is not seen there. */
export function seenOn(
  inks: InkSet,
  layers: readonly LaidLayer[],
  { media }: Pick<Press, 'media'>
): (ink: Finishing['ink']) => Amounts {
  const isWhite = media.body === 'dark' && layers.some(({ ink }) => ink === 'white');
  return isWhite ? () => whiteAlone(inks) : inksOf;
}

/** How far white reaches beyond a mark on each side, as shares of it: a camera tells dark from light there. */
const BEYOND_MARK = 0.6;

/** White under the marks and codes that a cutter looks for, where the media is no light ground for them and white lies under the colour. */
export function whiteUnder(
  grounds: readonly Box[],
  inks: InkSet,
  layers: readonly LaidLayer[],
  { media }: Pick<Press, 'media'>
): Flat[] {
  const order = layers.map(({ ink }) => ink);
  if (media.body === 'opaque' || !order.includes('white') || order.indexOf('white') > order.lastIndexOf('colour')) return [];
  const amounts = whiteAlone(inks);
  return grounds.map((ground) => ({ ...ground, inks: amounts }));
}

/** The ground of a mark for the camera, and of a code with the white around it. */
export function markGround({ x, y, diameter }: Mark): Box {
  const side = diameter * (1 + 2 * BEYOND_MARK);
  return { x: x - side / 2, y: y - side / 2, width: side, height: side };
}
export const codeGround = ({ x, y, width, height }: Box): Box => ({ x: x - 1, y: y - 1, width: width + 2, height: height + 2 });
