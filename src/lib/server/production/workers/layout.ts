import type { Pin, Placement, Stock } from '$core/layout/placement';
import { orderCuts, type CutLine } from '$core/cutting/order';
import { flatten, type Path } from '$core/geometry/path';
import { layOutRun, type RunLayoutRule } from '$core/layout/run-layout';
import type { RunPiece } from '$core/layout/run-piece';

/** Flat pieces depart from the curve by at most this, mm: below the step of the cutter. */
const FLATNESS_MM = 0.01;

/** All that a run's layout depends on. */
export interface LayoutRequest {
  stock: Stock;
  rule: RunLayoutRule;
  pieces: RunPiece[];
  pins: Pin[];
}

export const layOut = ({ stock, rule, pieces, pins }: LayoutRequest): Placement => layOutRun(stock, rule, pieces, pins);

/** A run's lines in the order that they are cut in. */
export function orderForCutting(cuts: readonly { path: Path; tool: CutLine['tool'] }[]): CutLine[] {
  const flat = cuts.flatMap((cut) => flatten(cut.path, FLATNESS_MM).map((line) => ({ ...line, tool: cut.tool })));
  // A cutter counts no line that goes nowhere.
  return orderCuts(flat.filter((line) => line.points.length > 1));
}
