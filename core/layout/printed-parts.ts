import type { Box } from '../geometry/box';
import { grow } from '../geometry/areas';
import { apply, chain, invert, type Point } from '../geometry/matrix';
import { sumOfInk, timesInk, type InkUse } from '../inks/ink-prices';
import { laidInk, type LaidInk, type LaidOn } from '../inks/laid-ink';
import { shareWithin, type Spread } from '../inks/spread';
import { DEFAULT_POCKETS } from './in-pockets';
import { thingToBed } from './jig';
import { pieceOf } from './pieces';
import { isJig, type Part, type PlacedCopy, type PlaceRule, type Stock, type StockJig, type StockPocket } from './placement';
import { finishedToCopy, hasMarks, pictureBox, pictureClip, type RunPiece } from './run-piece';

/** What prints of pieces where they lie: pockets cut some off, true shapes lie on each other, a panel is a part of its wall. */

/** Rings (even-odd) in mm of the finished size, where a copy of a piece lies; nothing where all of it prints. */
export type ClipOf = (piece: RunPiece, copy: PlacedCopy) => Point[][] | undefined;

export function clipsOn(stock: Stock, rule: Pick<PlaceRule, 'placing' | 'gapX' | 'gapY' | 'pockets'>): ClipOf {
  if (isJig(stock)) {
    const isCutOff = (rule.pockets ?? DEFAULT_POCKETS).edge === 'cut off';
    const pockets = new Map(isCutOff ? stock.jig.pockets.map((pocket) => [pocket.number, pocket]) : []);
    return (piece, copy) => {
      const pocket = pockets.get(copy.pocket ?? 0);
      return pocket ? pocketClip(stock.jig.thing, pocket, piece, copy) : piece.panel?.clip;
    };
  }
  const shapes = new WeakMap<RunPiece, Point[][]>();
  return (piece) => {
    if (piece.panel) return piece.panel.clip;
    if (rule.placing !== 'shapes' || !piece.contour || hasMarks(piece)) return undefined;
    // Boxes of true shapes lie on each other: each prints to the middle of the knife's gap, as far as its bleed goes.
    const beyond = Math.min(...Object.values(piece.bleed), Math.max(rule.gapX, rule.gapY) / 2);
    const known = shapes.get(piece) ?? grow(piece.contour, beyond, 'round');
    shapes.set(piece, known);
    return known;
  };
}

/** Figures of a clip, so that places that differ by rounding alone are one, a mm. */
const CLIP_STEPS = 1000;

/** What a pocket leaves of a piece that is cut off at its edge. */
function pocketClip(thing: StockJig['thing'], pocket: StockPocket, piece: RunPiece, copy: PlacedCopy): Point[][] {
  const { width: widthMm, height: heightMm, outline } = thing;
  const toPiece = chain(thingToBed({ widthMm, heightMm }, pocket), invert(finishedToCopy(piece, copy)));
  const rounded = (mm: number) => Math.round(mm * CLIP_STEPS) / CLIP_STEPS + 0;
  return outline.map((ring) =>
    ring.map((p) => {
      const { x, y } = apply(toPiece, p);
      return { x: rounded(x), y: rounded(y) };
    })
  );
}

/** What copies of a piece print of their docket's picture. The first tells of all: the others lie alike, but for what their pockets are nudged. */
export interface Printed {
  copies: number;
  /** How large it prints, by area: 1 at the docket's own size. */
  enlarged: number;
  /** Where the picture lies, and the rings (even-odd) within which it prints; mm of the finished size. */
  picture: Box;
  within: Point[][] | undefined;
}

/** What prints of pieces in a layout, by their keys. */
export function printedOf(
  parts: readonly Pick<Part, 'copies'>[],
  pieces: ReadonlyMap<string, RunPiece>,
  clipOf: ClipOf
): Map<string, Printed> {
  const printed = new Map<string, Printed>();
  for (const copy of parts.flatMap(({ copies }) => copies)) {
    const { id } = copy;
    const piece = pieces.get(id);
    const known = printed.get(id);
    if (known) known.copies++;
    else if (piece)
      printed.set(id, {
        copies: 1,
        enlarged: (piece.scale ?? 1) ** 2,
        picture: pictureBox(piece),
        within: clipOf(piece, copy) ?? pictureClip(piece)
      });
  }
  return printed;
}

/** Contours have thousands of corners, and a layout by them gets better many times a second: each is looked at once. */
const shares = new WeakMap<Point[][], WeakMap<Spread, number>>();

function shareOf(spread: Spread, { picture, within }: Printed): number {
  if (!within) return 1;
  const known = shares.get(within) ?? new WeakMap<Spread, number>();
  shares.set(within, known);
  const share = known.get(spread) ?? shareWithin(spread, picture, within);
  known.set(spread, share);
  return share;
}

/**
 * The ink of one copy.
 *
 * @param laid what its docket's picture takes
 * @param usual what the shop pays for a ml of any ink
 */
export const inkOfCopy = (printed: Printed, laid: readonly LaidInk[], condition: LaidOn, usual: number): InkUse =>
  sumOfInk(laid.map((one) => timesInk(laidInk(one, condition, usual), printed.enlarged * shareOf(one.spread, printed))));

/** The same by piece. @param laidOf what the picture of a docket takes, as far as it is known */
export const inkByPiece = (
  printed: ReadonlyMap<string, Printed>,
  laidOf: (docket: string) => readonly LaidInk[],
  condition: LaidOn,
  usual: number
): Map<string, InkUse> =>
  new Map([...printed].map(([id, one]) => [id, inkOfCopy(one, laidOf(pieceOf(id).docket), condition, usual)]));

/** All that copies of one docket's pieces take. */
export const inkOfAll = (printed: Iterable<Printed>, laid: readonly LaidInk[], condition: LaidOn, usual: number): InkUse =>
  sumOfInk([...printed].map((one) => timesInk(inkOfCopy(one, laid, condition, usual), one.copies)));
