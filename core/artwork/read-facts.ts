import * as mupdf from '../interpreter/interpreter';
import { throwTraps } from '../interpreter/interpreter';
import { apply, chain } from '../geometry/matrix';
import { flatten, signedArea } from '../geometry/path';
import { MM_PER_POINT } from '../units/length';
import { ArtworkError, type PageFacts, type PageLine, type Paint } from './facts';
import type { Box } from '../geometry/box';
import { readLayers, showAllLayers, type Layer } from './layers';
import { filledIn, finishedBox, formFields, pageBoxes, PROCESS_NAMES, readPath, runPage, spotNames } from './page';
import { paintOf } from './resolver/asked';
import { eachOf, eachResources, usesOverprint } from './resources';

export const LIMITS = {
  pages: 2000,
  /** The longest side of a page, mm. */
  pageMm: 50_000,
  imageMegapixels: 400,
  objects: 2_000_000,
  /** Outlines kept of one spot colour or layer, and pieces of outline kept of a page: more is no cut line. */
  linesOfName: 5_000,
  segments: 50_000
};
/** How many examples of a finding are kept, the worst of them. */
const EXAMPLES = 20;
/** Pictures that are kept, those of the lowest resolution. */
const PICTURES = 500;
/** Areas of black below this are no areas but lettering. */
const SMALLEST_AREA_MM2 = 100;

export interface PageReading {
  facts: PageFacts;
  /** What is outlined in a spot colour or on a layer. */
  lines: PageLine[];
}

/**
 * Looks at every object of a page, on every layer.
 *
 * @throws ArtworkError when the page is empty, too large, or breaks the interpreter
 */
export function readPageFacts(document: mupdf.PDFDocument, index: number): PageReading {
  const layers = readLayers(document);
  showAllLayers(document);
  const page = document.loadPage(index);
  const boxes = pageBoxes(page);
  const finished = finishedBox(boxes);
  const widthMm = (finished[2] - finished[0]) * MM_PER_POINT;
  const heightMm = (finished[3] - finished[1]) * MM_PER_POINT;
  if (!(widthMm > 0.1) || !(heightMm > 0.1)) throw new ArtworkError(`Page ${index + 1} has no size.`);
  if (Math.max(widthMm, heightMm) > LIMITS.pageMm) {
    throw new ArtworkError(
      `Page ${index + 1} is ${Math.round(Math.max(widthMm, heightMm) / 1000)} m long; ${LIMITS.pageMm / 1000} m is the most.`
    );
  }
  const fields = filledIn(page).length;
  const forms = formFields(page);
  const reader = new PageReader(index, finished);
  const device = reader.device();
  try {
    runPage(page, device, mupdf.Matrix.identity, {});
    device.close();
  } catch (error) {
    throwTraps(error);
    if (error instanceof ArtworkError) throw error;
    throw new ArtworkError(`Page ${index + 1} is broken and cannot be read. Ask for the file to be saved anew.`);
  } finally {
    device.destroy();
    page.destroy();
  }
  const outer = boxes.bleed[2] - boxes.bleed[0] > finished[2] - finished[0] ? boxes.bleed : boxes.crop;
  const bleed =
    Math.min(finished[0] - outer[0], finished[1] - outer[1], outer[2] - finished[2], outer[3] - finished[3]) * MM_PER_POINT;
  return {
    facts: {
      ...reader.facts(layers),
      widthMm,
      heightMm,
      boxes: Object.fromEntries(Object.entries(boxes).map(([name, rect]) => [name, reader.toBox(rect as mupdf.Rect)])),
      bleedMm: Math.max(0, Math.round(bleed * 100) / 100),
      overprint: usesOverprint(document, index),
      fields,
      formFields: forms.map(({ rect, ...field }) => ({ ...field, place: reader.toBox(rect) }))
    },
    lines: reader.lines
  };
}

const NO_STROKE = null as unknown as mupdf.StrokeState;

