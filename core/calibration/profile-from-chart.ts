import { checkReadings, outliers, type Finding, type ReadPatch } from '../charts/check-readings';
import { ForwardGrid } from '../colour/forward-grid';
import { faceColours, gamutHull } from '../colour/gamut';
import { fitSurface } from '../colour/gaussian-process';
import { labToXyz, type Triple } from '../colour/lab';
import { relativeTo } from '../colour/media-relative';
import { buildGridProfile, type ProfileRecipe } from '../colour/profile-build';
import { neutralInks } from '../colour/black';
import { type Inks } from '../colour/separation';
import { mediaWhite } from './ladders';

export interface Fit {
  /** ΔE00 of the chart by leave-out. */
  mean: number;
  p95: number;
  worst: number;
  worstId: string;
}

export interface BuiltProfile {
  profile: Uint8Array<ArrayBuffer>;
  fit: Fit;
  /** By patch, in the chart's order. */
  errors: number[];
  findings: Finding[];
  gamutVolume: number;
  neutrals: { lightness: number; inks: Inks }[];
  white: Triple;
}

/**
 * From the readings of a chart to a profile and what is to be known of it.
 *
 * @param onProgress told the share done; throwing there stops the work
 * @throws SurfaceError or ReadingError when the readings cannot make a profile
 */
export function profileFromChart(
  read: readonly ReadPatch[],
  recipe: ProfileRecipe,
  onProgress: (share: number) => void = () => undefined
): BuiltProfile {
  const white = mediaWhite(read.map((patch) => ({ patch, lab: patch.lab })));
  const relative = relativeTo(white);
  const labs = read.map(({ lab }) => relative(lab));
  const surface = fitSurface(Float64Array.from(read.flatMap(({ inks }) => inks)), Float64Array.from(labs.flat()), (share) =>
    onProgress(0.3 * share)
  );
  const relativeRead = read.map((patch, i) => ({ ...patch, lab: labs[i]! }));
  const { errors, findings } = outliers(relativeRead, surface.leaveOut);
  const grid = ForwardGrid.sample(surface.predict, recipe.forwardGrid, (share) => onProgress(0.3 + 0.1 * share));
  const profile = buildGridProfile(labToXyz(white), grid, recipe, (share) => onProgress(0.4 + 0.6 * share));
  return {
    profile,
    fit: fitOf(errors, read),
    errors,
    findings: [...checkReadings(read, false), ...findings],
    gamutVolume: gamutOf(grid).volume,
    neutrals: neutralInks(grid, recipe.separation, 41),
    white
  };
}

function fitOf(errors: readonly number[], read: readonly ReadPatch[]): Fit {
  const worst = Math.max(...errors);
  return { ...spreadOf(errors), worst, worstId: read[errors.indexOf(worst)]?.id ?? '' };
}

/** Mean and 95th of a list. */
export function spreadOf(list: readonly number[]): { mean: number; p95: number } {
  const sorted = [...list].sort((p, q) => p - q);
  return {
    mean: list.reduce((sum, v) => sum + v, 0) / Math.max(1, list.length),
    p95: sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * 0.95))] ?? 0
  };
}

/** The hull of what all inks can make. */
export function gamutOf(grid: { lab: (c: number, m: number, y: number, k: number) => Triple }) {
  return gamutHull(faceColours(4, 64, ([c, m, y, k]) => grid.lab(c!, m!, y!, k!)));
}
