import * as mupdf from '../interpreter/interpreter';
import type { Kernels } from '../kernels/kernels';
import { MM_PER_POINT } from '../units/length';
import { flatten, signedArea } from '../geometry/path';
import { finishedBox, forwarding, pageBoxes, readPath, runPage, showLayers, takable, without, type DrawingCalls } from './page';
import type { Enlarged, Preparation } from './preparation';
import { paintOf } from './read-facts';
import { eachOf, eachResources } from './resources';

/** The colours that a page is drawn in. */
export interface ColourTarget {
  /** The printing condition's inks, or RGB. */
  target: mupdf.ColorSpace;
  /** What RGB, CMYK and grey of the customer's are taken to be where the file does not say. */
  sources: { rgb: Uint8Array; cmyk: Uint8Array; grey: Uint8Array };
}

/** The inks of a printing condition. */
export interface InkSpace extends ColourTarget {
  /** 256 amounts of black ink (0…1) for a grey level of 0 (black) … 1 and for a black-only CMYK tint. */
  blackForGrey: Float64Array;
  blackForTint: Float64Array;
  kernels: Kernels;
}

/** A page as a list of drawing calls, colours settled, what does not print left out, pictures decoded once. */
export interface Drawing {
  list: mupdf.DisplayList;
  /** The trim box in points, in the coordinates of the list. */
  finished: mupdf.Rect;
  /** The ink space that it is drawn in, or RGB for the screen. */
  target: mupdf.ColorSpace;
  /** What screen colours are taken to be. */
  rgb: mupdf.ColorSpace;
}

/** What of a preparation is settled as a page is drawn; `enlargement` is the finished size over the page's. */
export type DrawingChoices = Pick<Preparation, 'leftOut' | 'enlarged' | 'blackText' | 'richBlack' | 'thinnestMm'> & {
  enlargement: number;
};

/** A dark area of at least this much, finished, counts as large, mm². */
export const LARGE_AREA_MM2 = 2500;
/** What large black areas are printed with. */
const RICH_BLACK: mupdf.Color = [0.4, 0.3, 0.3, 1];

/** Pictures above this stay as they are and are decoded band by band: memory matters more then. */
const MOST_PREPARED_PIXELS = 60e6;

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
  manageColours(document, index, inks.sources);
  showLayers(document, choices.leftOut.layers);
  const page = document.loadPage(index);
  const boxes = pageBoxes(page);
  const list = new mupdf.DisplayList(boxes.media);
  const into = new mupdf.DisplayListDevice(list);
  const forward = forwarding(into);
  const managed = managedCalls(forward, inks, choices.enlarged);
  const device = new mupdf.Device(without(mendedCalls(managed, choices, inks), choices.leftOut));
  runPage(page, device, mupdf.Matrix.identity, choices.leftOut);
  device.close();
  device.destroy();
  into.close();
  into.destroy();
  page.destroy();
  const rgb = new mupdf.ColorSpace(inks.sources.rgb, 'source-rgb');
  return { list, finished: finishedBox(boxes), target: inks.target, rgb };
}

const isInkSpace = (inks: InkSpace | ColourTarget): inks is InkSpace => 'blackForGrey' in inks;

