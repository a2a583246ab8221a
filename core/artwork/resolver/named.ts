import * as mupdf from '../../interpreter/interpreter';
import { deltaE00, type Triple } from '../../colour/lab';
import { TINT_STEPS, type InkedColour } from '../../colour/named-inks';
import type { Inks } from '../../colour/separation';
import type { NamedPlaces } from '../preparation';

/** Named colours of the shop in a target's channels: by tint from the bare media to the solid, 0…1. */

export class NamedOnTarget {
  readonly #places: NamedPlaces | undefined;
  readonly #target: mupdf.ColorSpace;
  readonly #tintsOf: ((colour: InkedColour) => Inks[]) | undefined;
  readonly #channels: number;
  /** `TINT_STEPS` + 1 times as many figures as the target has channels. */
  readonly #made = new Map<InkedColour, Float64Array>();

  /** @param tintsOf the inks of a colour from the bare media to its solid; without it colours are as they are seen on white */
  constructor(places: NamedPlaces | undefined, target: mupdf.ColorSpace, tintsOf: ((colour: InkedColour) => Inks[]) | undefined) {
    this.#places = places;
    this.#target = target;
    this.#tintsOf = tintsOf;
    this.#channels = target.getNumberOfComponents();
  }

  /** Whether any of a colour's inks is a named colour. */
  has(names: readonly string[]): boolean {
    return names.some((name) => this.#colour(name) !== undefined);
  }

  /**
   * The channels of a colour of spot inks, some of which are named colours: each as it is, one over the other as inks lie.
   *
   * @param color by ink, 0…1
   * @param others what those inks come to that are no named colours; asked where any of them has an amount
   * @returns nothing where none is named
   */
  of(names: readonly string[], color: readonly number[], others: (rest: number[]) => readonly number[]): number[] | undefined {
    const colours = names.map((name) => this.#colour(name));
    if (!colours.some(Boolean)) return undefined;
    const rest = color.map((amount, i) => (colours[i] ? 0 : amount));
    let made = rest.some((amount) => amount > 0) ? [...others(rest)] : this.bare();
    colours.forEach((colour, i) => {
      if (colour) made = this.over(made, this.#at(colour, color[i] ?? 0));
    });
    return made;
  }

  /** The solid that a flat colour prints in instead; nothing where it stays. @param lab asked where any is replaced */
  inPlaceOf(lab: () => Triple): number[] | undefined {
    const flats = this.#places?.flats ?? [];
    if (flats.length === 0) return undefined;
    const is = lab();
    const found = flats.find((flat) => deltaE00(flat.lab, is) <= flat.within);
    return found && this.#at(found.to, 1);
  }

  /** A named ink's channels as a table of 256 tints, bytes; nothing where it is none. */
  table(name: string): Uint8Array | undefined {
    const colour = this.#colour(name);
    if (!colour) return undefined;
    const table = new Uint8Array(256 * this.#channels);
    for (let v = 0; v < 256; v++)
      table.set(
        this.#at(colour, v / 255).map((part) => Math.round(part * 255)),
        v * this.#channels
      );
    return table;
  }

  /** Nothing printed. */
  bare(): number[] {
    return new Array<number>(this.#channels).fill(this.#subtracts ? 0 : 1);
  }

  /** One colour over another: what each lets through is let through by both. */
  over(below: readonly number[], above: readonly number[]): number[] {
    return this.#subtracts ? below.map((v, i) => 1 - (1 - v) * (1 - above[i]!)) : below.map((v, i) => v * above[i]!);
  }

  /** Inks are the more the darker they are; screen colours the less. */
  get #subtracts(): boolean {
    return this.#channels === 4;
  }

  #colour(name: string): InkedColour | undefined {
    const spots = this.#places?.spots;
    return spots && Object.hasOwn(spots, name) ? spots[name] : undefined;
  }

  #at(colour: InkedColour, tint: number): number[] {
    const rows = this.#tints(colour);
    const n = this.#channels;
    const x = Math.min(1, Math.max(0, tint)) * TINT_STEPS;
    const low = Math.min(TINT_STEPS - 1, Math.floor(x));
    return Array.from({ length: n }, (_, k) => {
      const [p, q] = [rows[low * n + k]!, rows[(low + 1) * n + k]!];
      return p + (x - low) * (q - p);
    });
  }

  #tints(colour: InkedColour): Float64Array {
    const known = this.#made.get(colour);
    if (known) return known;
    const tints = Float64Array.from(this.#tintsOf?.(colour).flat() ?? seen(colour.lab, this.#target));
    this.#made.set(colour, tints);
    return tints;
  }
}

/** A colour on the screen's white: even steps of L*a*b* from there. */
function seen(lab: Readonly<Triple>, target: mupdf.ColorSpace): number[] {
  const pixmap = new mupdf.Pixmap(mupdf.ColorSpace.Lab, [0, 0, TINT_STEPS + 1, 1], false);
  const samples = pixmap.getPixels();
  for (let i = 0; i <= TINT_STEPS; i++) {
    const t = i / TINT_STEPS;
    samples[i * 3] = Math.round(((100 + t * (lab[0] - 100)) / 100) * 255);
    samples[i * 3 + 1] = Math.round(t * lab[1] + 128);
    samples[i * 3 + 2] = Math.round(t * lab[2] + 128);
  }
  const turned = pixmap.convertToColorSpace(target, false);
  const parts = Array.from(turned.getPixels(), (part) => part / 255);
  pixmap.destroy();
  turned.destroy();
  return parts;
}
