import type { Pin, Placement, Stock } from '$core/layout/placement';
import { layOutRun, type RunPiece, type RunLayoutRule } from '$core/layout/run-layout';

/** All that a run's layout depends on. */
export interface LayoutRequest {
  stock: Stock;
  rule: RunLayoutRule;
  pieces: RunPiece[];
  pins: Pin[];
}

export const layOut = ({ stock, rule, pieces, pins }: LayoutRequest): Placement => layOutRun(stock, rule, pieces, pins);
