import { readTable } from '../colour/curve-table';
import { deltaE00, type Triple } from '../colour/lab';
import { fitSurface } from '../colour/gaussian-process';
import { monotone } from '../colour/monotone';
import { mixed, mixtureThrough, type Mixture } from '../inks/mixture';
import type { Inks } from '../colour/separation';
import { laddersOf, mediaWhite, ReadingError, type LadderStep, type Measured } from './ladders';
import { CURVE_POINTS, isotonic } from './linearise';
import { spreadOf } from './profile-from-chart';

/**
 * One chart read twice, at a baseline and later: how far the print has drifted, and the curves that bring it back. Both were
 * printed through the same curves of their condition.
 */

export interface Drift {
  patches: { id: string; before: Triple; now: Triple; deltaE: number }[];
  /** CIEDE2000. */
  mean: number;
  p95: number;
  worst: number;
  worstId: string;
  channels: ChannelDrift[];
}

export interface ChannelDrift {
  name: string;
  /** How much farther its middle tone lies from the media than it did, ΔE76: above 0 it prints stronger. */
  middle: number;
  /** The same of its full tone. */
  full: number;
}

/** @throws ReadingError when the second is of another chart */
export function driftOf(baseline: readonly Measured[], now: readonly Measured[]): Drift {
  const pairs = paired(baseline, now);
  const patches = pairs.map(({ before, after }) => ({
    id: before.patch.id,
    before: before.lab,
    now: after.lab,
    deltaE: deltaE00(before.lab, after.lab)
  }));
  const deltas = patches.map(({ deltaE }) => deltaE);
  const worst = Math.max(...deltas);
  const [was, is] = [risesOf(baseline), risesOf(now)];
  return {
    patches,
    ...spreadOf(deltas),
    worst,
    worstId: patches[deltas.indexOf(worst)]!.id,
    channels: was.map(({ name, at: before }, channel) => {
      const { at } = is[channel]!;
      return { name, middle: at(0.5) - before(0.5), full: at(1) - before(1) };
    })
  };
}

export interface Correction {
  /** By channel of the profile 256 values: what is to be printed now where a value was printed then. */
  tables: Float64Array[];
  /** Channels that do not come as far as they did, and from which value on. */
  short: { name: string; from: number }[];
}

/** Beyond this the full tone is missed by no more than reading tells apart, ΔE76. */
const REACHED = 0.3;

/**
 * The curves that bring each ink back to how far from the media its tones were.
 *
 * @throws ReadingError when the second is of another chart, or its ladders are not whole
 */
export function correctionOf(baseline: readonly Measured[], now: readonly Measured[]): Correction {
  paired(baseline, now);
  const [was, is] = [risesOf(baseline), risesOf(now)];
  const short: Correction['short'] = [];
  const tables = was.map(({ name, at: before }, channel) => {
    const { at, back } = is[channel]!;
    const end = at(1);
    let from: number | undefined;
    const table = Float64Array.from({ length: CURVE_POINTS }, (_, v) => {
      const wanted = before(v / (CURVE_POINTS - 1));
      if (wanted > end + REACHED) from ??= v / (CURVE_POINTS - 1);
      return wanted >= end ? 1 : back(wanted);
    });
    if (from !== undefined) short.push({ name, from });
    return table;
  });
  return { tables, short };
}

/** A correction that was fitted to all that was read. */
export interface Fitted {
  tables: Float64Array[];
  /** What goes before the curves; nothing where they do. */
  mixture?: number[];
  /** ΔE00 of the patches from their baseline, as they will print through it; reading noise is in it. */
  predicted: { mean: number; p95: number };
  /** The same by the curves alone, where there is a mixture. */
  byCurves?: { mean: number; p95: number };
}

/** Where a curve is moved, shares of its way: closer where the eye is. Its beginning stays. */
const KNOTS = [0, 0.1, 0.25, 0.45, 0.7, 1];
const MOVES = [0.02, 0.01, 0.005, 0.0025];
/** A gain of less is none, ΔE00. */
const LEAST_GAIN = 1e-4;

/**
 * A correction from the ladders, moved a little for the mixtures too: to the least ΔE00 in the mean over all patches, as a surface
 * through what they print now foretells it. It takes about a second.
 *
 * @throws SurfaceError with fewer than 40 patches: the surface does not hold
 */
