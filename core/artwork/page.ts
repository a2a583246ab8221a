import * as mupdf from '../interpreter/interpreter';
import { throwTraps } from '../interpreter/interpreter';
import type { Matrix } from '../geometry/matrix';
import type { Path } from '../geometry/path';
import { ArtworkError } from './facts';
import { tellLayersApart } from './layers';

/** Reads from a file: fills `into` from `position`, and says how many bytes came. */
export type ReadInto = (into: Uint8Array, position: number) => number;

/** Opens a PDF without holding it in memory. @throws ArtworkError for what cannot be opened, with the reason */
export function openPdf(read: ReadInto, size: number): mupdf.PDFDocument {
  let document: mupdf.Document;
  try {
    document = mupdf.Document.openDocument(
      new mupdf.Stream({
        fileSize: () => size,
        read: (memory: Uint8Array, offset: number, length: number, position: number) =>
          read(memory.subarray(offset, offset + length), position),
        close: () => undefined
      }),
      'application/pdf'
    );
  } catch (error) {
    throwTraps(error);
    throw new ArtworkError('The PDF is broken and cannot be opened. Ask for a new copy of the file.');
  }
  if (document.needsPassword()) {
    throw new ArtworkError('The PDF is locked with a password. Ask the customer for an unlocked file.');
  }
  const pdf = document.asPDF();
  if (!pdf) throw new ArtworkError('The file says it is a PDF but is not one.');
  tellLayersApart(pdf);
  return pdf;
}

export interface PageBoxes {
  /** Points, y down, in the coordinates that the page draws in. */
  media: mupdf.Rect;
  crop: mupdf.Rect;
  trim: mupdf.Rect;
  bleed: mupdf.Rect;
  art: mupdf.Rect;
}

export function pageBoxes(page: mupdf.Page): PageBoxes {
  return {
    media: page.getBounds('MediaBox'),
    crop: page.getBounds('CropBox'),
    trim: page.getBounds('TrimBox'),
    bleed: page.getBounds('BleedBox'),
    art: page.getBounds('ArtBox')
  };
}

/** The box that gives the finished size: the trim box, which is the page itself where none is set. */
export const finishedBox = (boxes: PageBoxes): mupdf.Rect => boxes.trim;

/**
 * A spot colour's name, or all names of a many-ink colour; none for an ordinary colour space. The interpreter writes
 * `Separation(base,NAME)` and `DeviceN(2,base,NAME,NAME)`, where the base may be a profile whose own name has commas: the last
 * parts are the names.
 */
export function spotNames(colourSpace: mupdf.ColorSpace | null): string[] {
  if (!colourSpace?.isDeviceN()) return [];
  const name = colourSpace.getName();
  const separation = /^Separation\((?:Device(?:CMYK|RGB|Gray),|.*,)?(.*)\)$/s.exec(name);
  if (separation) return [separation[1] ?? name];
  // How many, the base, and then so many names.
  const [, count, rest] = /^DeviceN\((\d+),(.*)\)$/s.exec(name) ?? [];
  if (count === undefined || rest === undefined) return [name];
  return rest
    .split(',')
    .slice(-Number(count))
    .map((part) => part.trim());
}

/** Names that stand for the printer's own inks, for all or for none: no spot colours. */
export const PROCESS_NAMES: ReadonlySet<string> = new Set(['Cyan', 'Magenta', 'Yellow', 'Black', 'All', 'None']);

/** A path of the interpreter in the coordinates of `matrix`. */
export function readPath(path: mupdf.Path, matrix: Matrix): Path {
  const out: Path = [];
  const map = (x: number, y: number) => ({
    x: matrix[0] * x + matrix[2] * y + matrix[4],
    y: matrix[1] * x + matrix[3] * y + matrix[5]
  });
  path.walk({
    moveTo: (x, y) => out.push({ kind: 'move', to: map(x, y) }),
    lineTo: (x, y) => out.push({ kind: 'line', to: map(x, y) }),
    curveTo: (x1, y1, x2, y2, x3, y3) => out.push({ kind: 'curve', c1: map(x1, y1), c2: map(x2, y2), to: map(x3, y3) }),
    closePath: () => out.push({ kind: 'close' })
  });
  return out;
}

