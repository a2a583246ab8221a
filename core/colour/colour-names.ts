import { distance } from 'fastest-levenshtein';
import { plainName } from '../units/names';

/** Names of colours, matched as people mean them. */

/** What a supplier adds to a colour's name to say on what it is shown; it is the same colour's name without. */
const ENDINGS = ['uncoated', 'coated', 'matte', 'matt', 'glossy', 'gloss', 'solid', 'spot'];

/** A plain name without its endings, however many it has; a name that is nothing else stays. */
export function stemOf(name: string): string {
  let stem = plainName(name);
  for (;;) {
    const ending = ENDINGS.find((one) => stem.endsWith(one) && stem.length > one.length);
    if (!ending) return stem;
    stem = stem.slice(0, -ending.length);
  }
}

/** Shorter names are too easily alike. */
const LEAST_NEAR = 4;

/** Whether two plain names are so alike that one may be meant for the other: a letter added, left out or another, or two such in a long name. */
export function isNear(p: string, q: string): boolean {
  const longest = Math.max(p.length, q.length);
  if (p === q || Math.min(p.length, q.length) < LEAST_NEAR) return false;
  // Names that differ in figures alone are other colours of a series: 1204 is not 1205.
  if (p.replace(/\d/g, '') === q.replace(/\d/g, '')) return false;
  return distance(p, q) <= (longest >= 10 ? 2 : 1);
}
