import type * as mupdf from '../../interpreter/interpreter';
import { throwTraps } from '../../interpreter/interpreter';
import { askedOfInks } from './asked';
import { readFunction, type PdfFunction } from './functions';
import { addMesh, circleWay, lineWay, withEnds, type Knot } from './gradient-mesh';
import type { PictureResolver } from './pictures';
import { isInkSpace, PLAIN_STATE, type Resolver } from './resolver';
import { intentOf } from './state-marks';

/** So many colours along a gradient: the interpreter itself takes no more. */
const STEPS = 256;
/** Along each side of one that is a function of a place. */
const SIDE_STEPS = 64;
/** How far from a straight line between two knots inks may be, of 255. */
const BENT = 1.5;
/** Set on a gradient that is settled: contents without resources of their own bring the same one again. */
const SETTLED = 'ZingSettled';
/** A pattern reaches over the page from wherever on it; more would cost exactness. */
const REACH = 4;
const MOST_REACH = 1e7;
/** How far the interpreter itself draws a gradient that is in no pattern. */
const INTERPRETERS_REACH = 32_000;

/**
 * Gradients whose colours the resolver settles. Where a page is drawn in inks the interpreter takes 256 colours of a gradient,
 * which shows as steps where it is long, and of named inks it only adds up the full tints. So gradients along a line and between
 * circles become a mesh in the target's inks, others a table of their colours.
 */
export class Gradients {
  readonly #document: mupdf.PDFDocument;
  readonly #resolver: Resolver;
  readonly #pictures: PictureResolver;
  readonly #blackAlone: boolean;
  /** What gradients that stand by themselves in the document became. */
  readonly #made = new Map<number, mupdf.PDFObject>();
  readonly #far: number;
  #target: mupdf.PDFObject | undefined;

  /** @param far the page's diagonal, points */
  constructor(
    document: mupdf.PDFDocument,
    resolver: Resolver,
    pictures: PictureResolver,
    { blackAlone, far }: { blackAlone: boolean; far: number }
  ) {
    this.#document = document;
    this.#resolver = resolver;
    this.#pictures = pictures;
    this.#blackAlone = blackAlone && isInkSpace(resolver.inks);
    this.#far = far;
  }

  /**
   * Settles the gradient that a holder has at a key. Call when what stands under its space has its profile.
   *
   * @param matrix of the pattern that it is in; none for one that is drawn by itself
   */
  replace(holder: mupdf.PDFObject, key: string, matrix: mupdf.PDFObject | undefined): void {
    const shading = holder.get(key);
    if (!shading.get(SETTLED).isNull()) return;
    const number = shading.isIndirect() ? shading.asIndirect() : undefined;
    const before = number === undefined ? undefined : this.#made.get(number);
    const made = before ?? this.#settledOrNot(shading, matrix) ?? shading;
    if (number !== undefined) this.#made.set(number, made);
    made.put(SETTLED, true);
    if (made !== shading) holder.put(key, made);
  }

