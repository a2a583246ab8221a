import type { MediaCard } from '$core/media/card';
import { RESTS_ON, type ResultIds, type ResultStep } from '$lib/calibration';
import type { ConditionRow } from './condition';

/** What rests on what, and how large the media is, from what is given alone. */

/** A result without its figures. */
export interface Summary {
  step: ResultStep;
  id: number;
  madeAt: number;
  restsOn: ResultIds;
  source: 'measured' | 'imported' | null;
  total: number | null;
  stale: boolean;
}

/** Marks what has to be done again to be sure, since something it rests on was; in the order of the steps. */
export function markStale(found: Pick<Summary, 'step' | 'id' | 'restsOn' | 'stale'>[]): void {
  const ids = Object.fromEntries(found.map(({ step, id }) => [step, id])) as ResultIds;
  const stale = new Set<ResultStep>();
  for (const result of found) {
    result.stale = RESTS_ON[result.step].some((step) => ids[step] !== result.restsOn[step] || stale.has(step));
    if (result.stale) stale.add(result.step);
  }
}

/** A sheet where a card says none. */
const USUAL_SHEET_MM = 1220;

export function sizeOf(row: ConditionRow, card: MediaCard): { rollWidthMm: number; sheetMm: number | null } {
  const [sheet] = card.sheets;
  if (row.bed === 'roll') return { rollWidthMm: row.width_mm ?? card.widthMm, sheetMm: null };
  return {
    rollWidthMm: row.width_mm ?? sheet?.widthMm ?? card.widthMm,
    sheetMm: row.height_mm ?? sheet?.heightMm ?? USUAL_SHEET_MM
  };
}
