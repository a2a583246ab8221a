import { readdir } from 'node:fs/promises';
import { join, sep } from 'node:path';

/** What of a watched folder is looked at. */

/** Where files go that were taken, and those that were refused, with a text that says why. */
export const TAKEN = 'taken';
export const REFUSED = 'refused';

/** Of folders within folders. */
export const DEEPEST = 8;

/** Whether a thing in a folder is left alone: what was moved aside, and what other programs hide. */
export function isLeft(place: string): boolean {
  const parts = place.split(sep);
  if (parts[0] === TAKEN || parts[0] === REFUSED) return true;
  return parts.some((part) => part.startsWith('.') || /~$|\.(tmp|part|crdownload)$/i.test(part));
}

/** All that lies in a folder, and in those in it, but for what is left alone; links are told and not followed. */
export async function* placesIn(folder: string, deepest = DEEPEST, within = ''): AsyncGenerator<string> {
  for (const entry of await readdir(join(folder, within), { withFileTypes: true }).catch(() => [])) {
    const place = join(within, entry.name);
    if (isLeft(place)) continue;
    if (!entry.isDirectory()) yield place;
    else if (deepest > 0) yield* placesIn(folder, deepest - 1, place);
  }
}
