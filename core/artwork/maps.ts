import { deltaE00, labToXyz, xyzToLab, type Triple } from '../colour/lab';
import type { Polyline } from '../geometry/path';
import type { Point } from '../geometry/matrix';
import type { Box } from '../geometry/box';

/** Pictures of what an artwork asks of a printing condition, pixel by pixel. Places are in pixels. */

export interface InkMap {
  /** The most ink of any pixel, 1 being one ink in full. */
  most: number;
  shareAbove: number;
  inked: number;
  worst: Box | null;
  /** RGBA: nothing where there is little ink, darker towards the limit, and marked above it. */
  picture: Uint8Array;
}

/** Ink that the interpreter's rounding leaves on white, 0…255. */
const TRACE = 6;

/** @param cmyk four bytes a pixel, 255 being full ink */
export function inkMap(cmyk: Uint8Array | Uint8ClampedArray, width: number, height: number, limit: number): InkMap {
  const count = width * height;
  const picture = new Uint8Array(count * 4);
  // A rounding step of each ink is no excess.
  const above = limit * 255 + 4;
  let most = 0;
  let over = 0;
  let inked = 0;
  let at = -1;
  for (let i = 0; i < count; i++) {
    let total = 0;
    for (let ink = 0; ink < 4; ink++) {
      total += cmyk[i * 4 + ink]!;
    }
    if (total > TRACE) inked++;
    if (total > most) {
      most = total;
      at = i;
    }
    const share = total / (limit * 255);
    const p = i * 4;
    if (total > above) {
      over++;
      picture.set([208, 20, 20, 235], p);
    } else if (share > 0.25) {
      // From pale to strong amber as the limit comes near.
      const t = (share - 0.25) / 0.75;
      picture.set([240 - 20 * t, 196 - 106 * t, 90 - 70 * t, 70 + 150 * t], p);
    }
  }
  return {
    most: most / 255,
    shareAbove: over / count,
    inked: inked / count,
    worst: at < 0 || over === 0 ? null : around(at % width, Math.floor(at / width), width, height),
    picture
  };
}

/** How many steps of the 8-bit map are one ΔE. */
export const GAMUT_STEPS_A_DELTA = 4;

export interface GamutMap {
  share: number;
  mean: number;
  worst: number;
  place: Box | null;
  picture: Uint8Array;
}

/**
 * @param delta for each pixel ΔE00 × 4 (at most 255) between what is asked for and what can be printed, every `stride` bytes
 * @param limit ΔE00 above which a colour counts as out of reach
 */
export function gamutMap(delta: Uint8Array, stride: number, width: number, height: number, limit: number): GamutMap {
  const count = width * height;
  const picture = new Uint8Array(count * 4);
  const from = limit * GAMUT_STEPS_A_DELTA;
  let out = 0;
  let sum = 0;
  let worst = 0;
  let at = -1;
  for (let i = 0; i < count; i++) {
    const d = delta[i * stride]!;
    if (d > worst) {
      worst = d;
      at = i;
    }
    if (d <= from) continue;
    out++;
    sum += d;
    const t = Math.min(1, (d - from) / (15 * GAMUT_STEPS_A_DELTA));
    picture.set([200 + 40 * t, 0, 160 - 60 * t, 120 + 120 * t], i * 4);
  }
  return {
    share: out / count,
    mean: out > 0 ? sum / out / GAMUT_STEPS_A_DELTA : 0,
    worst: worst / GAMUT_STEPS_A_DELTA,
    place: out > 0 ? around(at % width, Math.floor(at / width), width, height) : null,
    picture
  };
}

/** A box to look at around a pixel: a tenth of the picture. */
function around(x: number, y: number, width: number, height: number): Box {
  const w = Math.max(1, width / 10);
  const h = Math.max(1, height / 10);
  return { x: Math.max(0, Math.min(width - w, x - w / 2)), y: Math.max(0, Math.min(height - h, y - h / 2)), width: w, height: h };
}

