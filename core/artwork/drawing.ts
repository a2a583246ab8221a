import * as mupdf from '../interpreter/interpreter';
import { Ground } from './ground';
import { showLayers } from './layers';
import { finishedBox, forwarding, pageBoxes, runPage, without } from './page';
import type { Preparation } from './preparation';
import { resolvedCalls } from './resolver/calls';
import { settleDocument } from './resolver/document-colours';
import { ownSources } from './resolver/own-sources';
import { PictureResolver } from './resolver/pictures';
import { isInkSpace, PLAIN_STATE, Resolver, type ColourTarget, type InkSpace } from './resolver/resolver';
import { markStates } from './resolver/state-marks';

/** A page as a list of drawing calls, colours settled, what does not print left out, pictures decoded once. */
export interface Drawing {
  list: mupdf.DisplayList;
  /** The trim box in points, in the coordinates of the list. */
  finished: mupdf.Rect;
  /** The ink space that it is drawn in, or RGB for the screen. */
  target: mupdf.ColorSpace;
  /** What is painted over without a hole, in the coordinates of the list; nothing where that is not known. */
  ground?: mupdf.Rect | undefined;
  /** What screen colours are taken to be. */
  rgb: mupdf.ColorSpace;
}

/** What of a preparation is settled as a page is drawn; `enlargement` is the finished size over the page's. */
export type DrawingChoices = Pick<
  Preparation,
  'leftOut' | 'enlarged' | 'blackText' | 'blackPictures' | 'richBlack' | 'thinnestMm' | 'overprint' | 'named' | 'tone'
> & {
  enlargement: number;
};

/**
 * Makes the drawing of a page for a printing condition's inks, or for the screen. Call once a thread and page; draw it as
 * often as needed.
 *
 * @param document a document of its own: its objects are changed, so that nothing in it is without a colour profile
 */
export function makeDrawing(
  document: mupdf.PDFDocument,
  index: number,
  choices: DrawingChoices,
  inks: InkSpace | ColourTarget
): Drawing {
  const { leftOut } = choices;
  const resolver = new Resolver(inks, {
    leftOut: new Set(leftOut.spots),
    blackText: choices.blackText,
    named: choices.named,
    tone: choices.tone
  });
  const pictures = new PictureResolver(resolver, { enlarged: choices.enlarged, blackAlone: choices.blackPictures });
  const sources = ownSources(document, resolver);
  markStates(document, index, {
    overprint: choices.overprint,
    intents: isInkSpace(inks) && inks.intents !== undefined,
    sources
  });
  showLayers(document, index, leftOut.layers);
  const page = document.loadPage(index);
  const boxes = pageBoxes(page);
  const far = Math.hypot(boxes.media[2] - boxes.media[0], boxes.media[3] - boxes.media[1]);
  settleDocument(document, index, resolver, pictures, { blackAlone: choices.blackPictures, far });
  const list = new mupdf.DisplayList(boxes.media);
  const into = new mupdf.DisplayListDevice(list);
  const ground = new Ground();
  const resolved = resolvedCalls(ground.watching(forwarding(into)), resolver, pictures, choices);
  const device = new mupdf.Device(without(resolved, leftOut));
  runPage(page, device, mupdf.Matrix.identity, leftOut);
  device.close();
  device.destroy();
  into.close();
  into.destroy();
  page.destroy();
  return { list, finished: finishedBox(boxes), ground: ground.rect, target: inks.target, rgb: resolver.sources(PLAIN_STATE).rgb };
}

/**
 * Draws a drawing into inks.
 *
 * @param pixmap in the ink space that the drawing was made for, cleared
 * @param matrix points of the drawing → pixels
 */
export function drawInto(pixmap: mupdf.Pixmap, drawing: Drawing, matrix: mupdf.Matrix): void {
  const device = new mupdf.DrawDevice(mupdf.Matrix.identity, pixmap);
  try {
    drawing.list.run(device, matrix);
  } finally {
    device.close();
    device.destroy();
  }
}
