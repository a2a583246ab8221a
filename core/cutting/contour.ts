import type { Point } from '../geometry/matrix';
import { signedArea } from '../geometry/path';

/** Where a contour goes in a cell, by which of its corners lie inside (8 top left, 4 top right, 2 bottom right, 1 bottom left). */
const enum Edge {
  top,
  right,
  bottom,
  left
}

/** entry edge → exit edge for each case; the inside lies to the right. −1 where no contour enters there. */
const EXITS: readonly (readonly number[])[] = [
  [-1, -1, -1, -1],
  [-1, -1, -1, Edge.bottom],
  [-1, -1, Edge.right, -1],
  [-1, -1, -1, Edge.right],
  [-1, Edge.top, -1, -1],
  [-1, Edge.top, -1, Edge.bottom],
  [-1, -1, Edge.top, -1],
  [-1, -1, -1, Edge.top],
  [Edge.left, -1, -1, -1],
  [Edge.bottom, -1, -1, -1],
  [Edge.left, -1, Edge.right, -1],
  [Edge.right, -1, -1, -1],
  [-1, Edge.left, -1, -1],
  [-1, Edge.bottom, -1, -1],
  [-1, -1, Edge.left, -1],
  [-1, -1, -1, -1]
];
/** The two saddles, when the middle of the cell lies inside. */
const JOINED_5 = [-1, Edge.bottom, -1, Edge.top];
const JOINED_10 = [Edge.right, -1, Edge.left, -1];

/**
 * Outlines of what is at or above `level`, at sub-pixel places, as closed rings with the inside on the right: outer rings
 * run clockwise with y down, holes the other way. Beyond the edge of the field all is 0.
 * Marching squares (Lorensen & Cline 1987, in two dimensions).
 *
 * @param field rows of `width` samples, 0…255, each for the middle of its pixel
 * @param smallest rings around less than this are left out, square pixels
 * @returns rings in pixels, (0, 0) being the corner of the first pixel
 */
export function traceField(field: Uint8Array, width: number, height: number, level: number, smallest = 0): Point[][] {
  if (field.length < width * height) throw new RangeError(`The field has ${field.length} samples, not ${width * height}.`);
  const stride = width + 2;
  const padded = new Uint8Array(stride * (height + 2));
  for (let y = 0; y < height; y++) padded.set(field.subarray(y * width, (y + 1) * width), (y + 1) * stride + 1);
  // A contour that goes down between two samples of a row is marked where it does, and found there once.
  const passed = new Uint8Array(stride * (height + 2));
  const rings: Point[][] = [];
  for (let y = 1; y <= height; y++) {
    const row = y * stride;
    for (let x = 1; x <= width; x++) {
      const at = row + x;
      if (padded[at]! >= level && padded[at + 1]! < level && passed[at] === 0) {
        const ring = followRing(padded, passed, stride, x, y, level);
        if (Math.abs(signedArea(ring)) >= smallest) rings.push(ring);
      }
    }
  }
  return rings;
}

function followRing(padded: Uint8Array, passed: Uint8Array, stride: number, x0: number, y0: number, level: number): Point[] {
  const ring: Point[] = [];
  const threshold = level - 0.5;
  let x = x0;
  let y = y0;
  let entry: number = Edge.top;
  for (;;) {
    const i = y * stride + x;
    const tl = padded[i]!;
    const tr = padded[i + 1]!;
    const bl = padded[i + stride]!;
    const br = padded[i + stride + 1]!;
    if (entry === Edge.top) {
      if (passed[i] === 1) return ring;
      passed[i] = 1;
    }
    // Samples stand for the middle of their pixel; the padding adds one.
    if (entry === Edge.top) ring.push({ x: x - 0.5 + (threshold - tl) / (tr - tl), y: y - 0.5 });
    else if (entry === Edge.bottom) ring.push({ x: x - 0.5 + (threshold - bl) / (br - bl), y: y + 0.5 });
    else if (entry === Edge.left) ring.push({ x: x - 0.5, y: y - 0.5 + (threshold - tl) / (bl - tl) });
    else ring.push({ x: x + 0.5, y: y - 0.5 + (threshold - tr) / (br - tr) });
    const inside = (tl >= level ? 8 : 0) + (tr >= level ? 4 : 0) + (br >= level ? 2 : 0) + (bl >= level ? 1 : 0);
    let exits = EXITS[inside]!;
    if ((inside === 5 || inside === 10) && tl + tr + bl + br >= 4 * threshold) exits = inside === 5 ? JOINED_5 : JOINED_10;
    const exit = exits[entry]!;
    if (exit === Edge.top) {
      y--;
      entry = Edge.bottom;
    } else if (exit === Edge.bottom) {
      y++;
      entry = Edge.top;
    } else if (exit === Edge.left) {
      x--;
      entry = Edge.right;
    } else {
      x++;
      entry = Edge.left;
    }
  }
}
