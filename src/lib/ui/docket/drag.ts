import type { Box } from '$core/geometry/box';
import type { Point } from '$core/geometry/matrix';

/** A pointer's place in the coordinates of an SVG group. */
export function pointIn(group: SVGGElement, event: { clientX: number; clientY: number }): Point {
  const matrix = group.getScreenCTM();
  if (!matrix) return { x: 0, y: 0 };
  const p = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix.inverse());
  return { x: p.x, y: p.y };
}

/** Follows a pressed pointer until it is let go. */
export function follow(event: PointerEvent, move: (event: PointerEvent) => void, done: (event: PointerEvent) => void): void {
  const target = event.currentTarget as Element;
  target.setPointerCapture(event.pointerId);
  const moved = (e: Event) => move(e as PointerEvent);
  const end = (e: Event) => {
    target.removeEventListener('pointermove', moved);
    target.removeEventListener('pointerup', end);
    target.removeEventListener('pointercancel', end);
    done(e as PointerEvent);
  };
  target.addEventListener('pointermove', moved);
  target.addEventListener('pointerup', end);
  target.addEventListener('pointercancel', end);
}

/** The box from one corner to the other, whichever way it was drawn. */
export const boxBetween = (p: Point, q: Point): Box => ({
  x: Math.min(p.x, q.x),
  y: Math.min(p.y, q.y),
  width: Math.abs(q.x - p.x),
  height: Math.abs(q.y - p.y)
});
