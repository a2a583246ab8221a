import type { Point } from '$core/geometry/matrix';
import type { MarkShape } from '$core/marks/print-list';

export interface GreyImage {
  pixels: Uint8Array;
  width: number;
  height: number;
  dpi: number;
}

/** Share of its box that a mark fills, its line being a quarter of it: a disc π/4, a ring that less its hole. */
const FILLS: Record<MarkShape, number> = {
  disc: Math.PI / 4,
  square: 1,
  ring: (Math.PI / 4) * (1 - 0.5 ** 2),
  cross: 2 * 0.25 - 0.25 ** 2
};

/**
 * Finds dark marks with white around them, as a camera over the sheet would.
 *
 * @param diameter mm of the marks looked for; others are passed over
 * @returns centres in mm from the top left of the picture, to about a twentieth of a pixel
 */
export function findMarks(image: GreyImage, diameter: number, shape: MarkShape): Point[] {
  const { pixels, width, height, dpi } = image;
  const mm = 25.4 / dpi;
  const wanted = diameter / mm;
  const dark = 128;
  const seen = new Uint8Array(width * height);
  const stack: number[] = [];
  const found: Point[] = [];
  const most = (wanted * 1.3) ** 2;
  for (let start = 0; start < pixels.length; start++) {
    if (seen[start] || pixels[start]! >= dark) continue;
    // One connected dark patch: its box and area.
    let x0 = width;
    let x1 = 0;
    let y0 = height;
    let y1 = 0;
    let area = 0;
    stack.push(start);
    seen[start] = 1;
    while (stack.length > 0) {
      const at = stack.pop() as number;
      const x = at % width;
      const y = (at - x) / width;
      area++;
      if (x < x0) x0 = x;
      if (x > x1) x1 = x;
      if (y < y0) y0 = y;
      if (y > y1) y1 = y;
      for (const next of [x > 0 ? at - 1 : -1, x < width - 1 ? at + 1 : -1, at - width, at + width]) {
        if (next >= 0 && next < pixels.length && !seen[next] && pixels[next]! < dark) {
          seen[next] = 1;
          stack.push(next);
        }
      }
    }
    const w = x1 - x0 + 1;
    const h = y1 - y0 + 1;
    if (area > most || Math.abs(w - wanted) > wanted * 0.2 || Math.abs(h - wanted) > wanted * 0.2) continue;
    if (Math.abs(area / (w * h) - FILLS[shape]) > 0.08) continue;
    const centre = darkCentre(image, x0 - 2, y0 - 2, x1 + 2, y1 + 2);
    if (centre) found.push({ x: centre.x * mm, y: centre.y * mm });
  }
  return found;
}

/** The centre of darkness in a box; nothing when the box's rim is not light. */
function darkCentre({ pixels, width, height }: GreyImage, x0: number, y0: number, x1: number, y1: number): Point | undefined {
  if (x0 < 0 || y0 < 0 || x1 >= width || y1 >= height) return undefined;
  let paper = 0;
  let rim = 0;
  for (let y = y0; y <= y1; y++) {
    for (let x = x0; x <= x1; x++) {
      if (x > x0 && x < x1 && y > y0 && y < y1) continue;
      const v = pixels[y * width + x]!;
      if (v < 160) return undefined;
      paper += v;
      rim++;
    }
  }
  paper /= rim;
  let sum = 0;
  let sx = 0;
  let sy = 0;
  for (let y = y0; y <= y1; y++) {
    for (let x = x0; x <= x1; x++) {
      const darkness = Math.max(0, paper - pixels[y * width + x]!);
      sum += darkness;
      sx += darkness * (x + 0.5);
      sy += darkness * (y + 0.5);
    }
  }
  return { x: sx / sum, y: sy / sum };
}
