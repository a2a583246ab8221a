import { z } from 'zod';
import { USUAL_MOVES } from '$core/cutting/duration';
import { MARK_SHAPES } from '$core/marks/print-list';
import { BLADES } from '$core/media/knife';

/** What a cutter's computer and the server say to each other. Lengths in mm. @see docs/cutting.md */

const length = z.number().min(-1e6).max(1e6);
const Place = z.object({ x: length, y: length });
const Rectangle = Place.extend({ width: length, height: length });

/** What a cutter can do, as it says of itself. */
export const CutterAbilities = z.object({
  bed: z.enum(['roll', 'flat']).default('flat'),
  widthMm: z.number().min(10).max(20_000).nullable().default(null),
  /** How much of a print it holds still at once; all of it where it does not say. */
  reachMm: z.number().min(10).max(1e6).nullable().default(null),
  blades: z
    .array(z.enum(BLADES))
    .max(20)
    .default([...BLADES]),
  codes: z
    .array(z.enum(['datamatrix', 'qrcode']))
    .max(5)
    .default(['datamatrix']),
  marks: z
    .array(z.enum(MARK_SHAPES))
    .max(10)
    .default([...MARK_SHAPES]),
  languages: z.array(z.string().max(20)).max(20).default(['HPGL']),
  /** It goes along a roll by itself, and asks. */
  cutsRolls: z.boolean().default(false),
  moves: z
    .object({
      acceleration: z.number().min(10).max(1e6),
      jump: z.number().min(0.1).max(1e4),
      travel: z.number().min(1).max(1e5),
      lift: z.number().min(0).max(60),
      look: z.number().min(0).max(60).default(USUAL_MOVES.look)
    })
    .default(USUAL_MOVES)
});
export type CutterAbilities = z.infer<typeof CutterAbilities>;
export const PLAIN_CUTTER: CutterAbilities = CutterAbilities.parse({});

/** What is cut of the print that carries a code, in the print's coordinates: y down from its top left. */
export const CutterJob = z.object({
  /** As it is printed, and as people read it. */
  code: z.string(),
  shown: z.string(),
  widthMm: z.number(),
  lengthMm: z.number(),
  marks: z.array(Place.extend({ diameter: z.number(), shape: z.enum(MARK_SHAPES) })),
  /** Where the code stands: at the head, the foot, and along a long run. */
  codes: z.array(Rectangle),
  /** Prints of it, and how many of them are cut. */
  prints: z.int(),
  cut: z.int()
});
export type CutterJob = z.infer<typeof CutterJob>;

/** What the camera saw of a print that is to be cut, in the cutter's coordinates: mm, y up. */
export const Claim = z.object({
  /** What the cutter calls the place where it lies: each has another. */
  sheet: z.string().min(1).max(100),
  seen: z.array(Place).max(1000, 'At most 1000 marks are taken.'),
  /** The middle of a code that was read; nothing where a person gave the number. */
  code: Place.nullable().default(null)
});
export type Claim = z.infer<typeof Claim>;

export const Claimed = z.object({
  task: z.int(),
  /** As people read it: the code, and which print of it. */
  name: z.string(),
  /** In the cutter's coordinates. */
  hpgl: z.string(),
  /** Lines that were cut before, and of how many. */
  from: z.int(),
  of: z.int(),
  /** The tail of the print came first. */
  isTurned: z.boolean(),
  /** How far marks lie from where they were expected, on the whole and at most. */
  rms: z.number(),
  worst: z.number()
});
export type Claimed = z.infer<typeof Claimed>;

const task = z.int().min(1);
/** How far a claimed print is: strokes of its HPGL that are made whole. */
export const Progress = z.object({ task, strokes: z.int().min(0).max(1e8) });
export const Failed = Progress.extend({ reason: z.string().trim().min(1).max(300) });

/** What became of a part of the roll. */
export const ROLL_STATES = ['lies', 'looking', 'cutting', 'stopped', 'done'] as const;
const RollPlace = z.object({
  n: z.int().min(1),
  fromMm: z.number(),
  toMm: z.number(),
  /** As it was read or given. */
  code: z.string().max(20).nullable(),
  task: z.int().nullable(),
  name: z.string().max(40).nullable(),
  state: z.enum(['looking', 'cutting', 'cut', 'refused', 'skipped']),
  reason: z.string().max(500).nullable(),
  /** Why, in one word that does not change. */
  refused: z.string().max(20).nullable().default(null),
  isTurned: z.boolean().default(false)
});
export type RollPlace = z.infer<typeof RollPlace>;

/** A roll as the cutter has it. */
export const CutterRoll = z.object({
  id: z.string().max(100),
  widthMm: z.number().min(0).max(1e5),
  lengthMm: z.number().min(0).max(1e7),
  /** How far along it the head is. */
  positionMm: z.number().min(0).max(1e7),
  state: z.enum(ROLL_STATES),
  /** Why it stopped. */
  reason: z.string().max(500).nullable(),
  places: z.array(RollPlace).max(1000)
});
export type CutterRoll = z.infer<typeof CutterRoll>;
