import type { IntentChoice } from '../colour/icc-write';
import type { FinishedSize } from '../artwork/preparation';
import { evenSides, scaledSides, sizeBeyond, type Box, type Sides } from '../geometry/box';
import { apply, chain, translation, turnedInPlace, turnedSize, type Matrix, type Point } from '../geometry/matrix';
import { roomOf, type FinishingShape } from '../marks/finishing';
import type { Finishing } from '../marks/finishing-choice';
import type { Path } from '../geometry/path';
import type { RecordOrder } from '../records/choices';
import type { PieceRef } from './pieces';
import type { Item, JigStock, PlacedCopy, PocketRule } from './placement';

/** A piece of a docket as a run sees it: what is placed, drawn and cut as one. */
export interface RunPiece extends PieceRef {
  /** Its key in layouts: `pieceKey` of docket and piece. */
  id: string;
  widthMm: number;
  heightMm: number;
  /** How far it prints beyond each side, mm. */
  bleed: Sides;
  copies: number;
  /** Copies of the piece that are in earlier runs, and how many it has in all. */
  first: number;
  of: number;
  cut: boolean;
  mayTurn: boolean;
  intent: IntentChoice;
  finishing: Finishing;
  /** Times the size that its docket says, in a pocket that it is to fit or fill; 1 where nothing is said. */
  scale?: number | undefined;
  /** What a caption says of it. */
  caption: string;
  /** Where its copies are records: the numbers of those in this run, one for each copy, and how they are dealt to places. */
  records?: readonly number[] | undefined;
  order?: RecordOrder | undefined;
  /** Its contour in mm of the finished size (even-odd), where it is cut by one. */
  contour?: Point[][] | undefined;
  /** Where it is a panel of a wall: then its size is of that part. */
  panel?: PanelOfWall | undefined;
}

/** What of a wall a piece is. Shapes, areas and lines are mm of its part. */
export interface PanelOfWall {
  /** As it is hung, from 1. */
  number: number;
  wall: FinishedSize;
  part: Box;
  /** How far its docket's picture goes beyond the wall, all around. */
  pictureBeyondMm: number;
  /** Where it prints, and where it prints white instead. */
  clip: Point[][] | undefined;
  white: Point[][];
  /** What it is trimmed by. */
  lines: Path[];
  /** What is printed beside it, and how far that goes beyond what prints of it. */
  marks: FinishingShape[];
  room: Sides;
}

/** Where its docket's picture lies, mm of the finished size: of a panel it shows a part. */
export function pictureBox({ widthMm, heightMm, bleed, panel }: RunPiece): Box {
  if (!panel) return { x: -bleed.left, y: -bleed.top, ...sizeBeyond(widthMm, heightMm, bleed) };
  const { wall, part, pictureBeyondMm: beyond } = panel;
  return { x: -part.x - beyond, y: -part.y - beyond, ...sizeBeyond(wall.widthMm, wall.heightMm, evenSides(beyond)) };
}

/** What of the picture a piece prints, as rings (even-odd); nothing where that is all of it. */
export function pictureClip({ widthMm, heightMm, bleed, panel }: RunPiece): Point[][] | undefined {
  if (!panel) return undefined;
  const [x0, y0, x1, y1] = [-bleed.left, -bleed.top, widthMm + bleed.right, heightMm + bleed.bottom];
  return panel.clip ?? [[{ x: x0, y: y0 }, { x: x1, y: y0 }, { x: x1, y: y1 }, { x: x0, y: y1 }]]; // prettier-ignore
}

/** What a piece takes beyond its finished edges. */
const roomAround = ({ finishing, panel, ...size }: RunPiece): Sides => {
  if (!panel) return roomOf(size, finishing);
  const { bleed } = size;
  const { left, top, right, bottom } = panel.room;
  return { left: bleed.left + left, top: bleed.top + top, right: bleed.right + right, bottom: bleed.bottom + bottom };
};

