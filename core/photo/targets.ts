import type { Point } from '../geometry/matrix';
import { DOT, markDiameter, markPlaces, RING_INNER, type Bed } from '../layout/bed-marks';
import { median } from './median';
import { homographyOf, project, residualOf, type Homography, type Seen } from './homography';
import { patchesOf, type Patch } from './patches';

/** How a bed is seen in a photo: by its marks, or by its corners. */

export class PhotoError extends Error {
  override name = 'PhotoError';
}

/** A picture in grey, a byte a pixel. */
export interface Grey {
  pixels: Uint8Array;
  width: number;
  height: number;
}

/** Darker than so much of what is around it is dark. */
const DARK = 0.72;
/** What is around a pixel reaches so far, of the picture's longer side. */
const AROUND = 1 / 24;
const LEAST_PX = 8;
const MOST_MARKS = 60;

/** Dark pixels, each against the mean of what is around it: light falls off towards the corners. */
function darkness({ pixels, width, height }: Grey): Uint8Array {
  const sums = new Float64Array((width + 1) * (height + 1));
  for (let y = 0; y < height; y++) {
    let row = 0;
    for (let x = 0; x < width; x++) {
      row += pixels[y * width + x]!;
      sums[(y + 1) * (width + 1) + x + 1] = sums[y * (width + 1) + x + 1]! + row;
    }
  }
  const reach = Math.max(4, Math.round(Math.max(width, height) * AROUND));
  const mask = new Uint8Array(width * height);
  for (let y = 0; y < height; y++) {
    const [y0, y1] = [Math.max(0, y - reach), Math.min(height, y + reach + 1)];
    for (let x = 0; x < width; x++) {
      const [x0, x1] = [Math.max(0, x - reach), Math.min(width, x + reach + 1)];
      const at = (row: number, column: number) => sums[row * (width + 1) + column]!;
      const mean = (at(y1, x1) - at(y0, x1) - at(y1, x0) + at(y0, x0)) / ((x1 - x0) * (y1 - y0));
      if (pixels[y * width + x]! < mean * DARK) mask[y * width + x] = 1;
    }
  }
  return mask;
}

interface Mark extends Point {
  /** Pixels. */
  size: number;
  area: number;
}

const middleOf = ({ area, sumX, sumY }: Patch): Point => ({ x: sumX / area, y: sumY / area });

/** The centre of darkness of a mark in its box, by grey levels. */
function centreOf({ pixels, width }: Grey, ring: Patch): Point {
  let paper = 0;
  for (let y = ring.y0; y <= ring.y1; y++)
    for (let x = ring.x0; x <= ring.x1; x++) paper = Math.max(paper, pixels[y * width + x]!);
  let [sum, sx, sy] = [0, 0, 0];
  for (let y = ring.y0; y <= ring.y1; y++)
    for (let x = ring.x0; x <= ring.x1; x++) {
      const dark = paper - pixels[y * width + x]!;
      sum += dark;
      sx += dark * (x + 0.5);
      sy += dark * (y + 0.5);
    }
  return { x: sx / sum, y: sy / sum };
}

/** Rings with a dot in their middle, wherever in a picture. */
function marksIn(grey: Grey): Mark[] {
  const { width, height } = grey;
  const patches = patchesOf(darkness(grey), width, height, new Int32Array(width * height));
  const sizeOf = ({ x0, x1, y0, y1 }: Patch) => Math.sqrt((x1 - x0 + 1) * (y1 - y0 + 1));
  const most = Math.max(width, height) / 8;
  const small = patches.filter((patch) => sizeOf(patch) >= 1 && sizeOf(patch) < most / 2);
  return patches.flatMap((ring) => {
    const size = sizeOf(ring);
    const [w, h] = [ring.x1 - ring.x0 + 1, ring.y1 - ring.y0 + 1];
    if (size < LEAST_PX || size > most || w > 2 * h || h > 2 * w || ring.area > 0.7 * w * h || ring.area < 0.3 * w * h) return [];
    const middle = middleOf(ring);
    const dot = small.some((one) => {
      const at = middleOf(one);
      const ratio = sizeOf(one) / size;
      return one !== ring && ratio > DOT * 0.6 && ratio < DOT * 1.6 && Math.hypot(at.x - middle.x, at.y - middle.y) < size * 0.12;
    });
    return dot ? [{ ...centreOf(grey, { ...ring, x0: Math.max(0, ring.x0 - 1), y0: Math.max(0, ring.y0 - 1), x1: Math.min(width - 1, ring.x1 + 1), y1: Math.min(height - 1, ring.y1 + 1) }), size, area: ring.area }] : []; // prettier-ignore
  });
}

/** How a bed is seen, and how well its marks agree with that. */
export interface Rectified {
  /** mm of the bed → pixels. */
  toPicture: Homography;
  residualMm: number;
  /** Marks that were found; none where the corners were shown by hand. */
  marks: number;
}

/** Fewer marks leave it open whether they are what they seem. */
const LEAST_MARKS = 6;
/** Marks that agree no better are others, or their sheet does not lie flat, mm. */
export const MOST_RESIDUAL_MM = 1;

/**
 * How a bed is seen, by the marks that lie on it.
 *
 * @throws PhotoError where they are not found
 */
