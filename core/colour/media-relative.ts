import { D50, labToXyz, xyzToLab, type Triple } from './lab';

/** Colours against the perfect reflector, and against the media's own white as relative colorimetric profiles count (ICC.1:2022, 6.3.2). */

/** @param white L*a*b* of the bare media */
export function relativeTo(white: Readonly<Triple>): (lab: Readonly<Triple>) => Triple {
  const media = labToXyz(white);
  return (lab) => xyzToLab(labToXyz(lab).map((v, i) => (v / media[i]!) * D50[i]!) as Triple);
}

/** The way back. */
export function absoluteFrom(white: Readonly<Triple>): (lab: Readonly<Triple>) => Triple {
  const media = labToXyz(white);
  return (lab) => xyzToLab(labToXyz(lab).map((v, i) => (v * media[i]!) / D50[i]!) as Triple);
}
