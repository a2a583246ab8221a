import { readFileSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import * as mupdf from 'mupdf';
import sharp from 'sharp';
import { makeDrawing, drawInto } from '$core/artwork/drawing';
import { ArtworkError, type ArtworkFacts } from '$core/artwork/facts';
import { cutSpace, finishedBox, forwarding, pageBoxes, without } from '$core/artwork/page';
import { fontsNotEmbedded, LIMITS, readPageFacts } from '$core/artwork/read-facts';
import { svgToPdf } from '$core/artwork/svg';
import { MM_PER_POINT } from '$core/units/length';
import { openInkSpace, type InkSpaceFiles } from './ink-space';
import { openKernels } from './kernels-file';
import { openPdfFile } from './open-pdf';
import { pictureToPdf } from './picture';
import { formatOf } from './format';

export interface FactsRequest {
  path: string;
  name: string;
  cutNames: string[];
  /** Where a PDF goes that is made of other formats. */
  pdf: string;
}

export type FactsAnswer = { ok: true; facts: ArtworkFacts; madePdf: boolean } | { ok: false; reason: string };

/** Reads what a file holds; makes a PDF of it where it is none. */
export async function facts(request: FactsRequest): Promise<FactsAnswer> {
  try {
    const format = await formatOf(request.path);
    const notes: string[] = [];
    if (format === 'SVG') {
      const made = await svgToPdf(readFileSync(request.path, 'utf8'), request.cutNames, (svg) =>
        sharp(Buffer.from(svg), { density: 300, limitInputPixels: 200e6 }).png().toBuffer()
      );
      notes.push(...made.notes);
      await writeFile(request.pdf, made.pdf);
    } else if (format !== 'PDF') notes.push(...(await pictureToPdf(request.path, format, request.pdf)));
    const opened = openPdfFile(format === 'PDF' ? request.path : request.pdf);
    try {
      const count = opened.document.countPages();
      if (count < 1) throw new ArtworkError('The file has no pages.');
      if (count > LIMITS.pages) throw new ArtworkError(`The file has ${count} pages; ${LIMITS.pages} are the most.`);
      const pages = Array.from({ length: count }, (_, index) => readPageFacts(opened.document, index, request.cutNames));
      if (pages.every((page) => page.objects === 0)) throw new ArtworkError('The file is empty: nothing is drawn on any page.');
      return {
        ok: true,
        madePdf: format !== 'PDF',
        facts: { format, pages, fontsNotEmbedded: fontsNotEmbedded(opened.document), notes }
      };
    } finally {
      opened.close();
    }
  } catch (error) {
    const text = error instanceof Error ? error.message : String(error);
    return { ok: false, reason: error instanceof ArtworkError ? text : `The file cannot be read (${text.slice(0, 160)}).` };
  }
}

export interface PreviewRequest {
  pdf: string;
  page: number;
  cutNames: string[];
  widthPx: number;
  bleedMm: number;
}

/** A picture of the finished size with the page's bleed around it, cut lines left out. @returns PNG */
export function preview({ pdf, page: index, cutNames, widthPx, bleedMm }: PreviewRequest): Uint8Array {
  const opened = openPdfFile(pdf);
  try {
    const page = opened.document.loadPage(index);
    const box = finishedBox(pageBoxes(page));
    const bleed = bleedMm / MM_PER_POINT;
    const [x0, y0, x1, y1] = [box[0] - bleed, box[1] - bleed, box[2] + bleed, box[3] + bleed];
    const scale = Math.min(widthPx / (x1 - x0), (4 * widthPx) / (y1 - y0));
    const width = Math.max(1, Math.round((x1 - x0) * scale));
    const height = Math.max(1, Math.round((y1 - y0) * scale));
    const pixmap = new mupdf.Pixmap(mupdf.ColorSpace.DeviceRGB, [0, 0, width, height], false);
    pixmap.clear(255);
    const draw = new mupdf.DrawDevice(mupdf.Matrix.identity, pixmap);
    const device = new mupdf.Device(without(forwarding(draw), cutSpace(cutNames)));
    page.runPageContents(device, [scale, 0, 0, scale, -x0 * scale, -y0 * scale]);
    device.close();
    draw.close();
    return Uint8Array.from(pixmap.asPNG());
  } finally {
    opened.close();
  }
}

export interface InkRequest extends InkSpaceFiles {
  pdf: string;
  page: number;
  cutNames: string[];
  kernels: string;
}

/** Mean ink of the finished size, C, M, Y, K in 0…1, from a small drawing in the condition's inks. */
export async function ink(request: InkRequest): Promise<number[]> {
  const inks = await openInkSpace(request, openKernels(request.kernels));
  const opened = openPdfFile(request.pdf);
  try {
    const drawing = makeDrawing(opened.document, request.page, request.cutNames, inks);
    const [x0, y0, x1, y1] = drawing.finished;
    const scale = 600 / Math.max(x1 - x0, y1 - y0);
    const pixmap = new mupdf.Pixmap(
      inks.target,
      [0, 0, Math.max(1, Math.ceil((x1 - x0) * scale)), Math.max(1, Math.ceil((y1 - y0) * scale))],
      false
    );
    pixmap.clear(255);
    drawInto(pixmap, drawing, [scale, 0, 0, scale, -x0 * scale, -y0 * scale]);
    const sums = [0, 0, 0, 0];
    const pixels = pixmap.getPixels();
    for (let i = 0; i < pixels.length; i++) sums[i & 3] = (sums[i & 3] ?? 0) + (pixels[i] ?? 0);
    pixmap.destroy();
    return sums.map((sum) => sum / 255 / (pixels.length / 4));
  } finally {
    opened.close();
  }
}
