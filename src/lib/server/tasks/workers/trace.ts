import * as mupdf from 'mupdf';
import { makeDrawing, drawInto } from '$core/artwork/drawing';
import { ArtworkError, type Box } from '$core/artwork/facts';
import { pageOutlines } from '$core/artwork/outlines';
import type { LeftOut } from '$core/artwork/page';
import { deltaE00, srgbToXyz, xyzToLab, type Triple } from '$core/colour/lab';
import { fitRing } from '$core/cutting/fit';
import { outlineOf, STEPS_A_DELTA, type Field } from '$core/cutting/trace-outline';
import type { Matrix } from '$core/geometry/matrix';
import { pathData, type Path } from '$core/geometry/path';
import { MM_PER_POINT } from '$core/units/length';
import type { Kernels } from '$core/kernels/kernels';
import { readSources, type InkSpaceFiles } from './ink-space';
import { openKernels } from './kernels-file';
import { openPdfFile } from './open-pdf';

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
  const { area, how } = request;
  const opened = openPdfFile(request.pdf);
  try {
    const drawing = makeDrawing(
      opened.document,
      request.page,
      {
        leftOut: { spots: [...request.leftOut.spots], layers: [...request.leftOut.layers] },
        blackText: false,
        richBlack: false,
        thinnestMm: 0,
        enlargement: 1
      },
      {
        target: mupdf.ColorSpace.DeviceRGB,
        sources: readSources(request.sources)
      }
    );
    const longest = Math.max(area.width, area.height);
    const scale = Math.min(request.px / longest, Math.sqrt(MOST_PIXELS / (area.width * area.height)));
    const width = Math.max(1, Math.round(area.width * scale));
    const height = Math.max(1, Math.round(area.height * scale));
    const toPage: Matrix = [area.width / width, 0, 0, area.height / height, area.x, area.y];
    const perPoint = (MM_PER_POINT * width) / area.width;
    const perPointY = (MM_PER_POINT * height) / area.height;
    const [x0, y0] = drawing.finished;
    const matrix: mupdf.Matrix = [
      perPoint,
      0,
      0,
      perPointY,
      -x0 * perPoint - (area.x * width) / area.width,
      -y0 * perPointY - (area.y * height) / area.height
    ];
    const pixmap = new mupdf.Pixmap(mupdf.ColorSpace.DeviceRGB, [0, 0, width, height], how === 'opaque');
    if (how === 'opaque') pixmap.clear();
    else pixmap.clear(255);
    drawInto(pixmap, drawing, matrix);
    const pixels = pixmap.getPixels();
    const count = width * height;
    let background = request.background;
    let samples: Uint8Array;
    if (how === 'opaque') {
      samples = new Uint8Array(count);
      for (let i = 0; i < count; i++) samples[i] = pixels[i * 4 + 3] as number;
    } else {
      background ??= cornerColour(pixels, width, height);
      samples = distances(pixels, count, background, openKernels(request.kernels));
    }
    pixmap.destroy();
    drawing.list.destroy();
    return { width, height, samples, toPage, background };
  } finally {
    opened.close();
  }
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
    entries[i * 4] = Math.min(255, deltaE00(from, lab(rgb)) * STEPS_A_DELTA) * 256;
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
    return { ok: true, outline: pathData(path, 4) };
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
