import { D50, labToXyz, xyzToLab, type Triple } from '$core/colour/lab';
import { ModelEvaluator, modelFromLab, type PrinterModel } from '$core/colour/printer-model';
import type { Black, Surface } from '$core/media/card';

/** The made-up ink set on a made-up gloss media: solids and overprints as L*a*b*, paper first (bits: 1 C, 2 M, 4 Y, 8 K). */
const HARBOUR_INKS: Triple[] = [
  [95, 0, -2],
  [54, -37, -50],
  [47, 76, -6],
  [22, 22, -48],
  [89, -6, 96],
  [49, -70, 28],
  [47, 69, 50],
  [21, 1, 1],
  [14, 0, -1]
];

/** What a surface does to ink: takes strength out of the solids, spreads the drops, and holds so much before it floods. */
const BEHAVIOUR: Record<Surface, { paper: Triple; lighter: number; strength: number; n: number; uptake: number; holds: number }> =
  {
    gloss: { paper: [95, 0, -2], lighter: 0, strength: 1, n: 1.9, uptake: 3.1, holds: 2.75 },
    satin: { paper: [94.5, 0.4, -1], lighter: 1.5, strength: 0.96, n: 2, uptake: 3.2, holds: 2.65 },
    matt: { paper: [92, 1, 3], lighter: 5, strength: 0.86, n: 2.1, uptake: 3.5, holds: 2.45 },
    paper: { paper: [93.5, 1.2, -3.5], lighter: 4, strength: 0.88, n: 2.2, uptake: 3.7, holds: 2.2 },
    fabric: { paper: [91, 1, 1], lighter: 8, strength: 0.8, n: 2.3, uptake: 2.9, holds: 2.6 }
  };

/** How one machine differs from the next of its kind, and how its inks have aged. All 1 when new and true. */
export interface Unit {
  /** Drop volume of each ink against what the maker says. */
  gain: number[];
  /** Strength of each ink's colour. */
  strength: number[];
  /** How far the hue of each ink's colour is turned, degrees; not at all where nothing is said. */
  hue?: number[] | undefined;
  /** Of sixteen rows of nozzles of each ink, how many are blocked; none where nothing is said. */
  blocked?: number[] | undefined;
}

export const TRUE_UNIT: Unit = { gain: [1, 1, 1, 1], strength: [1, 1, 1, 1] };

/** The ink of one full drop on every pixel at 720 × 720, which the behaviours are given for: pl an inch². */
const USUAL_LOAD = 21 * 720 * 720;

/**
 * What colour our drops make, the part that only measuring finds out: coverage rises fast and then saturates, a solid
 * loses chroma when flooded, and a media holds only so much ink in all before the ink stands on it and shines.
 * Neugebauer's overprints with Yule and Nielsen's factor in between.
 */
export class Physics {
  readonly white: Triple;
  readonly #model: ModelEvaluator;
  readonly #uptake: number;
  readonly #holds: number;
  readonly #load: number;
  readonly #unit: Unit;

  /** @param load ink of a full drop on every pixel, pl an inch²: largest drop × dpi × dpi */
  constructor(surface: Surface, load = USUAL_LOAD, unit: Unit = TRUE_UNIT, black: Black = 'gloss') {
    const { paper, lighter, strength, n, uptake, holds } = BEHAVIOUR[surface];
    const solids = HARBOUR_INKS.map(([l, a, b], i): Triple => (i === 0 ? paper : [l + lighter, a * strength, b * strength]));
    // The last is black alone: the right one is as dark as its surface lets it be, the other is not.
    solids[solids.length - 1]![0] += BLACK_LIGHTER[black][shines(surface) ? 'shines' : 'dull'];
    const model: PrinterModel = modelFromLab(turned(solids, unit.hue ?? []), (lab) => labToXyz(lab), n, [0, 0, 0, 0]);
    this.#model = new ModelEvaluator(model);
    this.white = this.#model.white;
    this.#uptake = uptake;
    this.#holds = holds;
    this.#load = load / USUAL_LOAD;
    this.#unit = unit;
  }

