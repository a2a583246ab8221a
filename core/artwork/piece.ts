import * as mupdf from '../interpreter/interpreter';
import { apply, chain, translation, turnedInPlace, turnedSize, type Matrix, type Point } from '../geometry/matrix';
import { evenSides, reachTo, sizeBeyond, turnedSides, type Sides } from '../geometry/box';
import { cellsOf } from '../geometry/cells';
import { MM_PER_POINT } from '../units/length';
import { drawInto, type Drawing, type DrawingChoices } from './drawing';
import { enlargement, pageToFinished, wholePage, type FinishedSize, type Preparation } from './preparation';

/** A piece: a page at its finished size, with the bleed around it that prints. */
export interface Piece extends FinishedSize {
  /** How far it prints beyond each side, mm, as the finished size stands. */
  bleed: Sides;
  /** How far colour does, where other layers print farther than it. */
  colourBleed?: Sides;
  /** Where its box begins on a whole that it is a part of, mm of that: parts that have the same of it draw that alike. */
  from?: Point;
  prepare: Preparation;
}

/** What a piece is drawn on: pixels of the box of the whole piece, bleed included, turned clockwise by so many degrees. */
export interface PieceGrid {
  x: number;
  y: number;
  width: number;
  height: number;
  turn: number;
}

/** What of a piece is settled as its page is drawn. */
export const drawingChoices = (piece: Piece): DrawingChoices => ({
  ...piece.prepare,
  enlargement: enlargement(piece.prepare, piece)
});

const hasAny = (sides: Sides): boolean => Object.values(sides).some((side) => side > 0);

/** Edge colours are taken from a strip this wide, pixels. */
const EDGE_PX = 1;

/** Points of the drawing → mm of the finished size. */
function drawingToFinished(piece: Piece, drawing: Drawing): Matrix {
  const [x0, y0] = drawing.finished;
  const toPage: Matrix = [MM_PER_POINT, 0, 0, MM_PER_POINT, -x0 * MM_PER_POINT, -y0 * MM_PER_POINT];
  return chain(toPage, pageToFinished(piece.prepare, piece));
}

/** Points of the drawing → pixels; the finished size fills `inner` exactly. */
function contentMatrix(piece: Piece, drawing: Drawing, inner: mupdf.Rect, turn: number): Matrix {
  const laid = chain(drawingToFinished(piece, drawing), turnedInPlace(piece.widthMm, piece.heightMm, turn));
  const { width, height } = turnedSize(piece.widthMm, piece.heightMm, turn);
  return chain(laid, [(inner[2] - inner[0]) / width, 0, 0, (inner[3] - inner[1]) / height, inner[0], inner[1]]);
}

const hasMadeBleed = ({ bleed, prepare }: Piece): boolean => prepare.bleed.from !== 'page' && hasAny(bleed);

/** Where the finished size lies on a grid. The page's own bleed keeps its exact place; made bleed begins on a whole pixel. */
function innerRect(piece: Piece, { x, y, width, height, turn }: PieceGrid, exact = !hasMadeBleed(piece)): mupdf.Rect {
  const finished = turnedSize(piece.widthMm, piece.heightMm, turn);
  const beyond = turnedSides(piece.bleed, turn);
  const all = sizeBeyond(finished.width, finished.height, beyond);
  const whole = exact ? (v: number) => v : Math.round;
  const across = (mm: number) => whole((mm / all.width) * width);
  const down = (mm: number) => whole((mm / all.height) * height);
  return [x + across(beyond.left), y + down(beyond.top), x + width - across(beyond.right), y + height - down(beyond.bottom)];
}

/** Beyond the ground by this much is still on it, mm: boxes are rounded. */
const ON_GROUND_MM = 0.01;

