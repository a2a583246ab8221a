import type { Triple } from './lab';

/** From spectra to colours: the CIE 1931 2° observer under D50 (CIE 15:2018, tables of 10 nm, 380…730 nm). */

const FIRST_NM = 380;
const STEP_NM = 10;

const X_BAR = [
  0.001368, 0.004243, 0.01431, 0.04351, 0.13438, 0.2839, 0.34828, 0.3362, 0.2908, 0.19536, 0.09564, 0.03201, 0.0049, 0.0093,
  0.06327, 0.1655, 0.2904, 0.43345, 0.5945, 0.7621, 0.9163, 1.0263, 1.0622, 1.0026, 0.85445, 0.6424, 0.4479, 0.2835, 0.1649,
  0.0874, 0.04677, 0.0227, 0.011359, 0.00579, 0.002899, 0.00144
];
const Y_BAR = [
  0.000039, 0.00012, 0.000396, 0.00121, 0.004, 0.0116, 0.023, 0.038, 0.06, 0.09098, 0.13902, 0.20802, 0.323, 0.503, 0.71, 0.862,
  0.954, 0.99495, 0.995, 0.952, 0.87, 0.757, 0.631, 0.503, 0.381, 0.265, 0.175, 0.107, 0.061, 0.032, 0.017, 0.00821, 0.004102,
  0.002091, 0.001047, 0.00052
];
const Z_BAR = [
  0.00645, 0.02005, 0.06785, 0.2074, 0.6456, 1.3856, 1.74706, 1.77211, 1.6692, 1.28764, 0.81295, 0.46518, 0.272, 0.1582, 0.07825,
  0.04216, 0.0203, 0.00875, 0.0039, 0.0021, 0.00165, 0.0011, 0.0008, 0.00034, 0.00019, 0.00005, 0.00002, 0, 0, 0, 0, 0, 0, 0, 0, 0
];
const D50_POWER = [
  24.49, 29.87, 49.31, 56.51, 60.03, 57.82, 74.82, 87.25, 90.61, 91.37, 95.11, 91.96, 95.72, 96.61, 97.13, 102.1, 100.75, 102.32,
  100, 97.74, 98.92, 93.5, 97.69, 99.27, 99.04, 95.72, 98.86, 95.67, 98.19, 103, 99.13, 87.38, 91.6, 92.89, 76.85, 86.51
];

/** Measured so far, and no farther, spectra are worth their colour, nm. */
const NEEDS_FROM = 400;
const NEEDS_TO = 700;

/**
 * @param reflectance shares of the perfect reflector, 1 for all of the light
 * @param firstNm of the first figure
 * @param stepNm from one to the next
 * @returns XYZ under D50, Y = 1 for the perfect reflector; what was not measured at the ends is as the nearest that was
 * @throws RangeError when it does not reach from 400 to 700 nm in steps of 20 nm at most
 */
export function spectrumToXyz(reflectance: readonly number[], firstNm: number, stepNm: number): Triple {
  const lastNm = firstNm + (reflectance.length - 1) * stepNm;
  if (!(stepNm > 0 && stepNm <= 20) || firstNm > NEEDS_FROM || lastNm < NEEDS_TO)
    throw new RangeError(`The spectrum goes from ${firstNm} to ${lastNm} nm by ${stepNm} nm; 400 to 700 nm by 20 nm are needed.`);
  const at = (nm: number) => {
    const place = Math.min(reflectance.length - 1, Math.max(0, (nm - firstNm) / stepNm));
    const low = Math.min(reflectance.length - 2, Math.floor(place));
    return reflectance[low]! + (place - low) * (reflectance[low + 1]! - reflectance[low]!);
  };
  const sum: Triple = [0, 0, 0];
  let white = 0;
  D50_POWER.forEach((power, i) => {
    const light = power * at(FIRST_NM + i * STEP_NM);
    sum[0] += light * X_BAR[i]!;
    sum[1] += light * Y_BAR[i]!;
    sum[2] += light * Z_BAR[i]!;
    white += power * Y_BAR[i]!;
  });
  return sum.map((v) => v / white) as Triple;
}
