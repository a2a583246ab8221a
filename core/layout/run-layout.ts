import type { Finishing } from '../marks/finishing-choice';
import type { Amounts, Flat } from '../marks/print-list';
import { boxAround, scaledSides, type Box } from '../geometry/box';
import { apply } from '../geometry/matrix';
import { pieceKey, type PieceSource, type PlacedPiece } from './pieces';
import type { Letters, Mark } from '../marks/print-list';
import { finishingShapes, inksOf } from '../marks/finishing';
import { codePlaces, codeRoom, type CodePlaces } from '../marks/print-code';
import { markRoom, registrationMarks, type MarkRule } from '../marks/registration';
import { preparedPart } from '../panels/panel-piece';
import { BAR_MM, colourBar } from '../marks/colour-bar';
import { isJig, type Pin, type PlacedCopy, type Placement, type PlaceRule, type Stock } from './placement';
import { place, placed } from './placing';
import { clipsOn } from './printed-parts';
import { straightCuts, type StraightCut } from './straight-cuts';
import { finishedToCopy, itemOf, type PanelOfWall, type RunPiece } from './run-piece';

export interface RunLayoutRule extends PlaceRule {
  marks: MarkRule;
  colourBar: boolean;
  /** Cut along the lines that dockets have, or straight along the pieces. */
  cutAlong?: 'lines' | 'pieces' | undefined;
}

/** What is printed beside the artwork of a part. */
export interface Dress {
  marks: Mark[];
  flats: Flat[];
  rings: Mark[];
  letters: Letters[];
  /** Where the code stands of what will be cut. */
  code: CodePlaces;
}

/** What marks and codes take on each side of what is cut, mm. */
export const cuttingRoom = (marks: MarkRule): number => Math.max(markRoom(marks), codeRoom(marks));

const isCut = (piece: RunPiece | undefined, rule: RunLayoutRule): boolean =>
  piece !== undefined && (piece.cut || rule.cutAlong === 'pieces');

/** The rule with what marks and the colour bar take. */
function withRoom(pieces: readonly RunPiece[], rule: RunLayoutRule): PlaceRule {
  const room = pieces.some((piece) => isCut(piece, rule) && piece.copies > 0) ? cuttingRoom(rule.marks) : 0;
  const bar = rule.colourBar ? BAR_MM + 2 : 0;
  return { ...rule, margin: rule.margin + room, lead: rule.lead + room + bar, tail: rule.tail + room };
}

/** A run's layouts, better and better; nothing after steps that gave none. */
export function* layingOut(
  stock: Stock,
  rule: RunLayoutRule,
  pieces: readonly RunPiece[],
  pins: readonly Pin[]
): Generator<Placement | undefined, void> {
  yield* place(stock, withRoom(pieces, rule), pieces.map(itemOf), pins);
}

/** A run's layout at the end of its effort. A pure function: the same run gives the same layout. */
export const layOutRun = (stock: Stock, rule: RunLayoutRule, pieces: readonly RunPiece[], pins: readonly Pin[]): Placement =>
  placed(stock, withRoom(pieces, rule), pieces.map(itemOf), pins);

/**
 * All that is printed beside the artwork of one part of a layout.
 *
 * @param inkOf what marks for people are printed in, by what their docket says
 */
