import type { Pin, Placement, Stock } from '$core/layout/placement';
import { layOutRun, type RunDocket, type RunLayoutRule } from '$core/layout/run-layout';

/** All that a run's layout depends on. */
export interface LayoutRequest {
  stock: Stock;
  rule: RunLayoutRule;
  dockets: RunDocket[];
  pins: Pin[];
}

export const layOut = ({ stock, rule, dockets, pins }: LayoutRequest): Placement => layOutRun(stock, rule, dockets, pins);