/** Collects while the interpreter draws. */
class PageReader {
  readonly lines: PageLine[] = [];
  readonly #page: number;
  readonly #toMm: mupdf.Matrix;
  readonly #spots = new Map<string, { objects: number; outlines: number; colour: [number, number, number] | null }>();
  readonly #layers = new Map<string, number>();
  readonly #colourSpaces = new Set<string>();
  readonly #images = new Worst<PageFacts['images'][number]>((image) => image.ppi, PICTURES);
  readonly #lettered = { right: 0, mirrored: 0 };
  readonly #text = new Map<Paint, Worst<PageFacts['text'][number]>>();
  readonly #strokes = new Worst<PageFacts['strokes'][number]>((stroke) => stroke.widthMm);
  readonly #blackAreas = new Worst<PageFacts['blackAreas'][number]>((area) => -area.areaMm2);
  readonly #blends = new Set<string>();
  readonly #layer: string[] = [];
  readonly #clips: mupdf.Rect[] = [];
  #content: mupdf.Rect | undefined;
  #seeThrough = false;
  #objects = 0;
  #segments = 0;
  #linesLeftOut = 0;
  #lastFill = '';

  constructor(page: number, finished: mupdf.Rect) {
    this.#page = page;
    this.#toMm = [MM_PER_POINT, 0, 0, MM_PER_POINT, -finished[0] * MM_PER_POINT, -finished[1] * MM_PER_POINT];
  }

