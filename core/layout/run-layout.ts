import type { IntentChoice } from '../colour/icc-write';
import type { Flat } from '../marks/print-list';
import { grow } from '../geometry/areas';
import { apply, chain, translation, turnedInPlace, turnedSize, type Matrix, type Point } from '../geometry/matrix';
import type { PieceSource, PlacedPiece } from './pieces';
import type { Letters, Mark } from '../marks/print-list';
import { finishingShapes, inksOf, roomOf, type Finishing, type Room } from '../marks/finishing';
import { markRoom, registrationMarks, type MarkRule } from '../marks/registration';
import { BAR_MM, colourBar } from '../marks/colour-bar';
import { type Item, type Pin, type PlacedCopy, type Placement, type PlaceRule, type Stock } from './placement';
import { place, placed } from './placing';

/** A docket as a run sees it. */
export interface RunDocket {
  id: string;
  widthMm: number;
  heightMm: number;
  bleedMm: number;
  copies: number;
  /** Copies of the docket that are in earlier runs, and how many it has in all. */
  first: number;
  of: number;
  cut: boolean;
  mayTurn: boolean;
  intent: IntentChoice;
  finishing: Finishing;
  /** What a caption says of it. */
  caption: string;
  /** Its contour in mm of the finished size (even-odd), where it is cut by one. */
  contour?: Point[][] | undefined;
}

export interface RunLayoutRule extends PlaceRule {
  marks: MarkRule;
  colourBar: boolean;
}

/** What is printed beside the artwork of a part. */
export interface Dress {
  marks: Mark[];
  flats: Flat[];
  rings: Mark[];
  letters: Letters[];
}

/** A piece's box around its finished size, turned as its docket says. */
interface Outfit {
  room: Room;
  width: number;
  height: number;
}

function outfitOf(docket: RunDocket): Outfit {
  const room = roomOf(docket, docket.finishing);
  return {
    room,
    width: docket.widthMm + room.left + room.right,
    height: docket.heightMm + room.top + room.bottom
  };
}

const hasMarks = (docket: RunDocket): boolean => {
  const room = roomOf(docket, docket.finishing);
  return Object.values(room).some((side) => side > docket.bleedMm + 1e-6);
};

/** Finished size → a copy's place. `copy.turn` counts from how the docket says that all copies are turned. */
export function finishedToCopy(docket: RunDocket, copy: Pick<PlacedCopy, 'x' | 'y' | 'turn'>): Matrix {
  const { room, width, height } = outfitOf(docket);
  const own = docket.finishing.turn;
  const once = turnedSize(width, height, own);
  const laid = chain(translation(room.left, room.top), turnedInPlace(width, height, own));
  return chain(chain(laid, turnedInPlace(once.width, once.height, copy.turn)), translation(copy.x, copy.y));
}

/** What is placed of a docket. */
export function itemOf(docket: RunDocket): Item {
  const { width, height } = outfitOf(docket);
  const size = turnedSize(width, height, docket.finishing.turn);
  const item: Item = { id: docket.id, ...size, copies: docket.copies, mayTurn: docket.mayTurn };
  // Marks around a piece are straight: such a piece is placed by its rectangle.
  if (!docket.contour || hasMarks(docket)) return item;
  const toCopy = finishedToCopy(docket, { x: 0, y: 0, turn: 0 });
  return { ...item, shape: docket.contour.map((ring) => ring.map((p) => apply(toCopy, p))) };
}

/** The rule with what marks and the colour bar take. */
function withRoom(dockets: readonly RunDocket[], rule: RunLayoutRule): PlaceRule {
  const room = dockets.some((docket) => docket.cut && docket.copies > 0) ? markRoom(rule.marks) : 0;
  const bar = rule.colourBar ? BAR_MM + 2 : 0;
  return { ...rule, margin: rule.margin + room, lead: rule.lead + room + bar, tail: rule.tail + room };
}

/** A run's layouts, better and better; nothing after steps that gave none. */
export function* layingOut(
  stock: Stock,
  rule: RunLayoutRule,
  dockets: readonly RunDocket[],
  pins: readonly Pin[]
): Generator<Placement | undefined, void> {
  yield* place(stock, withRoom(dockets, rule), dockets.map(itemOf), pins);
}

