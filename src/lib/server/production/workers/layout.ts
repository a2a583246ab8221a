import type { Pin, Placement, Stock } from '$core/layout/placement';
import { layOutRun, type RunLayoutRule } from '$core/layout/run-layout';
import type { RunPiece } from '$core/layout/run-piece';

/** All that a run's layout depends on. */
export interface LayoutRequest {
  stock: Stock;
  rule: RunLayoutRule;
  pieces: RunPiece[];
  pins: Pin[];
}

export const layOut = ({ stock, rule, pieces, pins }: LayoutRequest): Placement => layOutRun(stock, rule, pieces, pins);