export function rectifyByMarks(grey: Grey, bed: Bed): Rectified {
  const marks = marksIn(grey).slice(0, MOST_MARKS);
  const places = markPlaces(bed);
  if (marks.length < LEAST_MARKS)
    throw new PhotoError(`${marks.length} of ${places.length} marks are found in this picture. Lay the sheet of marks under the things so that all are seen, or show the corners of the bed by hand.`); // prettier-ignore
  let best: Seen[] = [];
  for (const corners of outerFours(marks)) {
    for (let turn = 0; turn < 4; turn++) {
      const four = [0, 1, 2, 3].map((i) => ({ from: places[i]!, to: corners[(i + turn) % 4]! }));
      const h = homographyOf(four);
      const seen = places.flatMap((from): Seen[] => {
        const at = project(h, from);
        const to = marks.find((mark) => Math.hypot(mark.x - at.x, mark.y - at.y) < mark.size * 0.6);
        return to ? [{ from, to }] : [];
      });
      // The one beside the first says how it is turned: without it nothing is sure.
      if (seen.length > best.length && seen.some(({ from }) => from === places.at(-1))) best = seen;
    }
  }
  if (best.length < LEAST_MARKS)
    throw new PhotoError(`${best.length} of ${places.length} marks lie as on the sheet of this bed, ${bed.widthMm} × ${bed.lengthMm} mm. Is it the sheet of another one?`); // prettier-ignore
  const toPicture = homographyOf(best);
  const residualMm = residualOf(toPicture, best);
  // Any four corners are those of some bed: only the marks' own size tells another one's sheet.
  const times = median(best.map(({ from, to }) => (to as Mark).area / ringArea(toPicture, from, bed)));
  if (times < 1 / MOST_TIMES || times > MOST_TIMES)
    throw new PhotoError(`The marks are ${times.toFixed(1)} times as large as on the sheet of this bed, ${bed.widthMm} × ${bed.lengthMm} mm. Is it the sheet of another one, or printed at another size?`); // prettier-ignore
  if (residualMm > MOST_RESIDUAL_MM)
    throw new PhotoError(
      `The marks are ${residualMm.toFixed(1)} mm off their places. The sheet does not lie flat, or is of another bed.`
    );
  return { toPicture, residualMm, marks: best.length };
}

/** Blurred rings lose or gain so much. */
const MOST_TIMES = 1.3;

/** Pixels that a mark's ring takes in the picture. */
function ringArea(toPicture: Homography, at: Point, bed: Bed): number {
  const r = markDiameter(bed) / 2;
  const [p, x, y] = [at, { x: at.x + r, y: at.y }, { x: at.x, y: at.y + r }].map((one) => project(toPicture, one)) as [Point, Point, Point]; // prettier-ignore
  const square = Math.abs((x.x - p.x) * (y.y - p.y) - (x.y - p.y) * (y.x - p.x));
  return Math.PI * (1 - RING_INNER ** 2) * square;
}

/** The same by the four corners of the bed, from the front left on, in the order front left, front right, back right, back left. @throws PhotoError */
export function rectifyByCorners(corners: readonly Point[], { widthMm: w, lengthMm: l }: Bed): Rectified {
  const plane = [{ x: 0, y: 0 }, { x: w, y: 0 }, { x: w, y: l }, { x: 0, y: l }]; // prettier-ignore
  const goesRound = corners.every((p, i) => {
    const [q, r] = [corners[(i + 1) % corners.length]!, corners[(i + 2) % corners.length]!];
    return (q.x - p.x) * (r.y - q.y) - (q.y - p.y) * (r.x - q.x) > 0;
  });
  if (corners.length !== 4 || !goesRound)
    throw new PhotoError('The four corners do not go round the bed: front left, front right, back right, back left, clockwise in the picture.'); // prettier-ignore
  return { toPicture: homographyOf(plane.map((from, i) => ({ from, to: corners[i]! }))), residualMm: 0, marks: 0 };
}

/** Fours of marks that may be the corners, clockwise: those of the outermost. */
function outerFours(marks: readonly Mark[]): Mark[][] {
  const hull = hullOf(marks);
  // Marks halfway lie on the hull too: of many the sharpest corners are enough.
  const sharp = hull.length <= MOST_HULL ? hull : hull.map((p, i) => ({ p, i, turn: turnAt(hull, i) })).sort((a, b) => b.turn - a.turn).slice(0, MOST_HULL).sort((a, b) => a.i - b.i).map(({ p }) => p); // prettier-ignore
  const n = sharp.length;
  const fours: Mark[][] = [];
  for (let a = 0; a < n; a++)
    for (let b = a + 1; b < n; b++)
      for (let c = b + 1; c < n; c++) for (let d = c + 1; d < n; d++) fours.push([sharp[a]!, sharp[b]!, sharp[c]!, sharp[d]!]);
  return fours;
}

const MOST_HULL = 12;

function turnAt(ring: readonly Point[], i: number): number {
  const [p, q, r] = [ring[(i + ring.length - 1) % ring.length]!, ring[i]!, ring[(i + 1) % ring.length]!];
  return Math.abs(Math.atan2((q.x - p.x) * (r.y - q.y) - (q.y - p.y) * (r.x - q.x), (q.x - p.x) * (r.x - q.x) + (q.y - p.y) * (r.y - q.y))); // prettier-ignore
}

/** The convex hull, clockwise as a picture is seen (Andrew's chains). */
function hullOf<P extends Point>(points: readonly P[]): P[] {
  const sorted = [...points].sort((p, q) => p.x - q.x || p.y - q.y);
  const chain = (list: readonly P[]): P[] => {
    const kept: P[] = [];
    for (const r of list) {
      while (kept.length > 1) {
        const [p, q] = [kept.at(-2)!, kept.at(-1)!];
        if ((q.x - p.x) * (r.y - p.y) - (q.y - p.y) * (r.x - p.x) > 0) break;
        kept.pop();
      }
      kept.push(r);
    }
    return kept.slice(0, -1);
  };
  return [...chain(sorted), ...chain([...sorted].reverse())];
}
