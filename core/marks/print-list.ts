/** What is printed beside artwork in plain ink, which no profile touches. Lengths in mm, y down, amounts of ink 0…1. */

/** By channel: those of the profile, then the others of the ink set in its order; what is not said is 0. */
export type Amounts = readonly number[];

/** A filled rectangle: what charts, crop marks and colour bars are made of. */
export interface Flat {
  x: number;
  y: number;
  width: number;
  height: number;
  inks: Amounts;
}

export const MARK_SHAPES = ['disc', 'square', 'ring', 'cross'] as const;
export type MarkShape = (typeof MARK_SHAPES)[number];

/** Several of a shape, as people say it. */
export const MARKS_SAID: Record<MarkShape, string> = { disc: 'discs', square: 'squares', ring: 'rings', cross: 'crosses' };

/** What a cutter's camera looks for, or an eyelet's place, about its middle: plain black where nothing else is said. */
export interface Mark {
  x: number;
  y: number;
  diameter: number;
  shape?: MarkShape;
  /** Of the line of a ring or cross; a quarter of the diameter where it is not said. */
  weight?: number;
  inks?: Amounts;
}

/** A line of text; `x`, `y` are the top left of its capitals before it is turned about that place, degrees clockwise. */
export interface Letters {
  x: number;
  y: number;
  heightMm: number;
  text: string;
  turn: number;
  inks: Amounts;
}

/** Black alone, and all inks: what marks for cameras and for people are printed in. */
export const BLACK: Amounts = [0, 0, 0, 1];
export const REGISTRATION: Amounts = [1, 1, 1, 1];

/** The same with another colour for what is printed in all inks: the condition's own black in place of more than it takes. */
export const inNeutral = <T extends { inks?: Amounts }>(printed: readonly T[], neutral: Amounts): T[] =>
  printed.map((one) => (one.inks?.every((ink, i) => ink === REGISTRATION[i]) ? { ...one, inks: neutral } : one));
