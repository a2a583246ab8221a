import { layOutRun, type RunLayoutRule } from '$core/layout/run-layout';
import type { Stock } from '$core/layout/placement';
import type { RunPiece } from '$core/layout/run-piece';

/** What a docket alone would be laid out from. */
export interface TicketQuestion {
  stock: Stock;
  rule: RunLayoutRule;
  pieces: RunPiece[];
}

/** What the ticket says of that: its figures without its copies. */
export interface TicketFigures {
  length: number;
  areaM2: number;
  wasteShare: number;
  /** Strips or sheets. */
  parts: number;
  /** Places that cost no film. */
  free: number;
}

export function figuresOf({ stock, rule, pieces }: TicketQuestion): TicketFigures {
  // What takes long is laid out where it is RIPped.
  const { length, areaM2, wasteShare, parts } = layOutRun(stock, { ...rule, placing: 'rows' }, pieces, []);
  return { length, areaM2, wasteShare, parts: parts.length, free: parts.reduce((sum, { ghosts }) => sum + ghosts.length, 0) };
}
