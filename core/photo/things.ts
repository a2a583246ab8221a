import type { Point } from '../geometry/matrix';
import type { Homography } from './homography';
import { patchesOf, type Patch } from './patches';
import { markDiameter, markPlaces, type Bed } from '../layout/bed-marks';
import { median } from './median';
import { PhotoError } from './targets';

/** Things on a bed, as a photo of it shows them: where they lie, how they are turned, how large they are. */

/** A picture, three bytes a pixel. */
export interface Photo {
  rgb: Uint8Array;
  width: number;
  height: number;
}

export interface FoundThing extends Point {
  /** Degrees clockwise, of its longer axis from the x axis; −90 up to 90. */
  turn: number;
  /** Along that axis, and across it. */
  longMm: number;
  shortMm: number;
  /** Share of that rectangle that it fills. */
  fills: number;
}

/** A photo as if it was taken from straight above. */
export interface Straightened extends Photo {
  mm: number;
}

/** Pixels of the longer side; photos show no more of a bed. */
const MOST_PX = 3000;
const FINEST_MM = 0.1;

/** @param toPicture mm of the bed → pixels */
export function straighten({ rgb, width, height }: Photo, toPicture: Homography, { widthMm, lengthMm }: Bed): Straightened {
  const mm = Math.max(FINEST_MM, Math.max(widthMm, lengthMm) / Math.min(MOST_PX, Math.max(width, height)));
  const [w, h] = [Math.floor(widthMm / mm), Math.floor(lengthMm / mm)];
  const out = new Uint8Array(w * h * 3);
  const [a, b, c, d, e, f, g, i, k] = toPicture as [number, number, number, number, number, number, number, number, number];
  const [mostX, mostY] = [width - 1.001, height - 1.001];
  let to = 0;
  for (let y = 0; y < h; y++) {
    const my = (y + 0.5) * mm;
    for (let x = 0; x < w; x++) {
      // As `project` has it, without a point for each pixel.
      const mx = (x + 0.5) * mm;
      const by = 1 / (g * mx + i * my + k);
      const u = Math.min(mostX, Math.max(0, (a * mx + b * my + c) * by - 0.5));
      const v = Math.min(mostY, Math.max(0, (d * mx + e * my + f) * by - 0.5));
      const [column, row] = [Math.floor(u), Math.floor(v)];
      const [fx, fy] = [u - column, v - row];
      const upper = (row * width + column) * 3;
      const lower = upper + width * 3;
      for (let n = 0; n < 3; n++)
        out[to++] =
          (rgb[upper + n]! * (1 - fx) + rgb[upper + 3 + n]! * fx) * (1 - fy) +
          (rgb[lower + n]! * (1 - fx) + rgb[lower + 3 + n]! * fx) * fy +
          0.5;
    }
  }
  return { rgb: out, width: w, height: h, mm };
}

/** What things lie on would be at a pixel, as three colours, written into `out`. */
type Ground = (x: number, y: number, out: Float64Array) => void;

/** What is laid on is seen between things and beside them: light on it changes slowly, as a plane with a bulge does. */
function groundOf({ rgb, width, height }: Photo, isGround: (at: number) => boolean, grid = 1): Ground | undefined {
  const terms = (x: number, y: number) => [1, x, y, x * x, x * y, y * y];
  const n = 6;
  const square = Array.from({ length: n }, () => new Array<number>(n).fill(0));
  const right = Array.from({ length: 3 }, () => new Array<number>(n).fill(0));
  const step = grid * Math.max(1, Math.floor(Math.sqrt((width * height) / SAMPLES) / grid));
  let count = 0;
  for (let y = 0; y < height; y += step)
    for (let x = 0; x < width; x += step) {
      const at = y * width + x;
      if (!isGround(at)) continue;
      count++;
      const t = terms(x / width - 0.5, y / height - 0.5);
      for (let i = 0; i < n; i++) {
        for (let j = 0; j < n; j++) square[i]![j]! += t[i]! * t[j]!;
        for (let k = 0; k < 3; k++) right[k]![i]! += t[i]! * rgb[at * 3 + k]!;
      }
    }
  if (count < LEAST_SAMPLES) return undefined;
  for (let i = 0; i < n; i++) square[i]![i]! += 1e-6 * count;
  const found = right.map((wanted) => solved(square, wanted));
  const [r, g, b] = found as [number[], number[], number[]];
  const at = (of: number[], x: number, y: number) =>
    of[0]! + of[1]! * x + of[2]! * y + of[3]! * x * x + of[4]! * x * y + of[5]! * y * y;
  return (x, y, out) => {
    const [u, v] = [x / width - 0.5, y / height - 0.5];
    out[0] = at(r, u, v);
    out[1] = at(g, u, v);
    out[2] = at(b, u, v);
  };
}

