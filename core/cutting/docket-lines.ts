import type { CutChoices, MadeLine } from '../artwork/cut-choices';
import { layersOf, type PageLine } from '../artwork/facts';
import { pageToFinished, type FinishedSize, type Preparation } from '../artwork/preparation';
import { toolOf, type Role, type Tool } from '../artwork/roles';
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
import { grow, outside, strokeArea, unite } from '../geometry/areas';

/** What a docket's choices make of the customer's lines and of lines of its own. All lengths are mm at the finished size. */

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
      if (layersOf(line).some((layer) => layersOff.includes(layer))) continue;
      const tool = toolOf(line, roleOf);
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
  // Without holes what lies in one is no piece of its own either.
  const kept = line.holes ? grown : unite(grown.filter((ring) => signedArea(ring) > 0));
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
    else for (const segment of part) open.push(segment);
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