/** A piece's box around its finished size, turned as its docket says. */
interface Outfit {
  room: Sides;
  width: number;
  height: number;
}

function outfitOf(piece: RunPiece): Outfit {
  const room = roomAround(piece);
  return {
    room,
    width: piece.widthMm + room.left + room.right,
    height: piece.heightMm + room.top + room.bottom
  };
}

/** Whether something is printed beyond its bleed. */
export const hasMarks = (piece: RunPiece): boolean => {
  const room = roomAround(piece);
  return Object.entries(room).some(([edge, side]) => side > piece.bleed[edge as keyof Sides] + 1e-6);
};

/** Finished size → a copy's place. `copy.turn` counts from how the docket says that all copies are turned. */
export function finishedToCopy(piece: RunPiece, copy: Pick<PlacedCopy, 'x' | 'y' | 'turn'>): Matrix {
  const { room, width, height } = outfitOf(piece);
  const own = piece.finishing.turn;
  const once = turnedSize(width, height, own);
  const laid = chain(translation(room.left, room.top), turnedInPlace(width, height, own));
  return chain(chain(laid, turnedInPlace(once.width, once.height, copy.turn)), translation(copy.x, copy.y));
}

/**
 * A piece as large as its pocket asks, its bleed with it: all of it seen within the margins, or all of the pocket covered. Where
 * nothing may reach over the edge, bleed is seen to fit too.
 */
export function inPocket(piece: RunPiece, { jig }: JigStock, rule: PocketRule): RunPiece {
  if (rule.size === 'own') return piece;
  const { bleed } = piece;
  const scale = scaleInPocket({ ...piece, turn: piece.finishing.turn }, jig.thing, rule);
  return {
    ...piece,
    scale,
    widthMm: piece.widthMm * scale,
    heightMm: piece.heightMm * scale,
    bleed: scaledSides(bleed, scale),
    contour: piece.contour?.map((ring) => ring.map(({ x, y }) => ({ x: x * scale, y: y * scale })))
  };
}

/** What a finished size is times by in a pocket. @param thing its size, mm @param turn of the piece, before that of the pocket */
export function scaleInPocket(
  { widthMm, heightMm, bleed, turn }: Pick<RunPiece, 'widthMm' | 'heightMm' | 'bleed'> & { turn: number },
  thing: { width: number; height: number },
  rule: Pick<PocketRule, 'size' | 'edge' | 'turn' | 'marginMm'>
): number {
  if (rule.size === 'own') return 1;
  const whole = rule.edge === 'inside' ? sizeBeyond(widthMm, heightMm, bleed) : { width: widthMm, height: heightMm };
  const size = turnedSize(whole.width, whole.height, (turn + rule.turn) % 360);
  const room = (mm: number) => Math.max(LEAST_ROOM_MM, mm - (rule.size === 'fit' ? 2 * rule.marginMm : 0));
  const [across, down] = [room(thing.width) / size.width, room(thing.height) / size.height];
  return rule.size === 'fit' ? Math.min(across, down) : Math.max(across, down);
}

/** A margin that leaves nothing leaves so much, mm. */
const LEAST_ROOM_MM = 1;

/** What is placed of a piece. */
export function itemOf(piece: RunPiece): Item {
  const { width, height } = outfitOf(piece);
  const size = turnedSize(width, height, piece.finishing.turn);
  const item: Item = {
    id: piece.id,
    ...size,
    copies: piece.copies,
    mayTurn: piece.mayTurn,
    ...(piece.panel && { noSpare: true })
  };
  // Marks around a piece are straight: such a piece is placed by its rectangle.
  if (!piece.contour || hasMarks(piece)) return item;
  const toCopy = finishedToCopy(piece, { x: 0, y: 0, turn: 0 });
  return { ...item, shape: piece.contour.map((ring) => ring.map((p) => apply(toCopy, p))) };
}
