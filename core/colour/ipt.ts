import { labToXyz, xyzToLab, type Triple } from './lab';

/**
 * IPT (Ebner & Fairchild 1998), in which a hue stays a hue when its chroma is taken away; L*a*b* turns blues to purple.
 * Here from and to L*a*b* under D50, with Bradford's adaptation to D65 worked into the first matrix.
 */
const XYZ_D50_TO_LMS = multiply(
  [
    [0.4002, 0.7075, -0.0807],
    [-0.228, 1.15, 0.0612],
    [0, 0, 0.9184]
  ],
  [
    [0.9555766, -0.0230393, 0.0631636],
    [-0.0282895, 1.0099416, 0.0210077],
    [0.0122982, -0.020483, 1.3299098]
  ]
);
const LMS_TO_IPT = [
  [0.4, 0.4, 0.2],
  [4.455, -4.851, 0.396],
  [0.8056, 0.3572, -1.1628]
];
const LMS_TO_XYZ = inverse(XYZ_D50_TO_LMS);
const IPT_TO_LMS = inverse(LMS_TO_IPT);

const power = (v: number, p: number) => Math.sign(v) * Math.abs(v) ** p;

export function labToIpt(lab: Readonly<Triple>): Triple {
  return apply(LMS_TO_IPT, apply(XYZ_D50_TO_LMS, labToXyz(lab)).map((v) => power(v, 0.43)) as Triple);
}

export function iptToLab(ipt: Readonly<Triple>): Triple {
  return xyzToLab(apply(LMS_TO_XYZ, apply(IPT_TO_LMS, ipt).map((v) => power(v, 1 / 0.43)) as Triple));
}

/** The colour at another chroma and lightness, of the same hue to the eye: `chroma` times as strong. */
export function atChroma(lab: Readonly<Triple>, chroma: number, lightness: number): Triple {
  if (chroma === 1 && lightness === lab[0]) return [...lab];
  const [, p, t] = labToIpt(lab);
  const grey = labToIpt([lightness, 0, 0])[0];
  // L* depends a little on chroma in IPT: two corrections settle it.
  let i = grey;
  let out: Triple = [lightness, 0, 0];
  for (let round = 0; round < 3; round++) {
    out = iptToLab([i, p * chroma, t * chroma]);
    i += labToIpt([lightness, 0, 0])[0] - labToIpt([out[0], 0, 0])[0];
  }
  return out;
}

type Matrix = number[][];

function apply(m: Matrix, v: Readonly<Triple>): Triple {
  return m.map((row) => row[0]! * v[0] + row[1]! * v[1] + row[2]! * v[2]) as Triple;
}

function multiply(p: Matrix, q: Matrix): Matrix {
  return p.map((row) => [0, 1, 2].map((j) => row[0]! * q[0]![j]! + row[1]! * q[1]![j]! + row[2]! * q[2]![j]!));
}

function inverse(m: Matrix): Matrix {
  const [a, b, c] = m as [Triple, Triple, Triple];
  const cross = (p: Triple, q: Triple): Triple => [
    p[1] * q[2] - p[2] * q[1],
    p[2] * q[0] - p[0] * q[2],
    p[0] * q[1] - p[1] * q[0]
  ];
  const bc = cross(b, c);
  const ca = cross(c, a);
  const ab = cross(a, b);
  const determinant = a[0] * bc[0] + a[1] * bc[1] + a[2] * bc[2];
  return [0, 1, 2].map((i) => [bc[i]! / determinant, ca[i]! / determinant, ab[i]! / determinant]);
}