/** The calls with their colours settled, and, for inks, their pictures decoded once. */
function managedCalls(forward: DrawingCalls, inks: InkSpace | ColourTarget, enlarged: Enlarged): DrawingCalls {
  const { target } = inks;
  // The interpreter does not tell a device of default colour spaces, so that plain ones are given their profile here.
  const sources: Record<string, mupdf.ColorSpace> = {
    DeviceRGB: new mupdf.ColorSpace(inks.sources.rgb, 'source-rgb'),
    DeviceCMYK: new mupdf.ColorSpace(inks.sources.cmyk, 'source-cmyk'),
    DeviceGray: new mupdf.ColorSpace(inks.sources.grey, 'source-grey')
  };
  /** Grey and black-only lettering and line work is printed with black alone. */
  const settled = (given: mupdf.ColorSpace, of: mupdf.Color): [mupdf.ColorSpace, mupdf.Color] => {
    const [space, color] = takable(given, of, target);
    if (space === target) return [space, color];
    if (!isInkSpace(inks)) return [sources[space.getName()] ?? space, color];
    if (space.isGray() && !space.isDeviceN()) return [target, [0, 0, 0, at(inks.blackForGrey, color[0] ?? 0)]];
    if (space.isCMYK() && !space.isDeviceN() && !color[0] && !color[1] && !color[2]) {
      return [target, [0, 0, 0, at(inks.blackForTint, color[3] ?? 0)]];
    }
    return [sources[space.getName()] ?? space, color];
  };
  /** Both are held, so that no other picture takes the place that one is known by. */
  const prepared = new Map<number, { image: mupdf.Image; ready: mupdf.Image }>();
  const picture = (image: mupdf.Image): mupdf.Image => {
    const key = image.pointer as unknown as number;
    const known = prepared.get(key);
    if (known) return known.ready;
    const ready = preparePicture(image, inks, enlarged) ?? image;
    prepared.set(key, { image, ready });
    return ready;
  };
  return {
    ...forward,
    fillPath: (path, evenOdd, ctm, space, color, alpha) => forward.fillPath(path, evenOdd, ctm, ...settled(space, color), alpha),
    strokePath: (path, stroke, ctm, space, color, alpha) =>
      forward.strokePath(path, stroke, ctm, ...settled(space, color), alpha),
    fillText: (text, ctm, space, color, alpha) => forward.fillText(text, ctm, ...settled(space, color), alpha),
    strokeText: (text, stroke, ctm, space, color, alpha) =>
      forward.strokeText(text, stroke, ctm, ...settled(space, color), alpha),
    fillImage: (image, ctm, alpha) => forward.fillImage(picture(image), ctm, alpha),
    fillImageMask: (image, ctm, space, color, alpha) => forward.fillImageMask(image, ctm, ...settled(space, color), alpha)
  };
}

/** The calls with what the docket mends: dark lettering in black alone, large black areas in all inks, lines made thick enough. */
function mendedCalls(forward: DrawingCalls, choices: DrawingChoices, inks: InkSpace | ColourTarget): DrawingCalls {
  const [black, rich]: [[mupdf.ColorSpace, mupdf.Color], [mupdf.ColorSpace, mupdf.Color]] = isInkSpace(inks)
    ? [
        [inks.target, [0, 0, 0, 1]],
        [inks.target, RICH_BLACK]
      ]
    : [
        [mupdf.ColorSpace.DeviceGray, [0]],
        [mupdf.ColorSpace.DeviceGray, [0]]
      ];
  const isText = (space: mupdf.ColorSpace, color: mupdf.Color) => choices.blackText && paintOf(space, color) === 'rich';
  const isLarge = (path: mupdf.Path, ctm: mupdf.Matrix, space: mupdf.ColorSpace, color: mupdf.Color) => {
    if (!choices.richBlack || !isAllBlack(space, color)) return false;
    const area = flatten(readPath(path, ctm), 1).reduce((sum, { points }) => sum + signedArea(points), 0);
    return Math.abs(area) * (MM_PER_POINT * choices.enlargement) ** 2 >= LARGE_AREA_MM2;
  };
  return {
    ...forward,
    fillPath: (path, evenOdd, ctm, space, color, alpha) =>
      isLarge(path, ctm, space, color)
        ? forward.fillPath(path, evenOdd, ctm, ...rich, alpha)
        : forward.fillPath(path, evenOdd, ctm, space, color, alpha),
    strokePath: (path, stroke, ctm, space, color, alpha) =>
      forward.strokePath(path, thickened(stroke, ctm, choices), ctm, space, color, alpha),
    fillText: (text, ctm, space, color, alpha) =>
      isText(space, color) ? forward.fillText(text, ctm, ...black, alpha) : forward.fillText(text, ctm, space, color, alpha)
  };
}

/** Full black ink alone, as the file has it. */
const isAllBlack = (space: mupdf.ColorSpace, color: mupdf.Color): boolean =>
  paintOf(space, color) === 'black' && (space.isGray() ? (color[0] ?? 1) < 0.05 : (color[3] ?? 0) > 0.95);