/** Whether a page's ground lies under all of a piece, so that every pixel of it is painted. */
export function isGrounded(piece: Piece, drawing: Drawing): boolean {
  const { ground } = drawing;
  if (!ground) return false;
  const toFinished = drawingToFinished(piece, drawing);
  const p = apply(toFinished, { x: ground[0], y: ground[1] });
  const q = apply(toFinished, { x: ground[2], y: ground[3] });
  // Bleed that is made lies on whatever the finished size does.
  const { left, top, right, bottom } = hasMadeBleed(piece) ? evenSides(0) : piece.bleed;
  return (
    Math.min(p.x, q.x) <= -left + ON_GROUND_MM &&
    Math.min(p.y, q.y) <= -top + ON_GROUND_MM &&
    Math.max(p.x, q.x) >= piece.widthMm + right - ON_GROUND_MM &&
    Math.max(p.y, q.y) >= piece.heightMm + bottom - ON_GROUND_MM
  );
}

/** A piece's own units on a grid of any turn: mm of the finished size → pixels. */
function turnedToGrid({ widthMm, heightMm, bleed }: Piece, grid: PieceGrid): Matrix {
  const { width, height } = sizeBeyond(widthMm, heightMm, bleed);
  const box = turnedSize(width, height, grid.turn);
  const laid = chain(translation(bleed.left, bleed.top), turnedInPlace(width, height, grid.turn));
  return chain(laid, [grid.width / box.width, 0, 0, grid.height / box.height, grid.x, grid.y]);
}

/**
 * Rows of a grid within the finished size and so much around it.
 *
 * @returns a byte a pixel, 255 inside; nothing where that is all of the grid
 */
export function insideOf(piece: Piece, beyond: Sides, grid: PieceGrid, top: number, bottom: number): Uint8Array | undefined {
  const { widthMm, heightMm, bleed } = piece;
  // Turned otherwise than upright a piece does not fill its box.
  if (grid.turn % 90 === 0 && reachTo(beyond, bleed)) return undefined;
  const toGrid = turnedToGrid(piece, grid);
  const [x0, y0, x1, y1] = [-beyond.left, -beyond.top, widthMm + beyond.right, heightMm + beyond.bottom];
  const finished = [
    { x: x0, y: y0 },
    { x: x1, y: y0 },
    { x: x1, y: y1 },
    { x: x0, y: y1 }
  ];
  // Upright it ends on whole pixels.
  const ring = finished.map((p) => {
    const at = apply(toGrid, p);
    return grid.turn % 90 === 0 ? { x: Math.round(at.x), y: Math.round(at.y) } : at;
  });
  const { cells, column, row } = cellsOf([ring], 1);
  const plane = new Uint8Array(grid.width * (bottom - top));
  for (let r = Math.max(0, top - row); r < Math.min(cells.rows, bottom - row); r++)
    for (let i = cells.starts[r]!; i < cells.starts[r + 1]!; i++) {
      const from = Math.max(0, cells.from[i]! + column - grid.x);
      const to = Math.min(grid.width, cells.to[i]! + column - grid.x + 1);
      const at = (r + row - top) * grid.width;
      if (to > from) plane.fill(255, at + from, at + to);
    }
  return plane;
}

/**
 * Draws a page over a piece that is drawn already: its trim box fills the finished size. It is of the piece as it reads, and
 * is mirrored with the artwork: along the other side where that lies turned.
 */
export function drawOver(pixmap: mupdf.Pixmap, piece: Piece, overlay: Drawing, grid: PieceGrid): void {
  const [x0, y0, x1, y1] = overlay.finished;
  const size = { widthMm: (x1 - x0) * MM_PER_POINT, heightMm: (y1 - y0) * MM_PER_POINT };
  const { mirror, turn } = piece.prepare;
  const over: Piece = { ...piece, prepare: { ...wholePage(size), mirror, turn: mirror && turn % 180 !== 0 ? 180 : 0 } };
  const matrix =
    grid.turn % 90 === 0
      ? contentMatrix(over, overlay, innerRect(piece, grid), grid.turn)
      : chain(drawingToFinished(over, overlay), turnedToGrid(piece, grid));
  drawInto(pixmap, overlay, matrix as mupdf.Matrix);
}

/** Nothing drawn yet: paper, or, with `cover`, nothing at all. */
function blank({ target }: Drawing, area: mupdf.Rect, cover: boolean): mupdf.Pixmap {
  const pixmap = new mupdf.Pixmap(target, area, cover);
  if (cover) pixmap.clear();
  else pixmap.clear(255);
  return pixmap;
}

