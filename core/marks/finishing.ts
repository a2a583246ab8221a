import type { Box, Sides } from '../geometry/box';
import type { Eyelets, Finishing } from './finishing-choice';
import { fittedLine } from './line-of-text';
import { BLACK, REGISTRATION, type Amounts } from './print-list';

/** What is printed on and around a docket for those who finish it: marks, folds, eyelets, a caption. Lengths in mm. */

export const EDGES = ['top', 'right', 'bottom', 'left'] as const;
export type Edge = (typeof EDGES)[number];

export const NO_FINISHING: Finishing = {
  crop: null,
  centre: false,
  outline: false,
  folds: [],
  pockets: { top: 0, right: 0, bottom: 0, left: 0 },
  hem: 0,
  eyelets: null,
  caption: false,
  ink: 'registration',
  turn: 0,
  numbered: false
};

export const DEFAULT_CROP = { length: 6, offset: 3, weight: 0.25 };
export const DEFAULT_EYELETS: Eyelets = {
  by: 'spacing',
  spacing: 500,
  across: 4,
  down: 3,
  inset: 25,
  look: 'mark',
  diameter: 12
};

/** A line of a caption, and what keeps it off the artwork. */
const CAPTION_MM = 3;
const CAPTION_GAP_MM = 1.5;
const THIN_MM = 0.2;
const DASH_MM = 4;

export const inksOf = (ink: Finishing['ink']): Amounts => (ink === 'black' ? BLACK : REGISTRATION);

export interface SizeWithBleed {
  widthMm: number;
  heightMm: number;
  bleed: Sides;
}

/** How far the material itself reaches beyond the finished edges: hem, pocket. */
const allowance = (finishing: Finishing): Sides => ({
  top: finishing.hem + finishing.pockets.top,
  right: finishing.hem + finishing.pockets.right,
  bottom: finishing.hem + finishing.pockets.bottom,
  left: finishing.hem + finishing.pockets.left
});

/** What a piece takes beyond its finished edges: bleed, allowances and marks. Marks stay within, so that they fall on no other piece. */
export function roomOf(size: SizeWithBleed, finishing: Finishing): Sides {
  const extra = allowance(finishing);
  const marks =
    finishing.crop || finishing.centre ? (finishing.crop ?? DEFAULT_CROP).offset + (finishing.crop ?? DEFAULT_CROP).length : 0;
  const outline = finishing.outline ? THIN_MM : 0;
  const caption = finishing.caption || finishing.numbered ? CAPTION_MM * 1.4 + CAPTION_GAP_MM : 0;
  // An eyelet near its edge may reach over it.
  const { diameter = 0, inset = 0 } = finishing.eyelets ?? {};
  const side = (edge: Edge) =>
    Math.max(
      Math.max(size.bleed[edge], extra[edge] + outline) + Math.max(marks, edge === 'bottom' ? caption : 0),
      diameter / 2 - inset
    );
  return { top: side('top'), right: side('right'), bottom: side('bottom'), left: side('left') };
}

/** What is drawn of it, in mm of the finished size, y down; all in one ink, but for bars that have their own. */
export type FinishingShape =
  | ({ kind: 'bar'; inks?: Amounts } & Box)
  | { kind: 'mark'; x: number; y: number; diameter: number; shape: 'ring' | 'cross'; weight: number }
  | { kind: 'text'; x: number; y: number; heightMm: number; text: string; turn?: number };

/** Middles of eyelets, mm of the finished size: a frame of them, each corner once. */
export function eyeletPlaces(size: Omit<SizeWithBleed, 'bleed'>, eyelets: Eyelets): { x: number; y: number }[] {
  const { inset } = eyelets;
  const wide = size.widthMm - 2 * inset;
  const high = size.heightMm - 2 * inset;
  if (wide < 0 || high < 0) return [];
  const along = (extent: number, count: number) => {
    const n = eyelets.by === 'count' ? count : Math.ceil(extent / eyelets.spacing - 1e-9) + 1;
    if (n <= 1) return n === 1 ? [extent / 2] : [];
    return Array.from({ length: n }, (_, i) => (extent * i) / (n - 1));
  };
  const across = along(wide, eyelets.across).map((x) => x + inset);
  const down = along(high, eyelets.down).map((y) => y + inset);
  const places = [...across.map((x) => ({ x, y: inset })), ...across.map((x) => ({ x, y: size.heightMm - inset }))];
  for (const y of down) places.push({ x: inset, y }, { x: size.widthMm - inset, y });
  // Corners come from both directions.
  return places.filter((p, i) => places.findIndex((q) => Math.hypot(p.x - q.x, p.y - q.y) < 0.01) === i);
}

