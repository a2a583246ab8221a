import { randomUUID } from 'node:crypto';
import type { Box } from '$core/geometry/box';
import { apply, chain, invert, rotation, translation, type Matrix, type Point } from '$core/geometry/matrix';
import { seededRandom } from '$core/geometry/random';
import type { GreyImage } from './camera';

/**
 * A roll as it lies in the cutter: prints one after another, each a little askew, stretched and bowed, seen by a camera. Roll
 * coordinates are those of the cutter: x along from the leading end, y across, mm.
 */

/** How a print differs from its picture. */
export interface Lying {
  /** Degrees. */
  skew: number;
  /** Share of its length. */
  stretch: number;
  /** How far its middle lies off the straight line, mm. */
  bow: number;
}

/** Something on the media that hides what is beneath, in roll coordinates. */
interface Dirt extends Point {
  radius: number;
}

interface LaidPrint {
  image: GreyImage;
  widthMm: number;
  lengthMm: number;
  /** Where it begins along the roll, mm, and how much of the roll is its own. */
  at: number;
  room: number;
  /** From the picture (mm, y down) to where it would lie on the roll were it not bowed, and back. */
  straight: Matrix;
  back: Matrix;
  bow: number;
}

export interface RollRules {
  /** Tail of the roll first: all is turned by half a turn. */
  backwards: boolean;
  /** How far prints are askew (degrees), stretched (share) and bowed (mm over 8 m) at most. */
  most: Lying;
  /** Grey levels up or down. */
  noise: number;
  /** Where the roll ends though more was printed, mm. */
  endsAtMm: number;
}
export const USUAL_ROLL: RollRules = {
  backwards: false,
  most: { skew: 0.15, stretch: 0.003, bow: 1 },
  noise: 8,
  endsAtMm: Infinity
};

const LEAD_MM = 60;
const EDGE_MM = 6;
const GAP_MM = { least: 25, more: 30 };
const MEDIA_GREY = 250;
const BED_GREY = 235;
const DIRT_GREY = 70;
const BOW_LENGTH_MM = 8000;

export class Roll {
  readonly id = randomUUID();
  readonly rules: RollRules;
  readonly prints: LaidPrint[] = [];
  readonly #random: () => number;
  readonly #noise: () => number;
  readonly #dirt: Dirt[] = [];
  /** Where what was laid last ends. */
  #end = LEAD_MM;
  widthMm = 0;

  constructor(rules: RollRules, seed: number) {
    this.rules = rules;
    this.#random = seededRandom(seed);
    this.#noise = seededRandom(seed + 1);
  }