/**
 * Draws rows `top`…`bottom` of a piece; 255 is paper in RGB, and no ink in inks, as the interpreter clears both.
 * Made bleed lies on whole pixels next to the finished size, so that no seam shows.
 *
 * @param cover one component more says how far each pixel is painted, whatever colour; the others are then what is painted on
 *   nothing: inks as they would be, screen colours less what shows through
 * @returns a pixmap of the grid's width; the caller destroys it
 */
export function drawPiece(
  piece: Piece,
  drawing: Drawing,
  grid: PieceGrid,
  top: number,
  bottom: number,
  cover = false
): mupdf.Pixmap {
  if (grid.turn % 90 !== 0) return drawAtAngle(piece, drawing, grid, top, bottom, cover);
  const window: mupdf.Rect = [grid.x, top, grid.x + grid.width, bottom];
  return piece.from ? drawTiles(piece, drawing, grid, window, cover) : drawWindow(piece, drawing, grid, window, cover);
}

/** Pixels of what parts of a whole are drawn in: large, since each goes through all of the page, and not so high that bands draw much twice. */
const TILE = { width: 2048, height: 512 };

/**
 * A part of a whole, in tiles of that: how the interpreter rounds depends on where it begins to draw, and so another part that has
 * some of the same tiles prints the same there, to the last bit.
 */
function drawTiles(piece: Piece, drawing: Drawing, grid: PieceGrid, window: mupdf.Rect, cover: boolean): mupdf.Pixmap {
  const { x: left, y: top } = wholeOrigin(piece, grid);
  const pixmap = blank(drawing, window, cover);
  const first = (at: number, origin: number, side: number) => origin + Math.floor((at - origin) / side) * side;
  for (let y = first(window[1], top, TILE.height); y < window[3]; y += TILE.height)
    for (let x = first(window[0], left, TILE.width); x < window[2]; x += TILE.width) {
      // From the tile's own corner, and all of it: the same figures whichever part it is drawn for.
      const own = { ...grid, x: grid.x - x, y: grid.y - y };
      const tile = drawWindow(piece, drawing, own, [0, 0, TILE.width, TILE.height], cover);
      copyInto(pixmap, tile, x, y);
      tile.destroy();
    }
  return pixmap;
}

/** Where the whole that a piece is a part of begins on the grid of the piece. */
function wholeOrigin({ widthMm, heightMm, bleed, from = { x: 0, y: 0 } }: Piece, grid: PieceGrid): Point {
  const all = sizeBeyond(widthMm, heightMm, bleed);
  const upright = turnedSize(grid.width, grid.height, -grid.turn);
  const before = { x: (-from.x * upright.width) / all.width, y: (-from.y * upright.height) / all.height };
  const { x, y } = apply(turnedInPlace(upright.width, upright.height, grid.turn), before);
  return { x: grid.x + Math.round(x), y: grid.y + Math.round(y) };
}

/** Copies what of one lies within another. @param x where the first begins on the other */
function copyInto(to: mupdf.Pixmap, from: mupdf.Pixmap, x: number, y: number): void {
  const [x0 = 0, y0 = 0, x1 = 0, y1 = 0] = to.getBounds();
  const n = to.getNumberOfComponents();
  const [left, right] = [Math.max(x, x0), Math.min(x + from.getWidth(), x1)];
  const [source, into] = [from.getPixels(), to.getPixels()];
  for (let row = Math.max(y, y0); row < Math.min(y + from.getHeight(), y1); row++) {
    const at = ((row - y) * from.getWidth() + left - x) * n;
    into.set(source.subarray(at, at + (right - left) * n), ((row - y0) * (x1 - x0) + left - x0) * n);
  }
}