const SAMPLES = 60_000;
const LEAST_SAMPLES = 200;

/** A small symmetric system, by elimination. */
function solved(square: readonly (readonly number[])[], wanted: readonly number[]): number[] {
  const rows = square.map((row, i) => [...row, wanted[i]!]);
  const n = rows.length;
  for (let i = 0; i < n; i++) {
    const pivot = rows.slice(i).reduce((best, row, k) => (Math.abs(row[i]!) > Math.abs(rows[best]![i]!) ? i + k : best), i);
    [rows[i], rows[pivot]] = [rows[pivot]!, rows[i]!];
    for (let k = i + 1; k < n; k++) {
      const by = rows[k]![i]! / rows[i]![i]!;
      for (let j = i; j <= n; j++) rows[k]![j]! -= by * rows[i]![j]!;
    }
  }
  const found = new Array<number>(n).fill(0);
  for (let i = n - 1; i >= 0; i--)
    found[i] = (rows[i]![n]! - found.reduce((sum, v, j) => (j > i ? sum + rows[i]![j]! * v : sum), 0)) / rows[i]![i]!;
  return found;
}

/** The level that parts a histogram best (Otsu). */
function partOf(histogram: readonly number[]): number {
  const all = histogram.reduce((sum, n) => sum + n, 0);
  const total = histogram.reduce((sum, n, level) => sum + n * level, 0);
  let [below, sum, best, at] = [0, 0, -1, 0];
  histogram.forEach((n, level) => {
    below += n;
    sum += n * level;
    if (below === 0 || below === all) return;
    const apart = below * (all - below) * (sum / below - (total - sum) / (all - below)) ** 2;
    if (apart > best) [best, at] = [apart, level];
  });
  return at;
}

/** Things are this different from what they lie on at least, of 255 in the three colours together. */
const LEAST_DIFFERENCE = 18;
/** Smaller patches are dirt, mm². */
const LEAST_THING_MM2 = 20;
const MOST_THINGS = 5000;
/** At this distance from the bed's edge nothing is a thing, of its longer side: there its frame and shadow are. */
const RIM = 1 / 200;

/**
 * Things on a straightened picture. What they lie on is what is seen at the rim; marks on it are passed over.
 *
 * @param marks whether the sheet of marks lies under them
 * @throws PhotoError where there are none, or more than can be
 */
export function thingsIn(picture: Straightened, bed: Bed, marks: boolean): FoundThing[] {
  const { rgb, width, height, mm } = picture;
  const passed = passedOver(picture, bed, marks);
  const rim = Math.max(2, Math.round((Math.max(width, height) * RIM) | 0));
  const isRim = (at: number) => {
    const [x, y] = [at % width, Math.floor(at / width)];
    return Math.min(x, y, width - 1 - x, height - 1 - y) < 4 * rim;
  };
  let ground = groundOf(picture, (at) => passed[at] === 0 && isRim(at));
  if (!ground) throw new PhotoError('What the things lie on is not seen at the rim of the bed. Leave some of it free.');
  const difference = new Uint8Array(width * height);
  let level = 0;
  const under = new Float64Array(3);
  // Twice on some of the pixels, which is enough to part things from ground; then on all.
  for (const step of [4, 4, 1]) {
    const histogram = new Array<number>(256).fill(0);
    for (let y = 0; y < height; y += step)
      for (let x = 0; x < width; x += step) {
        const at = y * width + x;
        if (passed[at] !== 0) continue;
        ground(x, y, under);
        const [r, g, b] = [rgb[at * 3]! - under[0]!, rgb[at * 3 + 1]! - under[1]!, rgb[at * 3 + 2]! - under[2]!];
        difference[at] = Math.min(255, Math.round(Math.sqrt(r * r + g * g + b * b)));
        histogram[difference[at]]!++;
      }
    level = Math.max(LEAST_DIFFERENCE, partOf(histogram));
    if (step === 1) break;
    const limit = level / 2;
    const isLaidOn = (at: number) => passed[at] === 0 && Math.floor(at / width) % 4 === 0 && (at % width) % 4 === 0 && difference[at]! < limit; // prettier-ignore
    ground = groundOf(picture, isLaidOn, 4) ?? ground;
  }
  const mask = new Uint8Array(width * height);
  for (let at = 0; at < mask.length; at++) if (passed[at] === 0 && difference[at]! > level) mask[at] = 1;
  const label = new Int32Array(width * height);
  const patches = patchesOf(mask, width, height, label);
  const things = patches.flatMap((patch, i) =>
    patch.area * mm * mm < LEAST_THING_MM2 ? [] : measured(picture, difference, label, i + 1, patch)
  );
  if (things.length === 0) throw new PhotoError('No things are found in this picture. Take it with things that differ from what they lie on.'); // prettier-ignore
  if (things.length > MOST_THINGS) throw new PhotoError(`${things.length} patches are found in this picture; a jig has at most 5,000 places.`); // prettier-ignore
  // Dirt, tape and shadows are of no size that others have.
  const middle = median(things.map(({ longMm, shortMm }) => longMm * shortMm));
  return things.filter(({ longMm, shortMm }) => longMm * shortMm > middle / 3 && longMm * shortMm < middle * 3);
}

