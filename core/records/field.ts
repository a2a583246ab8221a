import { z } from 'zod';
import { TOOLS } from '../artwork/roles';
import { CODE_KINDS, CORRECTIONS } from './code-kinds';
import { MOST_CONTENT } from './content';

/** A field: a place on a docket that each record fills with lettering, a code or a picture of its own. Lengths are mm of the finished size. */

const mm = (least: number, most: number, what: string) =>
  z
    .number({ error: `The ${what} must be a figure.` })
    .min(least, `The ${what} is at least ${least} mm.`)
    .max(most, `The ${what} is at most ${most} mm.`);

/** Its upright box about which it is turned, degrees clockwise about the middle. */
export const FieldPlace = z.object({
  x: mm(-50_000, 50_000, 'place'),
  y: mm(-50_000, 50_000, 'place'),
  width: mm(0.5, 50_000, 'width'),
  height: mm(0.5, 50_000, 'height'),
  turn: z.number().min(-360).max(360)
});
export type FieldPlace = z.infer<typeof FieldPlace>;

const share = z.number().min(0).max(1);
/** As files have colours: sRGB, amounts of the four process inks, or a spot colour. */
export const FieldColour = z.discriminatedUnion('is', [
  z.object({ is: z.literal('rgb'), colour: z.string().regex(/^#[0-9a-f]{6}$/i, 'A colour is six figures after #.') }),
  z.object({ is: z.literal('inks'), inks: z.tuple([share, share, share, share]) }),
  /** By its name, as artwork has it; in these inks where nothing is known of the name. */
  z.object({ is: z.literal('spot'), name: z.string().trim().max(100), inks: z.tuple([share, share, share, share]) })
]);
export type FieldColour = z.infer<typeof FieldColour>;

/** How large lettering is: a size of its own, the largest that fits for each record, or one for all: that at which all fit. */
export const TextSize = z.discriminatedUnion('is', [
  z.object({
    is: z.literal('fixed'),
    pt: z.number().min(1, 'Lettering is 1 to 10,000 pt.').max(10_000, 'Lettering is 1 to 10,000 pt.')
  }),
  z.object({ is: z.literal('largest') }),
  z.object({ is: z.literal('one for all') })
]);

const common = {
  /** Tells fields of a docket apart, whatever their order. */
  id: z.int().min(1).max(999),
  name: z.string().trim().min(1, 'A field has a name.').max(100),
  place: FieldPlace,
  content: z.string().max(MOST_CONTENT)
};

export const ALONG = ['left', 'centre', 'right'] as const;
export const DOWN = ['top', 'middle', 'bottom'] as const;

/** A line around lettering: so far from it, mm; with the holes of its letters where they are not closed by that. */
export const FieldCut = z.object({
  tool: z.enum(TOOLS),
  mm: mm(-5, 50, 'distance of the line'),
  holes: z.boolean()
});
export type FieldCut = z.infer<typeof FieldCut>;

/** Under lettering, moved from it, mm; its edge is soft so far to both sides. */
export const TextShadow = z.object({
  right: mm(-100, 100, 'shadow'),
  down: mm(-100, 100, 'shadow'),
  soft: mm(0, 50, 'softness of the shadow'),
  strength: z.number().min(0.05).max(1),
  colour: FieldColour
});
export type TextShadow = z.infer<typeof TextShadow>;

export const TextField = z.object({
  ...common,
  is: z.literal('text'),
  /** A font that the shop has, by its family and style. */
  font: z.string().max(200),
  size: TextSize,
  wrap: z.boolean(),
  along: z.enum(ALONG),
  down: z.enum(DOWN),
  lineSpacing: z.number().min(0.5, 'Lines are 50 to 400 % apart.').max(4, 'Lines are 50 to 400 % apart.'),
  /** After each letter, em. */
  letterSpacing: z.number().min(-0.2, 'Letters are -20 to 200 % apart.').max(2, 'Letters are -20 to 200 % apart.'),
  colour: FieldColour,
  /** A line around the letters. */
  outline: z.object({ mm: z.number().min(0.01).max(50), colour: FieldColour }).nullable(),
  /** Its one line lies on an arc as wide as the place, of so many degrees; its middle is high, or low for less than 0. */
  bend: z
    .number()
    .min(-180, 'An arc has 5 to 180 degrees.')
    .max(180, 'An arc has 5 to 180 degrees.')
    .refine((bend) => bend === 0 || Math.abs(bend) >= 5, 'An arc has 5 to 180 degrees.')
    .default(0),
  shadow: TextShadow.nullable().default(null),
  /** Each record's lettering is cut by itself. */
  cut: FieldCut.nullable().default(null)
});
export type TextField = z.infer<typeof TextField>;

export const CodeField = z.object({
  ...common,
  is: z.literal('code'),
  kind: z.enum(CODE_KINDS),
  colour: FieldColour,
  /** Of QR codes; others have what their kind has. */
  correction: z.enum(CORRECTIONS).default('middle'),
  /** What it says stands below it in plain. */
  below: z.boolean().default(false),
  /** Bars are thinner by this, mm, since ink spreads; in whole drops. */
  thinner: mm(0, 0.5, 'reduction of bars').default(0)
});
export type CodeField = z.infer<typeof CodeField>;

/** A picture is seen whole in its place, or fills it and is cut off where it reaches out. */
export const FITS = ['whole', 'filled'] as const;

/** Its text is the name of a picture. */
export const PictureField = z.object({
  ...common,
  is: z.literal('picture'),
  fit: z.enum(FITS),
  along: z.enum(ALONG),
  down: z.enum(DOWN),
  /** A record that has no picture is printed without one. */
  without: z.boolean().default(false)
});
export type PictureField = z.infer<typeof PictureField>;

export const Field = z.discriminatedUnion('is', [TextField, CodeField, PictureField]);
export type Field = z.infer<typeof Field>;

export const MOST_FIELDS = 60;
export const Fields = z
  .array(Field)
  .max(MOST_FIELDS, `A docket has at most ${MOST_FIELDS} fields.`)
  .refine((fields) => new Set(fields.map(({ id }) => id)).size === fields.length, 'Two fields have the same number.');
