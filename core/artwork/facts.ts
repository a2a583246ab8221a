import { z } from 'zod';

/** What a look at an artwork file finds. Lengths are mm, y down, from the top left of the trim box. */

const Point = z.object({ x: z.number(), y: z.number() });
export const PathSegment = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('move'), to: Point }),
  z.object({ kind: z.literal('line'), to: Point }),
  z.object({ kind: z.literal('curve'), c1: Point, c2: Point, to: Point }),
  z.object({ kind: z.literal('close') })
]);

/** A line that may be for a tool: drawn in a spot colour, or on a layer. */
export const PageLine = z.object({
  spot: z.string().optional(),
  layer: z.string().optional(),
  within: z.array(z.string()).optional(),
  path: z.array(PathSegment)
});
export type PageLine = z.infer<typeof PageLine>;

/** A box as it is sent and stored. */
export const BoxSchema = z.object({ x: z.number(), y: z.number(), width: z.number(), height: z.number() });

/**
 * Where something lies, and which spot colour and layer it belongs to, so that a docket's roles decide whether it prints. `within`
 * are the layers that its layer lies in, the outermost first.
 */
const Place = z.object({
  place: BoxSchema,
  spot: z.string().optional(),
  layer: z.string().optional(),
  within: z.array(z.string()).optional()
});

/** What a thing of a page belongs to. */
export interface Belongs {
  spot?: string | undefined;
  layer?: string | undefined;
  within?: string[] | undefined;
}

/** The layers that something lies on, the innermost first. */
export const layersOf = ({ layer, within = [] }: Belongs): string[] =>
  layer === undefined ? [] : [layer, ...within.toReversed()];

export const ImageFact = Place.extend({
  widthPx: z.number(),
  heightPx: z.number(),
  /** Pixels an inch at the page's own size, the lower of the two directions. */
  ppi: z.number(),
  colourSpace: z.string()
});

/** What something is painted with: white, black alone, dark of several inks, or any other colour. */
export const Paint = z.enum(['white', 'black', 'rich', 'colour']);
export type Paint = z.infer<typeof Paint>;

/** Lettering; `sizeMm` is the type size at the page's own size. */
export const TextFact = Place.extend({ sizeMm: z.number(), bold: z.boolean(), paint: Paint });
export type TextFact = z.infer<typeof TextFact>;
export const StrokeFact = Place.extend({ widthMm: z.number(), paint: Paint });
export const AreaFact = Place.extend({ areaMm2: z.number() });

export const SpotFact = z.object({
  name: z.string(),
  objects: z.number(),
  /** How many of them are outlines, which could be lines for a tool. */
  outlines: z.number(),
  /** What the file shows it as, sRGB 0…255; none where the file gives nothing that can be seen. */
  colour: z.tuple([z.number(), z.number(), z.number()]).nullable()
});
export const LayerFact = z.object({
  name: z.string(),
  visible: z.boolean(),
  outlines: z.number(),
  /** Of layers with the same number one alone is shown at a time. */
  group: z.number().nullable().default(null)
});

export const PageFacts = z.object({
  /** The trim box, which is the page where none is set. */
  widthMm: z.number(),
  heightMm: z.number(),
  /** media, crop, bleed, trim, art. */
  boxes: z.record(z.string(), BoxSchema),
  /** What is drawn and not white, cut to the clips it is drawn through. */
  content: BoxSchema.nullable(),
  /** How much the page has beyond the trim box, on the narrowest side. */
  bleedMm: z.number(),
  images: z.array(ImageFact),
  colourSpaces: z.array(z.string()),
  spots: z.array(SpotFact),
  layers: z.array(LayerFact),
  /** Of each kind of paint the smallest; bounded. */
  text: z.array(TextFact),
  /** The thinnest strokes. */
  strokes: z.array(StrokeFact),
  /** The largest areas of black alone. */
  blackAreas: z.array(AreaFact),
  /** Stretches of lettering that read the right way round on the page, and those that are mirrored. */
  lettering: z.object({ right: z.number(), mirrored: z.number() }).default({ right: 0, mirrored: 0 }),
  overprint: z.boolean(),
  /** Form fields that are filled in, and stamps. */
  fields: z.number().default(0),
  /** Fields of a form for text, filled in or not. */
  formFields: z
    .array(
      z.object({
        name: z.string(),
        kind: z.enum(['text', 'tick', 'picture']).default('text'),
        place: BoxSchema,
        multiline: z.boolean()
      })
    )
    .default([]),
  /** Blend modes other than normal, and whether anything is see-through. */
  blends: z.array(z.string()),
  seeThrough: z.boolean(),
  /** Outlines that were too many to keep. */
  linesLeftOut: z.number(),
  objects: z.number()
});
export type PageFacts = z.infer<typeof PageFacts>;

/** What was not taken as its maker had it, on the way in. */
export const Finding = z.object({
  kind: z.enum([
    /** `what` is a family that is not there, `instead` the one that was taken. */
    'svg-font',
    /** Characters that no font has. */
    'svg-glyphs',
    /** A picture that is not in the file, or cannot be read. */
    'svg-picture',
    'svg-html',
    /** So many effects, as pixels of so many an inch. */
    'svg-filter',
    /** So many colour channels beside the picture's own, which are not printed. */
    'extra-channels',
    'damaged'
  ]),
  what: z.string(),
  instead: z.string(),
  place: BoxSchema.nullable(),
  page: z.number().default(0)
});
export type Finding = z.input<typeof Finding>;

export const FORMATS = [
  'PDF',
  'PostScript',
  'SVG',
  'PNG',
  'JPEG',
  'TIFF',
  'WebP',
  'AVIF',
  'GIF',
  'JPEG 2000',
  'BMP',
  'PWG raster'
] as const;

export const OutputIntentFact = z.object({ name: z.string(), space: z.enum(['rgb', 'cmyk', 'grey']), hash: z.string() });
export type OutputIntentFact = z.infer<typeof OutputIntentFact>;

export const ArtworkFacts = z.object({
  format: z.enum(FORMATS),
  pages: z.array(PageFacts),
  fontsNotEmbedded: z.array(z.string()),
  /** Sentences about what was done on the way in. */
  notes: z.array(z.string()),
  findings: z.array(Finding).default([]),
  /** What the file says its plain colours are made for, and the hash of that profile. */
  outputIntent: OutputIntentFact.nullable().default(null)
});
export type ArtworkFacts = z.infer<typeof ArtworkFacts>;

export class ArtworkError extends Error {
  override name = 'ArtworkError';
}