  get lengthMm(): number {
    return Math.min(this.#end, this.rules.endsAtMm);
  }

  /** Lays a print behind the one before it. */
  lay(image: GreyImage): void {
    const { most, backwards } = this.rules;
    const [widthMm, lengthMm] = [(image.width / image.dpi) * 25.4, (image.height / image.dpi) * 25.4];
    const either = () => 2 * this.#random() - 1;
    const [skew, stretch] = [either() * most.skew, either() * most.stretch];
    const bow = either() * most.bow * (lengthMm / BOW_LENGTH_MM) ** 2;
    // Askew it takes more room, along and across.
    const askew = Math.abs(Math.sin((skew * Math.PI) / 180));
    const room = lengthMm * (1 + Math.abs(stretch)) + askew * widthMm + 2;
    const across = EDGE_MM + askew * lengthMm + 2 * this.#random();
    // Print (x across, y along) → roll (x along, y across), as it lies head first.
    const upright: Matrix = [0, 1, 1 + stretch, 0, 0, 0];
    const middle = { x: (lengthMm * (1 + stretch)) / 2, y: widthMm / 2 };
    const turned = chain(chain(translation(-middle.x, -middle.y), rotation(backwards ? 180 + skew : skew)), translation(room / 2, across + middle.y)); // prettier-ignore
    const straight = chain(chain(upright, turned), translation(this.#end, 0));
    this.prints.push({ image, widthMm, lengthMm, at: this.#end, room, straight, back: invert(straight), bow });
    this.#end += room + GAP_MM.least + GAP_MM.more * this.#random();
    this.widthMm = Math.max(this.widthMm, widthMm + 2 * across);
  }

  /** Where a place of a print lies on the roll. */
  place(print: number, p: Point): Point {
    const { straight, bow, lengthMm, widthMm } = this.prints[print]!;
    return apply(straight, bowed(p, bow, lengthMm, widthMm));
  }

  /** Which place of a print lies somewhere on the roll; nothing where no print is. */
  placeOn(at: Point): { print: number; p: Point } | undefined {
    const print = this.prints.findIndex((one) => at.x >= one.at && at.x < one.at + one.room);
    const laid = this.prints[print];
    if (!laid) return undefined;
    const { back, bow, lengthMm, widthMm } = laid;
    const flat = apply(back, at);
    let p = flat;
    // What a bow adds changes slowly along the print: twice is enough.
    for (let i = 0; bow !== 0 && i < 2; i++) {
      const now = bowed(p, bow, lengthMm, widthMm);
      p = { x: p.x + flat.x - now.x, y: p.y + flat.y - now.y };
    }
    return { print, p };
  }

  /** Something falls on a print, at a place of it. */
  soil(print: number, { x, y, radius }: Dirt): void {
    this.#dirt.push({ ...this.place(print, { x, y }), radius });
  }

  /** What the camera sees of a part of the roll, its first row the farthest across. */
  look({ x, y, width, height }: Box, mmAPixel: number): GreyImage {
    const [w, h] = [Math.max(1, Math.round(width / mmAPixel)), Math.max(1, Math.round(height / mmAPixel))];
    const pixels = new Uint8Array(w * h);
    const dirt = this.#dirt.filter((d) => d.x + d.radius > x && d.x - d.radius < x + width && d.y + d.radius > y && d.y - d.radius < y + height); // prettier-ignore
    const { noise } = this.rules;
    for (let j = 0; j < h; j++)
      for (let i = 0; i < w; i++) {
        const at = { x: x + (i + 0.5) * mmAPixel, y: y + height - (j + 0.5) * mmAPixel };
        const isDirty = dirt.some((d) => (at.x - d.x) ** 2 + (at.y - d.y) ** 2 < d.radius ** 2);
        const seen = isDirty ? DIRT_GREY : this.#greyAt(at);
        pixels[j * w + i] = Math.max(0, Math.min(255, seen + (2 * this.#noise() - 1) * noise));
      }
    return { pixels, width: w, height: h, dpi: 25.4 / mmAPixel };
  }

  #greyAt(at: Point): number {
    if (at.x < 0 || at.x > this.lengthMm || at.y < 0 || at.y > this.widthMm) return BED_GREY;
    const found = this.placeOn(at);
    if (!found) return MEDIA_GREY;
    const { image } = this.prints[found.print]!;
    const [u, v] = [(found.p.x * image.dpi) / 25.4 - 0.5, (found.p.y * image.dpi) / 25.4 - 0.5];
    if (u < 0 || v < 0 || u >= image.width - 1 || v >= image.height - 1) return MEDIA_GREY;
    const [i, j] = [Math.floor(u), Math.floor(v)];
    const [s, t] = [u - i, v - j];
    const k = j * image.width + i;
    const { pixels } = image;
    const above = pixels[k]! * (1 - s) + pixels[k + 1]! * s;
    const below = pixels[k + image.width]! * (1 - s) + pixels[k + image.width + 1]! * s;
    return above * (1 - t) + below * t;
  }
}

/** A bowed print: its middle lies beside the straight line, and its rows turn with it. */
function bowed(p: Point, bow: number, length: number, width: number): Point {
  if (bow === 0) return p;
  const t = p.y / length;
  return { x: p.x + 4 * bow * t * (1 - t), y: p.y - ((4 * bow) / length) * (1 - 2 * t) * (p.x - width / 2) };
}