function dashes(from: { x: number; y: number }, to: { x: number; y: number }): FinishingShape[] {
  const across = from.y === to.y;
  const extent = across ? to.x - from.x : to.y - from.y;
  const bars: FinishingShape[] = [];
  for (let at = 0; at < extent; at += 2 * DASH_MM) {
    const long = Math.min(DASH_MM, extent - at);
    bars.push(
      across
        ? { kind: 'bar', x: from.x + at, y: from.y - THIN_MM / 2, width: long, height: THIN_MM }
        : { kind: 'bar', x: from.x - THIN_MM / 2, y: from.y + at, width: THIN_MM, height: long }
    );
  }
  return bars;
}

/**
 * @param caption what stands below the piece, without the number of the copy
 * @param copy which copy, from 0, of how many
 */
export function finishingShapes(
  size: SizeWithBleed,
  finishing: Finishing,
  caption: string,
  copy: { number: number; of: number }
): FinishingShape[] {
  const { widthMm: w, heightMm: h, bleed } = size;
  const extra = allowance(finishing);
  const shapes: FinishingShape[] = [];
  // The material is cut off there.
  const [left, top, right, bottom] = [-extra.left, -extra.top, w + extra.right, h + extra.bottom];
  const beyond = (edge: Edge) => Math.max(bleed[edge], extra[edge]) - extra[edge];
  const crop = finishing.crop ?? DEFAULT_CROP;
  const across = (y: number) => {
    shapes.push({
      kind: 'bar',
      x: left - beyond('left') - crop.offset - crop.length,
      y: y - crop.weight / 2,
      width: crop.length,
      height: crop.weight
    });
    shapes.push({
      kind: 'bar',
      x: right + beyond('right') + crop.offset,
      y: y - crop.weight / 2,
      width: crop.length,
      height: crop.weight
    });
  };
  const down = (x: number) => {
    shapes.push({
      kind: 'bar',
      x: x - crop.weight / 2,
      y: top - beyond('top') - crop.offset - crop.length,
      width: crop.weight,
      height: crop.length
    });
    shapes.push({
      kind: 'bar',
      x: x - crop.weight / 2,
      y: bottom + beyond('bottom') + crop.offset,
      width: crop.weight,
      height: crop.length
    });
  };
  if (finishing.crop) {
    for (const y of [top, bottom]) across(y);
    for (const x of [left, right]) down(x);
  }
  if (finishing.centre) {
    across(h / 2);
    down(w / 2);
  }
  if (finishing.outline) {
    shapes.push({ kind: 'bar', x: left - THIN_MM, y: top - THIN_MM, width: right - left + 2 * THIN_MM, height: THIN_MM });
    shapes.push({ kind: 'bar', x: left - THIN_MM, y: bottom, width: right - left + 2 * THIN_MM, height: THIN_MM });
    shapes.push({ kind: 'bar', x: left - THIN_MM, y: top, width: THIN_MM, height: bottom - top });
    shapes.push({ kind: 'bar', x: right, y: top, width: THIN_MM, height: bottom - top });
  }
  for (const fold of finishing.folds) if (fold > 0 && fold < h) shapes.push(...dashes({ x: 0, y: fold }, { x: w, y: fold }));
  // Pockets and hems are folded on the finished edges.
  if (extra.top > 0) shapes.push(...dashes({ x: left, y: 0 }, { x: right, y: 0 }));
  if (extra.bottom > 0) shapes.push(...dashes({ x: left, y: h }, { x: right, y: h }));
  if (extra.left > 0) shapes.push(...dashes({ x: 0, y: top }, { x: 0, y: bottom }));
  if (extra.right > 0) shapes.push(...dashes({ x: w, y: top }, { x: w, y: bottom }));
  if (finishing.eyelets) {
    const { look, diameter } = finishing.eyelets;
    for (const { x, y } of eyeletPlaces(size, finishing.eyelets))
      shapes.push({
        kind: 'mark',
        x,
        y,
        diameter,
        shape: look === 'ring' ? 'ring' : 'cross',
        weight: look === 'ring' ? 0.5 : 0.3
      });
  }
  if (finishing.caption || finishing.numbered) {
    const number = `${copy.number + 1} of ${copy.of}`;
    // Between the crop marks, or as far as the one in the middle.
    const most = (finishing.centre ? w / 2 - left : right - left) - 2;
    const line = finishing.caption
      ? fittedLine(caption, ` · ${number}`, CAPTION_MM, most)
      : fittedLine('', number, CAPTION_MM, most);
    shapes.push({ kind: 'text', x: left + 1, y: bottom + beyond('bottom') + CAPTION_GAP_MM, ...line });
  }
  return shapes;
}
