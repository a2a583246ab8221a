import type { Box } from '../geometry/box';
import { turnRings, type Point } from '../geometry/matrix';

/** What a layout is asked of, and what it comes to. Lengths in mm, angles in degrees clockwise, y along the roll. */

/** The placing rules, in the order in which they are compared. */
export const PLACING_RULES = ['apart', 'rows', 'straight', 'close', 'shapes', 'hand'] as const;
export type PlacingRule = (typeof PLACING_RULES)[number];

export type Alignment = 'left' | 'centre' | 'right';
export const EFFORTS = ['quick', 'normal', 'thorough'] as const;
export type Effort = (typeof EFFORTS)[number];

/** Which corner of a sheet the first piece lies at, seen from above with the start of the print at the front. */
export const CORNERS = ['front left', 'front right', 'back left', 'back right'] as const;
export type Corner = (typeof CORNERS)[number];

/** What a jig holds, on the sheet that is printed on: places that are not switched off, in the order in which they are filled. */
export interface StockJig {
  id: number;
  name: string;
  /** What it lies on, and the machine's own corner of it. */
  bed: { width: number; height: number; origin: Corner };
  /** What holds the things, on that bed: its corners are touched. */
  plate: Box;
  /** The thing as it is looked at, with its outline (even-odd) from the top left of its box. */
  thing: { width: number; height: number; outline: Point[][] };
  /** How high it stands; nothing where it is not known. */
  thicknessMm: number | null;
  pockets: StockPocket[];
  /** How it lies, by points that were touched. */
  lay?: Lay;
  /** Why nothing can be placed in it as it lies. */
  fault?: string;
}

/** How a jig lies against where it should. */
export interface Lay {
  /** Degrees clockwise, and mm at the machine's own corner. */
  turn: number;
  dx: number;
  dy: number;
  /** How far the touched points are off what this says of them: the root of the mean square, mm. */
  residualMm: number;
}

/** A place by its middle. */
export interface StockPocket {
  /** From 1. */
  number: number;
  /** Which row, or column, it is filled in. */
  line: number;
  x: number;
  y: number;
  turn: number;
}

export type Stock =
  { kind: 'roll'; width: number } | { kind: 'sheet'; width: number; height: number; corner: Corner; jig?: StockJig | undefined };
export type JigStock = Extract<Stock, { kind: 'sheet' }> & { jig: StockJig };
export const isJig = (stock: Stock): stock is JigStock => stock.kind === 'sheet' && stock.jig !== undefined;

/** Where in its pocket a piece lies. */
export const ANCHORS = [
  'top left',
  'top',
  'top right',
  'left',
  'middle',
  'right',
  'bottom left',
  'bottom',
  'bottom right'
] as const;
/** Which docket each pocket gets. */
export const SHARINGS = ['in order', 'by rows', 'in turn', 'by hand'] as const;
/** How large a piece is in its pocket: as its docket says, all of it seen, or all of the pocket covered. */
export const POCKET_SIZES = ['own', 'fit', 'fill'] as const;
/** Which side of the things is printed: from behind the jig lies turned over, left to right. */
export const SIDES = ['front', 'back'] as const;
/** What becomes of what is larger than its pocket. */
export const EDGES = ['inside', 'cut off', 'over'] as const;

/** How pieces lie in pockets. */
export interface PocketRule {
  anchor: (typeof ANCHORS)[number];
  /** Kept free inside of the pocket's edge, where the anchor leads to it. */
  marginMm: number;
  sharing: (typeof SHARINGS)[number];
  /** Quarters that a piece is turned by against the thing. */
  turn: 0 | 90 | 180 | 270;
  edge: (typeof EDGES)[number];
  size: (typeof POCKET_SIZES)[number];
  side: (typeof SIDES)[number];
  /** Where points of the jig were touched; none where it lies as it should. */
  touched: Touched[];
}

/** A point of the jig: a corner of its plate, or the middle of a pocket, and where it was touched, mm from the machine's own corner. */
export interface Touched {
  at: Corner | number;
  x: number;
  y: number;
}

/** Copies of one docket: the size that prints, with bleed and marks. */
export interface Item {
  id: string;
  width: number;
  height: number;
  copies: number;
  /** Whether a quarter turn is allowed. */
  mayTurn: boolean;
  /** Its contour (even-odd) in its own place, for true shape. */
  shape?: Point[][];
  /** Free places are no places for one more of it: of a wall a panel alone is of no use. */
  noSpare?: boolean;
}

/** A copy that stays where it was put by hand: its box, in its own strip or sheet. */
export interface Pin {
  id: string;
  copy: number;
  part: number;
  x: number;
  y: number;
  turn: number;
  /** In a jig, the number of the pocket that it lies in; then this counts. */
  pocket?: number | undefined;
}

