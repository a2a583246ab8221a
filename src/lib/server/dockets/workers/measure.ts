import { readFileSync } from 'node:fs';
import * as mupdf from '$core/interpreter/interpreter';
import sharp from 'sharp';
import { makeDrawing } from '$core/artwork/drawing';
import { gamutDeltas, gamutMap, inkAlong, inkMap, GAMUT_STEPS_A_DELTA } from '$core/artwork/maps';
import { drawingChoices, drawOver, drawPiece, gridToFinished, insideOf, type Piece, type PieceGrid } from '$core/artwork/piece';
import { withMargin } from '$core/artwork/piece-layers';
import { tonePixels, toneTablesOf } from '$core/artwork/toned';
import type { ColourTarget, InkSpace } from '$core/artwork/resolver/resolver';
import { usesOverprint } from '$core/artwork/resources';
import type { Measured } from '$core/checks/check';
import { wideRgbProfile } from '$core/colour/icc-write';
import type { Triple } from '$core/colour/lab';
import { openEngine } from '$core/colour/lcms';
import { sizeBeyond } from '$core/geometry/box';
import { apply, invert } from '$core/geometry/matrix';
import type { Polyline } from '$core/geometry/path';
import { mixedPixels, type Mixture } from '$core/inks/mixture';
import { spreadOf } from '$core/inks/spread';
import { marginMm } from '$core/inks/stack';
import type { LaidInk } from '$core/inks/laid-ink';
import type { Kernels } from '$core/kernels/kernels';
import { openInkSpace, readSources, type InkSpaceFiles } from '../../conditions/workers/ink-space';
import { openKernels } from '../../platform/workers/kernels-file';
import { openPdfFile } from '../../platform/workers/open-pdf';
import { drawLayers, type LayersDrawn } from './layers';
import { sizeOf } from './size';

export interface PreviewRequest {
  pdf: string;
  page: number;
  piece: Piece;
  sources: InkSpaceFiles['sources'];
  /** The longer side. */
  mostPx: number;
}

/** A picture of a piece as it will print, bleed included. @returns PNG */
export function preview({ pdf, page, piece, sources, mostPx }: PreviewRequest): Uint8Array {
  const opened = openPdfFile(pdf);
  try {
    const read = readSources(sources);
    // What shows through an overprint is a matter of inks: such a page is drawn in the customer's own, and then seen.
    const inInks = piece.prepare.overprint && usesOverprint(opened.document, page);
    const target = inInks
      ? { target: new mupdf.ColorSpace(read.cmyk, 'source-cmyk'), profile: read.cmyk, sources: read }
      : { target: mupdf.ColorSpace.DeviceRGB, sources: read };
    const drawing = makeDrawing(opened.document, page, drawingChoices(piece), target);
    const { width, height } = sizeOf(piece, mostPx);
    const grid = { x: 0, y: 0, width, height, turn: 0 };
    const drawn = drawPiece(piece, drawing, grid, 0, height);
    const within = insideOf(piece, piece.colourBleed ?? piece.bleed, grid, 0, height);
    const pixmap = inInks ? drawn.convertToColorSpace(mupdf.ColorSpace.DeviceRGB, false) : drawn;
    if (within) {
      // What lies around it beyond its colour is white here: other layers have pictures of their own.
      const rgb = pixmap.getPixels();
      within.forEach((inside, i) => inside === 0 && rgb.fill(255, i * 3, i * 3 + 3));
    }
    const png = Uint8Array.from(pixmap.asPNG());
    pixmap.destroy();
    if (inInks) drawn.destroy();
    drawing.list.destroy();
    return png;
  } finally {
    opened.close();
  }
}

export interface MeasureRequest extends InkSpaceFiles {
  pdf: string;
  page: number;
  piece: Piece;
  /** A file whose first page lies over it: a record. */
  over?: string | undefined;
  kernels: string;
  /** By ink, 256 values → share of the fullest drop. */
  curves: number[][];
  /** By channel, 256 values → what they take of ink, in fullest drops of the print mode. */
  taken: Float64Array[];
  /** What goes before both. */
  mixture?: Mixture;
  totalInk: number;
  gamutDeltaE: number;
  /** Of the finished size, mm. */
  lines: Polyline[];
  /** Where it is more than its colour. */
  stack: Pick<LayersDrawn, 'layers' | 'marks' | 'channels'> | null;
}

