import { monotone } from '../colour/monotone';
import { ReadingError, type Ladder, type LadderStep } from './ladders';

/** What rises evenly along a linearised channel. */
export type Evenness = 'distance' | 'chroma';

/** ΔE by which a ladder may turn back before it is refused: more than an instrument's noise. */
export const MOST_BACK = 1;

/** Values of a curve, 0…255 → share. */
export const CURVE_POINTS = 256;

const measure = (step: LadderStep, evenness: Evenness, black: boolean) =>
  evenness === 'chroma' && !black ? step.chroma : step.distance;

/**
 * The curve that makes a channel rise evenly: 256 values → share of the ladder's ink.
 *
 * @throws ReadingError when the ladder turns back, naming the step
 */
export function lineariseLadder(ladder: Ladder, evenness: Evenness = 'distance'): Float64Array {
  const { steps, name } = ladder;
  const values = steps.map((step) => measure(step, evenness, name === 'black'));
  for (let i = 1, top = 0; i < steps.length; i++) {
    if (values[i]! < top - MOST_BACK)
      throw new ReadingError(
        `The ladder of ${name} turns back at ${Math.round(steps[i]!.share * 100)} %: ΔE ${values[i]!.toFixed(1)} after ${top.toFixed(1)}. Read its strip again; if it stays, lower the limit of ${name}.`,
        [`${name} ${Math.round(steps[i]!.share * 100)} %`]
      );
    top = Math.max(top, values[i]!);
  }
  const rising = isotonic(values);
  const end = rising.at(-1)!;
  if (end < 10)
    throw new ReadingError(
      `The ladder of ${name} reaches only ΔE ${end.toFixed(1)} from the media: this is not ${name} ink.`,
      []
    );
  // The inverse, through points that really rise.
  const xs: number[] = [];
  const ys: number[] = [];
  rising.forEach((value, i) => {
    if (xs.length > 0 && value / end <= xs.at(-1)! + 1e-6) return;
    xs.push(value / end);
    ys.push(steps[i]!.share);
  });
  ys[ys.length - 1] = steps.at(-1)!.share;
  const inverse = monotone(xs, ys);
  return Float64Array.from({ length: CURVE_POINTS }, (_, v) => inverse(v / (CURVE_POINTS - 1)));
}

/** How far a ladder is from rising evenly, in per cent of its end; the worst step. */
export function departure(ladder: Ladder, evenness: Evenness = 'distance'): { worst: number; at: number; each: number[] } {
  const values = ladder.steps.map((step) => measure(step, evenness, ladder.name === 'black'));
  const end = values.at(-1)!;
  const last = ladder.steps.at(-1)!.share;
  const each = ladder.steps.map((step, i) => 100 * (values[i]! / end - step.share / last));
  const worst = each.reduce((p, q) => (Math.abs(q) > Math.abs(p) ? q : p), 0);
  return { worst: Math.abs(worst), at: ladder.steps[each.indexOf(worst)]?.share ?? 0, each };
}

/** The nearest rising list (pool adjacent violators; Ayer et al. 1955). */
export function isotonic(values: readonly number[]): number[] {
  const blocks: { sum: number; count: number }[] = [];
  for (const value of values) {
    blocks.push({ sum: value, count: 1 });
    while (blocks.length > 1) {
      const last = blocks.at(-1)!;
      const before = blocks.at(-2)!;
      if (before.sum / before.count <= last.sum / last.count) break;
      before.sum += last.sum;
      before.count += last.count;
      blocks.pop();
    }
  }
  return blocks.flatMap(({ sum, count }) => new Array<number>(count).fill(sum / count));
}