export interface PlaceRule {
  placing: PlacingRule;
  /** Across and along the roll, between pieces. */
  gapX: number;
  gapY: number;
  /** Left free on both edges, and before and after the run. */
  margin: number;
  lead: number;
  tail: number;
  align: Alignment;
  /** One copy a row, in the first two rules. */
  single: boolean;
  /** Spare copies where they cost nothing: none, in rows that are begun, wherever one fits. */
  fill: 'none' | 'row' | 'all';
  /** A roll's run is no longer than this, mm; nothing for as long as it takes. */
  longest: number | null;
  /** Degrees that true shape may turn pieces by; 0 for not at all. */
  turnStep: number;
  effort: Effort;
  /** The search ends after so many steps; nothing for all that the effort allows. */
  steps: number | null;
  /** In a jig. */
  pockets?: PocketRule | undefined;
}

export interface PlacedCopy {
  id: string;
  /** Which copy of its docket, from 0. */
  copy: number;
  /** The box of the turned piece. */
  x: number;
  y: number;
  width: number;
  height: number;
  /** Degrees clockwise. */
  turn: number;
  pinned: boolean;
  /** The number of the record that it is; none for a docket without records. @see dealt */
  record?: number;
  /** The number of the pocket that it lies in, in a jig. */
  pocket?: number;
}

/** Where a copy lies, to stay there. */
export const pinOf = ({ id, copy, x, y, turn, pocket }: PlacedCopy, part: number): Pin => ({
  ...{ id, copy, part, x, y, turn },
  ...(pocket !== undefined && { pocket })
});

/** What tells a copy from the others of its run. */
export const copyName = ({ id, copy }: Pick<PlacedCopy, 'id' | 'copy'>): string => `${id}/${copy}`;

/** A strip of the roll, or a sheet. */
export interface Part {
  copies: PlacedCopy[];
  /** Places that cost no film, ready to be claimed. */
  ghosts: PlacedCopy[];
  /** Of the roll with lead and tail, or of the sheet. */
  length: number;
  /** How far pieces reach, from the start. */
  reach: number;
  /** m² that pieces cover; in a jig, of the things that they lie on. */
  usedM2: number;
  /** Straight cuts that free every piece; nothing where pieces interlock. */
  cuts: number | null;
}

/** A docket of which no copy fits on what it is laid out on. Lengths are mm. */
export interface TooLarge extends Pick<Item, 'id' | 'width' | 'height' | 'mayTurn'> {
  kind: Stock['kind'];
  /** What can be used: across, and along it; nothing where that is as long as it takes. */
  across: number;
  along: number | null;
}

export interface Placement {
  parts: Part[];
  /** Of all parts. */
  length: number;
  areaM2: number;
  /** m² that no piece covers, and their share. */
  wasteM2: number;
  wasteShare: number;
  cuts: number | null;
  /** Dockets with no copy that fits. */
  tooLarge: TooLarge[];
  /** Why the rule cannot be followed; then nothing is placed. */
  refusal: string | null;
}

/** Parts and their figures. In a jig a load takes the things that it prints, and none of them is waste. */
export function sumOf(parts: Part[], stock: Stock, tooLarge: TooLarge[] = []): Placement {
  const length = parts.reduce((sum, part) => sum + part.length, 0);
  const usedM2 = parts.reduce((sum, part) => sum + part.usedM2, 0);
  const areaM2 = isJig(stock) ? usedM2 : (length * stock.width) / 1e6;
  const wasteM2 = Math.max(0, areaM2 - usedM2);
  return {
    parts,
    length,
    areaM2,
    wasteM2,
    wasteShare: areaM2 > 0 ? wasteM2 / areaM2 : 0,
    cuts: parts.some((part) => part.cuts === null) ? null : parts.reduce((sum, part) => sum + (part.cuts ?? 0), 0),
    tooLarge,
    refusal: null
  };
}

export const rectangle = (width: number, height: number): Point[][] => [
  [
    { x: 0, y: 0 },
    { x: width, y: 0 },
    { x: width, y: height },
    { x: 0, y: height }
  ]
];

/** Top left corner of the box of a turned rectangle about 0, 0. */
export const boxCorner = (width: number, height: number, turn: number): Point => {
  const points = turnRings(rectangle(width, height), turn)[0]!;
  return { x: Math.min(...points.map((p) => p.x)), y: Math.min(...points.map((p) => p.y)) };
};

/** A copy's contour where it lies. */
export function shapeAt(item: Item, copy: Pick<PlacedCopy, 'x' | 'y' | 'turn'>): Point[][] {
  const corner = boxCorner(item.width, item.height, copy.turn);
  return turnRings(item.shape ?? rectangle(item.width, item.height), copy.turn).map((ring) =>
    ring.map((p) => ({ x: p.x - corner.x + copy.x, y: p.y - corner.y + copy.y }))
  );
}
