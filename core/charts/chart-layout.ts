import { BLACK, type Flat } from '../marks/print-list';
import type { Patch } from './patches';

/** A patch at its place: mm from the roll's left edge and the start of the print; `strip` counts through the chart. */
export interface PlacedPatch extends Patch {
  strip: number;
  x: number;
  y: number;
}

export interface ChartPage {
  /** What stands above it, in its code too. */
  code: string;
  x: number;
  y: number;
  width: number;
  height: number;
  firstStrip: number;
  strips: number;
}

export interface ChartLayout {
  patchMm: number;
  widthMm: number;
  lengthMm: number;
  pages: ChartPage[];
  patches: PlacedPatch[];
  strips: number;
}

export const PATCH_MM = 8;
export const HEADER_MM = 18;
const LABEL_MM = 10;
const GAP_MM = 12;
const MOST_IN_STRIP = 24;
const MOST_STRIPS = 24;

/**
 * Lays patches out in strips an instrument can follow, strips in pages, and pages side by side as wide as the media is.
 *
 * @param code what the pages are called; a number is added
 * @throws RangeError when not one page fits across
 */
export function layOutChart(patches: readonly Patch[], code: string, media: { widthMm: number; marginMm: number }): ChartLayout {
  const usable = media.widthMm - 2 * media.marginMm;
  const inStrip = Math.min(MOST_IN_STRIP, Math.floor((usable - LABEL_MM) / PATCH_MM));
  if (inStrip < 6)
    throw new RangeError(
      `A chart needs ${LABEL_MM + 6 * PATCH_MM} mm of width; ${usable.toFixed(0)} mm of this media can be used.`
    );
  const pageWidth = LABEL_MM + inStrip * PATCH_MM;
  const strips = Math.ceil(patches.length / inStrip);
  const across = Math.max(1, Math.min(Math.floor((usable + GAP_MM) / (pageWidth + GAP_MM)), strips));
  // As many strips on a page as make all pages alike, within what a page holds.
  const rows = Math.ceil(Math.ceil(strips / MOST_STRIPS) / across);
  const perPage = Math.min(MOST_STRIPS, Math.ceil(strips / (rows * across)));
  const count = Math.ceil(strips / perPage);
  const height = HEADER_MM + perPage * PATCH_MM;
  const pages: ChartPage[] = Array.from({ length: count }, (_, page) => ({
    code: `${code}-${page + 1}/${count}`,
    x: media.marginMm + (page % across) * (pageWidth + GAP_MM),
    y: 5 + Math.floor(page / across) * (height + GAP_MM),
    width: pageWidth,
    height: HEADER_MM + Math.min(perPage, strips - page * perPage) * PATCH_MM,
    firstStrip: page * perPage,
    strips: Math.min(perPage, strips - page * perPage)
  }));
  return {
    patchMm: PATCH_MM,
    widthMm: media.widthMm,
    lengthMm: Math.max(...pages.map((page) => page.y + page.height)) + 5,
    pages,
    strips,
    patches: patches.map((patch, i) => {
      const strip = Math.floor(i / inStrip);
      const page = pages[Math.floor(strip / perPage)]!;
      return {
        ...patch,
        strip,
        x: page.x + LABEL_MM + (i % inStrip) * PATCH_MM,
        y: page.y + HEADER_MM + (strip - page.firstStrip) * PATCH_MM
      };
    })
  };
}

/** Strips are called A, B … Z, AA, AB … */
export function stripName(strip: number): string {
  const letter = String.fromCharCode(65 + (strip % 26));
  return strip < 26 ? letter : stripName(Math.floor(strip / 26) - 1) + letter;
}

/** Seconds that an instrument takes: putting it on, then along the strip; or patch by patch. */
export function readingSeconds(patches: number, strips: number): { byStrips: number; byPatches: number } {
  return { byStrips: strips * 6 + patches * 0.15, byPatches: patches * 3 };
}

/** What is printed: headers, names of strips, and patches. `lettering` gives the black rectangles of a text or a code. */
export function chartFlats(
  layout: ChartLayout,
  title: string,
  lettering: {
    text: (text: string, heightMm: number) => { width: number; flats: Omit<Flat, 'inks'>[] };
    code: (text: string, sizeMm: number) => Omit<Flat, 'inks'>[];
  }
): Flat[] {
  const at =
    (x: number, y: number) =>
    (flat: Omit<Flat, 'inks'>): Flat => ({ ...flat, x: x + flat.x, y: y + flat.y, inks: BLACK });
  const flats: Flat[] = [];
  for (const page of layout.pages) {
    flats.push(...lettering.code(page.code, HEADER_MM - 6).map(at(page.x, page.y)));
    flats.push(...lettering.text(page.code, 4).flats.map(at(page.x + HEADER_MM - 2, page.y)));
    flats.push(...lettering.text(title, 3).flats.map(at(page.x + HEADER_MM - 2, page.y + 6.5)));
    for (let strip = page.firstStrip; strip < page.firstStrip + page.strips; strip++) {
      const y = page.y + HEADER_MM + (strip - page.firstStrip) * layout.patchMm;
      flats.push(...lettering.text(stripName(strip), 3.5).flats.map(at(page.x, y + 2)));
    }
  }
  for (const { x, y, inks } of layout.patches) flats.push({ x, y, width: layout.patchMm, height: layout.patchMm, inks });
  return flats;
}
