import type { IntentChoice } from '../colour/icc-write';
import { z } from 'zod';
import type { ArtworkChoices } from '../artwork/choices';
import { layersOf, type Belongs, type Finding, type PageFacts } from '../artwork/facts';
import type { MarksByInk } from '../artwork/docket-stack';
import type { Box } from '../geometry/box';
import type { Stack } from '../inks/stack';
import type { Press } from '../media/press';
import { enlargement, pageToFinished, type Preparation, type FinishedSize } from '../artwork/preparation';
import { roleOf, type RoleRule } from '../artwork/roles';
import type { RecordChoices } from '../records/choices';
import type { FinishedLine } from '../cutting/docket-lines';
import { apply } from '../geometry/matrix';
import { formatLength, type ShopUnit } from '../units/length';
import type { Wall } from '../panels/wall';
import type { Under } from '../panels/detail';
import type { Axis, Film, PlannedWall } from '../panels/panels';

/** What of a docket a finding is about: the sentence of the ticket that it stands at. */
export const SUBJECTS = ['size', 'wall', 'records', 'bleed', 'jig', 'colour', 'layers', 'cut'] as const;
export type Subject = (typeof SUBJECTS)[number];

/** One preflight finding on a docket. */
export interface Check {
  id: string;
  about: Subject;
  level: 'fine' | 'look' | 'stop';
  /** What was found and what was asked for, in words and figures; empty where there is nothing to count. */
  figure: string;
  limit: string;
  /** What follows, with the figure and the limit, in a sentence or two. */
  sentence: string;
  /** Where on the finished size, mm. */
  place?: Box;
  mend?: Mend;
}

export interface Mend {
  label: string;
  change: Partial<ArtworkChoices> & { intent?: IntentChoice; wall?: Wall };
}

/** @param says what it is and what it may be, as the operator knows it */
const figure = (says: string, least: number, most: number) => z.number({ error: says }).min(least, says).max(most, says);

/** What the shop asks of artwork. Lengths are mm at the finished size. */
export const Limits = z.object({
  viewingMm: figure('It is looked at from 0.1 to 100 m.', 100, 100_000).default(1000),
  /** Lines thinner than this break up; 0 takes three dots of the print mode. */
  thinnestMm: figure('The thinnest line is 0 to 5 mm.', 0, 5).default(0),
  whiteTextMm: figure('The smallest white lettering is 0 to 50 mm.', 0, 50).default(3),
  richTextMm: figure('The smallest lettering of several inks is 0 to 50 mm.', 0, 50).default(5),
  blackAreaMm2: figure('The largest area of black alone is 0 to 100,000 cm².', 0, 1e7).default(10_000),
  bleedMm: figure('The least bleed is 0 to 100 mm.', 0, 100).default(2),
  nearTrimMm: figure('Lettering keeps 0 to 200 mm off the trim.', 0, 200).default(3),
  gamutDeltaE: figure('Out of reach begins at ΔE00 0.5 to 50.', 0.5, 50).default(4),
  gamutShare: figure('The area out of reach that is told is 0 to 100 %.', 0, 1).default(0.02),
  totalInk: figure('The most ink is 50 to 400 %.', 0.5, 4).default(2.6),
  /** ΔE00 in the mean from its baseline that a condition may have drifted. */
  driftDeltaE: figure('A condition may drift by ΔE00 0.2 to 20.', 0.2, 20).default(1),
  nodes: figure('Cut lines have at most 10 to 1,000,000 nodes.', 10, 1e6).default(2000),
  knifeMm: figure('The narrowest cut is 0.05 to 20 mm.', 0.05, 20).default(0.6),
  islandMm: figure('The smallest piece that stays is 0 to 100 mm.', 0, 100).default(3),
  /** Layers may lie so far beside each other. */
  layersApartMm: figure('Layers of ink may lie 0 to 5 mm apart.', 0, 5).default(0.1)
});
export type Limits = z.infer<typeof Limits>;
export const DEFAULT_LIMITS: Limits = Limits.parse({});

/** A finding as the function that looks tells it: what it is about is said where the functions are listed. */
export type Found = Omit<Check, 'about'>;

