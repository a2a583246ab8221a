import type * as mupdf from '../../interpreter/interpreter';
import type { Resolver, Sources } from './resolver';

/** Default colour spaces (ISO 32000-2, 8.6.5.6): what a content has its plain colours read with instead of the docket's profiles. */

const KEYS = { DefaultRGB: ['rgb', 3], DefaultCMYK: ['cmyk', 4], DefaultGray: ['grey', 1] } as const;

/** What a content's resources have in place of a plain space; nothing where they do not. */
export function insteadOf(resources: mupdf.PDFObject, plain: string): mupdf.PDFObject | undefined {
  const spaces = resources.isDictionary() ? resources.get('ColorSpace') : undefined;
  const instead = spaces?.isDictionary() ? spaces.get(plain.replace('Device', 'Default')) : undefined;
  return instead?.isArray() ? instead : undefined;
}

/** Tells a resolver of what contents bring. @returns the number of the sources for a content, 0 where it brings none */
export function ownSources(document: mupdf.PDFDocument, resolver: Resolver): (resources: mupdf.PDFObject) => number {
  const known = new Map<string, number>();
  return (resources) => {
    const found = Object.entries(KEYS).flatMap(([key, [source, components]]) => {
      const space = insteadOf(resources, key.replace('Default', 'Device'));
      return space ? [{ source, components, space }] : [];
    });
    if (found.length === 0) return 0;
    const key = found.map(({ source, space }) => `${source} ${space.toString()}`).join();
    const before = known.get(key);
    if (before !== undefined) return before;
    const own: Partial<Sources> = {};
    for (const { source, components, space } of found) {
      const opened = openSpace(document, space, components);
      if (opened) own[source] = opened;
    }
    const number = resolver.addSources(own);
    known.set(key, number);
    return number;
  };
}

/** A colour space of a document, which the interpreter gives by way of a picture in it; nothing where it does not fit. */
function openSpace(document: mupdf.PDFDocument, space: mupdf.PDFObject, components: number): mupdf.ColorSpace | undefined {
  const picture = document.addStream(new Uint8Array(components), {
    Type: 'XObject',
    Subtype: 'Image',
    Width: 1,
    Height: 1,
    BitsPerComponent: 8
  });
  picture.put('ColorSpace', space);
  const image = document.loadImage(picture);
  const opened = image.getColorSpace();
  return opened?.getNumberOfComponents() === components ? opened : undefined;
}
