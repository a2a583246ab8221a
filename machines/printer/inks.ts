import { labToXyz, type Triple } from '$core/colour/lab';
import { modelFromLab, type PrinterModel } from '$core/colour/printer-model';

/** The made-up ink set on made-up media: solids and overprints as L*a*b*, paper first (bits: 1 C, 2 M, 4 Y, 8 K). */
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

/** A matt surface takes the strength out of every solid and spreads the drops more. */
function onMatt(solids: readonly Triple[]): Triple[] {
  return solids.map(([l, a, b], i) => (i === 0 ? [92, 1, 3] : [l + 5, a * 0.86, b * 0.86]));
}

export const MEDIA_MODELS: Record<string, PrinterModel> = {
  gloss: modelFromLab(HARBOUR_INKS, (lab) => labToXyz(lab), 1.9, [0.1, 0.1, 0.09, 0.12]),
  matt: modelFromLab(onMatt(HARBOUR_INKS), (lab) => labToXyz(lab), 2.1, [0.14, 0.14, 0.12, 0.16])
};