/** The drawing calls of a device, as an object that can be spread and changed. */
export type DrawingCalls = Pick<
  mupdf.Device,
  | 'fillPath'
  | 'strokePath'
  | 'clipPath'
  | 'clipStrokePath'
  | 'fillText'
  | 'strokeText'
  | 'clipText'
  | 'clipStrokeText'
  | 'ignoreText'
  | 'fillShade'
  | 'fillImage'
  | 'fillImageMask'
  | 'clipImageMask'
  | 'popClip'
  | 'beginMask'
  | 'endMask'
  | 'beginGroup'
  | 'endGroup'
  | 'beginTile'
  | 'endTile'
  | 'beginLayer'
  | 'endLayer'
>;

/**
 * A colour that a device takes: its interface knows colours of 1, 3 and 4 components alone. Others, of several spot colours at
 * once, become what the file shows them as.
 *
 * @param to the space that such a colour is turned into
 */
function takable(space: mupdf.ColorSpace, color: mupdf.Color, to: mupdf.ColorSpace): [mupdf.ColorSpace, mupdf.Color] {
  if (color.length === 1 || color.length === 3 || color.length === 4) return [space, color];
  const pixmap = new mupdf.Pixmap(space, [0, 0, 1, 1], false);
  pixmap.getPixels().set((color as number[]).map((part) => Math.round(part * 255)));
  const shown = pixmap.convertToColorSpace(to, false);
  const parts = [...shown.getPixels()].map((part) => part / 255);
  pixmap.destroy();
  shown.destroy();
  return [to, parts as unknown as mupdf.Color];
}

/** Hands every drawing call on to another device; its methods are replaced one by one where something is to change. */
export function forwarding(target: mupdf.Device): DrawingCalls {
  const plain = (space: mupdf.ColorSpace, color: mupdf.Color) => takable(space, color, mupdf.ColorSpace.DeviceRGB);
  return {
    fillPath: (path, evenOdd, ctm, space, color, alpha) => target.fillPath(path, evenOdd, ctm, ...plain(space, color), alpha),
    strokePath: (path, stroke, ctm, space, color, alpha) => target.strokePath(path, stroke, ctm, ...plain(space, color), alpha),
    clipPath: (...call) => target.clipPath(...call),
    clipStrokePath: (...call) => target.clipStrokePath(...call),
    fillText: (text, ctm, space, color, alpha) => target.fillText(text, ctm, ...plain(space, color), alpha),
    strokeText: (text, stroke, ctm, space, color, alpha) => target.strokeText(text, stroke, ctm, ...plain(space, color), alpha),
    clipText: (...call) => target.clipText(...call),
    clipStrokeText: (...call) => target.clipStrokeText(...call),
    ignoreText: (...call) => target.ignoreText(...call),
    fillShade: (...call) => target.fillShade(...call),
    fillImage: (...call) => target.fillImage(...call),
    fillImageMask: (image, ctm, space, color, alpha) => target.fillImageMask(image, ctm, ...plain(space, color), alpha),
    clipImageMask: (...call) => target.clipImageMask(...call),
    popClip: () => target.popClip(),
    beginMask: (area, luminosity, space, color) => target.beginMask(area, luminosity, ...plain(space, color)),
    endMask: () => target.endMask(),
    beginGroup: (...call) => target.beginGroup(...call),
    endGroup: () => target.endGroup(),
    beginTile: (...call) => target.beginTile(...call),
    endTile: () => target.endTile(),
    beginLayer: (...call) => target.beginLayer(...call),
    endLayer: () => target.endLayer()
  };
}

