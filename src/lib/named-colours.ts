import { z } from 'zod';
import type { Triple } from '$core/colour/lab';
import type { Inks } from '$core/colour/separation';

/** What browser and server agree on about named colours. */

export interface ShopColour {
  id: number;
  name: string;
  lab: Triple;
}

/** What of the shop's colours a name means. */
export interface NameMatch {
  name: string;
  /** Nothing where no colour has the name, or several might be meant. */
  colour: ShopColour | null;
  /** Those that might be meant, the likeliest first. */
  near: ShopColour[];
}

const ink = z
  .number({ error: 'An ink is a figure of 0 to 100 %.' })
  .min(0, 'An ink is 0 to 100 %.')
  .max(1, 'An ink is 0 to 100 %.');
export const OwnInks = z.tuple([ink, ink, ink, ink]);

/** One print of a colour that was read. */
export interface Round {
  chartId: number;
  at: number;
  inks: Inks;
  /** L*a*b* under D50, the mean of what was read. */
  measured: Triple;
  /** CIEDE2000 from the colour. */
  deltaE: number;
}

/** How a colour's own inks on a condition were come to. */
export interface OwnColour {
  inks: Inks;
  how: 'by hand' | 'measured' | 'picked';
  /** Made for the condition as it was: its profile or curves are others since. */
  old: boolean;
  rounds: Round[];
}

/** A colour on one condition. */
export interface ColourOn {
  conditionId: number;
  /** Nothing while its profile is being made. */
  made: {
    inks: Inks;
    reached: Triple;
    deltaE: number;
    isInReach: boolean;
    /** Ink in all, shares of the fullest drop, and the most that there may be. */
    total: number;
    most: number;
    isOver: boolean;
  } | null;
  own: OwnColour | null;
}

/** What a file of colours would do to the shop's. */
export interface ColourFileLook {
  /** By which it is taken. */
  hash: string;
  kind: string;
  fresh: number;
  /** Of the same name and colour as here. */
  same: number;
  /** Names that would have two colours: what is here stands first, where there is one. */
  twice: { plain: string; name: string; choices: { where: 'here' | 'file'; name: string; lab: Triple }[] }[];
  refused: { name: string; why: string }[];
}

/** Which of the colours of a name that has two is taken, by the plain name; where nothing is said the first. */
export const TakeColours = z.object({
  hash: z.string().regex(/^[0-9a-f]{64}$/, 'This is no file that was read.'),
  chosen: z.record(z.string().max(300), z.int().min(0).max(1000)).default({}),
  /** For those of the file that say none. */
  collection: z.string().trim().max(80, 'At most 80 characters.').default('')
});

/** A spot colour of a docket's page, and what it prints in. */
export interface DocketSpot {
  name: string;
  /** What the file means by it; nothing where it says nothing. */
  file: Triple | null;
  match: NameMatch;
  /** The named colour that it prints in; nothing for what the file shows. */
  prints: ShopColour | null;
  /** What the docket's condition makes of that. */
  made: { reached: Triple; deltaE: number; isInReach: boolean } | null;
}

/** Flat colours of a docket that print in a named colour. */
export interface DocketFlat {
  prints: ShopColour | null;
  made: DocketSpot['made'];
}
