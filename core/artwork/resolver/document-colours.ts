import type * as mupdf from '../../interpreter/interpreter';
import { eachOf, eachResources } from '../resources';
import { Gradients, profiled } from './gradients';
import { insteadOf } from './own-sources';
import type { PictureResolver } from './pictures';
import type { Resolver } from './resolver';

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
  choices: { blackAlone: boolean; far: number }
): void {
  const { inks } = resolver;
  const managed: Record<string, mupdf.PDFObject> = {
    DeviceRGB: profiled(document, inks.sources.rgb, 3, 'DeviceRGB'),
    DeviceCMYK: profiled(document, inks.sources.cmyk, 4, 'DeviceCMYK'),
    DeviceGray: profiled(document, inks.sources.grey, 1, 'DeviceGray')
  };
  const gradients = new Gradients(document, resolver, pictures, choices);
  const masked = inMasks(document, index);
  eachResources(document, index, (resources, owner, _kind, inMask) => {
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
    // In a soft mask gradients are opacities and no colours, also where the page shares its resources with the mask.
    const opacities = (holder: mupdf.PDFObject, key: string) =>
      inMask || isAmong(masked, resources) || isAmong(masked, holder.get(key));
    const gradient = (holder: mupdf.PDFObject, key: string, matrix: mupdf.PDFObject | undefined) => {
      const shading = holder.get(key);
      if (!shading.isDictionary() && !shading.isStream()) return;
      settle(shading, 'ColorSpace');
      if (!opacities(holder, key)) gradients.replace(holder, key, matrix);
    };
    const shadings = resources.get('Shading');
    if (shadings.isDictionary()) shadings.forEach((_, name) => gradient(shadings, String(name), undefined));
    eachOf(resources, 'Pattern', (pattern) => gradient(pattern, 'Shading', pattern.get('Matrix')));
    eachOf(resources, 'XObject', (object) => {
      if (object.get('Subtype').toString() !== '/Image') return;
      settle(object, 'ColorSpace');
      // Whether it is smoothed where it is enlarged is settled when it is drawn.
      object.delete('Interpolate');
    });
  });
}

const isAmong = (numbers: ReadonlySet<number>, object: mupdf.PDFObject): boolean =>
  object.isIndirect() && numbers.has(object.asIndirect());

/** The resources and gradients, by number, that soft masks are drawn with. */
function inMasks(document: mupdf.PDFDocument, index: number): Set<number> {
  const numbers = new Set<number>();
  const add = (object: mupdf.PDFObject) => object.isIndirect() && numbers.add(object.asIndirect());
  eachResources(document, index, (resources, _owner, _kind, inMask) => {
    if (!inMask) return;
    add(resources);
    eachOf(resources, 'Shading', add);
    eachOf(resources, 'Pattern', (pattern) => add(pattern.get('Shading')));
  });
  return numbers;
}