/** What is measured of a docket. */
export interface DocketMeasured extends Measured {
  /** The ink of one copy, layer by layer. */
  layers: LaidInk[];
}

export interface MeasureAnswer {
  measured: DocketMeasured;
  /** PNG, the size of the piece with its bleed. */
  ink: Uint8Array;
  gamut: Uint8Array;
  proof: Uint8Array;
}

const MEASURE_PX = 1200;

/** Draws a piece in its condition's inks and tells what only that can tell. */
export async function measure(request: MeasureRequest): Promise<MeasureAnswer> {
  const { piece } = request;
  const kernels = openKernels(request.kernels);
  const { width, height } = sizeOf(piece, MEASURE_PX);
  const grid = { x: 0, y: 0, width, height, turn: 0 };
  const toFinished = gridToFinished(piece, width, height);
  const toBox = (box: { x: number; y: number; width: number; height: number } | null) => {
    if (!box) return null;
    const p = apply(toFinished, box);
    return { ...p, width: box.width * toFinished[0], height: box.height * toFinished[3] };
  };
  const { adjustment, tone } = piece.prepare;
  const inks = await openInkSpace({ ...request, adjustment }, kernels);
  const pixmap = drawWhole(request, inks, grid);
  if (tone) tonePixels(pixmap.getPixels(), toneTablesOf(tone));
  const proofed = pixmap.convertToColorSpace(mupdf.ColorSpace.DeviceRGB, false);
  const proof = Uint8Array.from(proofed.asPNG());
  proofed.destroy();
  const cmyk = Uint8Array.from(pixmap.getPixels());
  pixmap.destroy();
  const ink = inkMap(inInk(cmyk, request, kernels), width, height, request.totalInk);
  const back = invert(toFinished);
  const lines = request.lines.map((line) => ({ ...line, points: line.points.map((p) => apply(back, p)) }));
  const along = lines.length > 0 ? inkAlong(cmyk, width, height, lines) : null;
  const cutPlace = along?.place ? apply(toFinished, along.place) : null;

  const delta = await gamutOf(request, grid, kernels);
  const gamut = gamutMap(delta, 4, width, height, request.gamutDeltaE);
  const png = (picture: Uint8Array) =>
    sharp(picture, { raw: { width, height, channels: 4 } })
      .png()
      .toBuffer();
  return {
    measured: {
      layers: request.stack
        ? inkOfLayers({ ...request, ...request.stack }, request, inks, kernels)
        : [{ id: 1, ink: 'colour', ...laidOn(piece, grid, takenOf(cmyk, request, kernels)) }],
      inked: ink.inked,
      totalInk: { most: ink.most, shareAbove: ink.shareAbove, place: toBox(ink.worst) },
      gamut: { share: gamut.share, mean: gamut.mean, worst: gamut.worst, place: toBox(gamut.place) },
      cutInk: along && {
        share: along.share,
        changes: along.changes,
        place: cutPlace && { x: cutPlace.x - 3, y: cutPlace.y - 3, width: 6, height: 6 }
      }
    },
    ink: await png(ink.picture),
    gamut: await png(gamut.picture),
    proof
  };
}

/** A piece with what lies over it; the caller destroys it. */
function drawWhole({ pdf, page, piece, over }: MeasureRequest, target: InkSpace | ColourTarget, grid: PieceGrid): mupdf.Pixmap {
  const opened = [openPdfFile(pdf), ...(over ? [openPdfFile(over)] : [])];
  try {
    const [drawing, lying] = opened.map(({ document }, i) =>
      makeDrawing(document, i === 0 ? page : 0, drawingChoices(piece), target)
    );
    const pixmap = drawPiece(piece, drawing!, grid, 0, grid.height);
    if (lying) drawOver(pixmap, piece, lying, grid);
    drawing!.list.destroy();
    lying?.list.destroy();
    return pixmap;
  } finally {
    for (const one of opened) one.close();
  }
}

/** What a piece with its bleed takes. @param takenAt by pixel, in full drops */
function laidOn(
  { widthMm, heightMm, bleed }: Piece,
  { width, height }: Pick<PieceGrid, 'width' | 'height'>,
  takenAt: (pixel: number) => number
): Pick<LaidInk, 'm2' | 'spread'> {
  const whole = sizeBeyond(widthMm, heightMm, bleed);
  const { sum, spread } = spreadOf(width, height, takenAt);
  return { m2: ((sum / (width * height)) * whole.width * whole.height) / 1e6, spread };
}