/** Pixels that say nothing of things: marks, and the rim. */
function passedOver({ width, height, mm }: Straightened, bed: Bed, marks: boolean): Uint8Array {
  const passed = new Uint8Array(width * height);
  const rim = Math.max(2, Math.round(Math.max(width, height) * RIM));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) if (Math.min(x, y, width - 1 - x, height - 1 - y) < rim) passed[y * width + x] = 1;
  if (!marks) return passed;
  const reach = markDiameter(bed) * 0.62;
  for (const mark of markPlaces(bed)) {
    const [x0, x1] = [mark.x - reach, mark.x + reach].map((v) => Math.round(v / mm)) as [number, number];
    const [y0, y1] = [mark.y - reach, mark.y + reach].map((v) => Math.round(v / mm)) as [number, number];
    for (let y = Math.max(0, y0); y < Math.min(height, y1); y++)
      for (let x = Math.max(0, x0); x < Math.min(width, x1); x++) passed[y * width + x] = 1;
  }
  return passed;
}

/** Around a patch, pixels at its edge that are partly its own. */
const EDGE_PX = 2;

/** A patch by the moments of how far each of its pixels is covered, so that edges count in part. */
function measured(
  { width, height, mm }: Straightened,
  difference: Uint8Array,
  label: Int32Array,
  number: number,
  { x0, y0, x1, y1 }: Patch
): FoundThing[] {
  const [left, right] = [Math.max(0, x0 - EDGE_PX), Math.min(width - 1, x1 + EDGE_PX)];
  const [top, bottom] = [Math.max(0, y0 - EDGE_PX), Math.min(height - 1, y1 + EDGE_PX)];
  const own: number[] = [];
  for (let y = top; y <= bottom; y++)
    for (let x = left; x <= right; x++) if (label[y * width + x] === number) own.push(difference[y * width + x]!);
  const usual = median(own);
  // One that reaches out of what is seen is not whole.
  if (x0 <= EDGE_PX || y0 <= EDGE_PX || x1 >= width - 1 - EDGE_PX || y1 >= height - 1 - EDGE_PX) return [];
  const full = levelOf(difference, label, width, number, { left, right, top, bottom }, usual);
  const covered: { x: number; y: number; c: number }[] = [];
  let [area, sx, sy] = [0, 0, 0];
  for (let y = top; y <= bottom; y++)
    for (let x = left; x <= right; x++) {
      const at = y * width + x;
      if (label[at] !== number && (label[at] !== 0 || !touches(label, width, height, x, y, number))) continue;
      // Not held to 1: noise would count on one side alone.
      const c = difference[at]! / full(x, y);
      if (c < 0.1) continue;
      covered.push({ x: x + 0.5, y: y + 0.5, c });
      area += c;
      sx += c * (x + 0.5);
      sy += c * (y + 0.5);
    }
  const [cx, cy] = [sx / area, sy / area];
  let [xx, yy, xy, fourRe, fourIm, fourAll] = [0, 0, 0, 0, 0, 0];
  for (const { x, y, c } of covered) {
    const [u, v] = [x - cx, y - cy];
    xx += c * u * u;
    yy += c * v * v;
    xy += c * u * v;
    const [re, im] = [u * u - v * v, 2 * u * v];
    fourRe += c * (re * re - im * im);
    fourIm += c * 2 * re * im;
    fourAll += c * (u * u + v * v) ** 2;
  }
  const [half, apart] = [(xx + yy) / 2, Math.hypot((xx - yy) / 2, xy)];
  const isLong = apart / half > LONG;
  // Of a square the second moments say no turn: the fourth do. Of a disc neither do, and it has none.
  const hasCorners = Math.hypot(fourRe, fourIm) / fourAll > CORNERED;
  const angle = isLong ? Math.atan2(2 * xy, xx - yy) / 2 : hasCorners ? (Math.atan2(fourIm, fourRe) + Math.PI) / 4 : 0;
  const turn = (((((angle * 180) / Math.PI + 90) % 180) + 180) % 180) - 90;
  const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  /** How long it is through its middle: what a band along that takes, by the band's width. */
  const through = (along: number[], band: number): number => {
    let sum = 0;
    for (const { x, y, c: part } of covered) {
      const beside = Math.abs((x - cx) * -along[1]! + (y - cy) * along[0]!);
      sum += part * Math.min(1, Math.max(0, band + 0.5 - beside));
    }
    return sum / (2 * band);
  };
  const band = Math.max(1, Math.sqrt(area) / 10);
  const long = through([c, s], band);
  const short = through([-s, c], band);
  // An ellipse is shorter beside its middle; its moments say its size themselves.
  const fills = Math.min(1, area / (long * short));
  const isRound = fills < ELLIPSE;
  const along = (xx * c * c + 2 * xy * c * s + yy * s * s) / area;
  const across = (xx * s * s - 2 * xy * c * s + yy * c * c) / area;
  return [
    {
      x: cx * mm,
      y: cy * mm,
      turn,
      longMm: (isRound ? 4 * Math.sqrt(along) : long) * mm,
      shortMm: (isRound ? 4 * Math.sqrt(across) : short) * mm,
      fills
    }
  ];
}

