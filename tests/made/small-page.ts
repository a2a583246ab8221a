import { makeDrawing } from '../../core/artwork/drawing';
import { drawingChoices, drawPiece } from '../../core/artwork/piece';
import { wholePage, type Preparation } from '../../core/artwork/preparation';
import type { ColourTarget, InkSpace } from '../../core/artwork/resolver/resolver';
import { evenSides } from '../../core/geometry/box';
import { openBytes } from './opened';
import { rawPdf, rawStream } from './pdf';

/** Small made pages of 20 × 20 mm, and the inks that come of them. */

export const SIDE = 20;
export const PT = 72 / 25.4;
export const ALL_OVER = `0 0 ${SIDE} ${SIDE} re f`;

/** A page in mm; objects from number 5 on are the caller's. */
export const smallPage = (content: string, resources = '', objects: string[] = []): Buffer =>
  rawPdf([
    '<</Type/Catalog/Pages 2 0 R>>',
    '<</Type/Pages/Kids[3 0 R]/Count 1>>',
    `<</Type/Page/Parent 2 0 R/MediaBox[0 0 ${SIDE * PT} ${SIDE * PT}]/Contents 4 0 R/Resources<<${resources}>>>>`,
    rawStream('', `${PT} 0 0 ${PT} 0 0 cm\n${content}`),
    ...objects
  ]);

/** The pixels of a page, one a millimetre. @returns those at a place, in mm from the top left corner */
export function drawnOn(target: InkSpace | ColourTarget, bytes: Buffer, over: Partial<Preparation> = {}) {
  const document = openBytes(bytes);
  const size = { widthMm: SIDE, heightMm: SIDE };
  const piece = { ...size, bleed: evenSides(0), prepare: { ...wholePage(size), ...over } };
  const drawing = makeDrawing(document, 0, drawingChoices(piece), target);
  const pixmap = drawPiece(piece, drawing, { x: 0, y: 0, width: SIDE, height: SIDE, turn: 0 }, 0, SIDE);
  const n = pixmap.getNumberOfComponents();
  const pixels = Uint8Array.from(pixmap.getPixels());
  pixmap.destroy();
  document.destroy();
  return (x = 10, y = 10): number[] => [...pixels.subarray((y * SIDE + x) * n, (y * SIDE + x) * n + n)];
}
