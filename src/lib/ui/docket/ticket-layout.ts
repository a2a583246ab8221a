import { layOutRun, type RunLayoutRule } from '$core/layout/run-layout';
import type { Stock } from '$core/layout/placement';
import { clipsOn, printedOf, type Printed } from '$core/layout/printed-parts';
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
  /** What of the docket's picture is printed. */
  printed: Printed[];
  /** Strips or sheets. */
  parts: number;
  /** Places that cost no film. */
  free: number;
}

export function figuresOf({ stock, rule: lane, pieces }: TicketQuestion): TicketFigures {
  // What takes long is laid out where it is RIPped.
  const rule = { ...lane, placing: 'rows' as const };
  const { length, areaM2, wasteShare, parts } = layOutRun(stock, rule, pieces, []);
  const byId = new Map(pieces.map((piece) => [piece.id, piece]));
  return {
    length,
    areaM2,
    wasteShare,
    printed: [...printedOf(parts, byId, clipsOn(stock, rule)).values()],
    parts: parts.length,
    free: parts.reduce((sum, { ghosts }) => sum + ghosts.length, 0)
  };
}
