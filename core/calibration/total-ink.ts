import type { TotalSeries } from '../charts/patches';
import { deltaE76, type Triple } from '../colour/lab';

export interface TotalStep {
  /** Ink in all, in shares of the fullest: 2.4 is 240 %. */
  total: number;
  lab: Triple;
  /** What should grow: darkness for the blacks, ΔE76 from the media for pairs of colours. */
  value: number;
}

export interface TotalCurve {
  series: TotalSeries;
  steps: TotalStep[];
  /** Where growing stops. */
  suggested: number;
  why: string;
}

/** What is less than this short of the best counts as the best. */
const SHORT = 0.35;

/**
 * Where more ink in all no longer makes a series darker or stronger.
 *
 * @param steps any order; `total` after linearisation
 */
export function totalCurve(series: TotalSeries, steps: readonly { total: number; lab: Triple }[], white: Triple): TotalCurve {
  const dark = series === 'all' || series === 'black';
  const sorted = [...steps]
    .sort((p, q) => p.total - q.total)
    .map(({ total, lab }) => ({ total, lab, value: dark ? white[0] - lab[0] : deltaE76(lab, white) }));
  // Evened over three steps against noise.
  const even = sorted.map((_, i) => {
    const near = sorted.slice(Math.max(0, i - 1), i + 2);
    return near.reduce((sum, step) => sum + step.value, 0) / near.length;
  });
  const best = Math.max(...even);
  const at = even.findIndex((value) => value >= best - SHORT);
  const what = dark ? 'L* no longer falls' : 'the colour no longer grows';
  const last = at >= sorted.length - 2;
  return {
    series,
    steps: sorted,
    suggested: sorted[last ? sorted.length - 1 : at]!.total,
    why: last ? 'every step up to the fullest still adds' : `beyond ${Math.round(sorted[at]!.total * 100)} % ${what}`
  };
}