/** What of a page does not appear: spot colours and layers by name. */
export interface LeftOut {
  spots: readonly string[];
  layers: readonly string[];
  /** What is filled in in forms, and stamps. */
  fields?: boolean | undefined;
}

/** Runs a page with what is filled in in its forms, and its stamps; other notes on it are not artwork. */
export function runPage(page: mupdf.PDFPage, device: mupdf.Device, matrix: mupdf.Matrix, leftOut: Pick<LeftOut, 'fields'>): void {
  page.runPageContents(device, matrix);
  if (!leftOut.fields) for (const field of filledIn(page)) field.run(device, matrix);
}

const HIDDEN = 2;
const NOT_SHOWN = 32;

/** Fields that have something in them, and stamps, that are shown. */
export function filledIn(page: mupdf.PDFPage): mupdf.PDFAnnotation[] {
  const shown = (one: mupdf.PDFAnnotation) => (one.getFlags() & (HIDDEN | NOT_SHOWN)) === 0;
  const fields = page.getWidgets().filter((field) => {
    if (field.isText() || field.isChoice()) return field.getValue() !== '';
    const kind = field.getFieldType();
    if (kind === 'checkbox' || kind === 'radiobutton') return !['', 'Off'].includes(field.getValue());
    return kind === 'signature' && !field.getObject().get('AP', 'N').isNull();
  });
  const stamps = page.getAnnotations().filter((note) => note.getType() === 'Stamp');
  return [...fields, ...stamps].filter(shown);
}

const MOST_FORM_FIELDS = 200;

/** A field of a form that is filled in: with text, a tick, or a picture, which forms have as a button. */
interface FormField {
  name: string;
  kind: 'text' | 'tick' | 'picture';
  rect: mupdf.Rect;
  multiline: boolean;
}

/** Fields of a page's form that are filled in, whether or not they are. Their box is the page's, in points. */
export function formFields(page: mupdf.PDFPage): FormField[] {
  try {
    return page
      .getWidgets()
      .filter((field) => ['text', 'combobox', 'listbox', 'checkbox', 'radiobutton', 'button'].includes(field.getFieldType()))
      .slice(0, MOST_FORM_FIELDS)
      .map((field) => ({
        name: field.getName().slice(0, 100) || 'Field',
        kind: kindOf(field),
        rect: field.getRect(),
        multiline: field.isMultiline()
      }));
  } catch (error) {
    throwTraps(error);
    // A form that is broken has no places for anybody; what is drawn is drawn all the same.
    return [];
  }
}

function kindOf(field: mupdf.PDFWidget): FormField['kind'] {
  if (field.isPushButton()) return 'picture';
  return field.isButton() ? 'tick' : 'text';
}

/** The same calls, but inks that are left out do not appear. Layers are switched before a page is run. */
export function without(forward: DrawingCalls, leftOut: Pick<LeftOut, 'spots'>): DrawingCalls {
  const spots = new Set(leftOut.spots);
  const hides = (space: mupdf.ColorSpace | null) => {
    const names = spotNames(space);
    // “None” is no ink at all, whatever it is shown as.
    return names.length > 0 && names.every((name) => name === 'None' || spots.has(name));
  };
  return {
    ...forward,
    fillPath: (...call) => {
      if (!hides(call[3])) forward.fillPath(...call);
    },
    strokePath: (...call) => {
      if (!hides(call[3])) forward.strokePath(...call);
    },
    fillText: (...call) => {
      if (!hides(call[2])) forward.fillText(...call);
    },
    strokeText: (...call) => {
      if (!hides(call[3])) forward.strokeText(...call);
    },
    fillImage: (...call) => {
      if (!hides(call[0].getColorSpace())) forward.fillImage(...call);
    },
    fillImageMask: (...call) => {
      if (!hides(call[2])) forward.fillImageMask(...call);
    }
  };
}
