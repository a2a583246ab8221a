import { makeDrawing } from '$core/artwork/drawing';
import { drawingChoices, drawPiece } from '$core/artwork/piece';
import { evenSides } from '$core/geometry/box';
import * as mupdf from '$core/interpreter/interpreter';
import { detailOf, type Detail } from '$core/panels/detail';
import { openPdfFile } from '../../platform/workers/open-pdf';
import { readSources } from '../../conditions/workers/ink-space';
import type { PreviewRequest } from './measure';

/** How much there is to see, place by place, on all of a docket's finished size: seams keep away from it. */
export function detail({ pdf, page, piece, sources, mostPx }: PreviewRequest): Detail {
  const opened = openPdfFile(pdf);
  try {
    const whole = { ...piece, bleed: evenSides(0) };
    const drawing = makeDrawing(opened.document, page, drawingChoices(whole), {
      target: mupdf.ColorSpace.DeviceRGB,
      sources: readSources(sources)
    });
    const scale = mostPx / Math.max(whole.widthMm, whole.heightMm);
    const width = Math.max(2, Math.round(whole.widthMm * scale));
    const height = Math.max(2, Math.round(whole.heightMm * scale));
    const pixmap = drawPiece(whole, drawing, { x: 0, y: 0, width, height, turn: 0 }, 0, height);
    const found = detailOf(Uint8Array.from(pixmap.getPixels()), width, height);
    pixmap.destroy();
    drawing.list.destroy();
    return found;
  } finally {
    opened.close();
  }
}