export function dressPart(
  part: Pick<Placement['parts'][number], 'copies' | 'ghosts'>,
  stock: Stock,
  rule: RunLayoutRule,
  pieces: readonly RunPiece[],
  inkOf: (ink: Finishing['ink']) => Amounts = inksOf
): Dress {
  const byId = new Map(pieces.map((piece) => [piece.id, piece]));
  const dress: Dress = { marks: [], flats: [], rings: [], letters: [], code: { codes: [], letters: [] } };
  // Around all places, ghosts too, so that no mark moves or is printed on when a ghost is claimed.
  // What lies in a jig is not cut, and beside it nothing is printed.
  if (!isJig(stock) && part.copies.some(({ id }) => isCut(byId.get(id), rule))) {
    const places = [...part.copies, ...part.ghosts];
    dress.marks = registrationMarks(places, rule.marks);
    dress.code = codePlaces(dress.marks, places, rule.marks);
  }
  if (rule.colourBar && !isJig(stock))
    dress.flats = colourBar(rule.margin, stock.kind === 'sheet' ? rule.margin : rule.lead, stock.width - 2 * rule.margin);
  const counts = new Map<string, number>();
  for (const copy of part.copies) counts.set(copy.id, Math.max(counts.get(copy.id) ?? 0, copy.copy + 1));
  for (const copy of part.copies) {
    const piece = byId.get(copy.id);
    if (!piece) continue;
    const toCopy = finishedToCopy(piece, copy);
    const turn = (piece.finishing.turn + copy.turn) % 360;
    const inks = inkOf(piece.finishing.ink);
    const number = piece.first + copy.copy;
    const of = Math.max(piece.of, piece.first + (counts.get(copy.id) ?? 0));
    const caption = copy.record === undefined ? piece.caption : `${piece.caption} · record ${copy.record}`;
    // A panel has marks of its own for those who hang it.
    for (const shape of piece.panel?.marks ?? finishingShapes(piece, piece.finishing, caption, { number, of })) {
      const at = apply(toCopy, shape);
      if (shape.kind === 'mark') {
        const { diameter, weight } = shape;
        dress.rings.push({ ...at, diameter, weight, shape: shape.shape, inks });
      } else if (shape.kind === 'text')
        dress.letters.push({ ...at, heightMm: shape.heightMm, text: shape.text, turn: (turn + (shape.turn ?? 0)) % 360, inks });
      else {
        const end = apply(toCopy, { x: shape.x + shape.width, y: shape.y + shape.height });
        dress.flats.push({
          x: Math.min(at.x, end.x),
          y: Math.min(at.y, end.y),
          width: Math.abs(end.x - at.x),
          height: Math.abs(end.y - at.y),
          inks: shape.inks ?? inks
        });
      }
    }
  }
  return dress;
}

/** Straight cuts go on past the pieces by so much, so that corners come free, mm. */
const BEYOND_MM = 2;

/**
 * The straight cuts that free a part's pieces at their finished size, in their order.
 *
 * @returns nothing where they interlock, or lie askew
 */
export function trimsOf(
  part: Pick<Placement['parts'][number], 'copies'>,
  pieces: readonly RunPiece[]
): StraightCut[] | undefined {
  const byId = new Map(pieces.map((piece) => [piece.id, piece]));
  const boxes: Box[] = [];
  for (const copy of part.copies) {
    const piece = byId.get(copy.id);
    if (!piece) continue;
    if ((piece.finishing.turn + copy.turn) % 90 !== 0) return undefined;
    const toCopy = finishedToCopy(piece, copy);
    const [p, q] = [apply(toCopy, { x: 0, y: 0 }), apply(toCopy, { x: piece.widthMm, y: piece.heightMm })];
    boxes.push({ x: Math.min(p.x, q.x), y: Math.min(p.y, q.y), width: Math.abs(q.x - p.x), height: Math.abs(q.y - p.y) });
  }
  const around = boxAround(boxes.map(({ x, y, width, height }) => [{ x, y }, { x: x + width, y: y + height }])); // prettier-ignore
  return around ? straightCuts(boxes, around, BEYOND_MM) : [];
}

/** Said where straight cuts free no piece. */
export const NO_STRAIGHT_CUTS =
  'These pieces interlock or lie askew: no straight cuts free them. Place them in straight cuts, or cut along their lines.';

/** What of a piece's page the RIP is told, by whoever knows its file. */
export type PiecePage = Pick<PieceSource, 'file' | 'page' | 'prepare' | 'sources' | 'stack' | 'colourBleed'> & {
  /** Which record each page that is drawn over it is. */
  records?: readonly number[] | undefined;
};