/**
 * ΔE00 between colours and what is printed for them, with the black point compensated as in printing: the source's tones
 * are first stretched from its black to the print's (ICC, “Black point compensation”).
 *
 * @param asked,printed L*, a*, b* of each
 * @param black L*a*b* of what black is printed as
 */
export function gamutDeltas(asked: Float32Array, printed: Float32Array, black: Triple): Float32Array {
  const blackY = labToXyz(black)[1];
  const blackXyz = labToXyz([black[0], 0, 0]);
  const out = new Float32Array(asked.length / 3);
  for (let i = 0; i < out.length; i++) {
    const lab = (from: Float32Array): Triple => [from[i * 3] ?? 0, from[i * 3 + 1] ?? 0, from[i * 3 + 2] ?? 0];
    const xyz = labToXyz(lab(asked)).map((v, k) => v * (1 - blackY) + (blackXyz[k] ?? 0)) as Triple;
    out[i] = deltaE00(xyzToLab(xyz), lab(printed));
  }
  return out;
}

export interface CutInk {
  share: number;
  changes: number;
  place: Point | null;
}

/** A stretch shorter than this with or without ink is no edge of artwork, pixels. */
const LEAST_STRETCH = 4;
/** Ink below this is a tint so light that its edge does not show, 0…255 of all inks together. */
const SEEN_INK = 20;

/**
 * Follows lines over a drawing and tells how much of them has ink under it.
 *
 * @param lines in pixels of the drawing
 */
export function inkAlong(
  cmyk: Uint8Array | Uint8ClampedArray,
  width: number,
  height: number,
  lines: readonly Polyline[]
): CutInk {
  let all = 0;
  let withInk = 0;
  let changes = 0;
  let place: Point | null = null;
  for (const line of lines) {
    const { seen, points } = samplesOf(cmyk, width, height, line);
    if (seen.length === 0) continue;
    // Stretches too short to be seen join what is around them.
    const stretches: { ink: boolean; from: number; length: number }[] = [];
    seen.forEach((ink, i) => {
      const last = stretches.at(-1);
      if (last?.ink === ink) last.length++;
      else stretches.push({ ink, from: i, length: 1 });
    });
    const long = stretches.filter((stretch) => stretch.length >= LEAST_STRETCH);
    const edges = long.filter((stretch, i) => i > 0 && long[i - 1]?.ink !== stretch.ink);
    const wraps = line.closed && long.length > 1 && long[0]?.ink !== long.at(-1)?.ink ? 1 : 0;
    if (edges[0] && !place) place = points[edges[0].from] ?? null;
    changes += edges.length + wraps;
    all += seen.length;
    withInk += seen.filter(Boolean).length;
  }
  return { share: all > 0 ? withInk / all : 0, changes, place };
}

function samplesOf(cmyk: Uint8Array | Uint8ClampedArray, width: number, height: number, line: Polyline) {
  const seen: boolean[] = [];
  const points: Point[] = [];
  const ring = line.closed ? [...line.points, line.points[0]!] : line.points;
  for (let i = 1; i < ring.length; i++) {
    const a = ring[i - 1]!;
    const b = ring[i]!;
    const steps = Math.min(20_000, Math.max(1, Math.round(Math.hypot(b.x - a.x, b.y - a.y))));
    for (let k = 0; k < steps; k++) {
      const p = { x: a.x + ((b.x - a.x) * k) / steps, y: a.y + ((b.y - a.y) * k) / steps };
      const x = Math.floor(p.x);
      const y = Math.floor(p.y);
      let total = 0;
      if (x >= 0 && y >= 0 && x < width && y < height) {
        for (let ink = 0; ink < 4; ink++) total += cmyk[(y * width + x) * 4 + ink]!;
      }
      seen.push(total >= SEEN_INK);
      points.push(p);
    }
  }
  return { seen, points };
}