  /** One of a broken file stays as it is. */
  #settledOrNot(shading: mupdf.PDFObject, matrix: mupdf.PDFObject | undefined): mupdf.PDFObject | undefined {
    try {
      return this.#settled(shading, matrix);
    } catch (error) {
      throwTraps(error);
      return undefined;
    }
  }

  /** @returns what takes its place; nothing where it was changed itself, or stays */
  #settled(shading: mupdf.PDFObject, matrix: mupdf.PDFObject | undefined): mupdf.PDFObject | undefined {
    const space = shading.get('ColorSpace');
    const names = namesOf(space);
    if (names.length > 0 && askedOfInks(names, [], this.#resolver.choices.leftOut).is === 'nothing') {
      paintNothing(shading);
      return undefined;
    }
    const inInks = isInkSpace(this.#resolver.inks);
    const isWay = inInks && [2, 3].includes(shading.get('ShadingType').asNumber());
    if (names.length === 0 && !this.#blackAlone && !isWay && !(inInks && intentOf(shading))) return undefined;
    const made = readFunction(shading.get('Function'));
    // Without a function each corner of a mesh has its own colour, and those stay as the file has them.
    if (!made || made.domain.length > 4) return undefined;
    const mesh = isWay ? this.#mesh(shading, made, matrix) : undefined;
    if (!mesh) this.#table(shading, made);
    return mesh;
  }

  #table(shading: mupdf.PDFObject, made: PdfFunction): void {
    const points = pointsOf(made.domain);
    const inks = this.#inksOf(
      shading,
      points.map((point) => made.at(point))
    );
    if (!inks) return;
    const { channels, bytes } = inks;
    shading.put(
      'Function',
      this.#document.addStream(bytes, {
        FunctionType: 0,
        Domain: made.domain,
        Range: Array.from({ length: channels }, () => [0, 1]).flat(),
        Size: made.domain.length === 2 ? [STEPS] : [SIDE_STEPS, SIDE_STEPS],
        BitsPerSample: 8
      })
    );
    this.#toTarget(shading, channels);
  }

  /** A gradient along a line or between circles as a mesh whose inks are exact. @returns nothing where it is neither */
  #mesh(shading: mupdf.PDFObject, made: PdfFunction, matrix: mupdf.PDFObject | undefined): mupdf.PDFObject | undefined {
    const coords = figures(shading.get('Coords'));
    const far = this.#reach(matrix);
    const way = shading.get('ShadingType').asNumber() === 2 ? lineWay(coords, far) : circleWay(coords, far, scaleOf(matrix));
    const [from = 0, to = 1] = figures(shading.get('Domain'));
    const knots = way && this.#knots(shading, (share) => made.at([from + share * (to - from)]));
    if (!knots) return undefined;
    const said = shading.get('Extend');
    const extend = [0, 1].map((i) => said.isArray() && said.get(i).asBoolean());
    const mesh = addMesh(this.#document, withEnds(knots, way, extend, this.#ground(shading)), way);
    for (const key of ['BBox', 'AntiAlias']) if (!shading.get(key).isNull()) mesh.put(key, shading.get(key));
    mesh.put('ColorSpace', this.#targetSpace(knots[0]!.inks.length));
    return mesh;
  }

  /** How far a gradient goes beside its line and beyond its ends, in its own units. */
  #reach(matrix: mupdf.PDFObject | undefined): number {
    const scale = scaleOf(matrix);
    return scale ? Math.min(MOST_REACH, (REACH * this.#far) / scale) : INTERPRETERS_REACH;
  }

  /** Inks along a gradient: as few knots as it takes for a straight line between two to be right. */
  #knots(shading: mupdf.PDFObject, at: (share: number) => number[]): Knot[] | undefined {
    const inks = this.#inksOf(
      shading,
      Array.from({ length: STEPS + 1 }, (_, i) => at(i / STEPS))
    );
    if (!inks) return undefined;
    const { channels, bytes } = inks;
    return straightened(bytes, channels, STEPS).map((i) => ({
      share: i / STEPS,
      inks: [...bytes.subarray(i * channels, (i + 1) * channels)]
    }));
  }

  #toTarget(shading: mupdf.PDFObject, channels: number): void {
    const ground = this.#ground(shading);
    if (ground)
      shading.put(
        'Background',
        ground.map((v) => v / 255)
      );
    shading.put('ColorSpace', this.#targetSpace(channels));
  }

  /** What lies behind a gradient in a pattern, in the target's channels, 0…255. */
  #ground(shading: mupdf.PDFObject): number[] | undefined {
    const ground = figures(shading.get('Background'));
    const inks = ground.length > 0 ? this.#inksOf(shading, [ground]) : undefined;
    return inks && [...inks.bytes];
  }

  /** Colours of a space as the resolver of pictures settles them: they are a picture of one row. */
  #inksOf(shading: mupdf.PDFObject, colours: readonly (readonly number[])[]) {
    const space = shading.get('ColorSpace');
    const components = colours[0]?.length ?? 0;
    if (components === 0) return undefined;
    const pixels = new Uint8Array(colours.length * components);
    colours.forEach((color, i) => {
      for (let k = 0; k < components; k++) pixels[i * components + k] = Math.round(Math.min(1, Math.max(0, color[k] ?? 0)) * 255);
    });
    const picture = this.#document.addStream(pixels, {
      Type: 'XObject',
      Subtype: 'Image',
      Width: colours.length,
      Height: 1,
      BitsPerComponent: 8
    });
    picture.put('ColorSpace', space);
    const image = this.#document.loadImage(picture);
    if (image.getColorSpace()?.getNumberOfComponents() !== components) return undefined;
    const resolved = this.#pictures.resolve(image, { ...PLAIN_STATE, intent: intentOf(shading) });
    if (!resolved || !('image' in resolved)) return undefined;
    const drawn = resolved.image.toPixmap();
    const turned = drawn.convertToColorSpace(this.#resolver.inks.target, false);
    const bytes = Uint8Array.from(turned.getPixels());
    const channels = turned.getNumberOfComponents();
    drawn.destroy();
    turned.destroy();
    return { channels, bytes };
  }

  #targetSpace(channels: number): mupdf.PDFObject {
    const { profile } = this.#resolver.inks;
    const alternate = { 1: 'DeviceGray', 4: 'DeviceCMYK' }[channels] ?? 'DeviceRGB';
    this.#target ??= profile ? profiled(this.#document, profile, channels, alternate) : this.#document.newName(alternate);
    return this.#target;
  }
}

