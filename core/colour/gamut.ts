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

const LATITUDES = 24;
const LONGITUDES = 36;
const CENTRE: Triple = [50, 0, 0];

/**
 * Segment maxima (Morovič & Luo 2000): the surface colours are sorted into directions from the centre; the farthest of
 * each stays. Directions that none falls into take their neighbours' mean.
 *
 * @param surface colours of the outside, densely; at least some thousands
 */
export function gamutHull(surface: Iterable<Readonly<Triple>>): GamutHull {
  const radii = new Float64Array(LATITUDES * LONGITUDES);
  let top = 0;
  let bottom = 0;
  for (const [l, a, b] of surface) {
    const chroma = Math.hypot(a, b);
    const radius = Math.hypot(l - CENTRE[0], chroma);
    const latitude = Math.atan2(l - CENTRE[0], chroma) / Math.PI + 0.5;
    const longitude = (Math.atan2(b, a) / (2 * Math.PI) + 1) % 1;
    const cell =
      Math.min(LATITUDES - 1, Math.floor(latitude * LATITUDES)) * LONGITUDES +
      Math.min(LONGITUDES - 1, Math.floor(longitude * LONGITUDES));
    radii[cell] = Math.max(radii[cell]!, radius);
    if (chroma < 6) {
      top = Math.max(top, l - CENTRE[0]);
      bottom = Math.max(bottom, CENTRE[0] - l);
    }
  }
  for (let round = 0; round < LATITUDES && radii.includes(0); round++) {
    const before = Float64Array.from(radii);
    for (let i = 0; i < before.length; i++) {
      if (before[i]! > 0) continue;
      const row = Math.floor(i / LONGITUDES);
      const column = i % LONGITUDES;
      const near = [
        row > 0 ? before[i - LONGITUDES]! : 0,
        row < LATITUDES - 1 ? before[i + LONGITUDES]! : 0,
        before[row * LONGITUDES + ((column + 1) % LONGITUDES)]!,
        before[row * LONGITUDES + ((column + LONGITUDES - 1) % LONGITUDES)]!
      ].filter((v) => v > 0);
      if (near.length > 0) radii[i] = near.reduce((sum, v) => sum + v, 0) / near.length;
    }
  }
  const points: Triple[] = [[CENTRE[0] - bottom, 0, 0]];
  for (let row = 0; row < LATITUDES; row++) {
    const tilt = ((row + 0.5) / LATITUDES - 0.5) * Math.PI;
    for (let column = 0; column < LONGITUDES; column++) {
      const around = ((column + 0.5) / LONGITUDES) * 2 * Math.PI;
      const radius = radii[row * LONGITUDES + column]!;
      const chroma = radius * Math.cos(tilt);
      points.push([CENTRE[0] + radius * Math.sin(tilt), chroma * Math.cos(around), chroma * Math.sin(around)]);
    }
  }
  points.push([CENTRE[0] + top, 0, 0]);
  const faces: [number, number, number][] = [];
  const at = (row: number, column: number) => 1 + row * LONGITUDES + (column % LONGITUDES);
  for (let column = 0; column < LONGITUDES; column++) {
    faces.push([0, at(0, column + 1), at(0, column)]);
    faces.push([points.length - 1, at(LATITUDES - 1, column), at(LATITUDES - 1, column + 1)]);
    for (let row = 0; row + 1 < LATITUDES; row++) {
      faces.push([at(row, column), at(row, column + 1), at(row + 1, column)]);
      faces.push([at(row, column + 1), at(row + 1, column + 1), at(row + 1, column)]);
    }
  }
  const volume = faces.reduce((sum, face) => {
    const [p, q, r] = face.map((i) => points[i]!.map((v, n) => v - CENTRE[n]!)) as [Triple, Triple, Triple];
    return (
      sum +
      Math.abs(p[0] * (q[1] * r[2] - q[2] * r[1]) - p[1] * (q[0] * r[2] - q[2] * r[0]) + p[2] * (q[0] * r[1] - q[1] * r[0])) / 6
    );
  }, 0);
  return { points, faces, volume };
}

/** The faces of a cube of `inputs` channels, `steps` a side, through a colour function; for a gamut's surface. */
export function* cubeSurface(inputs: number, steps: number, colour: (values: number[]) => Triple): Generator<Triple> {
  for (let fixedInput = 0; fixedInput < inputs; fixedInput++) {
    for (const end of [0, 1]) {
      const values = new Array<number>(inputs).fill(0);
      const count = steps ** (inputs - 1);
      for (let n = 0; n < count; n++) {
        let rest = n;
        for (let i = 0; i < inputs; i++) {
          if (i === fixedInput) values[i] = end;
          else {
            values[i] = (rest % steps) / (steps - 1);
            rest = Math.floor(rest / steps);
          }
        }
        yield colour(values);
      }
    }
  }
}