  toBox(r: mupdf.Rect): Box {
    const p = apply(this.#toMm, { x: r[0], y: r[1] });
    return { x: p.x, y: p.y, width: (r[2] - r[0]) * MM_PER_POINT, height: (r[3] - r[1]) * MM_PER_POINT };
  }

  facts(known: readonly Layer[]) {
    const named = new Set(known.map(({ name }) => name));
    const others = [...this.#layers.keys()].filter((name) => !named.has(name));
    const layers = [...known, ...others.map((name): Layer => ({ name, visible: true, group: null }))];
    return {
      content: this.#content ? this.toBox(this.#content) : null,
      images: this.#images.list,
      colourSpaces: [...this.#colourSpaces].sort(),
      spots: [...this.#spots].map(([name, spot]) => ({ name, ...spot })).sort((p, q) => p.name.localeCompare(q.name)),
      layers: layers.map((layer) => ({ ...layer, outlines: this.#layers.get(layer.name) ?? 0 })),
      lettering: this.#lettered,
      text: [...this.#text.values()].flatMap((worst) => worst.list),
      strokes: this.#strokes.list,
      blackAreas: this.#blackAreas.list,
      blends: [...this.#blends].sort(),
      seeThrough: this.#seeThrough,
      linesLeftOut: this.#linesLeftOut,
      objects: this.#objects
    };
  }

  device(): mupdf.Device {
    const pushClip = (box: mupdf.Rect) => this.#clips.push(this.#clipped(box));
    return new mupdf.Device({
      fillPath: (path, _evenOdd, ctm, space, color, alpha) => {
        const { spot, line } = this.#painted(space, color, alpha);
        const box = path.getBounds(NO_STROKE, ctm);
        const paint = paintOf(space, color);
        this.#mark(box, paint);
        if (paint === 'black' && !spot) this.#blackArea(path, ctm, this.toBox(this.#clipped(box)));
        this.#outline(path, ctm, line, 'fill');
      },
      strokePath: (path, stroke, ctm, space, color, alpha) => {
        const { spot, line } = this.#painted(space, color, alpha);
        const box = path.getBounds(stroke, ctm);
        const paint = paintOf(space, color);
        this.#mark(box, paint);
        const widthMm = stroke.getLineWidth() * Math.sqrt(Math.abs(ctm[0] * ctm[3] - ctm[1] * ctm[2])) * MM_PER_POINT;
        this.#strokes.add({ widthMm, paint, place: this.toBox(box), ...this.#belongs(spot) });
        this.#outline(path, ctm, line, 'stroke');
      },
      fillText: (text, ctm, space, color, alpha) => this.#lettering(text, NO_STROKE, ctm, space, color, alpha),
      strokeText: (text, stroke, ctm, space, color, alpha) => this.#lettering(text, stroke, ctm, space, color, alpha),
      fillImage: (picture, ctm, alpha) => this.#image(picture, ctm, alpha),
      fillImageMask: (_picture, ctm, space, color, alpha) => {
        this.#painted(space, color, alpha);
        this.#mark(mupdf.Rect.transform([0, 0, 1, 1], ctm), paintOf(space, color));
      },
      fillShade: (shade, ctm, alpha) => {
        this.#painted(null, [], alpha);
        this.#mark(mupdf.Rect.transform(shade.getBounds(), ctm), 'colour');
      },
      clipPath: (path, _evenOdd, ctm) => pushClip(path.getBounds(NO_STROKE, ctm)),
      clipStrokePath: (path, stroke, ctm) => pushClip(path.getBounds(stroke, ctm)),
      clipText: (text, ctm) => pushClip(text.getBounds(NO_STROKE, ctm)),
      clipStrokeText: (text, stroke, ctm) => pushClip(text.getBounds(stroke, ctm)),
      clipImageMask: (_image, ctm) => pushClip(mupdf.Rect.transform([0, 0, 1, 1], ctm)),
      popClip: () => this.#clips.pop(),
      beginMask: (box) => {
        pushClip(box);
        this.#seeThrough = true;
      },
      beginGroup: (_box, _space, _isolated, _knockout, blend, alpha) => {
        if (blend !== 'Normal') this.#blends.add(blend);
        if (alpha < 1) this.#seeThrough = true;
      },
      beginLayer: (name) => {
        this.#layer.push(name);
        if (!this.#layers.has(name)) this.#layers.set(name, 0);
      },
      endLayer: () => this.#layer.pop()
    });
  }

  #belongs(spot: string | undefined): { spot?: string; layer?: string; within?: string[] } {
    const layer = this.#layer.at(-1);
    const within = this.#layer.slice(0, -1);
    return {
      ...(spot !== undefined && { spot }),
      ...(layer !== undefined && { layer }),
      ...(within.length > 0 && { within })
    };
  }

  #clipped(box: mupdf.Rect): mupdf.Rect {
    const clip = this.#clips.at(-1);
    if (!clip) return box;
    const x0 = Math.max(box[0], clip[0]);
    const y0 = Math.max(box[1], clip[1]);
    return [x0, y0, Math.max(x0, Math.min(box[2], clip[2])), Math.max(y0, Math.min(box[3], clip[3]))];
  }

  /**
   * Counts an object.
   *
   * @returns `spot`, the spot colour that it is painted in alone, and `line`, the one that makes its outline a line, whatever
   * process inks print beside it
   */
  #painted(space: mupdf.ColorSpace | null, color: readonly number[], alpha: number): { spot?: string; line?: string } {
    if (++this.#objects > LIMITS.objects)
      throw new ArtworkError(`Page ${this.#page + 1} has more than ${LIMITS.objects / 1e6} million objects.`);
    if (alpha < 1) this.#seeThrough = true;
    const names = spotNames(space);
    names.forEach((name, i) => {
      if (PROCESS_NAMES.has(name)) return;
      const spot = this.#spots.get(name) ?? { objects: 0, outlines: 0, colour: seenColour(space, i, names.length) };
      spot.objects++;
      this.#spots.set(name, spot);
    });
    if (space && names.every((name) => PROCESS_NAMES.has(name))) this.#colourSpaces.add(spaceName(space));
    const laid = names.filter((name, i) => !PROCESS_NAMES.has(name) && (color.length === 0 || (color[i] ?? 0) > 0));
    return laid.length === 1 ? { line: laid[0], ...(names.length === 1 && { spot: laid[0] }) } : {};
  }

  #mark(box: mupdf.Rect, paint: Paint): void {
    if (paint === 'white') return;
    const [x0, y0, x1, y1] = this.#clipped(box);
    if (!(x1 > x0 || y1 > y0) || !Number.isFinite(x0 + y0 + x1 + y1)) return;
    const c = this.#content;
    this.#content = c ? [Math.min(c[0], x0), Math.min(c[1], y0), Math.max(c[2], x1), Math.max(c[3], y1)] : [x0, y0, x1, y1];
  }

  #blackArea(path: mupdf.Path, ctm: mupdf.Matrix, place: Box): void {
    if (place.width * place.height < SMALLEST_AREA_MM2) return;
    const outlines = flatten(readPath(path, chain(ctm, this.#toMm)), 0.5);
    const areaMm2 = Math.abs(outlines.reduce((sum, { points }) => sum + signedArea(points), 0));
    if (areaMm2 >= SMALLEST_AREA_MM2) {
      this.#blackAreas.add({ place, areaMm2: Math.min(areaMm2, place.width * place.height), ...this.#belongs(undefined) });
    }
  }

  #outline(path: mupdf.Path, ctm: mupdf.Matrix, spot: string | undefined, how: 'fill' | 'stroke'): void {
    const belongs = this.#belongs(spot);
    const { layer } = belongs;
    if (spot === undefined && layer === undefined) return;
    const ofSpot = spot === undefined ? undefined : this.#spots.get(spot);
    if (ofSpot) ofSpot.outlines++;
    for (const name of this.#layer) this.#layers.set(name, (this.#layers.get(name) ?? 0) + 1);
    const ofLayer = layer === undefined ? 0 : (this.#layers.get(layer) ?? 0);
    if (Math.max(ofSpot?.outlines ?? 0, ofSpot ? 0 : ofLayer) > LIMITS.linesOfName || this.#segments > LIMITS.segments) {
      this.#linesLeftOut++;
      return;
    }
    const outline = readPath(path, chain(ctm, this.#toMm));
    this.#segments += outline.length;
    if (outline.length < 2) return;
    // A path that is filled and then stroked in the same colour is one line. Two strokes stay two: that is a fault to tell.
    const drawn = JSON.stringify([spot, layer, outline]);
    if (how === 'fill') this.#lastFill = drawn;
    else if (drawn === this.#lastFill) return;
    this.lines.push({ path: outline, ...belongs });
  }

  #lettering(
    text: mupdf.Text,
    stroke: mupdf.StrokeState,
    ctm: mupdf.Matrix,
    space: mupdf.ColorSpace,
    color: readonly number[],
    alpha: number
  ): void {
    const { spot } = this.#painted(space, color, alpha);
    const box = text.getBounds(stroke, ctm);
    const paint = paintOf(space, color);
    this.#mark(box, paint);
    const place = this.toBox(box);
    if (place.width <= 0) return;
    const worst = this.#text.get(paint) ?? new Worst((fact) => fact.sizeMm);
    this.#text.set(paint, worst);
    const seen = new Set<string>();
    text.walk({
      beginSpan: (font, trm) => {
        const m = chain(trm, ctm);
        // On the page y goes down: lettering that reads the right way has its own upwards.
        this.#lettered[m[0] * m[3] - m[1] * m[2] < 0 ? 'right' : 'mirrored']++;
        const sizeMm = Math.hypot(m[2], m[3]) * MM_PER_POINT;
        const key = `${sizeMm.toFixed(3)}/${font.getName()}`;
        if (sizeMm <= 0 || seen.has(key)) return;
        seen.add(key);
        worst.add({ sizeMm, bold: font.isBold(), paint, place, ...this.#belongs(spot) });
      }
    });
  }

  #image(picture: mupdf.Image, ctm: mupdf.Matrix, alpha: number): void {
    const widthPx = picture.getWidth();
    const heightPx = picture.getHeight();
    if (widthPx * heightPx > LIMITS.imageMegapixels * 1e6) {
      throw new ArtworkError(
        `Page ${this.#page + 1} has a picture of ${widthPx} × ${heightPx} pixels; ${LIMITS.imageMegapixels} megapixels are the most.`
      );
    }
    const space = picture.getColorSpace();
    const { spot } = this.#painted(space, [], alpha);
    if (picture.getMask()) this.#seeThrough = true;
    const m = chain(ctm, this.#toMm);
    const acrossMm = Math.hypot(m[0], m[1]);
    const downMm = Math.hypot(m[2], m[3]);
    const box = mupdf.Rect.transform([0, 0, 1, 1], ctm);
    this.#mark(box, 'colour');
    if (!(acrossMm > 0) || !(downMm > 0)) return;
    this.#images.add({
      widthPx,
      heightPx,
      ppi: Math.min((widthPx / acrossMm) * 25.4, (heightPx / downMm) * 25.4),
      colourSpace: space ? spaceName(space) : 'mask',
      place: this.toBox(box),
      ...this.#belongs(spot)
    });
  }
}

/** Keeps the examples with the lowest figures. */
class Worst<T> {
  readonly list: T[] = [];
  readonly #figure: (item: T) => number;
  readonly #most: number;

  constructor(figure: (item: T) => number, most = EXAMPLES) {
    this.#figure = figure;
    this.#most = most;
  }

  add(item: T): void {
    const figure = this.#figure(item);
    const last = this.list.at(-1);
    if (this.list.length === this.#most && last && this.#figure(last) <= figure) return;
    const at = this.list.findIndex((other) => this.#figure(other) > figure);
    this.list.splice(at < 0 ? this.list.length : at, 0, item);
    if (this.list.length > this.#most) this.list.pop();
  }
}

/** The full tint of one of a colour's inks as the file would show it; none where that is white, as if there were nothing. */
function seenColour(space: mupdf.ColorSpace | null, index: number, count: number): [number, number, number] | null {
  if (!space) return null;
  const pixmap = new mupdf.Pixmap(space, [0, 0, 1, 1], false);
  pixmap.getPixels().set(Array.from({ length: count }, (_, i) => (i === index ? 255 : 0)));
  const shown = pixmap.convertToColorSpace(mupdf.ColorSpace.DeviceRGB, false);
  const [r = 255, g = 255, b = 255] = shown.getPixels();
  pixmap.destroy();
  shown.destroy();
  return Math.min(r, g, b) >= 252 ? null : [r, g, b];
}

function spaceName(space: mupdf.ColorSpace): string {
  if (space.isIndexed()) return 'indexed';
  if (space.isGray()) return 'grey';
  if (space.isRGB()) return 'RGB';
  if (space.isCMYK()) return 'CMYK';
  if (space.isLab()) return 'Lab';
  return space.getName();
}

/** Names of fonts that the file uses but does not hold, wherever they are written. */
export function fontsNotEmbedded(document: mupdf.PDFDocument): string[] {
  const missing = new Set<string>();
  const done = new Set<number>();
  const count = document.countPages();
  for (let index = 0; index < count; index++)
    eachResources(document, index, (resources) => eachOf(resources, 'Font', (font) => tellFont(font, missing)), done);
  return [...missing].sort();
}

function tellFont(font: mupdf.PDFObject, missing: Set<string>): void {
  if (!font.isDictionary() || font.get('Subtype').toString() === '/Type3') return;
  const described = font.get('Subtype').toString() === '/Type0' ? font.get('DescendantFonts', 0) : font;
  const descriptor = described.get('FontDescriptor');
  if (['FontFile', 'FontFile2', 'FontFile3'].some((key) => !descriptor.isNull() && !descriptor.get(key).isNull())) return;
  const name = font.get('BaseFont');
  missing.add(name.isName() ? name.asName().replace(/^[A-Z]{6}\+/, '') : 'a font without a name');
}
