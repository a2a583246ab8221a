import sharp from 'sharp';
import { apply, type Matrix, type Point } from '$core/geometry/matrix';
import { pieceToRun, type RipPlan } from '$core/rip/plan';
import { MM_PER_INCH } from '$core/units/length';

/** A wall put together again from what came out of a printer. */

export interface Picture {
  rgb: Uint8Array;
  width: number;
  height: number;
}

/** @param dpi of the plates: pixels of the picture are so many of theirs, whole, and the file says that roughly */
export async function pictureFrom(source: string | Uint8Array, dpi: number): Promise<Picture & { mmPerPx: number }> {
  const made = sharp(source, { limitInputPixels: false });
  const { density = dpi } = await made.metadata();
  const { data, info } = await made.removeAlpha().toColourspace('srgb').raw().toBuffer({ resolveWithObject: true });
  return { rgb: data, width: info.width, height: info.height, mmPerPx: (Math.round(dpi / density) * MM_PER_INCH) / dpi };
}

export interface HungPanel {
  /** What of the wall it shows, mm. */
  part: { x: number; y: number; width: number; height: number };
  toRun: Matrix;
}

/** The panels of a plan, each with where it lies in the run. */
export const panelsOf = (plan: RipPlan): HungPanel[] =>
  plan.pieces.map((piece) => {
    const { from = { x: 0, y: 0 }, bleed, widthMm, heightMm } = plan.sources[piece.source]!;
    const part = { x: from.x + bleed.left, y: from.y + bleed.top, width: widthMm, height: heightMm };
    return { part, toRun: pieceToRun(plan, piece) };
  });

/** Pixel of a printed picture at a place of the wall, as one panel has it: three bytes, read between pixels. */
export function colourOn({ rgb, width, height, mmPerPx }: Picture & { mmPerPx: number }, panel: HungPanel, at: Point): number[] {
  const run = apply(panel.toRun, { x: at.x - panel.part.x, y: at.y - panel.part.y });
  return colourAt({ rgb, width, height }, run.x / mmPerPx - 0.5, run.y / mmPerPx - 0.5);
}

/** A picture's colour between its pixels. */
export function colourAt({ rgb, width, height }: Picture, x: number, y: number): number[] {
  const [x0, y0] = [Math.max(0, Math.min(width - 2, Math.floor(x))), Math.max(0, Math.min(height - 2, Math.floor(y)))];
  const [fx, fy] = [Math.max(0, Math.min(1, x - x0)), Math.max(0, Math.min(1, y - y0))];
  return [0, 1, 2].map((k) => {
    const of = (dx: number, dy: number) => rgb[((y0 + dy) * width + x0 + dx) * 3 + k]!;
    return (of(0, 0) * (1 - fx) + of(1, 0) * fx) * (1 - fy) + (of(0, 1) * (1 - fx) + of(1, 1) * fx) * fy;
  });
}

/** The middle of what is dark within so many mm of a place, as one panel has it: mm of the wall. */
export function middleOfDark(picture: Picture & { mmPerPx: number }, panel: HungPanel, near: Point, reachMm: number): Point {
  let [sum, sx, sy] = [0, 0, 0];
  for (let y = near.y - reachMm; y <= near.y + reachMm; y += 0.1)
    for (let x = near.x - reachMm; x <= near.x + reachMm; x += 0.1) {
      const [r = 0, g = 0, b = 0] = colourOn(picture, panel, { x, y });
      const dark = Math.max(0, 160 - (r + g + b) / 3);
      sum += dark;
      sx += dark * x;
      sy += dark * y;
    }
  return { x: sx / sum, y: sy / sum };
}
