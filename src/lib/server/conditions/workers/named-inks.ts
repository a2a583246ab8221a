import { readFileSync } from 'node:fs';
import { LRUCache } from 'lru-cache';
import type { Triple } from '$core/colour/lab';
import { openEngine } from '$core/colour/lcms';
import { ColourMaker, type NamedInks } from '$core/colour/named-inks';
import { pressOfProfile } from '$core/colour/press-of-profile';
import { backTable, packTables } from '$core/colour/soft-proof';
import type { InkLimits, Inks } from '$core/colour/separation';
import { endingOnTraps } from '../../platform/workers/ending-on-traps';

/** Colours as inks of conditions, worked out in a thread. */

export interface PressFiles {
  /** The condition's profile. */
  profile: string;
  limits: InkLimits;
}

/** Conditions whose colours are at hand: each takes about a megabyte. */
const MOST_AT_HAND = 60;
const makers = new LRUCache<string, ColourMaker>({ max: MOST_AT_HAND });

async function makerOf({ profile, limits }: PressFiles): Promise<ColourMaker> {
  // Files are named by what is in them.
  const key = JSON.stringify([profile, limits]);
  const known = makers.get(key);
  if (known) return known;
  const made = new ColourMaker(pressOfProfile(Uint8Array.from(readFileSync(profile)), limits, await openEngine()));
  makers.set(key, made);
  return made;
}

export interface ColoursRequest {
  press: PressFiles;
  /** Each by its L*a*b* under D50, or with inks that somebody chose. */
  colours: { lab: Triple; own?: Inks | undefined }[];
}

export type MadeColour = NamedInks & {
  /** Ink in all, shares of the fullest drop. */
  total: number;
  isOver: boolean;
};

export const makeColours = endingOnTraps(async ({ press, colours }: ColoursRequest): Promise<MadeColour[]> => {
  const maker = await makerOf(press);
  return colours.map(({ lab, own }) => {
    const made = own ? maker.tell(own, lab) : maker.make(lab);
    return { ...made, total: maker.inkOf(made.inks), isOver: !maker.isWithin(made.inks) };
  });
});

/** What a condition is to the eye, as figures in a row. */
export const proofTables = endingOnTraps(async ({ press }: { press: PressFiles }): Promise<Float32Array> => {
  const { grid, white, begin } = (await makerOf(press)).press;
  return packTables({ forward: grid, white, back: backTable(begin) });
});
