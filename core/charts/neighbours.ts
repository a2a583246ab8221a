import type { Triple } from '../colour/lab';
import type { Inks } from '../colour/separation';
import { BLACK, type Flat } from '../marks/print-list';
import type { ChartLayout, PlacedPatch } from './chart-layout';

/** The sheet of a colour's neighbours: it and its like, a step in lightness, chroma and hue apart, each with a code to choose it by. */

/** How far steps are apart, in units of what CIEDE2000 counts as 1 there. */
const STEP = 2;
/** Below this chroma there is no hue to speak of: steps go along a* and b*. */
const NEAR_GREY = 6;
/** Steps to each side in hue and in chroma; lightness has one. */
const SIDE = 2;

export interface Neighbour {
  /** A letter for lightness (A lighter, B as it is, C darker), then a figure for hue or b*, then one for chroma or a*. */
  code: string;
  lab: Triple;
}

/** The code of the colour itself. */
export const ITSELF = 'B33';

/** @param lab under D50 @returns its neighbours and itself, the lightest first */
export function neighboursOf([l, a, b]: Readonly<Triple>): Neighbour[] {
  const chroma = Math.hypot(a, b);
  const hue = Math.atan2(b, a);
  // CIEDE2000's scales without its turn for blues (Sharma, Wu, Dalal 2005).
  const stepL = STEP * (1 + (0.015 * (l - 50) ** 2) / Math.sqrt(20 + (l - 50) ** 2));
  const stepC = STEP * (1 + 0.045 * chroma);
  const stepH = STEP * (1 + 0.015 * chroma);
  const list: Neighbour[] = [];
  for (const lighter of [1, 0, -1])
    for (let across = -SIDE; across <= SIDE; across++)
      for (let along = -SIDE; along <= SIDE; along++) {
        const lightness = Math.min(100, Math.max(0, l + lighter * stepL));
        const turned = hue + (across * stepH) / Math.max(chroma, 1);
        const reach = Math.max(0, chroma + along * stepC);
        list.push({
          code: `${'CBA'[lighter + 1]!}${across + SIDE + 1}${along + SIDE + 1}`,
          lab:
            chroma < NEAR_GREY
              ? [lightness, a + (along * STEP) / 2, b + (across * STEP) / 2]
              : [lightness, reach * Math.cos(turned), reach * Math.sin(turned)]
        });
      }
  return list;
}

const COLUMNS = 2 * SIDE + 1;
const PATCH_MM = 14;
const LABEL_MM = 5;
const HEADER_MM = 14;
const BLOCK_GAP_MM = 8;

/** One lettering: black rectangles of a text. */
type Lettering = (text: string, heightMm: number) => { width: number; flats: Omit<Flat, 'inks'>[] };

/**
 * Lays a sheet of neighbours out: a block for each lightness, side by side as the media is wide, a code under each patch.
 *
 * @throws RangeError when not one block fits across
 */
export function layOutNeighbours(
  patches: readonly { id: string; inks: Inks }[],
  code: string,
  title: string,
  media: { widthMm: number; marginMm: number },
  text: Lettering
): { layout: ChartLayout; flats: Flat[] } {
  const usable = media.widthMm - 2 * media.marginMm;
  const block = COLUMNS * PATCH_MM;
  if (usable < block)
    throw new RangeError(`A sheet of neighbours needs ${block} mm of width; ${usable.toFixed(0)} mm of this media can be used.`);
  const across = Math.floor((usable + BLOCK_GAP_MM) / (block + BLOCK_GAP_MM));
  const rowMm = PATCH_MM + LABEL_MM;
  const perBlock = COLUMNS ** 2;
  const blocks = Math.ceil(patches.length / perBlock);
  const blockMm = COLUMNS * rowMm;
  const placed = patches.map((patch, i): PlacedPatch => {
    const which = Math.floor(i / perBlock);
    const row = Math.floor((i % perBlock) / COLUMNS);
    return {
      ...patch,
      strip: Math.floor(i / COLUMNS),
      x: media.marginMm + (which % across) * (block + BLOCK_GAP_MM) + (i % COLUMNS) * PATCH_MM,
      y: 5 + HEADER_MM + Math.floor(which / across) * (blockMm + BLOCK_GAP_MM) + row * rowMm
    };
  });
  const rows = Math.ceil(blocks / across);
  const height = HEADER_MM + rows * (blockMm + BLOCK_GAP_MM) - BLOCK_GAP_MM;
  const width = Math.min(blocks, across) * (block + BLOCK_GAP_MM) - BLOCK_GAP_MM;
  const strips = Math.ceil(patches.length / COLUMNS);
  const lettered = (words: string, heightMm: number, x: number, y: number): Flat[] =>
    text(words, heightMm).flats.map((flat) => ({ ...flat, x: x + flat.x, y: y + flat.y, inks: BLACK }));
  return {
    layout: {
      patchMm: PATCH_MM,
      widthMm: media.widthMm,
      lengthMm: 5 + height + 5,
      pages: [{ code, x: media.marginMm, y: 5, width, height, firstStrip: 0, strips }],
      strips,
      patches: placed
    },
    flats: [
      ...lettered(code, 4, media.marginMm, 5),
      ...lettered(title, 3, media.marginMm, 11),
      ...placed.flatMap(({ id, inks, x, y }) => [
        { x, y, width: PATCH_MM, height: PATCH_MM, inks },
        ...lettered(id, 2.5, x + 1, y + PATCH_MM + 1),
        ...(id === ITSELF ? [{ x: x + 9, y: y + PATCH_MM + 2, width: 4, height: 0.6, inks: BLACK }] : [])
      ])
    ]
  };
}
