import { z } from 'zod';
import { MOST_MM } from '../artwork/choices';
import type { Box } from '../geometry/box';
import type { Point } from '../geometry/matrix';
import type { Family } from '../media/card';

/**
 * What a docket that is a wall is told: how it is divided into panels, and how they are hung. Lengths are mm of the wall, x from its
 * left edge, y down from its top; the wall's size is the docket's finished size.
 */

export const MOST_PANELS = 200;
export const MOST_SEAMS = MOST_PANELS - 1;
export const MOST_OPENINGS = 60;

const place = z.number({ error: 'A place on the wall must be a figure.' }).min(-MOST_MM).max(MOST_MM);
const extent = z
  .number({ error: 'A size on the wall must be a figure.' })
  .min(1, 'A size on the wall is at least 1 mm.')
  .max(MOST_MM, `A size on the wall is at most ${MOST_MM / 1000} m.`);
const upTo = (what: string, most: number) =>
  z
    .number({ error: `The ${what} must be a figure.` })
    .min(0, `The ${what} must not be below 0.`)
    .max(most, `The ${what} must be at most ${most} mm.`);

/** Where two panels meet. */
export const Seam = z.object({
  /** Its mean place: from the left of the wall, or from its top. */
  at: place,
  /** How far it is off that place, at even steps from its start to its end; none for a straight one. */
  course: z.array(z.number().min(-5000).max(5000)).max(400).default([])
});
export type Seam = z.infer<typeof Seam>;

/** How many strips in one direction. */
export const DIVIDED = ['whole', 'fewest', 'equal', 'count', 'widest'] as const;
export const Division = z.object({
  /** Not at all; as few as the film allows, all but the last as wide as it; as few, all equal; so many equal ones; none wider than a size. */
  how: z.enum(DIVIDED),
  count: z
    .int('Panels are counted in whole numbers.')
    .min(1, 'At least 1 panel.')
    .max(MOST_PANELS, `At most ${MOST_PANELS} panels.`),
  widestMm: extent,
  /** Where they were put, by hand or where the artwork is calm; then the rest of this does not count. */
  seams: z.array(Seam).max(MOST_SEAMS, `At most ${MOST_SEAMS} seams.`).nullable().default(null)
});
export type Division = z.infer<typeof Division>;

export const JOINTS = ['overlap', 'butt'] as const;
export const OVERLAP_SIDES = ['beneath', 'above', 'both'] as const;
export const ON_TOP = ['later', 'earlier'] as const;
export const STRIPS = ['printed', 'blank', 'white'] as const;
export const FILM_WAYS = ['upright', 'lying'] as const;
export const ORDERS = ['from left', 'from right', 'from middle', 'by hand'] as const;
export const OPENING_SHAPES = ['rectangle', 'round', 'outline'] as const;

/** A door, a window, a socket. */
export const Opening = z.object({
  name: z.string().trim().max(40, 'A name has at most 40 characters.'),
  x: place,
  y: place,
  width: extent,
  height: extent,
  shape: z.enum(OPENING_SHAPES).default('rectangle'),
  /** Corners of an outline, shares of its box. */
  outline: z
    .array(z.object({ x: z.number().min(0).max(1), y: z.number().min(0).max(1) }))
    .max(500, 'An outline has at most 500 corners.')
    .default([]),
  /** Whether it is left out of the print; else it is printed over, and cut out where it hangs. */
  leftOut: z.boolean().default(true)
});
export type Opening = z.infer<typeof Opening>;

/** A place that seams keep away from. */
export const Spared = z.object({ x: place, y: place, width: extent, height: extent });

/** A photo of the wall, with two points whose places on it are known. */
export const WallPhoto = z.object({
  artworkId: z.int(),
  /** Its height, of its width. */
  aspect: z.number().min(0.05).max(20),
  /** Shares of the photo's width and height, and mm of the wall. */
  points: z.array(z.object({ u: z.number().min(-1).max(2), v: z.number().min(-1).max(2), x: place, y: place })).length(2)
});
export type WallPhoto = z.infer<typeof WallPhoto>;