/** What only drawing the docket in its condition's inks can tell. Shares are of the area; places are of the finished size. */
export interface Measured {
  totalInk: { most: number; shareAbove: number; place: Box | null };
  gamut: { share: number; mean: number; worst: number; place: Box | null };
  /** Whether anything at all is printed. */
  inked: number;
  /** Where artwork begins or ends on a cut line: share of the lines' length that has ink under it, and how often that changes. */
  cutInk: { share: number; changes: number; place: Box | null } | null;
}

/** A docket's wall as it is looked at. */
export interface WallLook {
  wall: Wall;
  planned: PlannedWall;
  film: Film;
  /** What of the film there is, mm along it: in all, and the longest of one roll; nothing where that is not known. */
  stock?: { inAllMm: number; longestMm: number } | undefined;
  /** What its panels take of the film, mm. */
  neededMm: number;
  /** How busy the artwork is under its seams; nothing while that is not known. */
  busy?: Record<Axis, Under[]> | undefined;
}

/** How much larger a page prints than it is: at its finished size, and as its pocket enlarges that. */
export const printScale = ({ preparation, choices, jig }: CheckInput): number =>
  enlargement(preparation, choices) * (jig && jig !== 'gone' ? jig.scale : 1);

/** The jig that a docket is to lie in, as it is looked at; or it was deleted. */
export type JigLook =
  | 'gone'
  | {
      name: string;
      /** Places that cannot be printed, and those that can. */
      faults: number;
      pockets: number;
      /** One of its places, mm. */
      thing: { width: number; height: number };
      lies: { edge: 'cut off' | 'over' | 'inside'; size: 'own' | 'fit' | 'fill'; turn: number };
      /** What the finished size is times by in there. */
      scale: number;
      /** The machine, where its media comes from the roll. */
      rollOf: string | null;
    };

export interface CheckInput {
  /** What lengths are told in. */
  unit: ShopUnit;
  page: PageFacts;
  choices: ArtworkChoices;
  preparation: Preparation;
  rules: readonly RoleRule[];
  limits: Limits;
  /** Lines that go to the cutter; empty where cutting is off. */
  lines: readonly FinishedLine[];
  /** Whether the page has lines of its own for a tool. */
  customerLines: number;
  fontsNotEmbedded: readonly string[];
  /** Of this page. */
  findings: readonly Finding[];
  mayTurn: boolean;
  intent: IntentChoice;
  /** Of the roll across, margins and marks taken off; none where no media is chosen. */
  usableMm?: number;
  dpi?: number;
  /** The layers that it is printed in, and what the file marks for them. */
  stack: Stack;
  marks: MarksByInk;
  /** Of the file: how many pages it has, and the sizes of those that layers of colour show. */
  pages: { count: number; shown: Readonly<Record<number, FinishedSize>> };
  /** Of the media that is chosen. */
  press?: Press;
  /** How far the condition was from its baseline when it was last read: ΔE00 in the mean, and when, ms. */
  drift?: { at: number; mean: number } | null;
  records?: RecordChoices;
  /** Where it is a wall. */
  wall?: WallLook;
  /** Where it is to lie in a jig. */
  jig?: JigLook | undefined;
  measured?: Measured;
}

/** Whether something of the page prints on this docket. */
export function printed(input: CheckInput, what: Belongs): boolean {
  const { leftOut } = input.preparation;
  return (
    !(what.spot !== undefined && leftOut.spots.includes(what.spot)) &&
    !layersOf(what).some((layer) => leftOut.layers.includes(layer))
  );
}

/** A length as this shop reads it. */
export const lengthIn = ({ unit }: Pick<CheckInput, 'unit'>, mm: number): string => formatLength(mm, unit);

export const roleIn = (input: CheckInput, name: string) => roleOf(name, input.rules, input.choices.roles);

/** A place on the page as one of the finished size. */
export function placed(input: CheckInput, box: Box): Box {
  const m = pageToFinished(input.preparation, input.choices);
  const p = apply(m, { x: box.x, y: box.y });
  const q = apply(m, { x: box.x + box.width, y: box.y + box.height });
  return { x: Math.min(p.x, q.x), y: Math.min(p.y, q.y), width: Math.abs(p.x - q.x), height: Math.abs(p.y - q.y) };
}

export const per = (share: number): string => `${(share * 100).toFixed(share < 0.1 ? 1 : 0)} %`;
