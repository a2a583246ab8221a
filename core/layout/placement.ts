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
  /** The thing as it is looked at, with its outline (even-odd) from the top left of its box. */
  thing: { width: number; height: number; outline: Point[][] };
  pockets: StockPocket[];
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
export const SHARINGS = ['in order', 'by rows', 'in turn'] as const;
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
}

/** A copy that stays where it was put by hand: its box, in its own strip or sheet. */
export interface Pin {
  id: string;
  copy: number;
  part: number;
  x: number;
  y: number;
  turn: number;
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

/** A strip of the roll, or a sheet. */
export interface Part {
  copies: PlacedCopy[];
  /** Places that cost no film, ready to be claimed. */
  ghosts: PlacedCopy[];
  /** Of the roll with lead and tail, or of the sheet. */
  length: number;
  /** How far pieces reach, from the start. */
  reach: number;
  /** m² that pieces cover. */
  usedM2: number;
  /** Straight cuts that free every piece; nothing where pieces interlock. */
  cuts: number | null;
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
  /** Dockets with no copy that fits, with the widest that would. */
  tooWide: { id: string; width: number; usable: number }[];
  /** Why the rule cannot be followed; then nothing is placed. */
  refusal: string | null;
}

/** Parts and their figures. @param width of the roll or sheet, mm */
export function sumOf(parts: Part[], width: number, tooWide: Placement['tooWide'] = []): Placement {
  const length = parts.reduce((sum, part) => sum + part.length, 0);
  const areaM2 = (length * width) / 1e6;
  const wasteM2 = Math.max(0, areaM2 - parts.reduce((sum, part) => sum + part.usedM2, 0));
  return {
    parts,
    length,
    areaM2,
    wasteM2,
    wasteShare: areaM2 > 0 ? wasteM2 / areaM2 : 0,
    cuts: parts.some((part) => part.cuts === null) ? null : parts.reduce((sum, part) => sum + (part.cuts ?? 0), 0),
    tooWide,
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
