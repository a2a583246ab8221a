import { z } from 'zod';

/** What a look at an artwork file finds. Lengths are mm, y down, from the top left of the finished size. */

const Point = z.object({ x: z.number(), y: z.number() });
export const PathSegment = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('move'), to: Point }),
  z.object({ kind: z.literal('line'), to: Point }),
  z.object({ kind: z.literal('curve'), c1: Point, c2: Point, to: Point }),
  z.object({ kind: z.literal('close') })
]);

export const CutPath = z.object({
  /** The spot colour's name as the file writes it. */
  spot: z.string(),
  path: z.array(PathSegment)
});
export type CutPath = z.infer<typeof CutPath>;

const Box = z.object({ x: z.number(), y: z.number(), width: z.number(), height: z.number() });

export const ImageFact = z.object({
  widthPx: z.number(),
  heightPx: z.number(),
  /** Pixels an inch at the page's own size, the lower of the two directions. */
  ppi: z.number(),
  colourSpace: z.string(),
  place: Box
});

export const PageFacts = z.object({
  /** The finished size: the trim box where there is one, otherwise the page. */
  widthMm: z.number(),
  heightMm: z.number(),
  boxes: z.record(z.string(), Box),
  /** How much the page has beyond the finished size, on the narrowest side. */
  bleedMm: z.number(),
  images: z.array(ImageFact),
  colourSpaces: z.array(z.string()),
  spots: z.array(z.string()),
  cutPaths: z.array(CutPath),
  objects: z.number()
});
export type PageFacts = z.infer<typeof PageFacts>;

export const ArtworkFacts = z.object({
  format: z.enum(['PDF', 'SVG', 'PNG', 'JPEG', 'TIFF']),
  pages: z.array(PageFacts),
  fontsNotEmbedded: z.array(z.string()),
  /** Sentences about what was done on the way in. */
  notes: z.array(z.string())
});
export type ArtworkFacts = z.infer<typeof ArtworkFacts>;

/** Names of spot colours as compared: case, spaces, hyphens and underscores do not matter. */
export const plainName = (name: string): string => name.toLowerCase().replace(/[\s\-_]+/g, '');

export const DEFAULT_CUT_NAMES = ['CutContour', 'Kiss Cut', 'Through Cut'];

export function isCutName(name: string, cutNames: readonly string[]): boolean {
  const plain = plainName(name);
  return cutNames.some((cut) => plainName(cut) === plain);
}

export class ArtworkError extends Error {
  override name = 'ArtworkError';
}
