/** CIE colours under D50 for the 2° observer, the ICC connection space. XYZ has Y = 1 for the perfect reflector. */

export type Triple = [number, number, number];

export const D50: Readonly<Triple> = [0.9642, 1, 0.8249];

const EPSILON = 216 / 24389;
const KAPPA = 24389 / 27;

const toLinear = (f: number) => (f ** 3 > EPSILON ? f ** 3 : (116 * f - 16) / KAPPA);
const fromLinear = (t: number) => (t > EPSILON ? Math.cbrt(t) : (KAPPA * t + 16) / 116);

/** CIE 15: XYZ → L*a*b* */
export function xyzToLab(xyz: Readonly<Triple>, white: Readonly<Triple> = D50): Triple {
  const fx = fromLinear(xyz[0] / white[0]);
  const fy = fromLinear(xyz[1] / white[1]);
  const fz = fromLinear(xyz[2] / white[2]);
  return [116 * fy - 16, 500 * (fx - fy), 200 * (fy - fz)];
}

/** CIE 15: L*a*b* → XYZ */
export function labToXyz(lab: Readonly<Triple>, white: Readonly<Triple> = D50): Triple {
  const fy = (lab[0] + 16) / 116;
  return [white[0] * toLinear(fy + lab[1] / 500), white[1] * toLinear(fy), white[2] * toLinear(fy - lab[2] / 200)];
}

/** sRGB primaries adapted to D50 (Bradford), as in the v4 sRGB profile of the ICC. */
const XYZ_TO_SRGB = [
  [3.1338561, -1.6168667, -0.4906146],
  [-0.9787684, 1.9161415, 0.033454],
  [0.0719453, -0.2289914, 1.4052427]
] as const;

/** XYZ (D50) → sRGB (IEC 61966-2-1), 0…1 and clipped. */
export function xyzToSrgb(xyz: Readonly<Triple>): Triple {
  return XYZ_TO_SRGB.map((row) => {
    const linear = row[0] * xyz[0] + row[1] * xyz[1] + row[2] * xyz[2];
    const v = linear <= 0.0031308 ? 12.92 * linear : 1.055 * linear ** (1 / 2.4) - 0.055;
    return Math.min(1, Math.max(0, v));
  }) as Triple;
}

const SRGB_TO_XYZ = [
  [0.4360747, 0.3850649, 0.1430804],
  [0.2225045, 0.7168786, 0.0606169],
  [0.0139322, 0.0971045, 0.7141733]
] as const;

/** sRGB, 0…1 → XYZ (D50). */
export function srgbToXyz(rgb: Readonly<Triple>): Triple {
  const [r, g, b] = rgb.map((v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)) as Triple;
  return SRGB_TO_XYZ.map((row) => row[0] * r + row[1] * g + row[2] * b) as Triple;
}

/** sRGB, 0…255 → L*a*b* (D50). */
export const labOfRgb = (r: number, g: number, b: number): Triple => xyzToLab(srgbToXyz([r / 255, g / 255, b / 255]));

const WIDE_TO_XYZ = [
  [0.7976749, 0.1351917, 0.0313534],
  [0.2880402, 0.7118741, 0.0000857],
  [0, 0, 0.82521]
] as const;

/** ROMM RGB (ISO 22028-2), 0…1 → XYZ (D50), by its gamma of 1.8 alone. */
export function wideRgbToXyz(rgb: Readonly<Triple>): Triple {
  const [r, g, b] = rgb.map((v) => v ** 1.8) as Triple;
  return WIDE_TO_XYZ.map((row) => row[0] * r + row[1] * g + row[2] * b) as Triple;
}

/** CIE 1976 difference: the plain distance. */
export function deltaE76(p: Readonly<Triple>, q: Readonly<Triple>): number {
  return Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]);
}

const degrees = (radians: number) => (radians * 180) / Math.PI;
const radians = (angle: number) => (angle * Math.PI) / 180;

/** CIEDE2000 with k_L = k_C = k_H = 1 (Sharma, Wu, Dalal 2005). */
export function deltaE00(p: Readonly<Triple>, q: Readonly<Triple>): number {
  const meanChroma = (Math.hypot(p[1], p[2]) + Math.hypot(q[1], q[2])) / 2;
  const g = 0.5 * (1 - Math.sqrt(meanChroma ** 7 / (meanChroma ** 7 + 25 ** 7)));
  const a1 = (1 + g) * p[1];
  const a2 = (1 + g) * q[1];
  const c1 = Math.hypot(a1, p[2]);
  const c2 = Math.hypot(a2, q[2]);
  const hue = (b: number, a: number) => (a === 0 && b === 0 ? 0 : (degrees(Math.atan2(b, a)) + 360) % 360);
  const h1 = hue(p[2], a1);
  const h2 = hue(q[2], a2);
  const dL = q[0] - p[0];
  const dC = c2 - c1;
  let dh = 0;
  if (c1 * c2 !== 0) {
    dh = h2 - h1;
    if (dh > 180) dh -= 360;
    else if (dh < -180) dh += 360;
  }
  const dH = 2 * Math.sqrt(c1 * c2) * Math.sin(radians(dh / 2));
  const meanL = (p[0] + q[0]) / 2;
  const meanC = (c1 + c2) / 2;
  let meanH = h1 + h2;
  if (c1 * c2 !== 0) {
    if (Math.abs(h1 - h2) <= 180) meanH /= 2;
    else meanH = meanH < 360 ? (meanH + 360) / 2 : (meanH - 360) / 2;
  }
  const t =
    1 -
    0.17 * Math.cos(radians(meanH - 30)) +
    0.24 * Math.cos(radians(2 * meanH)) +
    0.32 * Math.cos(radians(3 * meanH + 6)) -
    0.2 * Math.cos(radians(4 * meanH - 63));
  const turn = 30 * Math.exp(-(((meanH - 275) / 25) ** 2));
  const rc = 2 * Math.sqrt(meanC ** 7 / (meanC ** 7 + 25 ** 7));
  const sl = 1 + (0.015 * (meanL - 50) ** 2) / Math.sqrt(20 + (meanL - 50) ** 2);
  const sc = 1 + 0.045 * meanC;
  const sh = 1 + 0.015 * meanC * t;
  const rt = -Math.sin(radians(2 * turn)) * rc;
  return Math.sqrt((dL / sl) ** 2 + (dC / sc) ** 2 + (dH / sh) ** 2 + rt * (dC / sc) * (dH / sh));
}
