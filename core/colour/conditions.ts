import { labToXyz, type Triple } from './lab';
import { modelFromLab, type PrinterModel } from './printer-model';

/**
 * The condition that customers' CMYK is taken to be made for when a file does not say: offset on coated paper.
 * Solids and overprints are the aim values of ISO 12647-2:2013 for paper type PS1 on white backing.
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

export const offsetCoated = (): PrinterModel => modelFromLab(OFFSET_SOLIDS, (lab) => labToXyz(lab), 1.7, [0.09, 0.09, 0.08, 0.1]);
