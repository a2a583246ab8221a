import * as mupdf from '../interpreter/interpreter';
import type { Drawing } from './drawing';
import { markGradients } from './marked-gradients';
import { showLayers } from './layers';
import { finishedBox, forwarding, pageBoxes, PROCESS_NAMES, runPage, spotNames, type DrawingCalls, type LeftOut } from './page';

/** What a file itself marks as lying under or over its colour: spot colours and layers whose role is white, varnish or primer. */

/** Names of spot colours and of layers. */
export interface Marks {
  spots: readonly string[];
  layers: readonly string[];
}

/**
 * A page as what of it is marked, in grey: paper is none, black is all. A tint of a spot colour counts as much as it is, all
 * that stands on a layer counts in full, and opacities count. Other objects neither add to it nor hide it.
 *
 * @param document a document of its own: its layers are switched
 */
export function makeMarkedDrawing(document: mupdf.PDFDocument, index: number, marks: Marks, leftOut: LeftOut): Drawing {
  const grey = mupdf.ColorSpace.DeviceGray;
  const own = new Set(marks.layers);
  showLayers(
    document,
    index,
    leftOut.layers.filter((name) => !own.has(name))
  );
  const gradients = markGradients(document, index, new Set(marks.spots));
  const page = document.loadPage(index);
  const boxes = pageBoxes(page);
  const list = new mupdf.DisplayList(boxes.media);
  const into = new mupdf.DisplayListDevice(list);
  const device = new mupdf.Device(markedCalls(forwarding(into), marks, grey, boxes.media, gradients));
  runPage(page, device, mupdf.Matrix.identity, leftOut);
  device.close();
  device.destroy();
  into.close();
  into.destroy();
  page.destroy();
  return { list, finished: finishedBox(boxes), target: grey, rgb: mupdf.ColorSpace.DeviceRGB };
}

/** @param gradients those of the page say themselves how much of them is marked */
function markedCalls(
  forward: DrawingCalls,
  marks: Marks,
  grey: mupdf.ColorSpace,
  page: mupdf.Rect,
  gradients: boolean
): DrawingCalls {
  const spots = new Set(marks.spots);
  const layers = new Set(marks.layers);
  /** Layers that are open: whether each is marked. */
  const open: boolean[] = [];
  /** What is drawn into a soft mask says where, and not what. */
  let masks = 0;
  const onLayer = () => open.includes(true);

  /** How much of an object counts, 0…1; nothing where it is not marked. */
  const share = (space: mupdf.ColorSpace | null, color: readonly number[]): number | undefined => {
    if (onLayer()) return 1;
    const names = spotNames(space);
    const tints = names.flatMap((name, i) => (spots.has(name) && !PROCESS_NAMES.has(name) ? [color[i] ?? 0] : []));
    return tints.length > 0 ? Math.max(...tints) : undefined;
  };
  const paint = (
    space: mupdf.ColorSpace,
    color: mupdf.Color,
    draw: (space: mupdf.ColorSpace, color: mupdf.Color) => void
  ): void => {
    if (masks > 0) return draw(space, color);
    const much = share(space, color);
    if (much !== undefined) draw(grey, [1 - much]);
  };
  return {
    ...forward,
    fillPath: (path, evenOdd, ctm, space, color, alpha) =>
      paint(space, color, (s, c) => forward.fillPath(path, evenOdd, ctm, s, c, alpha)),
    strokePath: (path, stroke, ctm, space, color, alpha) =>
      paint(space, color, (s, c) => forward.strokePath(path, stroke, ctm, s, c, alpha)),
    fillText: (text, ctm, space, color, alpha) => paint(space, color, (s, c) => forward.fillText(text, ctm, s, c, alpha)),
    strokeText: (text, stroke, ctm, space, color, alpha) =>
      paint(space, color, (s, c) => forward.strokeText(text, stroke, ctm, s, c, alpha)),
    fillImageMask: (image, ctm, space, color, alpha) =>
      paint(space, color, (s, c) => forward.fillImageMask(image, ctm, s, c, alpha)),
    fillShade: (shade, ctm, alpha) => {
      if (masks > 0 || (gradients && !onLayer())) return forward.fillShade(shade, ctm, alpha);
      if (!onLayer()) return;
      // On a layer it counts in full, as far as it reaches: one whose colours were taken is not asked.
      const reach = gradients ? page : mupdf.Rect.transform(shade.getBounds(), ctm);
      const area = new mupdf.Path();
      area.rect(...(reach.every(Number.isFinite) ? reach : page));
      forward.fillPath(area, false, mupdf.Matrix.identity, grey, [0], alpha);
      area.destroy();
    },
    fillImage: (image, ctm, alpha) => {
      if (masks > 0) return forward.fillImage(image, ctm, alpha);
      const names = spotNames(image.getColorSpace());
      if (onLayer() || names.some((name) => spots.has(name))) {
        const marked = markedPicture(image, names, spots, grey, onLayer());
        forward.fillImage(marked, ctm, alpha);
      }
    },
    beginMask: (...call) => {
      masks++;
      forward.beginMask(...call);
    },
    endMask: () => {
      masks--;
      forward.endMask();
    },
    // Groups mix in grey, as all that is drawn here is.
    beginGroup: (area, space, ...rest) => forward.beginGroup(area, masks > 0 ? space : grey, ...rest),
    beginLayer: (name) => {
      open.push(layers.has(name));
      forward.beginLayer(name);
    },
    endLayer: () => {
      open.pop();
      forward.endLayer();
    }
  };
}

/** A picture as how much of it is marked: its tints of the names, or all of it; its own transparency stays. */
function markedPicture(
  image: mupdf.Image,
  names: readonly string[],
  spots: ReadonlySet<string>,
  grey: mupdf.ColorSpace,
  whole: boolean
): mupdf.Image {
  const mask = image.getMask() ?? undefined;
  const channels = names.flatMap((name, i) => (spots.has(name) ? [i] : []));
  const decoded = whole ? undefined : image.toPixmap();
  const box: mupdf.Rect = [0, 0, image.getWidth(), image.getHeight()];
  // What counts as a whole needs one pixel alone, but for its mask, which keeps its own.
  const pixmap = new mupdf.Pixmap(grey, whole ? [0, 0, 1, 1] : box, false);
  const to = pixmap.getPixels();
  if (decoded) {
    const from = decoded.getPixels();
    const n = decoded.getNumberOfComponents();
    for (let i = 0; i < to.length; i++) to[i] = 255 - Math.max(...channels.map((k) => from[i * n + k] ?? 0));
    decoded.destroy();
  } else to.fill(0);
  const made = new mupdf.Image(pixmap, mask);
  pixmap.destroy();
  return made;
}
