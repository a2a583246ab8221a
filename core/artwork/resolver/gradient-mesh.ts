import type * as mupdf from '../../interpreter/interpreter';
import { boxAround, type Box } from '../../geometry/box';
import type { Point } from '../../geometry/matrix';

/** Gradients as lattices of corners whose inks are exact (shading type 5, ISO 32000-2, 8.7.4.5.6). */

/** A place along a gradient, and the target's inks there, 0…255. */
export interface Knot {
  share: number;
  inks: number[];
}

/** What a gradient runs along, by the share of the way from its start (0) to its end (1). */
export interface Way {
  /** How far it may go on beyond its ends; 0 and 1 where there is nothing beyond. */
  from: number;
  to: number;
  row: (share: number) => Point[];
}

/** Across a line, far out on both sides of it. Nothing where it has no length. */
export function lineWay([x0 = 0, y0 = 0, x1 = 0, y1 = 0]: readonly number[], far: number): Way | undefined {
  const [dx, dy] = [x1 - x0, y1 - y0];
  const length = Math.hypot(dx, dy);
  if (!(length > 1e-6)) return undefined;
  const row = (share: number): Point[] =>
    [-far, far].map((side) => ({
      x: x0 + share * dx - (side * dy) / length,
      y: y0 + share * dy + (side * dx) / length
    }));
  return { from: -far / length, to: 1 + far / length, row };
}

/** Circles are polygons that leave no more than this out, points. */
const FLAT = 0.05;
const MOST_CORNERS = 360;
const FEWEST_CORNERS = 32;

/**
 * Round circles, one of which lies within the other. Nothing where neither does: such a gradient is a cone, whose far side the
 * near one covers.
 *
 * @param scale points of the page to a unit, where it is known
 */
export function circleWay(
  [x0 = 0, y0 = 0, r0 = 0, x1 = 0, y1 = 0, r1 = 0]: readonly number[],
  far: number,
  scale: number | undefined
): Way | undefined {
  const grows = r1 - r0;
  if (!(r0 >= 0 && r1 >= 0) || Math.abs(grows) < 1e-6 || Math.hypot(x1 - x0, y1 - y0) > Math.abs(grows)) return undefined;
  const radius = Math.max(r0, r1) * (scale ?? 1);
  const needed = radius > FLAT ? Math.PI / Math.acos(1 - FLAT / radius) : 0;
  const corners = scale === undefined ? MOST_CORNERS / 2 : Math.min(MOST_CORNERS, Math.max(FEWEST_CORNERS, Math.ceil(needed)));
  const row = (share: number): Point[] => {
    const r = Math.max(0, r0 + share * grows);
    return Array.from({ length: corners + 1 }, (_, i) => {
      const angle = (2 * Math.PI * (i % corners)) / corners;
      return { x: x0 + share * (x1 - x0) + r * Math.cos(angle), y: y0 + share * (y1 - y0) + r * Math.sin(angle) };
    });
  };
  const [inner, outer] = [-r0 / grows, (far - r0) / grows];
  return grows > 0 ? { from: inner, to: Math.max(1, outer), row } : { from: Math.min(0, outer), to: inner, row };
}

/**
 * Knots with what lies beyond both ends.
 *
 * @param extend whether the colour of each end goes on
 * @param ground what lies behind the gradient, which begins at once where its own colours end
 */
export function withEnds(knots: readonly Knot[], way: Way, extend: readonly boolean[], ground: number[] | undefined): Knot[] {
  const beyond = (end: Knot, goesOn: boolean | undefined, share: number): Knot[] => {
    if (Math.abs(share - end.share) < 1e-9) return [];
    if (goesOn) return [{ ...end, share }];
    return ground ? [end.share, share].map((at) => ({ share: at, inks: ground })) : [];
  };
  const [first, last] = [knots[0]!, knots.at(-1)!];
  return [...beyond(first, extend[0], way.from).reverse(), ...knots, ...beyond(last, extend[1], way.to)];
}

/**
 * The interpreter cuts off what is less than a step of 255: each ink has a part of a step that is its own, so that no two step
 * where they are whole at the same knot.
 */
const APART = [0.1, 0.22] as const;
/** Whole numbers of 32 bits. */
const FINEST = 0xffffffff;

/** @returns a stream without a colour space */
export function addMesh(document: mupdf.PDFDocument, knots: readonly Knot[], way: Way): mupdf.PDFObject {
  const rows = knots.map(({ share }) => way.row(share));
  const box = boxAround(rows) as Box;
  const channels = knots[0]!.inks.length;
  const across = rows[0]!.length;
  const size = 8 + 2 * channels;
  const bytes = new DataView(new ArrayBuffer(rows.length * across * size));
  rows.forEach((row, r) =>
    row.forEach(({ x, y }, i) => {
      const at = (r * across + i) * size;
      bytes.setUint32(at, Math.round(((x - box.x) / box.width) * FINEST));
      bytes.setUint32(at + 4, Math.round(((y - box.y) / box.height) * FINEST));
      knots[r]!.inks.forEach((ink, k) =>
        bytes.setUint16(at + 8 + 2 * k, Math.min(65535, Math.round((ink + APART[0] + k * APART[1]) * 257)))
      );
    })
  );
  return document.addStream(new Uint8Array(bytes.buffer), {
    ShadingType: 5,
    VerticesPerRow: across,
    BitsPerCoordinate: 32,
    BitsPerComponent: 16,
    Decode: [box.x, box.x + box.width, box.y, box.y + box.height, ...Array.from({ length: channels }, () => [0, 1]).flat()]
  });
}
