import type { Marks } from '../artwork/marked';
import type { Piece } from '../artwork/piece';
import type { PieceLayer } from '../artwork/piece-layers';
import type { IntentChoice } from '../colour/icc-write';
import type { Point } from '../geometry/matrix';
import type { ExtraInk } from '../inks/stack';

/** What a layout tells the RIP of pieces: what they are, and where each of them lies. */

/** Which piece of which docket; a plain docket has one, 0. */
export interface PieceRef {
  docket: string;
  piece: number;
}

/** The name of a piece in layouts. A docket's first has the docket's own, so that what was placed before there were pieces stays. */
export const pieceKey = ({ docket, piece }: PieceRef): string => (piece === 0 ? docket : `${docket}/${piece}`);

/** The piece that a layout means. */
export function pieceOf(key: string): PieceRef {
  const [docket = '', piece = '0'] = key.split('/');
  return { docket, piece: Number(piece) };
}

/** A layer of a piece, and which of the run's layers it is. */
export type SourceLayer = PieceLayer & { place: number };

/** What lies under and over a piece's colour. */
export interface SourceStack {
  /** From the media upwards. */
  layers: SourceLayer[];
  /** By ink what the file marks for it. */
  marks: Partial<Record<ExtraInk, Marks>>;
}

/** An artwork page at its finished size, as a run needs it. */
export interface PieceSource extends Piece {
  /** Which file and page; the caller knows where it is. */
  file: string;
  page: number;
  intent: IntentChoice;
  /** Where it prints, in mm of the finished size (even-odd), where that is not all of its rectangle. */
  clip?: Point[][];
  /** Colour alone, in the run's first layer of it, where nothing is said. */
  stack?: SourceStack;
  /** Names of the profiles that its colours are read with where it has none of its own; the caller knows where they are. */
  sources: { rgb: string; cmyk: string; grey: string };
  /** What is drawn over its pieces, at its size: pages whose trim box is the finished size. */
  overlays?: OverlayFiles;
}

/** Pages one after the other in files of so many each: of thousands, no thread has more than some at hand. */
export interface OverlayFiles {
  files: string[];
  each: number;
}

/** Where a page of them lies. @throws RangeError for one that they do not have */
export function overlayAt({ files, each }: OverlayFiles, overlay: number): { file: string; page: number } {
  const file = files[Math.floor(overlay / each)];
  if (file === undefined) throw new RangeError(`There is no overlay ${overlay}.`);
  return { file, page: overlay % each };
}

export interface PlacedPiece {
  source: number;
  /** The page of its source's overlays that is drawn over it. Pieces that differ in it alone share their base. */
  overlay?: number;
  /** Top left corner of what prints (bleed included), mm from the roll's left edge and the start of the run. */
  x: number;
  y: number;
  /** The box of the turned piece begins there; degrees clockwise. */
  turn: number;
}
