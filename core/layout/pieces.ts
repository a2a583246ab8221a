import type { Piece } from '../artwork/piece';
import type { IntentChoice } from '../colour/icc-write';
import type { Point } from '../geometry/matrix';

/** What a layout tells the RIP of pieces: what they are, and where each of them lies. */

/** An artwork page at its finished size, as a run needs it. */
export interface PieceSource extends Piece {
  /** Which file and page; the caller knows where it is. */
  file: string;
  page: number;
  intent: IntentChoice;
  /** Where it prints, in mm of the finished size (even-odd), where that is not all of its rectangle. */
  clip?: Point[][];
  /** Names of the profiles that its colours are read with where it has none of its own; the caller knows where they are. */
  sources: { rgb: string; cmyk: string; grey: string };
}

export interface PlacedPiece {
  source: number;
  /** Top left corner of what prints (bleed included), mm from the roll's left edge and the start of the run. */
  x: number;
  y: number;
  /** The box of the turned piece begins there; degrees clockwise. */
  turn: number;
}