/**
 * What the RIP is told of a part.
 *
 * @param pages by piece; panels have their docket's, by its first
 */
export function ripPieces(
  copies: readonly PlacedCopy[],
  rule: RunLayoutRule,
  laid: readonly RunPiece[],
  pages: ReadonlyMap<string, PiecePage>,
  stock: Stock
): { sources: PieceSource[]; pieces: PlacedPiece[] } {
  const used = laid.filter((piece) => copies.some((copy) => copy.id === piece.id));
  const pageOf = new Map<string, Map<number, number>>();
  const whole = used.map((piece): PieceSource => {
    // A panel is a part of its docket's page.
    const known = pages.get(piece.panel ? pieceKey({ docket: piece.docket, piece: 0 }) : piece.id);
    if (!known) throw new RangeError(`Piece ${piece.id} has no artwork.`);
    const { records, ...whole } = known;
    const page = piece.panel ? partOfPage(whole, piece.panel) : whole;
    if (records) pageOf.set(piece.id, new Map(records.map((record, i) => [record, i])));
    const { widthMm, heightMm, bleed, intent } = piece;
    const { colourBleed } = page;
    const colour = colourBleed && { colourBleed: scaledSides(colourBleed, piece.scale ?? 1) };
    const from = piece.panel && { x: piece.panel.part.x - bleed.left, y: piece.panel.part.y - bleed.top };
    return { ...page, ...colour, widthMm, heightMm, bleed, intent, ...(from && { from }) };
  });
  const byId = new Map(used.map((piece, index) => [piece.id, { piece, source: whole[index]! }]));
  const clipOf = clipsOn(stock, rule);
  const sources: PieceSource[] = [];
  const known = new Map<string, number>();
  const sourceOf = (copy: PlacedCopy): number => {
    const { piece, source } = byId.get(copy.id)!;
    const clip = clipOf(piece, copy);
    // A piece that its pockets cut off otherwise is another source.
    const key = isJig(stock) ? `${copy.id} ${JSON.stringify(clip ?? '')}` : copy.id;
    const index = known.get(key) ?? sources.length;
    if (index === sources.length) {
      known.set(key, index);
      sources.push({ ...source, ...(clip && { clip }) });
    }
    return index;
  };
  const pieces = copies.map((copy): PlacedPiece => {
    const { piece } = byId.get(copy.id)!;
    const toCopy = finishedToCopy(piece, copy);
    const { bleed, widthMm, heightMm } = piece;
    const corners = [-bleed.left, widthMm + bleed.right].flatMap((x) =>
      [-bleed.top, heightMm + bleed.bottom].map((y) => apply(toCopy, { x, y }))
    );
    const pages = pageOf.get(copy.id);
    const overlay = pages?.get(copy.record ?? NaN);
    if (pages && overlay === undefined) throw new RangeError(`Record ${copy.record} of piece ${copy.id} has no page.`);
    return {
      source: sourceOf(copy),
      x: Math.min(...corners.map((p) => p.x)),
      y: Math.min(...corners.map((p) => p.y)),
      turn: (piece.finishing.turn + copy.turn) % 360,
      ...(overlay !== undefined && { overlay })
    };
  });
  return { sources, pieces };
}

/** What of a docket's page a panel shows; colour goes no farther beyond it than the panel does. */
function partOfPage(page: Omit<PiecePage, 'records'>, { wall, part }: PanelOfWall): Omit<PiecePage, 'records'> {
  const { prepare, stack, ...rest } = page;
  return {
    ...rest,
    prepare: preparedPart(prepare, wall, part),
    ...(stack && {
      stack: {
        ...stack,
        layers: stack.layers.map((layer) =>
          layer.own ? { ...layer, own: { ...layer.own, prepare: preparedPart(layer.own.prepare, wall, part) } } : layer
        )
      }
    })
  };
}
