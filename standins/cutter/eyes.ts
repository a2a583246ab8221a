import type { Box } from '$core/geometry/box';
import type { Point } from '$core/geometry/matrix';
import { readCodes } from '$protocol/code-reader';
import type { CutterJob } from '$protocol/cutter';
import { findMarks, type GreyImage } from './camera';
import type { Roll } from './roll';

/** What the cutter makes of a roll that it sees: dark patches from afar, codes and marks close by. Roll coordinates, mm. */

/** From afar, and how much of the roll is looked at at once. */
const FAR_MM = 0.3;
const STRETCH_MM = 400;
/** A patch that lies across two stretches is seen whole in one of them. */
const OVERLAP_MM = 30;
const DARK = 150;
/** Dust is smaller, mm². */
const DUST_MM2 = 2;
/** A Data Matrix is a square that holds together; of a QR code the squares at its corners are seen from afar, mm. */
const CODE_MM = { least: 7, most: 17 };
const CORNER_MM = { least: 3.5, most: 5 };
const CODE_VIEW_MM = 36;
/** A code is looked at from so near, then from farther. */
const CODE_PIXELS = [0.14, 0.1, 0.2, 0.26];
const MARK_PIXEL_MM = 0.12;

export interface Patch extends Box {
  /** mm² that are dark. */
  area: number;
}

export interface ReadCode {
  text: string;
  at: Point;
}

/** A roll as it is seen while it goes by: each stretch is looked at once. */
export class Eyes {
  readonly #roll: Roll;
  readonly #patches: Patch[] = [];
  #seenTo = 0;
  readonly #read: ReadCode[] = [];

  constructor(roll: Roll) {
    this.#roll = roll;
  }

  /** Dark patches from one place along the roll to another, by where they begin. */
  async patches(from: number, to: number): Promise<Patch[]> {
    const roll = this.#roll;
    while (this.#seenTo < Math.min(to, roll.lengthMm)) {
      const start = this.#seenTo;
      const end = start + STRETCH_MM;
      const view = { x: start - OVERLAP_MM, y: 0, width: STRETCH_MM + 2 * OVERLAP_MM, height: roll.widthMm };
      const found = darkPatches(roll.look(view, FAR_MM)).map((patch) => ({ ...patch, x: view.x + patch.x, y: roll.widthMm - patch.y - patch.height })); // prettier-ignore
      this.#patches.push(...found.filter(({ x, width }) => x + width / 2 >= start && x + width / 2 < end));
      this.#seenTo = end;
      // What else the cutter's computer is asked for has its turn.
      await new Promise((resolve) => setImmediate(resolve));
    }
    return this.#patches.filter((patch) => patch.x + patch.width >= from && patch.x <= to).sort((a, b) => a.x - b.x);
  }

  /** What a code says, and its middle; nothing where none is read. */
  async read(patch: Patch): Promise<ReadCode | undefined> {
    if (!isLikeCode(patch)) return undefined;
    const { x, y } = middleOf(patch);
    const known = this.#read.find(({ at }) => Math.hypot(at.x - x, at.y - y) < CODE_MM.least);
    if (known) return known;
    const view = { x: x - CODE_VIEW_MM / 2, y: y - CODE_VIEW_MM / 2, width: CODE_VIEW_MM, height: CODE_VIEW_MM };
    for (const pixel of CODE_PIXELS) {
      const { pixels, width, height } = this.#roll.look(view, pixel);
      const [code] = await readCodes(pixels, width, height);
      if (!code) continue;
      const read = {
        text: code.text,
        at: { x: view.x + code.middle.x * pixel, y: view.y + view.height - code.middle.y * pixel }
      };
      this.#read.push(read);
      return read;
    }
    return undefined;
  }

