import * as mupdf from 'mupdf';
import { chain, type Matrix } from '../geometry/matrix';
import { MM_PER_POINT } from '../units/length';
import { drawInto, type Drawing, type DrawingChoices } from './drawing';
import { enlargement, pageToFinished, type FinishedSize, type Preparation } from './preparation';

/** A piece: a page at its finished size, with the bleed around it that prints. */
export interface Piece extends FinishedSize {
  bleedMm: number;
  prepare: Preparation;
}

/** What a piece is drawn on: pixels of the whole piece, bleed included, and a quarter turn clockwise or none. */
export interface PieceGrid {
  x: number;
  y: number;
  width: number;
  height: number;
  turned: boolean;
}

/** What of a piece is settled as its page is drawn. */
export const drawingChoices = (piece: Piece): DrawingChoices => ({
  ...piece.prepare,
  enlargement: enlargement(piece.prepare, piece)
});

/** Edge colours are taken from a strip this wide, pixels. */
const EDGE_PX = 1;

/** Points of the drawing → pixels; the finished size fills `inner` exactly. */
function contentMatrix(piece: Piece, drawing: Drawing, inner: mupdf.Rect, turned: boolean): Matrix {
  const [x0, y0] = drawing.finished;
  const toPage: Matrix = [MM_PER_POINT, 0, 0, MM_PER_POINT, -x0 * MM_PER_POINT, -y0 * MM_PER_POINT];
  const finished = chain(toPage, pageToFinished(piece.prepare, piece));
  const laid = turned ? chain(finished, [0, 1, -1, 0, piece.heightMm, 0]) : finished;
  const width = turned ? piece.heightMm : piece.widthMm;
  const height = turned ? piece.widthMm : piece.heightMm;
  return chain(laid, [(inner[2] - inner[0]) / width, 0, 0, (inner[3] - inner[1]) / height, inner[0], inner[1]]);
}

/**
 * Draws rows `top`…`bottom` of a piece; 255 is paper in RGB, and no ink in inks, as the interpreter clears both.
 * Made bleed lies on whole pixels next to the finished size, so that no seam shows.
 *
 * @returns a pixmap of the grid's width; the caller destroys it
 */
export function drawPiece(piece: Piece, drawing: Drawing, grid: PieceGrid, top: number, bottom: number): mupdf.Pixmap {
  const whole: mupdf.Rect = [grid.x, grid.y, grid.x + grid.width, grid.y + grid.height];
  const across = piece.bleedMm / ((grid.turned ? piece.heightMm : piece.widthMm) + 2 * piece.bleedMm);
  const down = piece.bleedMm / ((grid.turned ? piece.widthMm : piece.heightMm) + 2 * piece.bleedMm);
  const window: mupdf.Rect = [grid.x, top, grid.x + grid.width, bottom];
  const { bleed } = piece.prepare;
  const made = bleed.from !== 'page' && piece.bleedMm > 0;
  // The page's own bleed keeps its exact place; made bleed begins on a whole pixel.
  const bx = made ? Math.round(across * grid.width) : across * grid.width;
  const by = made ? Math.round(down * grid.height) : down * grid.height;
  const inner: mupdf.Rect = [whole[0] + bx, whole[1] + by, whole[2] - bx, whole[3] - by];
  const matrix = contentMatrix(piece, drawing, inner, grid.turned);
  const pixmap = new mupdf.Pixmap(drawing.target, window, false);
  pixmap.clear(255);
  if (!made) {
    drawInto(pixmap, drawing, matrix as mupdf.Matrix);
    return pixmap;
  }
  if (bleed.from === 'colour') {
    fill(pixmap, flatColour(bleed.colour, drawing));
    blit(pixmap, drawing, matrix, inner);
    return pixmap;
  }
  const how = bleed.from === 'stretch' ? 'stretch' : 'mirror';
  const columns = edgeMaps(how, [whole[0], inner[0], inner[2], whole[2]]);
  const rows = edgeMaps(how, [whole[1], inner[1], inner[3], whole[3]]);
  for (const column of columns) {
    for (const row of rows) {
      const turn: Matrix = [column.scale, 0, 0, row.scale, column.shift, row.shift];
      blit(pixmap, drawing, chain(matrix, turn), [column.from, row.from, column.to, row.to]);
    }
  }
  return pixmap;
}

interface EdgeMap {
  from: number;
  to: number;
  /** Where the finished size is drawn so that this part shows its bleed: x' = scale·x + shift. */
  scale: number;
  shift: number;
}

/** Before, inside and after the finished size, along one direction. */
function edgeMaps(how: 'mirror' | 'stretch', [start, first, last, end]: [number, number, number, number]): EdgeMap[] {
  const inside = { from: first, to: last, scale: 1, shift: 0 };
  const bleed = first - start;
  if (bleed <= 0) return [inside];
  const scale = how === 'mirror' ? -1 : -bleed / EDGE_PX;
  return [
    { from: start, to: first, scale, shift: first - scale * first },
    inside,
    { from: last, to: end, scale, shift: last - scale * last }
  ];
}

/** Draws the part of a drawing that lies in `area` (whole pixels), and nothing beside it. */
function blit(pixmap: mupdf.Pixmap, drawing: Drawing, matrix: Matrix, area: mupdf.Rect): void {
  const [px0 = 0, py0 = 0, px1 = 0, py1 = 0] = pixmap.getBounds();
  const [x0, y0, x1, y1] = [Math.max(area[0], px0), Math.max(area[1], py0), Math.min(area[2], px1), Math.min(area[3], py1)];
  if (x1 <= x0 || y1 <= y0) return;
  const part = new mupdf.Pixmap(drawing.target, [x0, y0, x1, y1], false);
  part.clear(255);
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
  for (let i = 0; i < pixels.length; i++) pixels[i] = colour[i % colour.length] as number;
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
  const across = (piece.widthMm + 2 * piece.bleedMm) / width;
  const down = (piece.heightMm + 2 * piece.bleedMm) / height;
  return [across, 0, 0, down, -piece.bleedMm, -piece.bleedMm];
}
