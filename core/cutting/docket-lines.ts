import { z } from 'zod';
import type { PageLine } from '../artwork/facts';
import { pageToFinished, type FinishedSize, type Preparation } from '../artwork/preparation';
import { isTool, TOOLS, type Role, type Tool } from '../artwork/roles';
import type { Point } from '../geometry/matrix';
import {
  bounds,
  flatten,
  parsePathData,
  polylinePath,
  rectanglePath,
  signedArea,
  subpaths,
  transformPath,
  type Path
} from '../geometry/path';
import { bridge } from './bridge';
import { dashes, withTabs } from './dashes';
import { fitRing } from './fit';
import { grow, outside, strokeArea } from './offset';

/** What a docket's choices make of the customer's lines and of lines of its own. All lengths are mm at the finished size. */

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

export const DEFAULT_CUT: CutChoices = {
  customer: { use: true, offsetMm: 0, corners: 'round' },
  made: [],
  weed: { border: false, marginMm: 5, everyMm: 0 },
  perforation: { cutMm: 3, skipMm: 1 },
  tabs: { count: 0, lengthMm: 0.6 }
};

/** A line of a docket at its finished size. */
export interface FinishedLine {
  /** `customer`, `weed`, or the id of a line of the docket's own. */
  id: string;
  tool: Tool;
  /** Whole, as it is shown and checked. */
  outline: Path;
  /** As it is cut: with the gaps of tabs and perforation. */
  path: Path;
}

/** Curves that are made are flattened to this before they are offset, mm. */
const FLAT_MM = 0.005;
/** The most a line that was grown may depart from the exact one, mm. */
const GROWN_MM = 0.02;

/**
 * All lines of a docket.
 *
 * @param lines what the page outlines in spot colours and on layers
 * @param roleOf the role of a spot colour or layer by its name
 */
export function finishedLines(
  lines: readonly PageLine[],
  roleOf: (name: string) => Role | undefined,
  preparation: Preparation,
  size: FinishedSize,
  choices: CutChoices,
  layersOff: readonly string[] = []
): FinishedLine[] {
  const toFinished = pageToFinished(preparation, size);
  const found: { id: string; tool: Tool; outline: Path }[] = [];
  if (choices.customer.use) {
    for (const line of lines) {
      if (line.layer !== undefined && layersOff.includes(line.layer)) continue;
      const tool = [line.spot, line.layer].map((name) => (name === undefined ? undefined : roleOf(name))).find(isTool);
      if (!tool) continue;
      const outline = transformPath(line.path as Path, toFinished);
      const { offsetMm, corners } = choices.customer;
      found.push({ id: 'customer', tool, outline: offsetMm === 0 ? outline : grownPath(outline, offsetMm, corners, GROWN_MM) });
    }
  }
  for (const line of choices.made) {
    found.push({ id: line.id, tool: line.tool, outline: madeOutline(line, preparation, size) });
  }
  const { perforation, tabs, weed } = choices;
  const kiss = found.filter((line) => line.tool === 'kiss cut').map((line) => line.outline);
  for (const outline of weedLines(kiss, weed)) found.push({ id: 'weed', tool: 'kiss cut', outline });
  return found
    .filter((line) => line.outline.length > 1)
    .map((line): FinishedLine => {
      if (line.tool === 'perforation') return { ...line, path: dashes(line.outline, perforation.cutMm, perforation.skipMm) };
      if (line.tool === 'through cut' && tabs.count > 0)
        return { ...line, path: withTabs(line.outline, tabs.count, tabs.lengthMm) };
      return { ...line, path: line.outline };
    });
}

/** A line of the docket's own, at the finished size. */
export function madeOutline(line: MadeLine, preparation: Preparation, size: FinishedSize): Path {
  const { from } = line;
  if (from.kind === 'page') {
    const shape = pageShape(from.shape, from.radiusMm, size);
    return line.offsetMm === 0 ? shape : grownPath(shape, line.offsetMm, line.corners, GROWN_MM);
  }
  const outline = transformPath(parsePathData(from.outline), pageToFinished(preparation, size));
  if (from.kind === 'drawn') return line.offsetMm === 0 ? outline : grownPath(outline, line.offsetMm, line.corners, GROWN_MM);
  // What was found is one area with holes; pieces, holes and offset are chosen from it.
  const rings = grow(closedRings(outline), 0, line.corners);
  const wanted = rings.filter((ring) => {
    const area = signedArea(ring);
    return Math.abs(area) >= line.smallestMm2 && (line.holes || area > 0);
  });
  const grown = line.offsetMm === 0 ? wanted : grow(wanted, line.offsetMm, line.corners);
  const kept = line.holes ? grown : grown.filter((ring) => signedArea(ring) > 0);
  const joined = line.bridgeMm > 0 ? bridge(kept, line.bridgeMm) : kept;
  return joined.flatMap((ring) => fitRing(ring, line.smoothMm));
}

