import { z } from 'zod';
import { D50, xyzToLab, type Triple } from './lab';

const xyz = z.tuple([z.number().min(0).max(2), z.number().min(0).max(2), z.number().min(0).max(2)]);

/**
 * A printing machine's colour on one media: Yule–Nielsen-modified Neugebauer (Yule & Nielsen 1951; Viggiano 1985).
 * `primaries` are the XYZ (D50) of the sixteen overprints; index bits: 1 C, 2 M, 4 Y, 8 K; index 0 is the bare media.
 * `gain` is the dot gain at half coverage for each ink.
 */
export const PrinterModel = z.object({
  n: z.number().min(1).max(10),
  gain: z.tuple([z.number(), z.number(), z.number(), z.number()]),
  primaries: z.array(xyz).length(16)
});
export type PrinterModel = z.infer<typeof PrinterModel>;

/** The model made quick to evaluate: primaries to the power 1/n. */
export class ModelEvaluator {
  readonly white: Triple;
  readonly #powered: Float64Array;
  readonly #gain: readonly number[];
  readonly n: number;
  readonly #weights = new Float64Array(16);

  constructor(model: PrinterModel) {
    this.n = model.n;
    this.#gain = model.gain;
    this.#powered = Float64Array.from(model.primaries.flat().map((v) => v ** (1 / model.n)));
    this.white = [...(model.primaries[0] as Triple)];
  }

  /** Absolute XYZ of an ink combination (Demichel's shares of the sixteen overprints). */
  xyz(c: number, m: number, y: number, k: number, out: Triple = [0, 0, 0]): Triple {
    const w = this.#weights;
    const g = this.#gain;
    // Dot gain as a parabola: 4·gain·a·(1 − a) at most in the middle.
    const ec = c + 4 * g[0]! * c * (1 - c);
    const em = m + 4 * g[1]! * m * (1 - m);
    const ey = y + 4 * g[2]! * y * (1 - y);
    const ek = k + 4 * g[3]! * k * (1 - k);
    const c0 = 1 - ec;
    const m0 = 1 - em;
    const y0 = 1 - ey;
    const k0 = 1 - ek;
    w[0] = c0 * m0 * y0 * k0;
    w[1] = ec * m0 * y0 * k0;
    w[2] = c0 * em * y0 * k0;
    w[3] = ec * em * y0 * k0;
    w[4] = c0 * m0 * ey * k0;
    w[5] = ec * m0 * ey * k0;
    w[6] = c0 * em * ey * k0;
    w[7] = ec * em * ey * k0;
    w[8] = c0 * m0 * y0 * ek;
    w[9] = ec * m0 * y0 * ek;
    w[10] = c0 * em * y0 * ek;
    w[11] = ec * em * y0 * ek;
    w[12] = c0 * m0 * ey * ek;
    w[13] = ec * m0 * ey * ek;
    w[14] = c0 * em * ey * ek;
    w[15] = ec * em * ey * ek;
    let sx = 0;
    let sy = 0;
    let sz = 0;
    const p = this.#powered;
    for (let i = 0; i < 16; i++) {
      const share = w[i]!;
      sx += share * p[i * 3]!;
      sy += share * p[i * 3 + 1]!;
      sz += share * p[i * 3 + 2]!;
    }
    out[0] = sx ** this.n;
    out[1] = sy ** this.n;
    out[2] = sz ** this.n;
    return out;
  }

  /** L*a*b* relative to the media's white, as a relative colorimetric profile holds it. */
  lab(c: number, m: number, y: number, k: number): Triple {
    const [x, yy, z] = this.xyz(c, m, y, k);
    return xyzToLab([(x / this.white[0]) * D50[0], yy / this.white[1], (z / this.white[2]) * D50[2]]);
  }
}

/**
 * A model from the sixteen L*a*b* values that a data sheet or a standard gives for solids and overprints.
 * Overprints with black that are not given are the black times the rest, as filters would be.
 *
 * @param solids L*a*b* by index; all of 0…8 are needed
 */
export function modelFromLab(
  solids: readonly Readonly<Triple>[],
  toXyz: (lab: Readonly<Triple>) => Triple,
  n: number,
  gain: [number, number, number, number]
): PrinterModel {
  const primaries = solids.map(toXyz);
  const white = primaries[0]!;
  const black = primaries[8]!;
  for (let i = primaries.length; i < 16; i++) {
    const under = primaries[i - 8]!;
    // Full black on top of more ink is darker, but not by the whole product: gloss and scatter remain.
    primaries.push(under.map((v, j) => black[j]! * (0.35 + (0.65 * v) / white[j]!)) as Triple);
  }
  return { n, gain, primaries };
}