  /** Absolute XYZ of mean amounts of the largest drop on every pixel, C, M, Y, K in 0…1. */
  xyz(amounts: readonly number[], out: Triple = [0, 0, 0]): Triple {
    let total = 0;
    let pooled = 0;
    const cover = COVER;
    for (let i = 0; i < 4; i++) {
      const ink = (amounts[i] ?? 0) * this.#load * (this.#unit.gain[i] ?? 1);
      total += ink;
      // Each ink wets a little differently.
      const covered = 1 - Math.exp(-this.#uptake * WETTING[i]! * ink ** 1.08);
      cover[i] = Math.min(1, covered * (this.#unit.strength[i] ?? 1));
      const above = Math.max(0, ink - 0.84);
      pooled += above * above * 1.6;
    }
    this.#model.xyz(cover[0]!, cover[1]!, cover[2]!, cover[3]!, out);
    // What pools dulls its own colour and gains nothing in darkness.
    const over = Math.max(0, total - this.#holds);
    const shine = 0.004 * (1 - Math.exp(-pooled * 4)) + 0.012 * (1 - Math.exp(-over * over * 3));
    for (let i = 0; i < 3; i++) out[i] = out[i]! * (1 - shine) + shine * this.white[i]!;
    return out;
  }

  /** What colours take of light that passes them twice, relative to white, as XYZ of the perfect reflector under them. */
  filter(amounts: readonly number[]): Triple {
    const xyz = this.xyz(amounts);
    return xyz.map((value, i) => (D50[i]! * value) / this.white[i]!) as Triple;
  }

  /** The share of ink that gives a share of coverage: what a maker's starting curve is made of. */
  amountFor(ink: number, coverage: number): number {
    return (-Math.log(1 - Math.min(0.999, coverage)) / (this.#uptake * WETTING[ink]!)) ** (1 / 1.08) / this.#load;
  }

  /** Coverage of an ink at an amount, without pooling. */
  coverageOf(ink: number, amount: number): number {
    return 1 - Math.exp(-this.#uptake * WETTING[ink]! * (amount * this.#load) ** 1.08);
  }

  /** What a maker gives to begin with: a curve for each ink that spreads coverage evenly, and what that prints. */
  start(): { curves: number[][]; model: PrinterModel } {
    const most = [0, 1, 2, 3].map((ink) => Math.min(START_COVERAGE, this.coverageOf(ink, 1)));
    return {
      curves: most.map((cover, ink) =>
        Array.from({ length: 256 }, (_, v) => Math.min(1, this.amountFor(ink, (cover * v) / 255)))
      ),
      model: this.#sheet(most)
    };
  }

  /** Colours of the sixteen overprints at given coverages. */
  #sheet(coverages: readonly number[]): PrinterModel {
    const primaries = Array.from({ length: 16 }, (_, bits) => {
      const c = coverages.map((cover, i) => ((bits >> i) & 1 ? cover : 0));
      return this.#model.xyz(c[0]!, c[1]!, c[2]!, c[3]!);
    });
    return { n: this.#model.n, gain: [0, 0, 0, 0], primaries };
  }
}

/** Solids and overprints of inks whose hues are turned: what is printed with one takes as much more or less of the light as it does alone. */
function turned(solids: readonly Triple[], hue: readonly number[]): Triple[] {
  const filters = [0, 1, 2].map((ink): Triple => {
    const [l, a, b] = solids[1 << ink]!;
    const angle = ((hue[ink] ?? 0) * Math.PI) / 180;
    const [sine, cosine] = [Math.sin(angle), Math.cos(angle)];
    const [was, is] = [labToXyz([l, a, b]), labToXyz([l, a * cosine - b * sine, a * sine + b * cosine])];
    return is.map((value, i) => value / was[i]!) as Triple;
  });
  return solids.map((lab, bits) =>
    // The last is black alone.
    bits > 7
      ? lab
      : xyzToLab(
          labToXyz(lab).map((v, i) => filters.reduce((all, one, ink) => ((bits >> ink) & 1 ? all * one[i]! : all), v)) as Triple
        )
  );
}

const shines = (surface: Surface): boolean => surface === 'gloss' || surface === 'satin';
/** How much lighter a black is than the usual one on a surface. */
const BLACK_LIGHTER: Record<Black, { shines: number; dull: number }> = {
  gloss: { shines: 0, dull: 0 },
  matt: { shines: 7, dull: -4 }
};

/** Short of the fullest, where ink pools. */
const START_COVERAGE = 0.91;
const WETTING = [1, 1.04, 0.94, 1.1];
const COVER = new Float64Array(4);
