import type { Triple } from './lab';

/** The outside of what can be printed or shown, as seen from mid grey: the farthest colour in every direction. */
export interface GamutHull {
  /** L*a*b* of each direction, `latitudes` × `longitudes`, and the poles first and last. */
  points: Triple[];
  /** Triangles over `points`. */
  faces: [number, number, number][];
  /** ΔE76³. */
  volume: number;
}

/** Directions of the hull that is drawn, and the finer ones that the volume is taken from. */
const DRAWN = { rows: 24, columns: 36 };
const MEASURED = { rows: 96, columns: 144 };
const CENTRE: Triple = [50, 0, 0];

type Directions = typeof DRAWN;

/**
 * Segment maxima (Morovič & Luo 2000): the surface colours are sorted into directions from the centre; the farthest of
 * each stays. Directions that none falls into take their neighbours' mean. The maxima make a body a little too large, the
 * less the finer they are: sRGB comes out 7 % above its true 832 thousand, and others alike, so that they compare.
 *
 * @param surface colours of the outside, densely; some ten thousands
 */
export function gamutHull(surface: Iterable<Readonly<Triple>>): GamutHull {
  const colours = [...surface];
  const fine = hullOf(colours, MEASURED);
  const volume = fine.faces.reduce((sum, face) => {
    const [p, q, r] = face.map((i) => fine.points[i]!.map((v, n) => v - CENTRE[n]!)) as [Triple, Triple, Triple];
    return (
      sum +
      Math.abs(p[0] * (q[1] * r[2] - q[2] * r[1]) - p[1] * (q[0] * r[2] - q[2] * r[0]) + p[2] * (q[0] * r[1] - q[1] * r[0])) / 6
    );
  }, 0);
  return { ...hullOf(colours, DRAWN), volume };
}

function hullOf(colours: readonly Readonly<Triple>[], { rows, columns }: Directions): Omit<GamutHull, 'volume'> {
  const radii = new Float64Array(rows * columns);
  let top = 0;
  let bottom = 0;
  for (const [l, a, b] of colours) {
    const chroma = Math.hypot(a, b);
    const latitude = Math.atan2(l - CENTRE[0], chroma) / Math.PI + 0.5;
    const longitude = (Math.atan2(b, a) / (2 * Math.PI) + 1) % 1;
    const row = Math.min(rows - 1, Math.floor(latitude * rows));
    const cell = row * columns + Math.min(columns - 1, Math.floor(longitude * columns));
    radii[cell] = Math.max(radii[cell]!, Math.hypot(l - CENTRE[0], chroma));
    if (chroma < 6) {
      top = Math.max(top, l - CENTRE[0]);
      bottom = Math.max(bottom, CENTRE[0] - l);
    }
  }
  fillGaps(radii, { rows, columns });
  const points: Triple[] = [[CENTRE[0] - bottom, 0, 0]];
  for (let row = 0; row < rows; row++) {
    const tilt = ((row + 0.5) / rows - 0.5) * Math.PI;
    for (let column = 0; column < columns; column++) {
      const around = ((column + 0.5) / columns) * 2 * Math.PI;
      const radius = radii[row * columns + column]!;
      const chroma = radius * Math.cos(tilt);
      points.push([CENTRE[0] + radius * Math.sin(tilt), chroma * Math.cos(around), chroma * Math.sin(around)]);
    }
  }
  points.push([CENTRE[0] + top, 0, 0]);
  const faces: [number, number, number][] = [];
  const at = (row: number, column: number) => 1 + row * columns + (column % columns);
  for (let column = 0; column < columns; column++) {
    faces.push([0, at(0, column + 1), at(0, column)]);
    faces.push([points.length - 1, at(rows - 1, column), at(rows - 1, column + 1)]);
    for (let row = 0; row + 1 < rows; row++) {
      faces.push([at(row, column), at(row, column + 1), at(row + 1, column)]);
      faces.push([at(row, column + 1), at(row + 1, column + 1), at(row + 1, column)]);
    }
  }
  return { points, faces };
}

function fillGaps(radii: Float64Array, { rows, columns }: Directions): void {
  for (let round = 0; round < rows && radii.includes(0); round++) {
    const before = Float64Array.from(radii);
    for (let i = 0; i < before.length; i++) {
      if (before[i]! > 0) continue;
      const row = Math.floor(i / columns);
      const column = i % columns;
      const near = [
        row > 0 ? before[i - columns]! : 0,
        row < rows - 1 ? before[i + columns]! : 0,
        before[row * columns + ((column + 1) % columns)]!,
        before[row * columns + ((column + columns - 1) % columns)]!
      ].filter((v) => v > 0);
      if (near.length > 0) radii[i] = near.reduce((sum, v) => sum + v, 0) / near.length;
    }
  }
}

/**
 * Colours of the faces of a cube of `inputs` channels where two vary, the others standing at an end: where the outside of
 * a gamut lies, but for folds. `steps` a side.
 */
export function* faceColours(inputs: number, steps: number, colour: (values: number[]) => Triple): Generator<Triple> {
  for (let p = 0; p < inputs; p++) {
    for (let q = p + 1; q < inputs; q++) {
      for (let ends = 0; ends < 1 << inputs; ends++) {
        if ((ends >> p) & 1 || (ends >> q) & 1) continue;
        const values = Array.from({ length: inputs }, (_, i) => (ends >> i) & 1);
        for (let n = 0; n < steps * steps; n++) {
          values[p] = (n % steps) / (steps - 1);
          values[q] = Math.floor(n / steps) / (steps - 1);
          yield colour(values);
        }
      }
    }
  }
}
