import { beyondMm } from '../artwork/choices';
import { turnedSize } from '../geometry/matrix';
import { counted } from '../units/counted';
import { formatSize } from '../units/length';
import type { CheckInput, Found, JigLook } from './check';

/** A piece may be larger than its place by rounding, mm. */
const ALIKE_MM = 0.1;

/** Whether a docket can be printed on the things of the jig that it is to lie in. */
export function inJig({ jig, choices, wall, unit }: CheckInput): Found[] {
  if (jig === undefined) return [];
  const why = hindranceOf(jig, wall !== undefined);
  if (why !== '') return [{ id: 'jig', level: 'stop', figure: '', limit: '', sentence: why }];
  if (jig === 'gone') return [];
  const { name, lies, pockets, thing, scale } = jig;
  // Bleed is there to be cut off; where nothing may reach over the edge it counts.
  const beyond = lies.edge === 'inside' ? 2 * beyondMm(choices) : 0;
  const piece = turnedSize((choices.widthMm + beyond) * scale, (choices.heightMm + beyond) * scale, lies.turn);
  const said = {
    id: 'jig',
    figure: formatSize(piece.width, piece.height, unit),
    limit: formatSize(thing.width, thing.height, unit)
  };
  const isLarger = piece.width > thing.width + ALIKE_MM || piece.height > thing.height + ALIKE_MM;
  if (isLarger && lies.edge === 'inside')
    return [{ ...said, level: 'stop', sentence: `It is ${said.figure}, a place in ${name} ${said.limit}: it would be refused. Make it smaller, turn it, or let it be cut off at the edge.` }]; // prettier-ignore
  if (isLarger && lies.edge === 'cut off' && lies.size !== 'fill')
    return [{ ...said, level: 'look', sentence: `It is ${said.figure}, a place in ${name} ${said.limit}: what is beyond the edge is lost.` }]; // prettier-ignore
  return [{ ...said, level: 'fine', sentence: `It lies in ${name}, which has ${counted(pockets, 'place')} of ${said.limit}.${choices.cut ? ' What lies in a jig is not cut.' : ''}` }]; // prettier-ignore
}

/** Why nothing can be printed in a jig, as a sentence; empty where it can. */
export function hindranceOf(jig: JigLook, isWall: boolean): string {
  if (jig === 'gone') return 'The jig that it is to lie in was deleted. Choose another one.';
  const { name, faults, pockets, rollOf } = jig;
  if (isWall) return `It is a wall in panels, and is to lie in ${name}. It can be one of both.`;
  if (faults > 0) return `${name} has pockets that lie on each other, or off the bed or its plate. Mend it first, under Shop.`;
  if (pockets === 0) return `All pockets of ${name} are switched off.`;
  if (rollOf !== null)
    return `${rollOf} prints this media from the roll: things lie in a jig on a flatbed, where media is in sheets.`;
  return '';
}
