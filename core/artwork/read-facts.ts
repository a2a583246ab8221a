import * as mupdf from 'mupdf';
import { apply, chain, type Matrix } from '../geometry/matrix';
import { bounds, flatten } from '../geometry/path';
import { MM_PER_POINT } from '../units/length';
import { ArtworkError, type CutPath, type PageFacts } from './facts';
import { cutSpace, finishedBox, pageBoxes, readPath, reason, spotNames } from './page';

export const LIMITS = {
  pages: 2000,
  /** The longest side of a page, mm. */
  pageMm: 50_000,
  imageMegapixels: 400,
  objects: 2_000_000
};

/**
 * Looks at every object of a page.
 *
 * @param cutNames the shop's names for cut lines
 * @throws ArtworkError when the page is empty, too large, or breaks the interpreter
 */
export function readPageFacts(document: mupdf.PDFDocument, index: number, cutNames: readonly string[]): PageFacts {
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
  const toMm: Matrix = [MM_PER_POINT, 0, 0, MM_PER_POINT, -finished[0] * MM_PER_POINT, -finished[1] * MM_PER_POINT];
  const images: PageFacts['images'] = [];
  const colourSpaces = new Set<string>();
  const spots = new Set<string>();
  const cutPaths: CutPath[] = [];
  const isCut = cutSpace(cutNames);
  let objects = 0;

  const seen = (space: mupdf.ColorSpace | null): boolean => {
    if (++objects > LIMITS.objects)
      throw new ArtworkError(`Page ${index + 1} has more than ${LIMITS.objects / 1e6} million objects.`);
    const names = spotNames(space);
    names.filter((name) => name !== 'None' && name !== 'All').forEach((name) => spots.add(name));
    if (space && names.length === 0) colourSpaces.add(spaceName(space));
    return !!space && isCut(space);
  };
  const cut = (path: mupdf.Path, ctm: Matrix, space: mupdf.ColorSpace) => {
    const outline = readPath(path, chain(ctm, toMm));
    if (outline.length > 1) cutPaths.push({ spot: spotNames(space)[0] ?? '', path: outline });
  };
  const image = (picture: mupdf.Image, ctm: Matrix) => {
    const widthPx = picture.getWidth();
    const heightPx = picture.getHeight();
    if (widthPx * heightPx > LIMITS.imageMegapixels * 1e6) {
      throw new ArtworkError(
        `Page ${index + 1} has a picture of ${widthPx} × ${heightPx} pixels; ${LIMITS.imageMegapixels} megapixels are the most.`
      );
    }
    const m = chain(ctm, toMm);
    const acrossMm = Math.hypot(m[0], m[1]);
    const downMm = Math.hypot(m[2], m[3]);
    const corners = [
      { x: 0, y: 0 },
      { x: 1, y: 0 },
      { x: 0, y: 1 },
      { x: 1, y: 1 }
    ].map((p) => apply(m, p));
    const xs = corners.map((p) => p.x);
    const ys = corners.map((p) => p.y);
    const x = Math.min(...xs);
    const y = Math.min(...ys);
    const space = picture.getColorSpace();
    seen(space);
    if (acrossMm > 0 && downMm > 0) {
      images.push({
        widthPx,
        heightPx,
        ppi: Math.min((widthPx / acrossMm) * 25.4, (heightPx / downMm) * 25.4),
        colourSpace: space ? spaceName(space) : 'mask',
        place: { x, y, width: Math.max(...xs) - x, height: Math.max(...ys) - y }
      });
    }
  };
  const device = new mupdf.Device({
    fillPath: (path, _evenOdd, ctm, space) => {
      if (seen(space)) cut(path, ctm, space);
    },
    strokePath: (path, _stroke, ctm, space) => {
      if (seen(space)) cut(path, ctm, space);
    },
    fillText: (_text, _ctm, space) => void seen(space),
    strokeText: (_text, _stroke, _ctm, space) => void seen(space),
    fillImage: (picture, ctm) => image(picture, ctm),
    fillImageMask: (_picture, _ctm, space) => void seen(space),
    fillShade: () => void seen(null)
  });
  try {
    page.runPageContents(device, mupdf.Matrix.identity);
    device.close();
  } catch (error) {
    if (error instanceof ArtworkError) throw error;
    throw new ArtworkError(`Page ${index + 1} cannot be read (${reason(error)}). Ask for the file to be saved anew.`);
  } finally {
    device.destroy();
    page.destroy();
  }
  const asBox = (r: mupdf.Rect) => ({
    x: (r[0] - finished[0]) * MM_PER_POINT,
    y: (r[1] - finished[1]) * MM_PER_POINT,
    width: (r[2] - r[0]) * MM_PER_POINT,
    height: (r[3] - r[1]) * MM_PER_POINT
  });
  const outer = boxes.bleed[2] - boxes.bleed[0] > finished[2] - finished[0] ? boxes.bleed : boxes.crop;
  const bleed =
    Math.min(finished[0] - outer[0], finished[1] - outer[1], outer[2] - finished[2], outer[3] - finished[3]) * MM_PER_POINT;
  return {
    widthMm,
    heightMm,
    boxes: Object.fromEntries(Object.entries(boxes).map(([name, rect]) => [name, asBox(rect as mupdf.Rect)])),
    bleedMm: Math.max(0, Math.round(bleed * 100) / 100),
    images: images.slice(0, 500),
    colourSpaces: [...colourSpaces].sort(),
    spots: [...spots].sort(),
    cutPaths: withoutDoubles(cutPaths),
    objects
  };
}

function spaceName(space: mupdf.ColorSpace): string {
  if (space.isIndexed()) return 'indexed';
  if (space.isGray()) return 'grey';
  if (space.isRGB()) return 'RGB';
  if (space.isCMYK()) return 'CMYK';
  if (space.isLab()) return 'Lab';
  return space.getName();
}

/** A path that is filled and stroked in the cut colour is one cut, not two. */
function withoutDoubles(paths: CutPath[]): CutPath[] {
  const seen = new Set<string>();
  return paths.filter((cut) => {
    const box = bounds(flatten(cut.path, 0.1));
    if (!box) return false;
    const key = JSON.stringify([cut.spot, cut.path.length, ...Object.values(box).map((v) => Math.round(v * 100))]);
    if (seen.has(key)) return false;
    seen.add(key);
    return true;
  });
}

/** Names of fonts that the file uses but does not hold. */
export function fontsNotEmbedded(document: mupdf.PDFDocument): string[] {
  const missing = new Set<string>();
  const count = document.countObjects();
  for (let number = 1; number < count && number < 200_000; number++) {
    let object: mupdf.PDFObject;
    try {
      object = document.newIndirect(number).resolve();
    } catch {
      continue;
    }
    if (!object.isDictionary() || object.get('Type').toString() !== '/Font') continue;
    const kind = object.get('Subtype').toString();
    if (kind === '/Type3' || kind === '/Type0') continue;
    const descriptor = object.get('FontDescriptor');
    const held = ['FontFile', 'FontFile2', 'FontFile3'].some((key) => !descriptor.isNull() && !descriptor.get(key).isNull());
    if (!held)
      missing.add(
        object.get('BaseFont').isName()
          ? object
              .get('BaseFont')
              .asName()
              .replace(/^[A-Z]{6}\+/, '')
          : 'a font without a name'
      );
  }
  return [...missing].sort();
}
