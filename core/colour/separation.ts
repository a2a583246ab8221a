import type { Triple } from './lab';
import type { Inks, ModelEvaluator } from './printer-model';

export interface SeparationSettings {
  /** Most ink in all, in shares: 2.6 is 260 %. */
  totalInk: number;
  /** L* above which no black is used in neutrals. */
  blackStart: number;
  /** How much black there is in the darkest neutral, 0…1. */
  blackMost: number;
}

/** The black that a colour asks for: rising smoothly from `blackStart` down, and less where the colour is strong. */
export function wantedBlack(lab: Readonly<Triple>, settings: SeparationSettings): number {
  const t = Math.min(1, Math.max(0, (settings.blackStart - lab[0]) / settings.blackStart));
  const chroma = Math.hypot(lab[1], lab[2]);
  return settings.blackMost * t ** 1.6 * Math.exp(-((chroma / 45) ** 2));
}

const RESIDUALS = 5;

/**
 * The inks for a colour relative to the media: damped least squares (Levenberg 1944, Marquardt 1963) over C, M, Y, K
 * in their box, towards the colour, the wanted black and the ink limit at once. Out of gamut it clips with hue weighted
 * above chroma. The result depends smoothly on the colour when `start` does.
 *
 * @param start inks to begin at, a neighbour's result
 */
export function separate(
  model: ModelEvaluator,
  lab: Readonly<Triple>,
  settings: SeparationSettings,
  start: Readonly<Inks>
): Inks {
  const target = wantedBlack(lab, settings);
  const chroma = Math.hypot(lab[1], lab[2]);
  // Unit vectors along and across the hue, so that clipping may give up chroma before it turns the hue.
  const ua = chroma > 1e-6 ? lab[1] / chroma : 1;
  const ub = chroma > 1e-6 ? lab[2] / chroma : 0;
  const far = Math.min(1, chroma / 20);
  const alongWeight = 1 - 0.35 * far;
  const acrossWeight = 1 + 0.35 * far;

  const residual = (inks: Readonly<Inks>, out: Float64Array) => {
    const got = model.lab(inks[0], inks[1], inks[2], inks[3]);
    const da = got[1] - lab[1];
    const db = got[2] - lab[2];
    out[0] = got[0] - lab[0];
    out[1] = alongWeight * (da * ua + db * ub);
    out[2] = acrossWeight * (db * ua - da * ub);
    out[3] = 1.2 * (inks[3] - target);
    const over = inks[0] + inks[1] + inks[2] + inks[3] - settings.totalInk;
    out[4] = over > 0 ? 200 * over : 0;
  };
  const inks: Inks = [...start];
  const here = new Float64Array(RESIDUALS);
  const there = new Float64Array(RESIDUALS);
  const jacobian = Array.from({ length: 4 }, () => new Float64Array(RESIDUALS));
  residual(inks, here);
  let cost = dot(here, here);
  let damping = 0.5;
  for (let round = 0; round < 40; round++) {
    for (let i = 0; i < 4; i++) {
      const moved: Inks = [...inks];
      const step = (inks[i] as number) > 0.5 ? -1e-4 : 1e-4;
      moved[i] = (inks[i] as number) + step;
      residual(moved, there);
      for (let j = 0; j < RESIDUALS; j++) (jacobian[i] as Float64Array)[j] = ((there[j] as number) - (here[j] as number)) / step;
    }
    const gradient = jacobian.map((column) => dot(column, here));
    // Inks that stand at the edge of their box and are pushed outwards stay out of the step.
    const free = [0, 1, 2, 3].filter(
      (i) =>
        !((inks[i] as number) <= 0 && (gradient[i] as number) > 0) && !((inks[i] as number) >= 1 && (gradient[i] as number) < 0)
    );
    if (free.length === 0) break;
    let improved = false;
    for (let tries = 0; tries < 8 && !improved; tries++) {
      const normal = free.map((i) =>
        free.map(
          (j) =>
            dot(jacobian[i] as Float64Array, jacobian[j] as Float64Array) * (i === j ? 1 + damping : 1) + (i === j ? 1e-6 : 0)
        )
      );
      const step = solve(
        normal,
        free.map((i) => -(gradient[i] as number))
      );
      const tryInks: Inks = [...inks];
      free.forEach((i, at) => (tryInks[i] = Math.min(1, Math.max(0, (inks[i] as number) + (step[at] as number)))));
      residual(tryInks, there);
      const next = dot(there, there);
      if (next < cost) {
        improved = true;
        const gained = cost - next;
        inks.splice(0, 4, ...tryInks);
        here.set(there);
        cost = next;
        damping = Math.max(1e-4, damping / 5);
        if (gained < 1e-6) return limited(inks, settings.totalInk);
      } else damping = Math.min(1e5, damping * 5);
    }
    if (!improved) break;
  }
  return limited(inks, settings.totalInk);
}

/** Brings the last thousandths above the limit down, the colours first. */
function limited(inks: Inks, totalInk: number): Inks {
  const colours = inks[0] + inks[1] + inks[2];
  const over = colours + inks[3] - totalInk;
  if (over <= 0 || colours <= 0) return inks;
  const keep = Math.max(0, 1 - over / colours);
  return [inks[0] * keep, inks[1] * keep, inks[2] * keep, inks[3]];
}

function dot(p: Float64Array, q: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < p.length; i++) sum += (p[i] as number) * (q[i] as number);
  return sum;
}

/** Gauss with pivoting; small and dense. */
export function solve(matrix: number[][], right: number[]): number[] {
  const n = right.length;
  const m = matrix.map((row, i) => [...row, right[i] as number]);
  for (let col = 0; col < n; col++) {
    let pivot = col;
    for (let row = col + 1; row < n; row++) if (Math.abs(m[row]?.[col] ?? 0) > Math.abs(m[pivot]?.[col] ?? 0)) pivot = row;
    [m[col], m[pivot]] = [m[pivot] as number[], m[col] as number[]];
    const lead = m[col]?.[col] ?? 0;
    if (Math.abs(lead) < 1e-300) continue;
    for (let row = col + 1; row < n; row++) {
      const factor = (m[row]?.[col] ?? 0) / lead;
      if (factor === 0) continue;
      for (let k = col; k <= n; k++) (m[row] as number[])[k] = (m[row]?.[k] ?? 0) - factor * (m[col]?.[k] ?? 0);
    }
  }
  const x = new Array<number>(n).fill(0);
  for (let row = n - 1; row >= 0; row--) {
    let sum = m[row]?.[n] ?? 0;
    for (let k = row + 1; k < n; k++) sum -= (m[row]?.[k] ?? 0) * (x[k] ?? 0);
    const lead = m[row]?.[row] ?? 0;
    x[row] = Math.abs(lead) < 1e-300 ? 0 : sum / lead;
  }
  return x;
}
