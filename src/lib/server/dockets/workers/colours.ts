import { gzipSync } from 'node:zlib';
import { makeDrawing } from '$core/artwork/drawing';
import { drawingChoices, drawPiece, type Piece } from '$core/artwork/piece';
import { spotLabs } from '$core/artwork/spot-labs';
import { wideRgbProfile } from '$core/colour/icc-write';
import { wideRgbToXyz, xyzToLab, type Triple } from '$core/colour/lab';
import { openEngine } from '$core/colour/lcms';
import { sizeBeyond } from '$core/geometry/box';
import * as mupdf from '$core/interpreter/interpreter';
import { openInkSpace, readSources, type InkSpaceFiles } from '../../conditions/workers/ink-space';
import { openKernels } from '../../platform/workers/kernels-file';
import { openPdfFile } from '../../platform/workers/open-pdf';
import { sizeOf } from './size';

export interface SpotLabsRequest {
  pdf: string;
  page: number;
  sources: InkSpaceFiles['sources'];
}

/** What a page means by its spot colours. */
export async function spotLabsOf({ pdf, page, sources }: SpotLabsRequest): Promise<Record<string, Triple>> {
  const opened = openPdfFile(pdf);
  try {
    return Object.fromEntries(spotLabs(opened.document, page, readSources(sources), await openEngine()));
  } finally {
    opened.close();
  }
}

export interface ColourAtRequest extends SpotLabsRequest {
  piece: Piece;
  /** mm of the finished size. */
  place: { x: number; y: number };
}

/** So finely it is looked at that edges are not mixed with what is beside them; of large pieces a row has at most so many. */
const PIXELS_A_MM = 20;
const MOST_PIXELS = 40_000;

/** The colour that is painted at a place, as the file has it, under D50. */
export function colourAt({ pdf, page, piece, sources, place }: ColourAtRequest): Triple {
  const opened = openPdfFile(pdf);
  try {
    const wide = wideRgbProfile();
    const target = { target: new mupdf.ColorSpace(wide, 'wide'), profile: wide, sources: readSources(sources) };
    const drawing = makeDrawing(opened.document, page, drawingChoices(piece), target);
    const size = sizeBeyond(piece.widthMm, piece.heightMm, piece.bleed);
    const scale = Math.min(PIXELS_A_MM, MOST_PIXELS / Math.max(size.width, size.height));
    const [width, height] = [size.width, size.height].map((mm) => Math.max(1, Math.round(mm * scale))) as [number, number];
    const at = (mm: number, all: number, pixels: number) => Math.min(pixels - 1, Math.max(0, Math.floor((mm / all) * pixels)));
    const [x, y] = [at(place.x + piece.bleed.left, size.width, width), at(place.y + piece.bleed.top, size.height, height)];
    const row = drawPiece(piece, drawing, { x: 0, y: 0, width, height, turn: 0 }, y, y + 1);
    const pixels = row.getPixels();
    const rgb = [0, 1, 2].map((i) => pixels[x * 3 + i]! / 255) as Triple;
    row.destroy();
    drawing.list.destroy();
    return xyzToLab(wideRgbToXyz(rgb));
  } finally {
    opened.close();
  }
}

export interface InksRequest extends InkSpaceFiles {
  pdf: string;
  page: number;
  piece: Piece;
  kernels: string;
  mostPx: number;
}

/** A piece in its condition's inks, before tone: its width and height, 32 bits each, then four bytes a pixel. @returns all of it as gzip */
export async function inksDrawn({ pdf, page, piece, mostPx, kernels, ...files }: InksRequest): Promise<Uint8Array> {
  const inks = await openInkSpace({ ...files, adjustment: piece.prepare.adjustment }, openKernels(kernels));
  const opened = openPdfFile(pdf);
  try {
    const { width, height } = sizeOf(piece, mostPx);
    const drawing = makeDrawing(opened.document, page, drawingChoices(piece), inks);
    const pixmap = drawPiece(piece, drawing, { x: 0, y: 0, width, height, turn: 0 }, 0, height);
    const bytes = new Uint8Array(8 + width * height * 4);
    const view = new DataView(bytes.buffer);
    view.setUint32(0, width, true);
    view.setUint32(4, height, true);
    bytes.set(pixmap.getPixels(), 8);
    pixmap.destroy();
    drawing.list.destroy();
    return gzipSync(bytes, { level: 1 });
  } finally {
    opened.close();
  }
}
