import type { RenderingIntent } from '../colour/icc-write';
import { chain, type Matrix } from '../geometry/matrix';
import { pieceRect, printedSize, type Mark, type PieceSource, type PlacedPiece, type RipPlan } from '../rip/plan';
import { MM_PER_INCH } from '../units/length';
import { DEFAULT_MARKS, markRoom, registrationMarks } from './marks';
import { placeInRows, rollUse, type CopyRequest, type PlacedCopy, type RollUse, type RowRule } from './rows';

/** A docket as a run sees it. */
export interface RunDocket {
  id: string;
  widthMm: number;
  heightMm: number;
  bleedMm: number;
  copies: number;
  cut: boolean;
  mayTurn: boolean;
  intent: RenderingIntent;
}

export interface RunLayout {
  copies: PlacedCopy[];
  ghosts: PlacedCopy[];
  marks: Mark[];
  length: number;
  use: RollUse;
  tooWide: { id: string; width: number; usable: number }[];
}

/** The whole layout of a run on a roll: the rows, and around what is cut the marks with the room that they need. */
export function layOutRun(dockets: readonly RunDocket[], rollWidth: number, rule: RowRule): RunLayout {
  const withMarks = dockets.some((docket) => docket.cut && docket.copies > 0);
  const room = withMarks ? markRoom(DEFAULT_MARKS) : 0;
  const requests: CopyRequest[] = dockets.map((docket) => ({
    id: docket.id,
    width: docket.widthMm + 2 * docket.bleedMm,
    height: docket.heightMm + 2 * docket.bleedMm,
    copies: docket.copies,
    mayTurn: docket.mayTurn
  }));
  const placement = placeInRows(requests, rollWidth, {
    ...rule,
    margin: rule.margin + room,
    lead: rule.lead + room,
    tail: rule.tail + room
  });
  const cutIds = new Set(dockets.filter((docket) => docket.cut).map((docket) => docket.id));
  return {
    copies: placement.copies,
    ghosts: placement.ghosts,
    // Around all places, ghosts too, so that no mark moves or is printed on when a ghost is claimed.
    marks:
      withMarks && placement.copies.some((copy) => cutIds.has(copy.id))
        ? registrationMarks([...placement.copies, ...placement.ghosts], DEFAULT_MARKS)
        : [],
    length: placement.length,
    use: rollUse(placement, rollWidth),
    tooWide: placement.tooWide
  };
}

/**
 * Finished size of a piece (mm, at the docket's size, y down) → run, by the whole pixels that the piece is printed on,
 * so that a cut follows its print to less than a pixel.
 */
export function pieceToRun(plan: RipPlan, piece: PlacedPiece): Matrix {
  const source = plan.sources[piece.source];
  if (!source) throw new RangeError(`There is no artwork ${piece.source} in this run.`);
  const rect = pieceRect(plan, piece);
  const size = printedSize(source, piece.turned);
  const mmX = MM_PER_INCH / plan.dpi.x;
  const mmY = MM_PER_INCH / plan.dpi.y;
  const withBleed: Matrix = [1, 0, 0, 1, source.bleedMm, source.bleedMm];
  const laid = piece.turned ? chain(withBleed, [0, 1, -1, 0, size.width, 0]) : withBleed;
  return chain(laid, [(rect.width * mmX) / size.width, 0, 0, (rect.height * mmY) / size.height, rect.x * mmX, rect.y * mmY]);
}

/** What the RIP is told of a layout. */
export function ripPieces(
  layout: RunLayout,
  dockets: readonly RunDocket[],
  artworks: ReadonlyMap<string, Pick<PieceSource, 'file' | 'page' | 'prepare' | 'sources'>>
): { sources: PieceSource[]; pieces: PlacedPiece[] } {
  const used = dockets.filter((docket) => layout.copies.some((copy) => copy.id === docket.id));
  const sources = used.map((docket): PieceSource => {
    const artwork = artworks.get(docket.id);
    if (!artwork) throw new RangeError(`Docket ${docket.id} has no artwork.`);
    return { ...artwork, widthMm: docket.widthMm, heightMm: docket.heightMm, bleedMm: docket.bleedMm, intent: docket.intent };
  });
  const pieces = layout.copies.map((copy): PlacedPiece => ({
    source: used.findIndex((docket) => docket.id === copy.id),
    x: copy.x,
    y: copy.y,
    turned: copy.turned
  }));
  return { sources, pieces };
}