/** Closed outlines as rings, fine enough to offset. */
export const closedRings = (path: Path): Point[][] =>
  flatten(path, FLAT_MM)
    .filter((line) => line.closed)
    .map((line) => line.points);

/** Closed parts grown by a distance; open ones stay where they are. */
function grownPath(path: Path, distance: number, corners: 'round' | 'sharp', tolerance: number): Path {
  const rings: Point[][] = [];
  const open: Path = [];
  for (const part of subpaths(path)) {
    const [line] = flatten(part, FLAT_MM);
    if (line?.closed) rings.push(line.points);
    else open.push(...part);
  }
  return [...grow(rings, distance, corners).flatMap((ring) => fitRing(ring, tolerance)), ...open];
}

/** How far the handles of a quarter circle reach (the error is 0.03 % of the radius). */
const QUARTER = 0.5522847498;

export function pageShape(shape: 'rectangle' | 'rounded' | 'ellipse', radiusMm: number, size: FinishedSize): Path {
  const { widthMm: w, heightMm: h } = size;
  const most = Math.min(w, h) / 2;
  const rx = shape === 'ellipse' ? w / 2 : Math.min(radiusMm, most);
  const ry = shape === 'ellipse' ? h / 2 : Math.min(radiusMm, most);
  if (shape === 'rectangle' || rx === 0) return rectanglePath({ x: 0, y: 0, width: w, height: h });
  const kx = rx * (1 - QUARTER);
  const ky = ry * (1 - QUARTER);
  const path: Path = [{ kind: 'move', to: { x: rx, y: 0 } }];
  const side = (to: Point) => {
    const last = path.at(-1);
    if (last && last.kind !== 'close' && Math.hypot(last.to.x - to.x, last.to.y - to.y) > 1e-9) path.push({ kind: 'line', to });
  };
  side({ x: w - rx, y: 0 });
  path.push({ kind: 'curve', c1: { x: w - kx, y: 0 }, c2: { x: w, y: ky }, to: { x: w, y: ry } });
  side({ x: w, y: h - ry });
  path.push({ kind: 'curve', c1: { x: w, y: h - ky }, c2: { x: w - kx, y: h }, to: { x: w - rx, y: h } });
  side({ x: rx, y: h });
  path.push({ kind: 'curve', c1: { x: kx, y: h }, c2: { x: 0, y: h - ky }, to: { x: 0, y: h - ry } });
  side({ x: 0, y: ry });
  path.push({ kind: 'curve', c1: { x: 0, y: ky }, c2: { x: kx, y: 0 }, to: { x: rx, y: 0 } }, { kind: 'close' });
  return path;
}

/** The border around what is kissed, and lines across the waste that end where a kiss cut begins. */
function weedLines(kiss: readonly Path[], weed: CutChoices['weed']): Path[] {
  if (!weed.border && weed.everyMm === 0) return [];
  const lines = kiss.flatMap((path) => flatten(path, 0.05));
  const box = bounds(lines);
  if (!box) return [];
  const { marginMm: m } = weed;
  const border = { x: box.x - m, y: box.y - m, width: box.width + 2 * m, height: box.height + 2 * m };
  const out: Path[] = weed.border ? [rectanglePath(border)] : [];
  if (weed.everyMm > 0) {
    const across: Point[][] = [];
    // At most a thousand: more would be a mistyped figure.
    const step = Math.max(weed.everyMm, border.height / 1000);
    for (let y = border.y + step; y < border.y + border.height - step / 4; y += step) {
      across.push([
        { x: border.x, y },
        { x: border.x + border.width, y }
      ]);
    }
    const closed = lines.filter((line) => line.closed);
    // A hair before the kiss cut, so that the knife does not cut into what stays.
    const kept = strokeArea(closed, 0.2);
    for (const points of outside(
      outside(
        across,
        closed.map((line) => line.points)
      ),
      kept
    )) {
      if (points.length > 1) out.push(polylinePath({ points, closed: false }));
    }
  }
  return out;
}