/**
 * How different a thing is where all of a pixel is its own: light falls off across it, which would draw its place to one side.
 *
 * @param usual the median of what it is
 */
function levelOf(
  difference: Uint8Array,
  label: Int32Array,
  width: number,
  number: number,
  { left, right, top, bottom }: { left: number; right: number; top: number; bottom: number },
  usual: number
): (x: number, y: number) => number {
  const [cx, cy] = [(left + right) / 2, (top + bottom) / 2];
  const square = [new Array<number>(3).fill(0), new Array<number>(3).fill(0), new Array<number>(3).fill(0)];
  const wanted = new Array<number>(3).fill(0);
  let count = 0;
  for (let y = top; y <= bottom; y++)
    for (let x = left; x <= right; x++) {
      const at = y * width + x;
      const d = difference[at]!;
      if (label[at] !== number || d < usual * WHOLE || d > usual / WHOLE) continue;
      count++;
      const terms = [1, x - cx, y - cy];
      for (let i = 0; i < 3; i++) {
        wanted[i]! += terms[i]! * d;
        for (let j = 0; j < 3; j++) square[i]![j]! += terms[i]! * terms[j]!;
      }
    }
  if (count < LEAST_WHOLE) return () => usual;
  for (let i = 0; i < 3; i++) square[i]![i]! += 1e-6 * count;
  const [a, b, c] = solved(square, wanted) as [number, number, number];
  return (x, y) => Math.max(usual / 2, a + b * (x - cx) + c * (y - cy));
}

/** Pixels whose difference is so near to the median are whole. */
const WHOLE = 0.8;
const LEAST_WHOLE = 30;

/** Second moments apart by this share of their mean tell the longer axis. */
const LONG = 0.06;
/** A square has 0.2 of the fourth moment, a disc none. */
const CORNERED = 0.04;
const ELLIPSE = 0.85;

function touches(label: Int32Array, width: number, height: number, x: number, y: number, number: number): boolean {
  for (let dy = -EDGE_PX; dy <= EDGE_PX; dy++)
    for (let dx = -EDGE_PX; dx <= EDGE_PX; dx++) {
      const [c, r] = [x + dx, y + dy];
      if (c >= 0 && r >= 0 && c < width && r < height && label[r * width + c] === number) return true;
    }
  return false;
}
