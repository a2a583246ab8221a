import * as mupdf from '$core/interpreter/interpreter';
import { makeDrawing, drawInto } from '$core/artwork/drawing';
import { ArtworkError } from '$core/artwork/facts';
import type { Box } from '$core/geometry/box';
import { showLayers } from '$core/artwork/layers';
import { pageOutlines } from '$core/artwork/outlines';
import { finishedBox, forwarding, pageBoxes, runPage, without, type DrawingCalls, type LeftOut } from '$core/artwork/page';
import { deltaE00, srgbToXyz, xyzToLab, type Triple } from '$core/colour/lab';
import { MOST_OUTLINE } from '$core/artwork/cut-choices';
import { fitRing } from '$core/cutting/fit';
import { outlineOf, FIELD_STEPS_A_DELTA, type Field } from '$core/cutting/trace-outline';
import type { Matrix } from '$core/geometry/matrix';
import { pathData, type Path } from '$core/geometry/path';
import { MM_PER_POINT } from '$core/units/length';
import type { Kernels } from '$core/kernels/kernels';
import { readSources, type InkSpaceFiles } from '../../conditions/workers/ink-space';
import { openKernels } from '../../platform/workers/kernels-file';
import { openPdfFile } from '../../platform/workers/open-pdf';

export interface FieldRequest {
  pdf: string;
  page: number;
  leftOut: LeftOut;
  sources: InkSpaceFiles['sources'];
  kernels: string;
  how: 'opaque' | 'background';
  /** sRGB 0…255; none for the colour that the page's corners have. */
  background: [number, number, number] | null;
  /** What of the page is looked at, mm from the trim box's corner. */
  area: Box;
  /** Pixels of the longer side. */
  px: number;
}

const MOST_PIXELS = 26e6;
export function field(request: FieldRequest): Field {
  const { area } = request;
  const longest = Math.max(area.width, area.height);
  const scale = Math.min(request.px / longest, Math.sqrt(MOST_PIXELS / (area.width * area.height)));
  const width = Math.max(1, Math.round(area.width * scale));
  const height = Math.max(1, Math.round(area.height * scale));
  const toPage: Matrix = [area.width / width, 0, 0, area.height / height, area.x, area.y];
  const opened = openPdfFile(request.pdf);
  try {
    const found =
      request.how === 'opaque'
        ? opacity(opened.document, request, width, height)
        : difference(opened.document, request, width, height);
    return { width, height, toPage, ...found };
  } finally {
    opened.close();
  }
}

type Found = Pick<Field, 'samples' | 'background'>;

/** Points of a page → pixels of its area. */
function toPixels({ area }: FieldRequest, finished: mupdf.Rect, width: number, height: number): mupdf.Matrix {
  const sx = (MM_PER_POINT * width) / area.width;
  const sy = (MM_PER_POINT * height) / area.height;
  return [sx, 0, 0, sy, -finished[0] * sx - (area.x * width) / area.width, -finished[1] * sy - (area.y * height) / area.height];
}

/** Only how opaque things are is drawn, so that no picture's colours are decoded where it has a mask. */
function opacity(document: mupdf.PDFDocument, request: FieldRequest, width: number, height: number): Found {
  showLayers(document, request.page, request.leftOut.layers);
  const page = document.loadPage(request.page);
  // Without a colour space a pixmap is opacity alone.
  const pixmap = new mupdf.Pixmap(null as unknown as mupdf.ColorSpace, [0, 0, width, height], true);
  pixmap.clear();
  const draw = new mupdf.DrawDevice(mupdf.Matrix.identity, pixmap);
  const forward = forwarding(draw);
  const masks: DrawingCalls = {
    ...forward,
    fillImage: (image, ctm, alpha) => {
      const mask = image.getMask();
      if (mask) forward.fillImageMask(mask, ctm, mupdf.ColorSpace.DeviceGray, [0], alpha);
      else forward.fillImage(image, ctm, alpha);
    }
  };
  const device = new mupdf.Device(without(masks, request.leftOut));
  runPage(page, device, toPixels(request, finishedBox(pageBoxes(page)), width, height), request.leftOut);
  device.close();
  draw.close();
  const samples = new Uint8Array(pixmap.getPixels());
  pixmap.destroy();
  return { samples, background: null };
}