/** A run's layout at the end of its effort. A pure function: the same run gives the same layout. */
export const layOutRun = (stock: Stock, rule: RunLayoutRule, dockets: readonly RunDocket[], pins: readonly Pin[]): Placement =>
  placed(stock, withRoom(dockets, rule), dockets.map(itemOf), pins);

/** All that is printed beside the artwork of one part of a layout. */
export function dressPart(
  part: Pick<Placement['parts'][number], 'copies' | 'ghosts'>,
  stock: Stock,
  rule: RunLayoutRule,
  dockets: readonly RunDocket[]
): Dress {
  const byId = new Map(dockets.map((docket) => [docket.id, docket]));
  const dress: Dress = { marks: [], flats: [], rings: [], letters: [] };
  // Around all places, ghosts too, so that no mark moves or is printed on when a ghost is claimed.
  if (part.copies.some((copy) => byId.get(copy.id)?.cut))
    dress.marks = registrationMarks([...part.copies, ...part.ghosts], rule.marks);
  if (rule.colourBar)
    dress.flats = colourBar(rule.margin, stock.kind === 'sheet' ? rule.margin : rule.lead, stock.width - 2 * rule.margin);
  const counts = new Map<string, number>();
  for (const copy of part.copies) counts.set(copy.id, Math.max(counts.get(copy.id) ?? 0, copy.copy + 1));
  for (const copy of part.copies) {
    const docket = byId.get(copy.id);
    if (!docket) continue;
    const toCopy = finishedToCopy(docket, copy);
    const turn = (docket.finishing.turn + copy.turn) % 360;
    const inks = inksOf(docket.finishing.ink);
    const number = docket.first + copy.copy;
    const of = Math.max(docket.of, docket.first + (counts.get(copy.id) ?? 0));
    for (const shape of finishingShapes(docket, docket.finishing, docket.caption, { number, of })) {
      const at = apply(toCopy, shape);
      if (shape.kind === 'mark') {
        const { diameter, weight } = shape;
        dress.rings.push({ ...at, diameter, weight, shape: shape.shape, inks });
      } else if (shape.kind === 'text') dress.letters.push({ ...at, heightMm: shape.heightMm, text: shape.text, turn, inks });
      else {
        const end = apply(toCopy, { x: shape.x + shape.width, y: shape.y + shape.height });
        dress.flats.push({
          x: Math.min(at.x, end.x),
          y: Math.min(at.y, end.y),
          width: Math.abs(end.x - at.x),
          height: Math.abs(end.y - at.y),
          inks
        });
      }
    }
  }
  return dress;
}

/** What the RIP is told of a part. */
export function ripPieces(
  copies: readonly PlacedCopy[],
  rule: RunLayoutRule,
  dockets: readonly RunDocket[],
  artworks: ReadonlyMap<string, Pick<PieceSource, 'file' | 'page' | 'prepare' | 'sources'>>
): { sources: PieceSource[]; pieces: PlacedPiece[] } {
  const used = dockets.filter((docket) => copies.some((copy) => copy.id === docket.id));
  const sources = used.map((docket): PieceSource => {
    const artwork = artworks.get(docket.id);
    if (!artwork) throw new RangeError(`Docket ${docket.id} has no artwork.`);
    const source = {
      ...artwork,
      widthMm: docket.widthMm,
      heightMm: docket.heightMm,
      bleedMm: docket.bleedMm,
      intent: docket.intent
    };
    // Boxes of true shapes lie on each other: each prints to the middle of the knife's gap, as far as its bleed goes.
    const beyond = Math.min(docket.bleedMm, Math.max(rule.gapX, rule.gapY) / 2);
    return rule.placing === 'shapes' && docket.contour && !hasMarks(docket)
      ? { ...source, clip: grow(docket.contour, beyond, 'round') }
      : source;
  });
  const byId = new Map(used.map((docket, index) => [docket.id, { docket, index }]));
  const pieces = copies.map((copy): PlacedPiece => {
    const { docket, index } = byId.get(copy.id)!;
    const toCopy = finishedToCopy(docket, copy);
    const { bleedMm: b, widthMm: w, heightMm: h } = docket;
    const corners = [-b, w + b].flatMap((x) => [-b, h + b].map((y) => apply(toCopy, { x, y })));
    return {
      source: index,
      x: Math.min(...corners.map((p) => p.x)),
      y: Math.min(...corners.map((p) => p.y)),
      turn: (docket.finishing.turn + copy.turn) % 360
    };
  });
  return { sources, pieces };
}