/** What of a piece lies in a window of its grid, which may reach beyond it where it is a part of a whole. */
function drawWindow(piece: Piece, drawing: Drawing, grid: PieceGrid, window: mupdf.Rect, cover: boolean): mupdf.Pixmap {
  const { bleed } = piece.prepare;
  const own: mupdf.Rect = [grid.x, grid.y, grid.x + grid.width, grid.y + grid.height];
  const finished = innerRect(piece, grid);
  // Parts of a whole are all to its scale, whatever their edges are rounded to.
  const matrix = contentMatrix(piece, drawing, piece.from ? innerRect(piece, grid, true) : finished, grid.turn);
  const pixmap = blank(drawing, window, cover);
  if (!hasMadeBleed(piece)) {
    drawInto(pixmap, drawing, matrix as mupdf.Matrix);
    return pixmap;
  }
  if (bleed.from === 'colour') {
    fill(pixmap, flatColour(bleed.colour, drawing));
    blit(pixmap, drawing, matrix, piece.from ? goingOn(own, finished, window) : finished);
    return pixmap;
  }
  const how = bleed.from === 'stretch' ? 'stretch' : 'mirror';
  const columns = edgeMaps(how, [own[0], finished[0], finished[2], own[2]]);
  const rows = edgeMaps(how, [own[1], finished[1], finished[3], own[3]]);
  // A part is drawn as far as the window goes, and what is made of its edges over it: parts beside each other differ in those alone.
  const area = (map: EdgeMap, from: number, to: number): [number, number] =>
    piece.from && map.scale === 1 ? [from, to] : [map.from, map.to];
  for (const [column, row] of insideFirst(columns, rows)) {
    const turn: Matrix = [column.scale, 0, 0, row.scale, column.shift, row.shift];
    const [x0, x1] = area(column, window[0], window[2]);
    const [y0, y1] = area(row, window[1], window[3]);
    blit(pixmap, drawing, chain(matrix, turn), [x0, y0, x1, y1]);
  }
  return pixmap;
}

/** Every column with every row, those of the finished size before those beside it. */
const insideFirst = (columns: readonly EdgeMap[], rows: readonly EdgeMap[]): [EdgeMap, EdgeMap][] =>
  columns.flatMap((column) => rows.map((row): [EdgeMap, EdgeMap] => [column, row])).sort((p, q) => beside(p) - beside(q));
const beside = ([column, row]: readonly [EdgeMap, EdgeMap]): number => Number(column.scale !== 1) + Number(row.scale !== 1);

/** The finished size, going on where a part of a whole has no bleed. */
const goingOn = (own: mupdf.Rect, finished: mupdf.Rect, window: mupdf.Rect): mupdf.Rect =>
  finished.map((at, i) => (own[i] !== at ? at : i < 2 ? Math.min(at, window[i]!) : Math.max(at, window[i]!))) as mupdf.Rect;

/** The same at an angle that keeps no edge on whole pixels: made bleed first, a little too far in, then the finished size on it. */
function drawAtAngle(piece: Piece, drawing: Drawing, grid: PieceGrid, top: number, bottom: number, cover: boolean): mupdf.Pixmap {
  const { widthMm, heightMm, bleed: beyond, prepare } = piece;
  const box = turnedSize(widthMm + beyond.left + beyond.right, heightMm + beyond.top + beyond.bottom, grid.turn);
  const toGrid = turnedToGrid(piece, grid);
  const content = drawingToFinished(piece, drawing);
  const pixmap = blank(drawing, [grid.x, top, grid.x + grid.width, bottom], cover);
  const { bleed } = prepare;
  if (bleed.from === 'page' || !hasAny(beyond)) {
    drawInto(pixmap, drawing, chain(content, toGrid) as mupdf.Matrix);
    return pixmap;
  }
  if (bleed.from === 'colour') fill(pixmap, flatColour(bleed.colour, drawing));
  else {
    const how = bleed.from === 'stretch' ? 'stretch' : 'mirror';
    const overlap = (2 * box.width) / grid.width;
    const edge = (EDGE_PX * box.width) / grid.width;
    const columns = edgeMaps(how, [-beyond.left, 0, widthMm, widthMm + beyond.right], edge);
    const rows = edgeMaps(how, [-beyond.top, 0, heightMm, heightMm + beyond.bottom], edge);
    for (const column of columns)
      for (const row of rows) {
        const part = chain(content, [column.scale, 0, 0, row.scale, column.shift, row.shift]);
        const area = { x0: column.from - overlap, y0: row.from - overlap, x1: column.to + overlap, y1: row.to + overlap };
        drawWithin(pixmap, drawing, chain(part, toGrid), area, toGrid);
      }
  }
  drawWithin(pixmap, drawing, chain(content, toGrid), { x0: 0, y0: 0, x1: widthMm, y1: heightMm }, toGrid);
  return pixmap;
}