function thickened(stroke: mupdf.StrokeState, ctm: mupdf.Matrix, choices: DrawingChoices): mupdf.StrokeState {
  if (choices.thinnestMm <= 0) return stroke;
  const scale = Math.sqrt(Math.abs(ctm[0] * ctm[3] - ctm[1] * ctm[2])) * MM_PER_POINT * choices.enlargement;
  const thinnest = choices.thinnestMm / scale;
  if (!Number.isFinite(thinnest) || stroke.getLineWidth() >= thinnest) return stroke;
  return new mupdf.StrokeState({
    lineCap: mupdf.StrokeState.LINE_CAP[stroke.getLineCap()] ?? 'Butt',
    lineJoin: mupdf.StrokeState.LINE_JOIN[stroke.getLineJoin()] ?? 'Miter',
    lineWidth: thinnest,
    miterLimit: stroke.getMiterLimit(),
    dashPhase: stroke.getDashPhase(),
    dashes: stroke.getDashes() ?? []
  });
}

const at = (table: Float64Array, value: number) => table[Math.round(Math.min(1, Math.max(0, value)) * 255)] ?? 0;

/** Pictures for the screen above this are not enlarged there. */
const MOST_ENLARGED_PIXELS = 4e6;

/**
 * A picture decoded once, in the condition's inks where it is for them, and marked as one that stays crisp or becomes smooth
 * where it is enlarged. Nothing where it can stay as it is.
 */
function preparePicture(image: mupdf.Image, inks: InkSpace | ColourTarget, enlarged: Enlarged): mupdf.Image | undefined {
  const space = image.getColorSpace();
  const pixels = image.getWidth() * image.getHeight();
  if (!space || image.getImageMask() || pixels > (isInkSpace(inks) ? MOST_PREPARED_PIXELS : MOST_ENLARGED_PIXELS))
    return undefined;
  const decoded = image.toPixmap();
  let ready: mupdf.Pixmap | undefined;
  try {
    const plain = decoded.getColorSpace();
    if (!plain || decoded.getAlpha()) return undefined;
    const crisp = enlarged === 'crisp' || (enlarged === 'as it suits' && isLineArt(decoded));
    if (crisp) {
      // The interpreter keeps a picture's mark as it converts; every picture comes marked as crisp.
      if (!isInkSpace(inks)) return undefined;
      ready = decoded.convertToColorSpace(inks.target, false);
    } else if (isInkSpace(inks)) {
      ready = plain.isRGB() ? rgbToInks(decoded, plain, inks) : othersToInks(decoded, inks);
    } else ready = smooth(decoded, plain);
    return new mupdf.Image(ready, image.getMask() ?? undefined);
  } finally {
    ready?.destroy();
    decoded.destroy();
  }
}

/** Grey, CMYK and other pictures are turned into inks by the interpreter itself. */
function othersToInks(decoded: mupdf.Pixmap, { target }: InkSpace): mupdf.Pixmap {
  const converted = decoded.convertToColorSpace(target, false);
  try {
    return smooth(converted, target);
  } finally {
    converted.destroy();
  }
}

/** A copy that becomes smooth where it is enlarged, as new pixels do. */
function smooth(pixmap: mupdf.Pixmap, space: mupdf.ColorSpace): mupdf.Pixmap {
  const copy = new mupdf.Pixmap(space, pixmap.getBounds() as mupdf.Rect, false);
  copy.getPixels().set(pixmap.getPixels());
  return copy;
}

/** Pixels that are looked at to tell a picture's kind. */
const LOOKED_AT = 40_000;
/** So many colours, coarsely told, make a code or a drawing of lines; edges that were smoothed already make more. */
const LINE_ART_COLOURS = 4;
const LINE_ART_SHARE = 0.98;

/** Whether a picture is a code or a drawing in a few flat colours. */
export function isLineArt(pixmap: mupdf.Pixmap): boolean {
  const components = pixmap.getNumberOfComponents();
  const samples = pixmap.getPixels();
  const count = samples.length / components;
  // Every pixel of small pictures; of large ones some, a step that no pattern has.
  const step = count <= LOOKED_AT ? 1 : Math.floor(count / LOOKED_AT) | 1;
  const shares = new Map<number, number>();
  let looked = 0;
  for (let i = 0; i < count; i += step) {
    let key = 0;
    for (let k = 0; k < components; k++) key = key * 16 + ((samples[i * components + k] as number) >> 4);
    shares.set(key, (shares.get(key) ?? 0) + 1);
    looked++;
  }
  const most = [...shares.values()].sort((a, b) => b - a).slice(0, LINE_ART_COLOURS);
  return most.reduce((sum, n) => sum + n, 0) >= looked * LINE_ART_SHARE;
}

const TABLE_GRID = 33;