export function fittedToAll({ tables: begun }: Correction, baseline: readonly Measured[], now: readonly Measured[]): Fitted {
  const pairs = paired(baseline, now);
  const surface = fitSurface(
    Float64Array.from(pairs.flatMap(({ after }) => after.patch.inks)),
    Float64Array.from(pairs.flatMap(({ after }) => after.lab))
  );
  const lab: Triple = [0, 0, 0];
  const misses = (tables: readonly Float64Array[]) =>
    pairs.map(({ before }) => {
      const [c, m, y, k] = before.patch.inks.map((v, i) => readTable(tables[i]!, v)) as Inks;
      surface.predict(c, m, y, k, lab);
      return deltaE00(lab, before.lab);
    });
  const offsets = begun.map(() => KNOTS.map(() => 0));
  let tables = begun;
  let least = spreadOf(misses(tables)).mean;
  for (const move of MOVES)
    for (let goesOn = true; goesOn;) {
      goesOn = false;
      for (let channel = 0; channel < begun.length; channel++)
        for (let knot = 1; knot < KNOTS.length; knot++)
          for (const by of [-move, move]) {
            const tried = offsets[channel]!.with(knot, offsets[channel]![knot]! + by);
            const moved = tables.with(channel, movedBy(begun[channel]!, tried));
            const { mean } = spreadOf(misses(moved));
            if (mean > least - LEAST_GAIN) continue;
            [offsets[channel], tables, least, goesOn] = [tried, moved, mean, true];
          }
    }
  const { mean, p95 } = spreadOf(misses(tables));
  return { tables, predicted: { mean, p95 } };
}

/** A table with the knots' offsets, within 0…1 and never falling. */
function movedBy(table: Float64Array, offsets: readonly number[]): Float64Array {
  const offset = monotone(KNOTS, offsets);
  let top = 0;
  return table.map((value, v) => (top = Math.max(top, Math.min(1, value + offset(v / (table.length - 1))))));
}

/** What brings a machine back: a mixture, and then by channel 256 values. */
export interface WayBack {
  tables: readonly ArrayLike<number>[];
  mixture?: Mixture;
}

/** A correction on top of one that was in force as it was read. @param before what was in force */
export function composed(before: WayBack, { tables, mixture }: WayBack): { tables: number[][]; mixture?: number[] } {
  // Curves cannot go before a mixture: they become a part of it.
  if (before.mixture) {
    const { mixture: first } = before;
    const curved = (inks: readonly number[]) => inks.map((v, channel) => readTable(tables[channel]!, v));
    const whole = mixtureThrough((inks) => mixed(first, curved(mixture ? mixed(mixture, inks) : inks)));
    return { tables: before.tables.map((table) => Array.from(table)), mixture: whole };
  }
  const both = tables.map((table, channel) => Array.from(table, (value) => readTable(before.tables[channel]!, value)));
  return { tables: both, ...(mixture && { mixture: [...mixture] }) };
}

/** Curves with a correction before them: what is printed of a value. @param curves, tables by channel 256 values */
export const corrected = (curves: readonly (readonly number[])[], tables: readonly ArrayLike<number>[]): number[][] =>
  curves.map((curve, channel) => Array.from(tables[channel]!, (value) => readTable(curve, value)));

interface Rise {
  name: string;
  /** Value 0…1 → how far from the media. */
  at: (value: number) => number;
  /** The other way round. */
  back: (distance: number) => number;
}

/** How each ink's ladder rises from the media: in ΔE76, black in L* alone, since a tint of its ink is none of its tone. */
function risesOf(measured: readonly Measured[]): Rise[] {
  return laddersOf(measured).map(({ name, steps }) => {
    const rise = (step: LadderStep) => (name === 'black' ? steps[0]!.lab[0] - step.lab[0] : step.distance);
    const values = isotonic(steps.map(rise));
    const shares = steps.map(({ share }) => share);
    // The way back goes through points that really rise.
    const [xs, ys]: [number[], number[]] = [[], []];
    values.forEach((value, i) => {
      if (xs.length > 0 && value <= xs.at(-1)! + 1e-6) return;
      xs.push(value);
      ys.push(shares[i]!);
    });
    if (xs.length < 2) throw new ReadingError(`The ladder of ${name} does not rise: nothing of it was printed.`, []);
    return { name, at: monotone(shares, values), back: monotone(xs, ys) };
  });
}

/** Patches by their names, of the same inks in both. */
export function paired(baseline: readonly Measured[], now: readonly Measured[]): { before: Measured; after: Measured }[] {
  const byId = new Map(now.map((one) => [one.patch.id, one]));
  const pairs = baseline.flatMap((before) => {
    const after = byId.get(before.patch.id);
    return after?.patch.inks.every((v, i) => v === before.patch.inks[i]) ? [{ before, after }] : [];
  });
  if (pairs.length < baseline.length || now.length !== baseline.length)
    throw new ReadingError(
      `The baseline has ${baseline.length} patches, the readings ${now.length}, and ${pairs.length} of them are the same: this is another chart.`,
      []
    );
  mediaWhite(now);
  return pairs;
}
