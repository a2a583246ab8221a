import { Matrix, solve } from 'ml-matrix';
import { readTable } from '../colour/curve-table';
import { fitSurface, type Surface } from '../colour/gaussian-process';
import { deltaE00, type Triple } from '../colour/lab';
import { MIXTURE_GRID, mixed, mixturePoints } from '../inks/mixture';
import type { Measured } from './ladders';
import { paired, type Fitted } from './matching';
import { spreadOf } from './profile-from-chart';

/** What no curve of one ink brings back: an ink of another hue than before, and what inks do to each other. */

/** A mixture leaves so much of what curves do at the most, or is not worth having. */
const WORTH = 0.8;
const STEPS = 3;
/** How far inks are moved for a miss of one ΔE: the square of what reading is unsure of over what a correction may be. */
const RESTRAINT = 20;
/** No value is moved farther. */
const MOST = 0.12;
/** For slopes. */
const APART = 0.02;

/** A correction with a mixture before its curves, where that leaves a good deal less than they do; it takes about a second. */
export function withMixture(fitted: Fitted, baseline: readonly Measured[], now: readonly Measured[]): Fitted {
  const { mixture, predicted } = mixtureOf(fitted.tables, baseline, now);
  return predicted.mean <= fitted.predicted.mean * WORTH ? { ...fitted, mixture, predicted, byCurves: fitted.predicted } : fitted;
}

/**
 * The mixture that goes before curves: each point of the grid is moved to the colour that it had, by Newton's steps and as little as may
 * be (Levenberg 1944), on surfaces through what was read then and now.
 *
 * @param tables of the curves, as `fittedToAll` gives them
 * @throws SurfaceError with fewer than 40 patches
 */
function mixtureOf(
  tables: readonly Float64Array[],
  baseline: readonly Measured[],
  now: readonly Measured[]
): { mixture: number[]; predicted: Fitted['predicted'] } {
  const pairs = paired(baseline, now);
  const surface = (which: 'before' | 'after'): Surface =>
    fitSurface(
      Float64Array.from(pairs.flatMap((pair) => pair[which].patch.inks)),
      Float64Array.from(pairs.flatMap((pair) => pair[which].lab))
    );
  const [was, is] = [surface('before'), surface('after')];
  const at = (inks: readonly number[]): Triple => {
    const lab: Triple = [0, 0, 0];
    const [c, m, y, k] = inks.map((v, i) => readTable(tables[i]!, v));
    is.predict(c!, m!, y!, k!, lab);
    return lab;
  };
  const wanted: Triple = [0, 0, 0];
  const moved = mixturePoints().flatMap((point) => {
    was.predict(point[0]!, point[1]!, point[2]!, point[3]!, wanted);
    let inks = point;
    for (let step = 0; step < STEPS; step++) inks = nearer(at, inks, point, wanted);
    return inks.map((v, i) => v - point[i]!);
  });
  const mixture = rising(smoothed(moved)).map((by) => Math.round(by * 1e4) / 1e4);
  const misses = pairs.map(({ before }) => deltaE00(at(mixed(mixture, before.patch.inks)), before.lab));
  const { mean, p95 } = spreadOf(misses);
  return { mixture, predicted: { mean, p95 } };
}

/** Strides of a mixture's four axes, in points. */
const STRIDES = [3, 2, 1, 0].map((power) => MIXTURE_GRID ** power);
const placeOn = (point: number, axis: number) => Math.floor(point / STRIDES[axis]!) % MIXTURE_GRID;

/** Each point's movement with a quarter of each neighbour's on every axis in turn. Where an ink is not asked for it still is not added. */
function smoothed(movement: readonly number[]): number[] {
  let all = [...movement];
  for (const [axis, stride] of STRIDES.entries()) {
    all = all.map((by, i) => {
      const [point, ink] = [Math.floor(i / 4), i % 4];
      const place = placeOn(point, axis);
      if (placeOn(point, ink) === 0) return 0;
      // What is pinned at its own ink's bare end is no neighbour; at both ends the point counts for the one that is missing.
      const before = place === 0 || (ink === axis && place === 1) ? by : all[i - stride * 4]!;
      const after = place === MIXTURE_GRID - 1 ? by : all[i + stride * 4]!;
      return (before + 2 * by + after) / 4;
    });
  }
  return all;
}

/** More of an ink never prints less of it, nor more than there is. */
function rising(movement: readonly number[]): number[] {
  const all = [...movement];
  const step = 1 / (MIXTURE_GRID - 1);
  all.forEach((by, i) => {
    const ink = i % 4;
    const place = placeOn(Math.floor(i / 4), ink);
    if (place > 0) all[i] = Math.min(1 - place * step, Math.max(by, all[i - STRIDES[ink]! * 4]! - step));
  });
  return all;
}

/** One step of Gauss and Newton from `inks`, held to where they began. An ink that is not asked for is not added. */
function nearer(
  at: (inks: readonly number[]) => Triple,
  inks: readonly number[],
  begun: readonly number[],
  wanted: Triple
): number[] {
  const here = at(inks);
  // Differences in chroma are seen less the more there is.
  const weight = 1 / (1 + 0.045 * Math.hypot(wanted[1], wanted[2]));
  const weights = [1, weight, weight];
  const slopes = inks.map((v, i) => {
    if (begun[i] === 0) return [0, 0, 0];
    const by = v > 0.5 ? -APART : APART;
    const there = at(inks.with(i, v + by));
    return there.map((value, axis) => ((value - here[axis]!) / by) * weights[axis]!);
  });
  const moved = inks.map((v, i) => v - begun[i]!);
  // d = Jᵀ (J Jᵀ + λ)⁻¹ (r + J d₀), where d₀ is what it was moved by so far.
  const aim = [0, 1, 2].map(
    (axis) => (wanted[axis]! - here[axis]!) * weights[axis]! + slopes.reduce((sum, slope, i) => sum + slope[axis]! * moved[i]!, 0)
  );
  const normal = [0, 1, 2].map((p) =>
    [0, 1, 2].map((q) => slopes.reduce((sum, slope) => sum + slope[p]! * slope[q]!, p === q ? RESTRAINT : 0))
  );
  const solved = solve(new Matrix(normal), Matrix.columnVector(aim)).to1DArray();
  return begun.map((v, i) => {
    const by = slopes[i]!.reduce((sum, slope, axis) => sum + slope * solved[axis]!, 0);
    return Math.min(1, Math.max(0, v + Math.min(MOST, Math.max(-MOST, by))));
  });
}
