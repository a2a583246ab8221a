import { choke, type Reach } from '../geometry/choke';
import { DARKNESS_STEPS, type Cover, type ExtraInk, type Layer } from '../inks/stack';
import type { Kernels } from '../kernels/kernels';
import { darknessOf, type ColourLook } from './colour-look';

/** From what is drawn of a piece to the planes of what lies under and over it. One byte a pixel, 255 is all. */

/** What is drawn of a piece: rows of its box, from some row to another. */
export interface DrawnPiece {
  width: number;
  height: number;
  /** How far each pixel is painted, by any layer of colour. */
  painted: Uint8Array;
  /** The colours of it, as `look` reads them: less what shows through where it is painted in part. */
  colours: () => Uint8Array;
  /**
   * The pixels within the finished size and so much around it, mm, or, with nothing said, as far as colour prints; nothing
   * where those are all there are.
   */
  inside: (mm?: number) => Uint8Array | undefined;
  /** By ink what the file marks for it. */
  marked: Partial<Record<ExtraInk, Uint8Array>>;
}

/** How it is measured. */
export interface CoverMeasure {
  /** Pixels of a millimetre. */
  perMm: Reach;
  look: () => ColourLook;
  kernels: Kernels;
}

/** Colours this much nearer or farther than the limit are taken in part, ΔE: no hard edge where colours run into each other. */
const SOFT = 1;

/** How far in pixels a layer looks around itself: rows that a band needs beyond its own. */
export function coverReach(layers: readonly Layer[], perMm: Reach): number {
  const own = ({ chokeMm, leastMm }: Layer) => (Math.abs(chokeMm) + leastMm) * Math.max(perMm.x, perMm.y) + 2;
  // A layer that lies where another does looks as far as that one does and then as far as it does itself.
  return Math.ceil(layers.reduce((sum, layer) => sum + (layer.chokeMm !== 0 || layer.leastMm > 0 ? own(layer) : 0), 0));
}

/** Where the layers of a piece lie, each worked out once. */
export class Covers {
  readonly #layers: readonly Layer[];
  readonly #drawn: DrawnPiece;
  readonly #measure: CoverMeasure;
  readonly #known = new Map<number, Uint8Array>();

  constructor(layers: readonly Layer[], drawn: DrawnPiece, measure: CoverMeasure) {
    this.#layers = layers;
    this.#drawn = drawn;
    this.#measure = measure;
  }

  /** Where a layer lies, its edges settled. */
  of(layer: Layer): Uint8Array {
    const known = this.#known.get(layer.id);
    if (known) return known;
    const made = layer.ink === 'colour' ? this.#drawn.painted : this.#settled(layer, this.#lies(layer.cover, layer.ink));
    this.#known.set(layer.id, made);
    return made;
  }

  /**
   * How much of each channel of its ink a layer asks for.
   *
   * @param channels how many the machine has of the ink: they share the amount alike, so that both wear evenly
   */
  amounts(layer: Layer, channels: number): Uint8Array {
    const cover = this.of(layer);
    const share = Math.min(1, layer.amount / channels);
    const { byDarkness } = layer;
    if (!byDarkness) return share === 1 ? cover : cover.map((v) => Math.round(v * share));
    const steps = Float64Array.from({ length: 256 }, (_, v) => share * along(byDarkness, v / 255));
    const dark = this.#darkness();
    return cover.map((v, i) => Math.round(v * steps[dark[i]!]!));
  }

  #lies(cover: Cover, ink: ExtraInk): Uint8Array {
    const { painted, marked, inside } = this.#drawn;
    const all = () => new Uint8Array(painted.length).fill(255);
    switch (cover.is) {
      case 'whole':
        return inside() ?? all();
      case 'margin':
        return inside(cover.mm) ?? all();
      case 'prints':
        return painted;
      case 'marked':
        return marked[ink] ?? new Uint8Array(painted.length);
      case 'layer': {
        const other = this.#layers.find(({ id }) => id === cover.id);
        const there = other ? this.of(other) : new Uint8Array(painted.length);
        if (!cover.except) return there;
        const within = inside();
        return there.map((v, i) => (within ? within[i]! : 255) && 255 - v);
      }
      case 'colours':
        return this.#alike(cover);
    }
  }

  /** Where the colour is one of some, or where it prints and is none of them. */
  #alike({ picked, within, except }: Cover & { is: 'colours' }): Uint8Array {
    const one = (lab: Float64Array) => {
      let nearest = Infinity;
      for (const [l, a, b] of picked) nearest = Math.min(nearest, Math.hypot(lab[0]! - l, lab[1]! - a, lab[2]! - b));
      const share = Math.min(1, Math.max(0, (within + SOFT - nearest) / (2 * SOFT)));
      return Math.round(255 * (except ? 1 - share : share));
    };
    const alike = this.#eachColour(one);
    const { painted } = this.#drawn;
    return alike.map((v, i) => Math.round((v * painted[i]!) / 255));
  }

  #darkness(): Uint8Array {
    return this.#eachColour((lab) => Math.round(255 * darknessOf(lab[0]!)));
  }

  /** A figure of each pixel’s colour; pixels in a row are mostly alike, and looked at once. */
  #eachColour(figure: (lab: Float64Array) => number): Uint8Array {
    const look = this.#measure.look();
    const { width, height } = this.#drawn;
    const colours = this.#drawn.colours();
    const made = new Uint8Array(width * height);
    const n = look.components;
    const lab = new Float64Array(3);
    const known = new Map<number, number>();
    for (let i = 0, at = 0; i < made.length; i++, at += n) {
      let key = 0;
      for (let k = 0; k < n; k++) key = (key << 8) | colours[at + k]!;
      let value = known.get(key);
      if (value === undefined) {
        look.lab(colours, at, lab);
        value = figure(lab);
        if (known.size < MOST_KNOWN) known.set(key, value);
      }
      made[i] = value;
    }
    return made;
  }

  #settled(layer: Layer, plane: Uint8Array): Uint8Array {
    const { width, height } = this.#drawn;
    const { perMm, kernels } = this.#measure;
    const by = (mm: number): Reach => ({ x: mm * perMm.x, y: mm * perMm.y });
    const least = Math.round(layer.leastCover * 255);
    let made = least > 0 ? plane.map((v) => (v < least ? 0 : v)) : plane;
    if (layer.leastMm > 0) {
      // Drawn in by half and out again, what is narrow is gone, and the rest has its edges back.
      const half = layer.leastMm / 2;
      const open = choke(choke(made, width, height, by(half), kernels), width, height, by(-half), kernels);
      made = made.map((v, i) => Math.min(v, open[i]!));
    }
    return choke(made, width, height, by(layer.chokeMm), kernels);
  }
}

/** Colours that are remembered. */
const MOST_KNOWN = 1 << 16;

/** A curve of even steps at 0…1, straight between them. */
function along(steps: readonly number[], at: number): number {
  const place = at * (DARKNESS_STEPS - 1);
  const low = Math.min(DARKNESS_STEPS - 2, Math.floor(place));
  return steps[low]! + (place - low) * (steps[low + 1]! - steps[low]!);
}
