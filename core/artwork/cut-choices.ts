import { z } from 'zod';
import { parsePathData } from '../geometry/path';
import { TOOLS } from './roles';

/** How a docket says what is cut: the customer's lines, and lines of its own. All lengths are mm at the finished size. */

/** Characters of path data that one line may have: some ten thousand nodes. */
export const MOST_OUTLINE = 400_000;

const outlineData = z
  .string()
  .max(MOST_OUTLINE, 'The outline has too many nodes. Smooth it more.')
  .refine(
    (data) => {
      try {
        parsePathData(data);
        return true;
      } catch {
        return false;
      }
    },
    { error: 'This is no outline.' }
  );

export const LineSource = z.discriminatedUnion('kind', [
  /** Along the finished size. */
  z.object({
    kind: z.literal('page'),
    shape: z.enum(['rectangle', 'rounded', 'ellipse']),
    radiusMm: z.number().min(0).max(1000)
  }),
  /** Found in the artwork; the outline is of the page (mm from the trim box's corner), so that it follows size and turn. */
  z.object({
    kind: z.literal('found'),
    how: z.enum(['opaque', 'background', 'shapes']),
    /** Opacity 0…1, or ΔE from the background. */
    threshold: z.number().min(0).max(200),
    /** sRGB 0…255; none for the colour of the page's corners. */
    background: z.tuple([z.number(), z.number(), z.number()]).nullable(),
    outline: outlineData
  }),
  /** By hand, also of the page. */
  z.object({ kind: z.literal('drawn'), outline: outlineData })
]);
export type LineSource = z.infer<typeof LineSource>;

const Corners = z.enum(['round', 'sharp']);

export const MadeLine = z.object({
  id: z.string().min(1).max(40),
  tool: z.enum(TOOLS),
  from: LineSource,
  offsetMm: z.number().min(-200, 'The offset is −200 to 200 mm.').max(200, 'The offset is −200 to 200 mm.'),
  corners: Corners,
  /** How far the line may depart from what was found, mm. */
  smoothMm: z.number().min(0.005, 'The smoothing is 0.005 to 10 mm.').max(10, 'The smoothing is 0.005 to 10 mm.'),
  holes: z.boolean(),
  /** Areas smaller than this are left out, mm². */
  smallestMm2: z.number().min(0).max(1e6),
  /** Pieces become one line, joined by bridges this wide; 0 leaves them apart. */
  bridgeMm: z.number().min(0, 'A bridge is 0 to 100 mm wide.').max(100, 'A bridge is 0 to 100 mm wide.')
});
export type MadeLine = z.infer<typeof MadeLine>;

export const CutChoices = z.object({
  /** How the customer's own lines are cut. */
  customer: z.object({ use: z.boolean(), offsetMm: z.number().min(-50).max(50), corners: Corners }),
  made: z.array(MadeLine).max(20, 'At most 20 lines of your own.'),
  /** Around all kiss cuts a border, and lines to peel the waste off in strips. */
  weed: z.object({
    border: z.boolean(),
    marginMm: z.number().min(0).max(100),
    /** Lines across every so many mm; 0 for none. */
    everyMm: z.number().min(0).max(5000)
  }),
  perforation: z.object({ cutMm: z.number().min(0.2).max(100), skipMm: z.number().min(0.1).max(100) }),
  /** Gaps that hold a through cut; 0 for none. */
  tabs: z.object({ count: z.int().min(0).max(50), lengthMm: z.number().min(0.1).max(20) })
});
export type CutChoices = z.infer<typeof CutChoices>;

/**
 * The choices with a line that was drawn by hand: in the place of the one that it was drawn from. The customer's own stays and is
 * not cut; the drawn one is a line of the docket's then.
 *
 * @param outline of the page, as path data
 * @param fresh what it is called and cut with where it was the customer's
 */
export function withDrawn(
  cut: CutChoices,
  drawnFrom: string,
  outline: string,
  fresh: Pick<MadeLine, 'id' | 'tool'>
): { cut: CutChoices; id: string } {
  const from = { kind: 'drawn' as const, outline };
  if (drawnFrom !== 'customer') {
    const made = cut.made.map((line) => (line.id === drawnFrom ? { ...line, from, offsetMm: 0, bridgeMm: 0 } : line));
    return { cut: { ...cut, made }, id: drawnFrom };
  }
  const line: MadeLine = { ...fresh, from, offsetMm: 0, corners: 'round', smoothMm: 0.05, holes: true, smallestMm2: 0, bridgeMm: 0 }; // prettier-ignore
  return { cut: { ...cut, customer: { ...cut.customer, use: false }, made: [...cut.made, line] }, id: fresh.id };
}

export const DEFAULT_CUT: CutChoices = {
  customer: { use: true, offsetMm: 0, corners: 'round' },
  made: [],
  weed: { border: false, marginMm: 5, everyMm: 0 },
  perforation: { cutMm: 3, skipMm: 1 },
  tabs: { count: 0, lengthMm: 0.6 }
};