  /** Where marks are seen near places where they may be. */
  marksNear(places: readonly Point[], { diameter, shape }: Pick<CutterJob['marks'][number], 'diameter' | 'shape'>): Point[] {
    const seen: Point[] = [];
    const half = diameter;
    for (const { x, y } of places) {
      const view = { x: x - half, y: y - half, width: 2 * half, height: 2 * half };
      for (const p of findMarks(this.#roll.look(view, MARK_PIXEL_MM), diameter, shape)) {
        const at = { x: view.x + p.x, y: view.y + view.height - p.y };
        if (seen.every((other) => Math.hypot(other.x - at.x, other.y - at.y) > diameter / 2)) seen.push(at);
      }
    }
    return seen;
  }
}

export const isLikeCode = ({ width, height, area }: Patch): boolean => {
  const [least, most] = [Math.min(width, height), Math.max(width, height)];
  if (most / least > 1.25 || area / (width * height) < 0.5) return false;
  return (least >= CODE_MM.least && most <= CODE_MM.most) || (least >= CORNER_MM.least && most <= CORNER_MM.most);
};

export const middleOf = ({ x, y, width, height }: Box): Point => ({ x: x + width / 2, y: y + height / 2 });

/** Where a print lies, by one of its codes: along the roll, and which patches may be its marks. */
export interface Found {
  from: number;
  to: number;
  /** The tail of the print comes first. */
  isTurned: boolean;
  marks: Point[];
}

/** How far a mark may be from where a code says that it is: askew and stretched prints grow with the distance, mm. */
const near = (distance: number) => Math.min(15, 3 + 0.007 * distance);
const LEAST_SHARE = 0.3;

/**
 * Which of a print's codes was read, and which way round it lies: what most patches of its marks' size agree with.
 *
 * @param at middle of the code on the roll
 * @param patches of that part of the roll
 */
export function locate(
  job: Pick<CutterJob, 'codes' | 'marks' | 'lengthMm'>,
  at: Point,
  patches: readonly Patch[]
): Found | undefined {
  const [{ diameter } = { diameter: 0 }] = job.marks;
  const discs = patches.filter(
    ({ width, height }) => Math.abs(width - diameter) < 0.35 * diameter && Math.abs(height - diameter) < 0.35 * diameter
  );
  let best: Found | undefined;
  for (const code of job.codes)
    for (const isTurned of [false, true]) {
      const from = middleOf(code);
      const sign = isTurned ? -1 : 1;
      const toRoll = (p: Point): Point => ({ x: at.x + sign * (p.y - from.y), y: at.y + sign * (p.x - from.x) });
      const marks = job.marks.flatMap((mark) => {
        const there = toRoll(mark);
        const room = near(Math.hypot(mark.x - from.x, mark.y - from.y));
        const [nearest] = discs
          .map((disc) => middleOf(disc))
          .map((p) => ({ p, off: Math.hypot(p.x - there.x, p.y - there.y) }))
          .filter(({ off }) => off < room)
          .sort((a, b) => a.off - b.off);
        return nearest ? [{ mark, at: nearest.p }] : [];
      });
      if (marks.length <= (best?.marks.length ?? 0)) continue;
      best = { ...extentOf(job, from, toRoll, marks), isTurned, marks: marks.map(({ at }) => at) };
    }
  return best && best.marks.length >= LEAST_SHARE * job.marks.length ? best : undefined;
}

/** Where a print begins and ends along the roll: stretched as the mark that lies farthest from its code says. */
function extentOf(
  { lengthMm }: Pick<CutterJob, 'lengthMm'>,
  code: Point,
  toRoll: (p: Point) => Point,
  marks: readonly { mark: Point; at: Point }[]
): Pick<Found, 'from' | 'to'> {
  const away = ({ mark }: { mark: Point }) => Math.abs(mark.y - code.y);
  const farthest = marks.reduce((most, one) => (away(one) > away(most) ? one : most), marks[0]!);
  const start = toRoll(code).x;
  const stretch = away(farthest) > 100 ? (farthest.at.x - start) / (toRoll(farthest.mark).x - start) : 1;
  const ends = [0, lengthMm].map((y) => start + (toRoll({ x: code.x, y }).x - start) * stretch);
  return { from: Math.min(...ends), to: Math.max(...ends) };
}

/** Connected dark patches of a picture, mm from its top left. Code modules that touch by a corner are one. */
export function darkPatches({ pixels, width, height, dpi }: GreyImage): Patch[] {
  const mm = 25.4 / dpi;
  // Grown by a pixel to the right and down, so that what a code is made of holds together.
  const dark = new Uint8Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      if (pixels[y * width + x]! < DARK) {
        dark[y * width + x] = 1;
        if (x + 1 < width) dark[y * width + x + 1] = 1;
        if (y + 1 < height) dark[(y + 1) * width + x] = 1;
        if (x + 1 < width && y + 1 < height) dark[(y + 1) * width + x + 1] = 1;
      }
  const stack: number[] = [];
  const found: Patch[] = [];
  for (let start = 0; start < dark.length; start++) {
    if (dark[start] !== 1) continue;
    let [x0, x1, y0, y1, area] = [width, 0, height, 0, 0];
    stack.push(start);
    dark[start] = 2;
    while (stack.length > 0) {
      const at = stack.pop()!;
      const x = at % width;
      const y = (at - x) / width;
      area++;
      x0 = Math.min(x0, x);
      x1 = Math.max(x1, x);
      y0 = Math.min(y0, y);
      y1 = Math.max(y1, y);
      for (const next of [x > 0 ? at - 1 : -1, x < width - 1 ? at + 1 : -1, at - width, at + width])
        if (next >= 0 && next < dark.length && dark[next] === 1) {
          dark[next] = 2;
          stack.push(next);
        }
    }
    if (area * mm * mm < DUST_MM2) continue;
    // Less the pixel that it was grown by.
    found.push({ x: x0 * mm, y: y0 * mm, width: (x1 - x0) * mm, height: (y1 - y0) * mm, area: area * mm * mm });
  }
  return found;
}
