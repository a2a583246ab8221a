import { labToXyz, type Triple } from './lab';
import { ModelEvaluator, modelFromLab, type PrinterModel } from './printer-model';

/**
 * The condition that customers' CMYK is taken to be made for when a file does not say: offset on coated paper.
 * Solids and overprints are the aim values of ISO 12647-2:2013 for paper type PS1 on white backing, and tone values its curve A.
 */
const OFFSET_SOLIDS: Triple[] = [
  [95, 1, -4],
  [56, -36, -51],
  [48, 75, -4],
  [25, 20, -46],
  [89, -4, 93],
  [50, -65, 26],
  [48, 68, 47],
  [23, 0, 0],
  [16, 0, 0]
];

/** Of light scattered under dots (Yule & Nielsen 1951). */
const OFFSET_N = 1.7;
/** Curve A: what a tone of 50 % prints beyond 50 %, for all four inks. */
export const OFFSET_INCREASE = 0.16;

/** Which of X, Y and Z an ink takes most of, by ink: the tristimulus value that its tone is measured with. */
const MEASURED_WITH = [0, 1, 2, 1] as const;

/**
 * Tone value increase at a tone of 50 %, 0…1, by Murray–Davies on the tristimulus value that the ink takes most of
 * (ISO 12647-1:2013, annex B, for measurements without a densitometer).
 *
 * @param ink 0 cyan, 1 magenta, 2 yellow, 3 black
 */
export function increaseAtHalf(model: PrinterModel, ink: 0 | 1 | 2 | 3): number {
  const evaluator = new ModelEvaluator(model);
  const measured = (amount: number) => {
    const inks: [number, number, number, number] = [0, 0, 0, 0];
    inks[ink] = amount;
    return evaluator.xyz(...inks)[MEASURED_WITH[ink]];
  };
  return (measured(0) - measured(0.5)) / (measured(0) - measured(1)) - 0.5;
}

/** Each ink's gain of dots is what is left of the curve's increase beside the scattered light: less than none for black. */
export function offsetCoated(): PrinterModel {
  const made = (gain: PrinterModel['gain']) => modelFromLab(OFFSET_SOLIDS, (lab) => labToXyz(lab), OFFSET_N, gain);
  const gains = ([0, 1, 2, 3] as const).map((ink) => {
    let low = -0.25;
    let high = 0.25;
    for (let step = 0; step < 30; step++) {
      const gain = (low + high) / 2;
      if (increaseAtHalf(made([gain, gain, gain, gain]), ink) < OFFSET_INCREASE) low = gain;
      else high = gain;
    }
    return (low + high) / 2;
  });
  return made(gains as PrinterModel['gain']);
}
