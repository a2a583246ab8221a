import { beyondMm } from '$core/artwork/choices';
import { laidPanels, type WallFilm } from './panels';
import { NO_FINISHING } from '$core/marks/finishing';
import { mountedJig } from '$core/layout/mounted-jig';
import { isJig, type Stock, type StockJig } from '$core/layout/placement';
import type { Point } from '$core/geometry/matrix';
import { evenSides } from '$core/geometry/box';
import { pieceKey } from '$core/layout/pieces';
import { inPocket, type RunPiece } from '$core/layout/run-piece';
import { hasRecords } from '$core/records/choices';
import type { DocketChoices } from './docket-choices';
import type { RunRule } from './run-rule';

/** What of dockets lies on a run, and what it lies on. */

/** What a run in a condition is printed on. @param jig as it is kept: here it is laid on the sheet */
export function stockOf(
  condition: { rollWidthMm: number; sheetMm: number | null },
  rule: Pick<RunRule, 'corner' | 'pockets'>,
  jig?: StockJig
): Stock {
  if (condition.sheetMm === null) return { kind: 'roll', width: condition.rollWidthMm };
  const [width, height] = [condition.rollWidthMm, condition.sheetMm];
  const sheet = { kind: 'sheet' as const, width, height, corner: rule.corner };
  return jig ? { ...sheet, jig: mountedJig(jig, { width, height }, rule.pockets) } : sheet;
}

/** Pieces as large as what they are printed on asks. */
export const sizedFor = (stock: Stock, rule: Pick<RunRule, 'pockets'>, pieces: readonly RunPiece[]): RunPiece[] =>
  isJig(stock) ? pieces.map((piece) => inPocket(piece, stock, rule.pockets)) : [...pieces];

/** What a run knows of a docket that it takes pieces of. */
export interface InRunOf {
  /** What it is printed on; nothing where no media is chosen. */
  condition?: (WallFilm & { media: string }) | undefined;
  contour?: Point[][] | undefined;
  copies?: number | null;
  first?: number;
  /** The record of each copy in the run. */
  records?: readonly number[] | undefined;
  /** How many copies of which pieces it has; nothing for all of them. */
  pieces?: readonly (readonly [piece: number, copies: number])[] | null;
}

/**
 * The pieces of a docket as the layout takes them: copies of one size are one piece, whether or not each is a record of its own.
 * Of a wall each panel is one.
 */
export function toRunPieces(
  docket: { id: number; name: string; customer: string; choices: DocketChoices },
  more: InRunOf
): RunPiece[] {
  const { choices } = docket;
  const { widthMm, heightMm, bleedMm, copies, cut, mayTurn, intent, finishing, wall } = choices;
  const ref = { docket: String(docket.id), piece: 0 };
  const words = [`Docket ${docket.id}`, docket.customer, docket.name, more.condition?.media ?? ''].filter(Boolean).join(' · ');
  const all = { first: more.first ?? 0, of: copies, cut, intent, caption: words };
  if (wall) {
    const known = more.pieces && new Map(more.pieces);
    return laidPanels({ ...choices, wall }, more.condition, words).flatMap(({ index, bleed, turn, panel }): RunPiece[] => {
      const count = known ? (known.get(index) ?? 0) : (more.copies ?? copies);
      if (count === 0) return [];
      const piece = { ...ref, piece: index };
      return [
        {
          ...piece,
          ...all,
          id: pieceKey(piece),
          widthMm: panel.part.width,
          heightMm: panel.part.height,
          bleed,
          copies: count,
          mayTurn: false,
          finishing: { ...NO_FINISHING, ink: finishing.ink, turn },
          panel
        }
      ];
    });
  }
  const beyond = beyondMm(choices);
  const whole: RunPiece = {
    ...ref,
    ...all,
    id: pieceKey(ref),
    widthMm,
    heightMm,
    bleed: evenSides(beyond),
    copies: more.copies ?? copies,
    mayTurn,
    finishing,
    ...(more.records && hasRecords(choices.records) && { records: more.records, order: choices.records.order }),
    // What lies farther out than the bleed is a rectangle: so is the piece's place.
    contour: cut && beyond <= bleedMm ? more.contour : undefined
  };
  return [whole];
}