/** Draws what of a drawing lies in an area of the finished size. */
function drawWithin(
  pixmap: mupdf.Pixmap,
  drawing: Drawing,
  matrix: Matrix,
  { x0, y0, x1, y1 }: { x0: number; y0: number; x1: number; y1: number },
  toGrid: Matrix
): void {
  const device = new mupdf.DrawDevice(mupdf.Matrix.identity, pixmap);
  const path = new mupdf.Path();
  path.moveTo(x0, y0);
  path.lineTo(x1, y0);
  path.lineTo(x1, y1);
  path.lineTo(x0, y1);
  path.closePath();
  try {
    device.clipPath(path, false, toGrid as mupdf.Matrix);
    drawing.list.run(device, matrix as mupdf.Matrix);
    device.popClip();
  } finally {
    device.close();
    device.destroy();
    path.destroy();
  }
}

interface EdgeMap {
  from: number;
  to: number;
  /** Where the finished size is drawn so that this part shows its bleed: x' = scale·x + shift. */
  scale: number;
  shift: number;
}

/** Before, inside and after the finished size, along one direction. */
function edgeMaps(
  how: 'mirror' | 'stretch',
  [start, first, last, end]: [number, number, number, number],
  edge = EDGE_PX
): EdgeMap[] {
  const beside = (from: number, to: number, at: number): EdgeMap[] => {
    if (to <= from) return [];
    const scale = how === 'mirror' ? -1 : (from - to) / edge;
    return [{ from, to, scale, shift: at - scale * at }];
  };
  return [...beside(start, first, first), { from: first, to: last, scale: 1, shift: 0 }, ...beside(last, end, last)];
}

/** Draws the part of a drawing that lies in `area` (whole pixels), and nothing beside it. */
function blit(pixmap: mupdf.Pixmap, drawing: Drawing, matrix: Matrix, area: mupdf.Rect): void {
  const [px0 = 0, py0 = 0, px1 = 0, py1 = 0] = pixmap.getBounds();
  const [x0, y0, x1, y1] = [Math.max(area[0], px0), Math.max(area[1], py0), Math.min(area[2], px1), Math.min(area[3], py1)];
  if (x1 <= x0 || y1 <= y0) return;
  const part = blank(drawing, [x0, y0, x1, y1], pixmap.getAlpha() > 0);
  drawInto(part, drawing, matrix as mupdf.Matrix);
  const n = part.getNumberOfComponents();
  const from = part.getPixels();
  const to = pixmap.getPixels();
  const take = (x1 - x0) * n;
  const stride = (px1 - px0) * n;
  for (let y = y0; y < y1; y++) {
    to.set(from.subarray((y - y0) * take, (y - y0 + 1) * take), (y - py0) * stride + (x0 - px0) * n);
  }
  part.destroy();
}

function fill(pixmap: mupdf.Pixmap, colour: Uint8Array): void {
  const pixels = pixmap.getPixels();
  const pixel = pixmap.getAlpha() ? [...colour, 255] : colour;
  for (let i = 0; i < pixels.length; i++) pixels[i] = pixel[i % pixel.length]!;
}

/** A screen colour as the drawing's components. */
function flatColour(colour: readonly number[], drawing: Drawing): Uint8Array {
  const one = new mupdf.Pixmap(drawing.rgb, [0, 0, 1, 1], false);
  one.getPixels().set(colour);
  const turned = one.convertToColorSpace(drawing.target, false);
  const components = Uint8Array.from(turned.getPixels());
  one.destroy();
  turned.destroy();
  return components;
}

/** Pixels of a grid → finished size in mm, for finding again what was seen on a drawing. */
export function gridToFinished(piece: Piece, width: number, height: number): Matrix {
  const { left, top } = piece.bleed;
  const all = sizeBeyond(piece.widthMm, piece.heightMm, piece.bleed);
  return [all.width / width, 0, 0, all.height / height, -left, -top];
}