function difference(document: mupdf.PDFDocument, request: FieldRequest, width: number, height: number): Found {
  const { leftOut } = request;
  const drawing = makeDrawing(
    document,
    request.page,
    {
      leftOut: { ...leftOut, spots: [...leftOut.spots], layers: [...leftOut.layers] },
      enlarged: 'as it suits',
      blackText: false,
      blackPictures: false,
      overprint: true,
      richBlack: false,
      thinnestMm: 0,
      enlargement: 1
    },
    { target: mupdf.ColorSpace.DeviceRGB, sources: readSources(request.sources) }
  );
  const pixmap = new mupdf.Pixmap(mupdf.ColorSpace.DeviceRGB, [0, 0, width, height], false);
  pixmap.clear(255);
  drawInto(pixmap, drawing, toPixels(request, drawing.finished, width, height));
  const pixels = pixmap.getPixels();
  const background = request.background ?? cornerColour(pixels, width, height);
  const samples = distances(pixels, width * height, background, openKernels(request.kernels));
  pixmap.destroy();
  drawing.list.destroy();
  return { samples, background };
}

/** The middle one of the corners' colours, channel by channel. */
function cornerColour(pixels: Uint8ClampedArray, width: number, height: number): [number, number, number] {
  const corners = [0, width - 1, (height - 1) * width, height * width - 1];
  return [0, 1, 2].map((k) => corners.map((i) => pixels[i * 3 + k] as number).sort((p, q) => p - q)[1] ?? 255) as [
    number,
    number,
    number
  ];
}

const GRID = 33;

function distances(pixels: Uint8ClampedArray, count: number, background: [number, number, number], kernels: Kernels): Uint8Array {
  const lab = (rgb: Triple) => xyzToLab(srgbToXyz(rgb));
  const from = lab(background.map((v) => v / 255) as Triple);
  const mark = kernels.mark;
  const table = kernels.allocate(GRID ** 3 * 8);
  const entries = new Uint16Array(kernels.run.memory.buffer, table, GRID ** 3 * 4);
  for (let i = 0; i < GRID ** 3; i++) {
    const rgb = [Math.floor(i / GRID ** 2), Math.floor(i / GRID) % GRID, i % GRID].map((v) => v / (GRID - 1)) as Triple;
    entries[i * 4] = Math.min(255, deltaE00(from, lab(rgb)) * FIELD_STEPS_A_DELTA) * 256;
  }
  const step = 1 << 18;
  const source = kernels.allocate(step * 3);
  const target = kernels.allocate(step * 4);
  const samples = new Uint8Array(count);
  for (let at = 0; at < count; at += step) {
    const n = Math.min(step, count - at);
    kernels.bytes(source, n * 3).set(pixels.subarray(at * 3, (at + n) * 3));
    kernels.run.lookup3(source, n, table, GRID, target);
    const out = kernels.bytes(target, n * 4);
    for (let i = 0; i < n; i++) samples[at + i] = out[i * 4] as number;
  }
  kernels.release(mark);
  return samples;
}

export interface TraceRequest extends Omit<FieldRequest, 'how'> {
  how: FieldRequest['how'] | 'shapes';
  /** Opacity 0…1, or ΔE00. */
  threshold: number;
}

export type TraceAnswer = { ok: true; outline: string } | { ok: false; reason: string };

/** The outline of what a page shows, as path data in mm from the trim box's corner. */
export function trace(request: TraceRequest): TraceAnswer {
  try {
    const path =
      request.how === 'shapes'
        ? shapes(request)
        : outlineOf(field({ ...request, how: request.how }), request.how, request.threshold);
    if (path.length === 0)
      throw new ArtworkError('Nothing is found with this setting. Lower the threshold, or choose another way.');
    const outline = pathData(path, 4);
    if (outline.length > MOST_OUTLINE)
      throw new ArtworkError(
        `The outline has ${path.length.toLocaleString('en-GB')} nodes, too many to cut. Choose another threshold, so that fewer specks are found.`
      );
    return { ok: true, outline };
  } catch (error) {
    if (error instanceof ArtworkError) return { ok: false, reason: error.message };
    throw error;
  }
}

function shapes(request: TraceRequest): Path {
  const opened = openPdfFile(request.pdf);
  try {
    return pageOutlines(opened.document, request.page, request.leftOut).flatMap((ring) => fitRing(ring, 0.01));
  } finally {
    opened.close();
  }
}