type Through = Pick<MeasureRequest, 'curves' | 'mixture' | 'taken'>;

function inkOfLayers(of: LayersDrawn, through: Through, inks: InkSpace, kernels: Kernels): DocketMeasured['layers'] {
  const piece = withMargin(of.piece, marginMm(of.layers));
  const { width, height } = sizeOf(piece, MEASURE_PX);
  const drawn = drawLayers({ ...of, piece }, inks, kernels, width, height);
  return of.layers.map(({ id, ink }, i) => {
    const pixels = drawn[i]!;
    const full = ink === 'colour' ? 1 : (of.channels[ink] ?? 1);
    const takenAt = ink === 'colour' ? takenOf(pixels, through, kernels) : (pixel: number) => (pixels[pixel]! / 255) * full;
    return { id, ink, ...laidOn(piece, { width, height }, takenAt) };
  });
}

const mixed = (cmyk: Uint8Array, { mixture }: Through, kernels: Kernels): Uint8Array =>
  mixture ? mixedPixels(kernels, mixture, cmyk) : cmyk;

/** What pixels take of ink, in fullest drops of the print mode. */
function takenOf(cmyk: Uint8Array, through: Through, kernels: Kernels): (pixel: number) => number {
  const values = mixed(cmyk, through, kernels);
  const [c, m, y, k] = through.taken as [Float64Array, Float64Array, Float64Array, Float64Array];
  return (pixel) => {
    const i = pixel * 4;
    return c[values[i]!]! + m[values[i + 1]!]! + y[values[i + 2]!]! + k[values[i + 3]!]!;
  };
}

/** What the values become in ink. */
function inInk(cmyk: Uint8Array, through: Through, kernels: Kernels): Uint8Array {
  const { curves } = through;
  const values = mixed(cmyk, through, kernels);
  const tables = curves.map((curve) => Uint8Array.from(curve, (share) => Math.round(share * 255)));
  const out = new Uint8Array(cmyk.length);
  for (let i = 0; i < cmyk.length; i++) out[i] = tables[i & 3]![values[i]!]!;
  return out;
}

const GRID = 33;

/** ΔE00 × 4 of each pixel between what is asked for and what the condition prints, in the first of four bytes. */
async function gamutOf(request: MeasureRequest, grid: PieceGrid, kernels: Kernels): Promise<Uint8Array> {
  const wide = wideRgbProfile();
  const asSeen = { target: new mupdf.ColorSpace(wide, 'wide'), profile: wide, sources: readSources(request.sources) };
  const pixmap = drawWhole(request, asSeen, grid);
  const pixels = Uint8Array.from(pixmap.getPixels());
  pixmap.destroy();
  const points = new Float32Array(GRID ** 3 * 3);
  for (let i = 0, put = 0; i < GRID ** 3; i++) {
    for (const index of [Math.floor(i / GRID ** 2), Math.floor(i / GRID) % GRID, i % GRID]) points[put++] = index / (GRID - 1);
  }
  const engine = await openEngine();
  // The profile's own file: reach is a matter of relative colorimetric, whatever the docket's intent.
  const profile = Uint8Array.from(readFileSync(request.profile));
  const asked = engine.manyToLab(wide, 'RGB')(points);
  const printed = engine.manyToLab(profile, 'CMYK')(engine.deviceToCmyk(wide, 'RGB', profile)(points));
  const black: Triple = [printed[0] ?? 0, printed[1] ?? 0, printed[2] ?? 0];
  const deltas = gamutDeltas(asked, printed, black);

  const mark = kernels.mark;
  const table = kernels.allocate(GRID ** 3 * 8);
  const entries = new Uint16Array(kernels.run.memory.buffer, table, GRID ** 3 * 4);
  deltas.forEach((delta, i) => (entries[i * 4] = Math.min(255, delta * GAMUT_STEPS_A_DELTA) * 256));
  const count = grid.width * grid.height;
  const source = kernels.allocate(count * 3);
  const target = kernels.allocate(count * 4);
  kernels.bytes(source, count * 3).set(pixels.subarray(0, count * 3));
  kernels.run.lookup3(source, count, table, GRID, target);
  const out = Uint8Array.from(kernels.bytes(target, count * 4));
  kernels.release(mark);
  return out;
}
