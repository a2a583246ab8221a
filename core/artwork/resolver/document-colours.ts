import * as mupdf from '../../interpreter/interpreter';
import { eachOf, eachResources } from '../resources';
import { askedOfInks } from './asked';
import { readFunction } from './functions';
import { insteadOf } from './own-sources';
import type { PictureResolver } from './pictures';
import { isInkSpace, PLAIN_STATE, type Resolver } from './resolver';

/**
 * What of a page's colours the interpreter settles before a device is told of it: gradients, pictures, groups, and what
 * spot colours and palettes stand on. Their spaces are given profiles, or replaced, in the document itself.
 */

/** @param document a document of its own: its objects are changed */
export function settleDocument(
  document: mupdf.PDFDocument,
  index: number,
  resolver: Resolver,
  pictures: PictureResolver,
  choices: { blackAlone: boolean }
): void {
  const { inks } = resolver;
  const managed: Record<string, mupdf.PDFObject> = {
    DeviceRGB: profiled(document, inks.sources.rgb, 3, 'DeviceRGB'),
    DeviceCMYK: profiled(document, inks.sources.cmyk, 4, 'DeviceCMYK'),
    DeviceGray: profiled(document, inks.sources.grey, 1, 'DeviceGray')
  };
  const gradients = new Gradients(document, resolver, pictures, choices.blackAlone);
  eachResources(document, index, (resources, owner) => {
    // What this content has instead of the plain spaces goes before the docket's.
    const better = (plain: string): mupdf.PDFObject | undefined =>
      managed[plain] && (insteadOf(resources, plain) ?? managed[plain]);
    /** Replaces a plain space that stands at `key`, or under the spot colour or palette that does. */
    const settle = (holder: mupdf.PDFObject, key: string | number) => {
      const space = holder.get(key);
      if (space.isName()) {
        const instead = better(space.asName());
        if (instead) holder.put(key, instead);
      } else if (space.isArray()) {
        const kind = space.get(0).toString();
        if (kind === '/Indexed') settle(space, 1);
        else if (kind === '/Separation' || kind === '/DeviceN') settle(space, 2);
      }
    };
    const group = owner.get('Group');
    if (group.isDictionary()) settle(group, 'CS');
    if (!resources.isDictionary()) return;
    const spaces = resources.get('ColorSpace');
    if (spaces.isDictionary()) spaces.forEach((space, name) => space.resolve().isArray() && settle(spaces, name));
    const gradient = (shading: mupdf.PDFObject) => {
      settle(shading, 'ColorSpace');
      gradients.replace(shading);
    };
    eachOf(resources, 'Shading', gradient);
    eachOf(resources, 'Pattern', (pattern) => {
      const shading = pattern.get('Shading');
      if (!shading.isNull()) gradient(shading);
    });
    eachOf(resources, 'XObject', (object) => {
      if (object.get('Subtype').toString() !== '/Image') return;
      settle(object, 'ColorSpace');
      // Whether it is smoothed where it is enlarged is settled when it is drawn.
      object.delete('Interpolate');
    });
  });
}

/** So many colours along a gradient: the interpreter itself takes no more. */
const STEPS = 256;
/** Along each side of one that is a function of a place. */
const SIDE_STEPS = 64;

/**
 * Gradients whose colours the resolver settles: those of named inks, of which the interpreter only adds up the full tints where
 * it draws in inks, and those that are to be in black alone. Each is given the target's space, and a table of its colours.
 */
class Gradients {
  readonly #document: mupdf.PDFDocument;
  readonly #resolver: Resolver;
  readonly #pictures: PictureResolver;
  readonly #blackAlone: boolean;
  readonly #done = new Set<number>();
  #target: mupdf.PDFObject | undefined;

  constructor(document: mupdf.PDFDocument, resolver: Resolver, pictures: PictureResolver, blackAlone: boolean) {
    this.#document = document;
    this.#resolver = resolver;
    this.#pictures = pictures;
    this.#blackAlone = blackAlone && isInkSpace(resolver.inks);
  }

  /** Call when what stands under the gradient's space has its profile. */
  replace(shading: mupdf.PDFObject): void {
    if (shading.isIndirect()) {
      if (this.#done.has(shading.asIndirect())) return;
      this.#done.add(shading.asIndirect());
    }
    const space = shading.get('ColorSpace');
    const names = namesOf(space);
    if (names.length > 0 && askedOfInks(names, [], this.#resolver.choices.leftOut).is === 'nothing') {
      paintNothing(shading);
      return;
    }
    if (names.length === 0 && !this.#blackAlone) return;
    const made = readFunction(shading.get('Function'));
    // Without a function each corner of a mesh has its own colour, and those stay as the file has them.
    if (!made || made.domain.length > 4) return;
    const points = pointsOf(made.domain);
    const colours = points.map((point) => made.at(point));
    const ground = shading.get('Background');
    if (ground.isArray()) colours.push(Array.from({ length: ground.length }, (_, i) => ground.get(i).asNumber()));
    const components = colours[0]?.length ?? 0;
    const resolved = components > 0 ? this.#resolved(space, components, colours) : undefined;
    if (!resolved) return;
    const { channels, bytes } = resolved;
    if (ground.isArray())
      shading.put(
        'Background',
        [...bytes.subarray(-channels)].map((v) => v / 255)
      );
    const table = bytes.subarray(0, points.length * channels);
    shading.put(
      'Function',
      this.#document.addStream(table, {
        FunctionType: 0,
        Domain: made.domain,
        Range: Array.from({ length: channels }, () => [0, 1]).flat(),
        Size: made.domain.length === 2 ? [STEPS] : [SIDE_STEPS, SIDE_STEPS],
        BitsPerSample: 8
      })
    );
    shading.put('ColorSpace', this.#targetSpace(channels));
  }

  /** Colours of a space as the resolver of pictures settles them: they are a picture of one row. */
  #resolved(space: mupdf.PDFObject, components: number, colours: readonly (readonly number[])[]) {
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
    const resolved = this.#pictures.resolve(image, PLAIN_STATE);
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

/** A line of no length that goes on at neither end paints nothing. */
function paintNothing(shading: mupdf.PDFObject): void {
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
function namesOf(space: mupdf.PDFObject): string[] {
  if (!space.isArray()) return [];
  const kind = space.get(0).toString();
  if (kind === '/Separation') return [space.get(1).asName()];
  if (kind !== '/DeviceN') return [];
  const list = space.get(1);
  return Array.from({ length: list.length }, (_, i) => list.get(i).asName());
}

/** A colour space of a profile. */
function profiled(document: mupdf.PDFDocument, bytes: Uint8Array, components: number, alternate: string): mupdf.PDFObject {
  const stream = document.addStream(bytes, { N: components });
  stream.put('Alternate', document.newName(alternate));
  return document.addObject(['ICCBased', stream]);
}