export const Wall = z.object({
  bleed: z.object({ left: upTo('bleed', 500), top: upTo('bleed', 500), right: upTo('bleed', 500), bottom: upTo('bleed', 500) }),
  /** Which way the film runs on the wall. */
  film: z.enum(FILM_WAYS).default('upright'),
  /** How wide it is; nothing for what its condition has. */
  filmMm: z
    .number()
    .min(50, 'A film is at least 50 mm wide.')
    .max(6000, 'A film is at most 6,000 mm wide.')
    .nullable()
    .default(null),
  columns: Division,
  rows: Division,
  joint: z.enum(JOINTS).default('overlap'),
  /** Nothing for what the film's family takes. */
  overlapMm: upTo('overlap', 300).nullable().default(null),
  /** Which panel has the overlap beyond the seam. */
  side: z.enum(OVERLAP_SIDES).default('beneath'),
  /** Which panel lies on top, by when it is hung. */
  onTop: z.enum(ON_TOP).default('later'),
  /** What the far end of the overlap beneath is: so many mm of it printed like the rest, blank, or white. */
  strip: z.enum(STRIPS).default('printed'),
  stripMm: upTo('strip', 300).default(0),
  /** What is printed beyond an edge that is trimmed. */
  trimMm: upTo('trim', 50).default(2),
  /** Where walls meet, from the left; seams keep so far away. */
  corners: z.array(place).max(20, 'At most 20 corners.').default([]),
  cornerMm: upTo('distance from corners', 2000).default(100),
  openings: z.array(Opening).max(MOST_OPENINGS, `At most ${MOST_OPENINGS} openings.`).default([]),
  spared: z.array(Spared).max(60, 'At most 60 places are spared.').default([]),
  /** How far seams look for a calm place, to either side, and what they may be. */
  calmMm: upTo('range', 3000).default(250),
  curved: z.boolean().default(false),
  order: z.enum(ORDERS).default('from left'),
  /** By hand: panels, from 0, in the order of hanging. */
  byHand: z
    .array(
      z
        .int()
        .min(0)
        .max(MOST_PANELS - 1)
    )
    .max(MOST_PANELS)
    .default([]),
  /** Every second one is printed head to foot, so that a drift across the machine meets itself. */
  alternate: z.boolean().default(false),
  controlStrip: z.boolean().default(true),
  /** Numbered marks beside the print, so far apart; 0 for none. */
  startMarksMm: upTo('distance of start marks', 20_000).default(1000),
  photo: WallPhoto.nullable().default(null)
});
export type Wall = z.infer<typeof Wall>;

const evenly = (bleedMm: number) => ({ left: bleedMm, top: bleedMm, right: bleedMm, bottom: bleedMm });

/** Around a wall, mm: installers trim there. */
export const LEAST_WALL_BLEED_MM = 12;
export const USUAL_WALL_BLEED_MM = 20;

export const newWall = (bleedMm = USUAL_WALL_BLEED_MM): Wall =>
  Wall.parse({
    bleed: evenly(bleedMm),
    columns: { how: 'equal', count: 4, widestMm: 1200 },
    rows: { how: 'whole', count: 2, widestMm: 1200 }
  });

/** How far panels overlap by what the film is, and the least that holds, mm. Calendered film shrinks more than cast. */
const OVERLAPS: Record<Family, { usual: number; least: number }> = {
  cast: { usual: 5, least: 3 },
  calendered: { usual: 10, least: 6 },
  banner: { usual: 40, least: 25 },
  backlit: { usual: 10, least: 6 },
  paper: { usual: 10, least: 5 },
  textile: { usual: 15, least: 8 },
  canvas: { usual: 20, least: 10 },
  rigid: { usual: 0, least: 0 }
};
/** What is not known is taken to be calendered. */
export const usualOverlap = (family: Family | undefined) => OVERLAPS[family ?? 'calendered'];

/** How far neighbours overlap, mm. */
export const overlapOf = (wall: Pick<Wall, 'joint' | 'overlapMm'>, family: Family | undefined): number =>
  wall.joint === 'butt' ? 0 : (wall.overlapMm ?? usualOverlap(family).usual);

/** Round ones as so many corners. */
const ROUND_STEPS = 72;

/** An opening's edge on the wall. */
export function openingRing({ x, y, width, height, shape, outline }: Opening): Point[] {
  const shares: Point[] =
    shape === 'round'
      ? Array.from({ length: ROUND_STEPS }, (_, i) => {
          const angle = (2 * Math.PI * i) / ROUND_STEPS;
          return { x: 0.5 + Math.cos(angle) / 2, y: 0.5 + Math.sin(angle) / 2 };
        })
      : shape === 'outline' && outline.length > 2
        ? outline
        : [
            { x: 0, y: 0 },
            { x: 1, y: 0 },
            { x: 1, y: 1 },
            { x: 0, y: 1 }
          ];
  return shares.map((p) => ({ x: x + p.x * width, y: y + p.y * height }));
}

export const boxRing = ({ x, y, width, height }: Box): Point[] => [
  { x, y },
  { x: x + width, y },
  { x: x + width, y: y + height },
  { x, y: y + height }
];

/** How far a seam is off its mean place at a share of its way. */
export function courseAt({ course }: Pick<Seam, 'course'>, share: number): number {
  if (course.length === 0) return 0;
  const at = Math.max(0, Math.min(1, share)) * (course.length - 1);
  const i = Math.min(course.length - 1, Math.floor(at));
  const next = course[Math.min(course.length - 1, i + 1)]!;
  return course[i]! + (next - course[i]!) * (at - i);
}

/** How far it goes to either side of its mean place: below 0, and above. */
export const reachOf = ({ course }: Pick<Seam, 'course'>): { least: number; most: number } => ({
  least: course.reduce((least, off) => Math.min(least, off), 0),
  most: course.reduce((most, off) => Math.max(most, off), 0)
});
