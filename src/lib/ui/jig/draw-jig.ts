import type { Point } from '$core/geometry/matrix';
import { rotation } from '$core/geometry/matrix';
import type { Pocket } from '$core/layout/jig';

/** Draws pockets on a canvas whose units are mm of the bed, thousands in one go. */

const paths = new WeakMap<readonly unknown[], Path2D>();

/** A thing's outline about its own middle. */
function outlinePath(outline: readonly (readonly Point[])[], width: number, height: number): Path2D {
  const kept = paths.get(outline);
  if (kept) return kept;
  const path = new Path2D();
  for (const ring of outline) {
    ring.forEach((p, i) => path[i === 0 ? 'moveTo' : 'lineTo'](p.x - width / 2, p.y - height / 2));
    path.closePath();
  }
  paths.set(outline, path);
  return path;
}

export interface DrawnThing {
  width: number;
  height: number;
  /** Even-odd, from the top left of its box. */
  outline: Point[][];
}

/** What is smaller on the screen is a rectangle, and has no number, pixels. */
const SMALL_PX = 7;
const LETTERED_PX = 16;

/**
 * @param scale pixels a mm
 * @param colourOf what a pocket is drawn in
 */
export function drawPockets(
  context: CanvasRenderingContext2D,
  thing: DrawnThing,
  pockets: readonly Pick<Pocket, 'x' | 'y' | 'turn' | 'number'>[],
  scale: number,
  colourOf: (at: number) => { line: string; fill?: string }
): void {
  const { width, height } = thing;
  const path = outlinePath(thing.outline, width, height);
  const size = Math.min(width, height);
  const [isSmall, isLettered] = [size * scale < SMALL_PX, size * scale > LETTERED_PX];
  const base = context.getTransform();
  context.lineWidth = 1 / scale;
  const letterMm = Math.min(size * 0.4, 13 / scale);
  context.font = `${letterMm}px 'Inter Variable', sans-serif`;
  context.textAlign = 'center';
  context.textBaseline = 'middle';
  pockets.forEach(({ x, y, turn, number }, at) => {
    const { line, fill } = colourOf(at);
    context.strokeStyle = line;
    const [a, b, c, d] = rotation(turn);
    context.setTransform(base);
    context.transform(a, b, c, d, x, y);
    if (fill) {
      context.fillStyle = fill;
      if (isSmall) context.fillRect(-width / 2, -height / 2, width, height);
      else context.fill(path, 'evenodd');
    }
    if (isSmall) context.strokeRect(-width / 2, -height / 2, width, height);
    else context.stroke(path);
    if (!isLettered || number === 0) return;
    context.setTransform(base);
    context.fillStyle = line;
    context.fillText(String(number), x, y);
  });
  context.setTransform(base);
}
