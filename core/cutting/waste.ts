import Flatbush from 'flatbush';
import type { Box } from '../geometry/box';
import type { Point } from '../geometry/matrix';
import { bounds } from '../geometry/path';
import type { Mark } from '../marks/print-list';
import type { CutLine } from './order';

/** What can be cut beside the work: test cuts, and the stroke that turns a drag knife. In mm of the print, y down. */

export interface Waste {
  marks: readonly Mark[];
  /** Codes, and whatever else is needed yet. */
  kept: readonly Box[];
  lines: readonly CutLine[];
}

/** So far from what is kept. */
const OFF_MM = 1.5;
const STEP_MM = 3;

/**
 * A free place between the marks, from the head on and from the left.
 *
 * @returns its top left; nothing where there is none
 */
export function wasteFor({ marks, kept, lines }: Waste, width: number, height: number): Point | undefined {
  const taken: Box[] = [
    ...marks.map(({ x, y, diameter }) => ({ x: x - diameter / 2, y: y - diameter / 2, width: diameter, height: diameter })),
    ...kept,
    ...lines.flatMap((line) => bounds([line]) ?? [])
  ];
  if (taken.length === 0) return undefined;
  const tree = new Flatbush(taken.length);
  for (const box of taken) tree.add(box.x - OFF_MM, box.y - OFF_MM, box.x + box.width + OFF_MM, box.y + box.height + OFF_MM);
  tree.finish();
  const around = boxOf(taken);
  for (let y = around.y; y + height <= around.y + around.height; y += STEP_MM)
    for (let x = around.x; x + width <= around.x + around.width; x += STEP_MM)
      if (tree.search(x, y, x + width, y + height).length === 0) return { x, y };
  return undefined;
}

function boxOf(boxes: readonly Box[]): Box {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const { x, y, width, height } of boxes) {
    x0 = Math.min(x0, x);
    y0 = Math.min(y0, y);
    x1 = Math.max(x1, x + width);
    y1 = Math.max(y1, y + height);
  }
  return { x: x0, y: y0, width: x1 - x0, height: y1 - y0 };
}

/** Room that a test cut takes. */
export const TEST_CUT_MM = { width: 24, height: 10 };

/** A square and a triangle, cut as the work will be. @param at their top left */
export function testCut(at: Point, tool: CutLine['tool']): CutLine[] {
  const { height: side, width } = TEST_CUT_MM;
  const closed = (points: [number, number][]): CutLine => ({
    points: points.map(([x, y]) => ({ x: at.x + x, y: at.y + y })),
    closed: true,
    tool
  });
  return [
    // Begun off the corners, as lines are.
    closed([[side / 2, 0], [side, 0], [side, side], [0, side], [0, 0]]), // prettier-ignore
    closed([[(width + side + 4) / 2, side], [side + 4, side], [(width + side + 4) / 2, 0], [width, side]]) // prettier-ignore
  ];
}

/** Long enough for a tip to come round behind its axis. */
export const SWIVEL_MM = 5;