/** RGB pictures go through a table that the interpreter's own colour engine fills: many times faster, and as true. */
function rgbToInks(decoded: mupdf.Pixmap, space: mupdf.ColorSpace, inks: InkSpace): mupdf.Pixmap {
  const { kernels } = inks;
  const mark = kernels.mark;
  const points = new mupdf.Pixmap(space, [0, 0, TABLE_GRID * TABLE_GRID, TABLE_GRID], false);
  const samples = points.getPixels();
  for (let i = 0, put = 0; i < TABLE_GRID ** 3; i++) {
    for (const index of [Math.floor(i / TABLE_GRID ** 2), Math.floor(i / TABLE_GRID) % TABLE_GRID, i % TABLE_GRID]) {
      samples[put++] = Math.round((index * 255) / (TABLE_GRID - 1));
    }
  }
  const turned = points.convertToColorSpace(inks.target, false);
  const table = kernels.allocate(TABLE_GRID ** 3 * 8);
  new Uint16Array(kernels.run.memory.buffer, table, TABLE_GRID ** 3 * 4).set(
    Uint16Array.from(turned.getPixels(), (v) => v * 256)
  );
  points.destroy();
  turned.destroy();

  const ready = new mupdf.Pixmap(inks.target, decoded.getBounds() as mupdf.Rect, false);
  const count = decoded.getWidth() * decoded.getHeight();
  // A stretch at a time, so that no second copy of the whole picture is needed.
  const step = 1 << 16;
  const source = kernels.allocate(step * 3);
  const target = kernels.allocate(step * 4);
  for (let from = 0; from < count; from += step) {
    const n = Math.min(step, count - from);
    kernels.bytes(source, n * 3).set(decoded.getPixels().subarray(from * 3, (from + n) * 3));
    kernels.run.lookup3(source, n, table, TABLE_GRID, target);
    ready.getPixels().set(kernels.bytes(target, n * 4), from * 4);
  }
  kernels.release(mark);
  return ready;
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

/**
 * Gives what a page draws with colour profiles where it names plain device colours: pictures, gradients, groups, and what
 * spot colours and palettes stand on. Colours of single objects are settled as they are drawn.
 */
export function manageColours(document: mupdf.PDFDocument, index: number, sources: InkSpace['sources']): void {
  const profile = (bytes: Uint8Array, components: number, alternate: string) => {
    const stream = document.addStream(bytes, { N: components });
    stream.put('Alternate', document.newName(alternate));
    const space = document.newArray();
    space.push(document.newName('ICCBased'));
    space.push(stream);
    return document.addObject(space);
  };
  const managed: Record<string, mupdf.PDFObject> = {
    DeviceRGB: profile(sources.rgb, 3, 'DeviceRGB'),
    DeviceCMYK: profile(sources.cmyk, 4, 'DeviceCMYK'),
    DeviceGray: profile(sources.grey, 1, 'DeviceGray')
  };
  /** Replaces a device colour space that stands at `key`, or under the spot colour or palette that does. */
  const settle = (owner: mupdf.PDFObject, key: string | number) => {
    const space = owner.get(key);
    if (space.isName()) {
      const better = managed[space.asName()];
      if (better) owner.put(key, better);
    } else if (space.isArray()) {
      const kind = space.get(0).toString();
      if (kind === '/Indexed') settle(space, 1);
      else if (kind === '/Separation' || kind === '/DeviceN') settle(space, 2);
    }
  };
  eachResources(document, index, (resources, owner) => {
    const group = owner.get('Group');
    if (group.isDictionary()) settle(group, 'CS');
    if (!resources.isDictionary()) return;
    const spaces = resources.get('ColorSpace');
    if (spaces.isDictionary()) spaces.forEach((space, name) => space.resolve().isArray() && settle(spaces, name));
    eachOf(resources, 'Shading', (shading) => settle(shading, 'ColorSpace'));
    eachOf(resources, 'Pattern', (pattern) => {
      const shading = pattern.get('Shading');
      if (!shading.isNull()) settle(shading, 'ColorSpace');
    });
    eachOf(resources, 'XObject', (object) => {
      if (object.get('Subtype').toString() !== '/Image') return;
      settle(object, 'ColorSpace');
      // Whether it is smoothed where it is enlarged is settled when it is drawn.
      object.delete('Interpolate');
    });
  });
}
