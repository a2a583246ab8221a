import { difference, intersect } from '../geometry/areas';
import type { Box, Sides } from '../geometry/box';
import { apply, type Point } from '../geometry/matrix';
import { areaWithin, polylinePath, type Path } from '../geometry/path';
import { finishedToPage, type FinishedSize, type Preparation } from '../artwork/preparation';
import { leftOutRings, trimmedOutline, type EdgeName, type Panel, type Size } from './panels';
import { boxRing, openingRing, type Wall } from './wall';

/** A panel as a piece: the part of the wall that it shows, with bleed at the wall's own edges alone. */
export interface PanelPiece {
  /** Of the wall, mm: what of the panel lies within it. */
  part: Box;
  bleed: Sides;
  /** Where it prints, in mm of that part, where that is not all of it. */
  clip: Point[][] | undefined;
  /** Where it prints white instead: the far end of what lies beneath a neighbour. */
  white: Point[][];
  /** What a cutter trims it by, in mm of that part. */
  lines: Path[];
}

const moved = (ring: readonly Point[], { x, y }: Box): Point[] => ring.map((p) => ({ x: p.x - x, y: p.y - y }));

/** Rings smaller than this are of rounding, mm². */
const LEAST_AREA = 0.5;

/** The far ends of a panel's overlaps that lie beneath its neighbours, mm of the wall. */
function farEnds(wall: Wall, { box, edges }: Panel): Point[][] {
  if (wall.strip === 'printed' || wall.stripMm === 0) return [];
  const { x, y, width, height } = box;
  const at: Record<EdgeName, (mm: number) => Box> = {
    left: (mm) => ({ x, y, width: mm, height }),
    top: (mm) => ({ x, y, width, height: mm }),
    right: (mm) => ({ x: x + width - mm, y, width: mm, height }),
    bottom: (mm) => ({ x, y: y + height - mm, width, height: mm })
  };
  return (Object.keys(at) as EdgeName[]).flatMap((name) => {
    const edge = edges[name];
    if (edge.is === 'wall' || edge.onTop || edge.reachMm === 0) return [];
    return [boxRing(at[name](Math.min(wall.stripMm, edge.reachMm)))];
  });
}

export function panelPiece(wall: Wall, panel: Panel, size: Size): PanelPiece {
  const { box } = panel;
  const [x0, y0] = [Math.max(0, box.x), Math.max(0, box.y)];
  const [x1, y1] = [Math.min(size.widthMm, box.x + box.width), Math.min(size.heightMm, box.y + box.height)];
  const part = { x: x0, y: y0, width: x1 - x0, height: y1 - y0 };
  const bleed = { left: x0 - box.x, top: y0 - box.y, right: box.x + box.width - x1, bottom: box.y + box.height - y1 };
  const whole = [boxRing(box)];
  const holes = leftOutRings(wall, size);
  const ends = farEnds(wall, panel);
  const without = [...holes, ...ends].reduce<Point[][]>((rings, ring) => difference(rings, [ring]), whole);
  const isLess = holes.some((ring) => intersect([ring], whole).length > 0) || ends.length > 0;
  const inside = (ring: Point[]): Path[] =>
    intersect([ring], whole)
      .filter((cut) => areaWithin([cut]) > LEAST_AREA)
      .map((points) => polylinePath({ points: moved(points, part), closed: true }));
  const outline = moved(trimmedOutline(panel, size), part);
  return {
    part,
    bleed,
    clip: isLess ? without.map((ring) => moved(ring, part)) : undefined,
    white: wall.strip === 'white' ? ends.map((ring) => moved(ring, part)) : [],
    lines: [
      polylinePath({ points: outline, closed: true }),
      ...wall.openings.flatMap((opening) => (opening.leftOut ? inside(openingRing(opening)) : []))
    ]
  };
}

/**
 * A preparation that shows a part of what another does, at the same scale.
 *
 * @param size the finished size of all of it
 * @param part mm of that size
 */
export function preparedPart<P extends Pick<Preparation, 'region' | 'turn' | 'mirror'>>(
  preparation: P,
  size: FinishedSize,
  part: Box
): P {
  const back = finishedToPage(preparation, size);
  const p = apply(back, { x: part.x, y: part.y });
  const q = apply(back, { x: part.x + part.width, y: part.y + part.height });
  const region = { x: Math.min(p.x, q.x), y: Math.min(p.y, q.y), width: Math.abs(q.x - p.x), height: Math.abs(q.y - p.y) };
  return { ...preparation, region };
}