const figures = (list: mupdf.PDFObject): number[] =>
  list.isArray() ? Array.from({ length: list.length }, (_, i) => list.get(i).asNumber()) : [];

/** Points of the page to a pattern's unit, where it is squeezed the most; nothing where that is not known. */
function scaleOf(matrix: mupdf.PDFObject | undefined): number | undefined {
  if (!matrix) return undefined;
  const [a = 1, b = 0, c = 0, d = 1] = figures(matrix);
  return Math.abs(a * d - b * c) / Math.hypot(a, b, c, d) || undefined;
}

/**
 * Which of evenly spaced samples it takes so that straight lines between them meet all (Douglas & Peucker 1973).
 *
 * @param samples `channels` bytes each
 * @returns places 0…`last` in order
 */
function straightened(samples: Uint8Array, channels: number, last: number): number[] {
  const kept = [0];
  const open: [number, number][] = [[0, last]];
  for (let span = open.pop(); span; span = open.pop()) {
    const [from, to] = span;
    let worst = BENT;
    let at = -1;
    for (let i = from + 1; i < to; i++)
      for (let k = 0; k < channels; k++) {
        const [a, b] = [samples[from * channels + k]!, samples[to * channels + k]!];
        const off = Math.abs(samples[i * channels + k]! - a - ((b - a) * (i - from)) / (to - from));
        if (off > worst) [worst, at] = [off, i];
      }
    // The nearer half is looked at first, so that what is kept comes in order.
    if (at < 0) kept.push(to);
    else open.push([at, to], [from, at]);
  }
  return kept;
}

/** A line of no length that goes on at neither end paints nothing. */
export function paintNothing(shading: mupdf.PDFObject): void {
  shading.put('ShadingType', 2);
  shading.put('Coords', [0, 0, 0, 0]);
  shading.put('Extend', [false, false]);
  shading.put('ColorSpace', 'DeviceGray');
  shading.put('Function', { FunctionType: 2, Domain: [0, 1], C0: [0], C1: [0], N: 1 });
  shading.delete('Background');
}

/** Where a function is looked at: along its one figure, or over the area of its two, the first changing fastest. */
function pointsOf([a = 0, b = 1, c, d]: readonly number[]): number[][] {
  if (c === undefined || d === undefined) return Array.from({ length: STEPS }, (_, i) => [a + ((b - a) * i) / (STEPS - 1)]);
  return Array.from({ length: SIDE_STEPS ** 2 }, (_, i) => [
    a + ((b - a) * (i % SIDE_STEPS)) / (SIDE_STEPS - 1),
    c + ((d - c) * Math.floor(i / SIDE_STEPS)) / (SIDE_STEPS - 1)
  ]);
}

/** The names of a Separation or DeviceN space. */
export function namesOf(space: mupdf.PDFObject): string[] {
  if (!space.isArray()) return [];
  const kind = space.get(0).toString();
  if (kind === '/Separation') return [space.get(1).asName()];
  if (kind !== '/DeviceN') return [];
  const list = space.get(1);
  return Array.from({ length: list.length }, (_, i) => list.get(i).asName());
}

/** By document the spaces that were put into it, by their profile: each of its pages asks for the same. */
const spaces = new WeakMap<mupdf.PDFDocument, Map<Uint8Array, mupdf.PDFObject>>();

/** A colour space of a profile, in a document. */
export function profiled(document: mupdf.PDFDocument, bytes: Uint8Array, components: number, alternate: string): mupdf.PDFObject {
  const own = spaces.get(document) ?? new Map<Uint8Array, mupdf.PDFObject>();
  spaces.set(document, own);
  const known = own.get(bytes);
  if (known) return known;
  const stream = document.addStream(bytes, { N: components });
  stream.put('Alternate', document.newName(alternate));
  const made = document.addObject(['ICCBased', stream]);
  own.set(bytes, made);
  return made;
}
