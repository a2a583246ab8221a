import type { Kernels } from '../kernels/kernels';

/** Planes of one byte a pixel drawn in by a distance (choke), or out (spread), at less than a pixel, soft edges kept. */

/** How far in pixels, across and along: they differ where a mode's resolutions do. */
export interface Reach {
  x: number;
  y: number;
}

/** A place around a pixel, and how much of it does not count: 0 inside of the disc, up to 1 at its rim. */
interface Around {
  dx: number;
  dy: number;
  floor: number;
}

/**
 * Pixels beyond the reach where nothing counts any more. An edge that is hard lies half a pixel before the first empty
 * pixel’s middle, a soft one at it; between the two neither is off by more than a quarter.
 */
const RIM = 0.75;

/** The places that a disc of a reach covers, its rim in part, the farthest first: what is near an edge is known soonest. */
export function discAround({ x, y }: Reach): Around[] {
  const places: (Around & { far: number })[] = [];
  for (let dy = -Math.ceil(y); dy <= Math.ceil(y); dy++)
    for (let dx = -Math.ceil(x); dx <= Math.ceil(x); dx++) {
      if (dx === 0 && dy === 0) continue;
      const length = Math.hypot(dx, dy);
      // How long the reach is in this direction.
      const most = length / Math.hypot(dx / x, dy / y);
      const within = Math.min(1, Math.max(0, most + RIM - length));
      if (within > 0) places.push({ dx, dy, floor: 1 - within, far: length });
    }
  return places.sort((p, q) => q.far - p.far).map(({ dx, dy, floor }) => ({ dx, dy, floor }));
}

/** Rows are worked on in stretches of about so many bytes. */
const STRETCH_BYTES = 4e6;
/** A reach below this meets no other pixel's middle. */
const LEAST_REACH = 1 - RIM;

/**
 * Draws a plane in, or out where `reach` is below 0. What lies beyond the plane is empty.
 *
 * @param plane `width` × `height` bytes, 255 is covered
 * @returns the same anew; the plane itself where nothing is to be done
 */
export function choke(plane: Uint8Array, width: number, height: number, reach: Reach, kernels: Kernels): Uint8Array {
  if (Math.max(Math.abs(reach.x), Math.abs(reach.y)) <= LEAST_REACH) return plane;
  const spreads = reach.x < 0;
  const places = discAround({ x: Math.abs(reach.x), y: Math.abs(reach.y) });
  const far = Math.max(...places.map(({ dx, dy }) => Math.max(Math.abs(dx), Math.abs(dy))));
  const sides = Math.ceil(far / 16) * 16;
  const across = Math.ceil(width / 16) * 16;
  const stride = across + 2 * sides;
  const stretch = Math.max(64, Math.floor(STRETCH_BYTES / stride));
  const result = new Uint8Array(width * height);
  const mark = kernels.mark;
  const around = kernels.allocate(places.length * 4);
  new Int32Array(kernels.run.memory.buffer, around, places.length).set(places.map(({ dx, dy }) => dy * stride + dx));
  const floors = kernels.allocate(places.length);
  kernels.bytes(floors, places.length).set(places.map(({ floor }) => Math.round(floor * 255)));
  const seen = kernels.allocate((stride / 16) * 4);
  const source = kernels.allocate((stretch + 2 * far) * stride);
  const target = kernels.allocate(stretch * across);
  for (let top = 0; top < height; top += stretch) {
    const rows = Math.min(stretch, height - top);
    const from = kernels.bytes(source, (rows + 2 * far) * stride);
    // To draw out what is covered is to draw in what is not.
    from.fill(spreads ? 255 : 0);
    for (let y = Math.max(0, top - far); y < Math.min(height, top + rows + far); y++) {
      const at = (y - top + far) * stride + sides;
      from.set(plane.subarray(y * width, (y + 1) * width), at);
      if (spreads) for (let x = at; x < at + width; x++) from[x] = 255 - from[x]!;
    }
    kernels.run.erode(source + far * stride + sides, stride, across, rows, far, around, floors, places.length, seen, target);
    const made = kernels.bytes(target, rows * across);
    for (let y = 0; y < rows; y++) result.set(made.subarray(y * across, y * across + width), (top + y) * width);
  }
  kernels.release(mark);
  if (spreads) for (let i = 0; i < result.length; i++) result[i] = 255 - result[i]!;
  return result;
}
