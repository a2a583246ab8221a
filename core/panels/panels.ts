import { difference, grow, intersect } from '../geometry/areas';
import type { Box, Sides } from '../geometry/box';
import type { Point } from '../geometry/matrix';
import { areaWithin } from '../geometry/path';
import type { Family } from '../media/card';
import { formatLength, MM_PER_INCH } from '../units/length';
import { hangingOrder } from './hanging';
import { marksAcross, MARKS_ALONG_MM } from './mark-room';
import { boxRing, courseAt, MOST_PANELS, openingRing, overlapOf, reachOf, type Division, type Seam, type Wall } from './wall';

/** From a wall to its panels. */

/** What the panels are printed on. */
export interface Film {
  /** Of its width, for one panel with all that is printed of it and beside it, mm. */
  usableMm: number;
  /** Panels begin on whole pixels of it, so that neighbours print the same where they overlap. */
  dpi: number;
  family?: Family | undefined;
  /** The same along it: of a sheet. */
  longestMm?: number | undefined;
}

export interface Size {
  widthMm: number;
  heightMm: number;
}

export const EDGE_NAMES = ['left', 'top', 'right', 'bottom'] as const;
export type EdgeName = (typeof EDGE_NAMES)[number];

/** What is at an edge of a panel: the wall's end, or an opening with nothing printed beyond; or another panel. */
export type PanelEdge =
  | { is: 'wall' }
  | {
      is: 'seam';
      /** The panel beyond it. */
      neighbour: number;
      /** Whether this one lies on the other there. */
      onTop: boolean;
      /** How far it goes beyond the seam once it is trimmed, and how far it is printed beyond that, mm. */
      reachMm: number;
      trimMm: number;
      /** Cut along its seam; what lies beneath another ends where its print does. */
      trimmed: boolean;
      seam: Seam;
    };

export interface Panel {
  /** From 0: column by column from the left, in each from the top; also those count of which nothing prints. */
  index: number;
  column: number;
  row: number;
  /** When it is hung, from 1. */
  order: number;
  /** Between the mean places of its seams and the wall's edges. */
  core: Box;
  /** All that prints of it: with bleed, overlaps and what is trimmed off; on whole pixels. */
  box: Box;
  edges: Record<EdgeName, PanelEdge>;
}

/** Why a wall cannot be divided as it says. */
export interface WallFault {
  id: string;
  figure: string;
  limit: string;
  sentence: string;
}

export interface PlannedWall {
  size: Size;
  columns: Seam[];
  rows: Seam[];
  /** Those of which something prints; none where there is a fault that leaves none. */
  panels: Panel[];
  /** The same as they are hung. */
  hanging: Panel[];
  /** The index of each that lies in openings that are left out: nothing of it prints. */
  blank: number[];
  overlapMm: number;
  /** The most that can be seen of each strip, mm: what the film leaves. */
  rooms: Record<Axis, number[]>;
  faults: WallFault[];
}

/** Longer walls are refused where they are typed; what is divided by hand may still ask for more. */
const tooMany = (figure: number): WallFault => ({
  id: 'panels-many',
  figure: `${figure} panels`,
  limit: `${MOST_PANELS}`,
  sentence: `This would be ${figure.toLocaleString('en-GB')} panels; ${MOST_PANELS} are the most. Take a wider film, or divide the wall into several dockets.`
});

/** What a seam takes of the panels at it: how far each is printed beyond it. */
function seamTakes(wall: Wall, overlapMm: number, onTop: boolean): { reachMm: number; trimMm: number } {
  if (wall.joint === 'butt') return { reachMm: 0, trimMm: wall.trimMm };
  if (wall.side === 'both') return { reachMm: overlapMm / 2, trimMm: onTop ? wall.trimMm : 0 };
  const has = (wall.side === 'above') === onTop;
  return { reachMm: has ? overlapMm : 0, trimMm: onTop ? wall.trimMm : 0 };
}

export type Axis = 'columns' | 'rows';

/** How the panels of a wall lie on each other. */
class Hanging {
  readonly order: number[];
  readonly #place: number[];
  readonly #wall: Wall;
  readonly #rows: number;

  constructor(wall: Wall, columns: number, rows: number) {
    this.#wall = wall;
    this.#rows = rows;
    this.order = hangingOrder(wall, columns, rows);
    this.#place = [];
    this.order.forEach((panel, i) => (this.#place[panel] = i));
  }

  placeOf(panel: number): number {
    return this.#place[panel]!;
  }

  isOnTop(panel: number, of: number): boolean {
    const isLater = this.placeOf(panel) > this.placeOf(of);
    return this.#wall.onTop === 'later' ? isLater : !isLater;
  }

  /** The most that is printed beyond the seams of a strip: before it and after it. */
  extras(axis: Axis, strip: number, strips: number, overlapMm: number): number {
    const across = axis === 'columns' ? this.#rows : this.order.length / strips;
    const panel = (at: number, other: number) => (axis === 'columns' ? at * this.#rows + other : other * this.#rows + at);
    let most = 0;
    for (let other = 0; other < across; other++) {
      const own = panel(strip, other);
      const take = (neighbour: number) => {
        const { reachMm, trimMm } = seamTakes(this.#wall, overlapMm, this.isOnTop(own, neighbour));
        return reachMm + trimMm;
      };
      const before = strip > 0 ? take(panel(strip - 1, other)) : 0;
      const after = strip < strips - 1 ? take(panel(strip + 1, other)) : 0;
      most = Math.max(most, before + after);
    }
    return most;
  }
}

/** No strip is made narrower than this. */
const LEAST_STRIP_MM = 50;

/** What of a strip is left for what is seen of it. */
type Room = (strip: number, strips: number) => number;

/** Seams as a division says, or why there are none. */
function seamsOf(extentMm: number, division: Division, room: Room): Seam[] | WallFault {
  const straight = (places: number[]): Seam[] => places.map((at) => ({ at, course: [] }));
  if (division.seams) return division.seams;
  if (division.how === 'whole') return [];
  const equal = (count: number) => straight(Array.from({ length: count - 1 }, (_, i) => ((i + 1) * extentMm) / count));
  if (division.how === 'count') return equal(division.count);
  const most = (strip: number, strips: number) =>
    division.how === 'widest' ? Math.min(division.widestMm, room(strip, strips)) : room(strip, strips);
  for (let strips = 1; strips <= MOST_PANELS; strips++) {
    const rooms = Array.from({ length: strips }, (_, i) => most(i, strips));
    const least = Math.min(...rooms);
    if (strips > 2 && least <= 0) {
      const [figure, limit] = [formatLength(room(1, strips)), formatLength(1)];
      return {
        id: 'panels-film',
        figure,
        limit,
        sentence:
          'Overlaps, trim and marks take all of the film’s width: nothing is left for the picture. Take a wider film or a smaller overlap.'
      };
    }
    if (division.how === 'equal') {
      if (extentMm / strips <= least + 1e-9) return equal(strips);
    } else if (rooms.reduce((sum, mm) => sum + mm, 0) >= extentMm - 1e-9) {
      let at = 0;
      // The last has its bleed beside it: what is left for it may be nothing, though it is needed.
      return straight(rooms.slice(0, -1).map((mm, i) => Math.min((at += mm), extentMm - (strips - 1 - i) * LEAST_STRIP_MM)));
    }
  }
  return tooMany(Math.ceil(extentMm / Math.max(1, most(1, 3))));
}

const AXIS_WORDS: Record<Axis, { from: string; seam: string }> = {
  columns: { from: 'the left', seam: 'Seam' },
  rows: { from: 'the top', seam: 'Level seam' }
};

/** What is wrong with seams that were put somewhere. */
function seamFaults(axis: Axis, seams: readonly Seam[], extentMm: number, overlapMm: number): WallFault[] {
  const { from, seam: word } = AXIS_WORDS[axis];
  const faults: WallFault[] = [];
  const metres = (mm: number) => formatLength(mm, 'm', 3);
  seams.forEach((seam, i) => {
    const { least, most } = reachOf(seam);
    if (seam.at + least <= 0 || seam.at + most >= extentMm)
      faults.push({
        id: `${axis}-outside`,
        figure: metres(seam.at),
        limit: metres(extentMm),
        sentence: `${word} ${i + 1} lies ${metres(seam.at)} from ${from}; the wall ends at ${metres(extentMm)}. Divide it anew.`
      });
    const before = seams[i - 1];
    if (!before) return;
    const steps = Math.max(1, before.course.length, seam.course.length);
    let gap = Infinity;
    for (let step = 0; step <= steps; step++) {
      const share = step / steps;
      gap = Math.min(gap, seam.at + courseAt(seam, share) - before.at - courseAt(before, share));
    }
    if (gap <= 0)
      faults.push({
        id: `${axis}-order`,
        figure: metres(seam.at),
        limit: metres(before.at),
        sentence: `${word} ${i + 1}, ${metres(seam.at)} from ${from}, crosses or lies before seam ${i} at ${metres(before.at)}. Move one of them.`
      });
    else if (gap <= overlapMm)
      faults.push({
        id: `${axis}-overlap`,
        figure: formatLength(gap),
        limit: formatLength(overlapMm),
        sentence: `Between seams ${i} and ${i + 1} are ${formatLength(gap)}; panels overlap by ${formatLength(overlapMm)}. Move the seams apart, or overlap less.`
      });
  });
  return faults;
}

/** A wall's panels on a film: they cover the wall with its bleed, and overlap as asked. */
export function planWall(wall: Wall, size: Size, film: Film): PlannedWall {
  const overlapMm = overlapOf(wall, film.family);
  const none = { size, columns: [], rows: [], panels: [], hanging: [], blank: [], overlapMm, rooms: { columns: [], rows: [] } };
  const [along, across]: [Axis, Axis] = wall.film === 'upright' ? ['rows', 'columns'] : ['columns', 'rows'];
  const extents = { columns: size.widthMm, rows: size.heightMm };
  const ends = { columns: [wall.bleed.left, wall.bleed.right], rows: [wall.bleed.top, wall.bleed.bottom] };
  // Edges are rounded up to whole pixels.
  const rounding = (2 * MM_PER_INCH) / film.dpi;
  /** @param others strips in the other direction */
  const roomIn = (axis: Axis, most: number, others: number): Room => {
    const hangings = new Map<number, Hanging>();
    return (strip, strips) => {
      const made =
        hangings.get(strips) ?? (axis === 'columns' ? new Hanging(wall, strips, others) : new Hanging(wall, others, strips));
      hangings.set(strips, made);
      const [first, last] = ends[axis] as [number, number];
      return (
        most -
        rounding -
        (strip === 0 ? first : 0) -
        (strip === strips - 1 ? last : 0) -
        made.extras(axis, strip, strips, overlapMm)
      );
    };
  };
  const longest = (film.longestMm ?? Infinity) - MARKS_ALONG_MM;
  const lengthwise = seamsOf(extents[along], wall[along], roomIn(along, longest, 1));
  if (!Array.isArray(lengthwise)) return { ...none, faults: [lengthwise] };
  const widest = film.usableMm - marksAcross(wall);
  const crosswise = seamsOf(extents[across], wall[across], roomIn(across, widest, lengthwise.length + 1));
  if (!Array.isArray(crosswise)) return { ...none, faults: [crosswise] };
  const seams = { [along]: lengthwise, [across]: crosswise } as Record<Axis, Seam[]>;
  const count = (seams.columns.length + 1) * (seams.rows.length + 1);
  if (count > MOST_PANELS) return { ...none, faults: [tooMany(count)] };
  const faults = (['columns', 'rows'] as const).flatMap((axis) => seamFaults(axis, seams[axis], extents[axis], overlapMm));
  if (faults.length > 0) return { ...none, ...seams, faults };
  const hanging = new Hanging(wall, seams.columns.length + 1, seams.rows.length + 1);
  const all = panelsBetween(wall, size, seams, hanging, overlapMm, MM_PER_INCH / film.dpi);
  const blank = blankOnes(wall, size, all);
  if (blank.length === all.length) return { ...none, ...seams, faults: [ALL_OPEN] };
  const panels = withoutBlank(all, hanging.order, blank);
  const rooms = (axis: Axis, most: number) => {
    const other = seams[axis === 'columns' ? 'rows' : 'columns'].length + 1;
    const room = roomIn(axis, most, other);
    const strips = seams[axis].length + 1;
    return Array.from({ length: strips }, (_, i) => room(i, strips));
  };
  const left = { [along]: rooms(along, longest), [across]: rooms(across, widest) } as Record<Axis, number[]>;
  const hung = [...panels].sort((p, q) => p.order - q.order);
  return { size, ...seams, panels, hanging: hung, blank, overlapMm, rooms: left, faults: [] };
}

/** How far the print reaches into openings that are left out: as far as it does beyond the wall, where that is least. */
export const openingBleed = ({ bleed }: Pick<Wall, 'bleed'>): number =>
  Math.min(bleed.left, bleed.top, bleed.right, bleed.bottom);

/** What ends so near to the wall's edge ends there, mm. */
const AT_EDGE_MM = 1;

/**
 * Where nothing is printed, mm of the wall: openings that are left out, less the print that reaches into them. From an edge of the
 * wall, as from the floor that a door stands on, none does.
 */
export function leftOutRings(wall: Wall, { widthMm, heightMm }: Size): Point[][] {
  const { bleed } = wall;
  const into = openingBleed(wall);
  const beyondEdge = (v: number, most: number, before: number, after: number): number => {
    if (v <= AT_EDGE_MM) return Math.min(v, 0) - before - into - AT_EDGE_MM;
    return v >= most - AT_EDGE_MM ? Math.max(v, most) + after + into + AT_EDGE_MM : v;
  };
  return wall.openings.flatMap((opening) => {
    if (!opening.leftOut) return [];
    const ring = openingRing(opening).map(({ x, y }) => ({
      x: beyondEdge(x, widthMm, bleed.left, bleed.right),
      y: beyondEdge(y, heightMm, bleed.top, bleed.bottom)
    }));
    return grow([ring], -into, 'sharp');
  });
}

/** A panel of which less prints is not printed, mm². */
const LEAST_PRINTED = 100;

const ALL_OPEN: WallFault = {
  id: 'openings-all',
  figure: '0 panels',
  limit: '1',
  sentence: 'The openings that are left out take all of the wall: nothing of it prints. Make them smaller, or print them over.'
};

function blankOnes(wall: Wall, size: Size, panels: readonly Panel[]): number[] {
  const holes = leftOutRings(wall, size);
  if (holes.length === 0) return [];
  const isBlank = ({ box }: Panel): boolean => {
    const left = holes.reduce<Point[][]>((rings, hole) => difference(rings, [hole]), [boxRing(box)]);
    return areaWithin(left) < LEAST_PRINTED;
  };
  return panels.filter(isBlank).map(({ index }) => index);
}

/** Panels numbered as they are hung, without those of which nothing prints: no panel meets those. */
function withoutBlank(panels: readonly Panel[], order: readonly number[], blank: readonly number[]): Panel[] {
  if (blank.length === 0) return [...panels];
  const isBlank = new Set(blank);
  const places = new Map(order.filter((index) => !isBlank.has(index)).map((index, i) => [index, i + 1]));
  const met = (edge: PanelEdge): PanelEdge => (edge.is === 'seam' && isBlank.has(edge.neighbour) ? { is: 'wall' } : edge);
  return panels.flatMap((panel) => {
    const place = places.get(panel.index);
    if (place === undefined) return [];
    const { left, top, right, bottom } = panel.edges;
    return [{ ...panel, order: place, edges: { left: met(left), top: met(top), right: met(right), bottom: met(bottom) } }];
  });
}

function panelsBetween(
  wall: Wall,
  { widthMm, heightMm }: Size,
  { columns, rows }: Record<Axis, Seam[]>,
  hanging: Hanging,
  overlapMm: number,
  pixelMm: number
): Panel[] {
  const xs = [0, ...columns.map(({ at }) => at), widthMm];
  const ys = [0, ...rows.map(({ at }) => at), heightMm];
  const number = (column: number, row: number) => column * (ys.length - 1) + row;
  const panels: Panel[] = [];
  for (let column = 0; column + 1 < xs.length; column++)
    for (let row = 0; row + 1 < ys.length; row++) {
      const index = number(column, row);
      const edge = (seam: Seam | undefined, neighbour: number): PanelEdge => {
        if (!seam) return { is: 'wall' };
        const onTop = hanging.isOnTop(index, neighbour);
        const takes = seamTakes(wall, overlapMm, onTop);
        const isCut = wall.joint === 'butt' || onTop;
        return { is: 'seam', neighbour, onTop, seam, ...takes, trimmed: isCut && (takes.trimMm > 0 || seam.course.length > 0) };
      };
      const edges: Panel['edges'] = {
        left: edge(columns[column - 1], number(column - 1, row)),
        top: edge(rows[row - 1], number(column, row - 1)),
        right: edge(columns[column], number(column + 1, row)),
        bottom: edge(rows[row], number(column, row + 1))
      };
      const core = { x: xs[column]!, y: ys[row]!, width: xs[column + 1]! - xs[column]!, height: ys[row + 1]! - ys[row]! };
      const x0 = outwards(core.x - beyond(edges.left, 'left', wall.bleed), pixelMm, Math.floor);
      const y0 = outwards(core.y - beyond(edges.top, 'top', wall.bleed), pixelMm, Math.floor);
      const x1 = outwards(core.x + core.width + beyond(edges.right, 'right', wall.bleed), pixelMm, Math.ceil);
      const y1 = outwards(core.y + core.height + beyond(edges.bottom, 'bottom', wall.bleed), pixelMm, Math.ceil);
      const box = { x: x0, y: y0, width: x1 - x0, height: y1 - y0 };
      panels.push({ index, column, row, order: hanging.placeOf(index) + 1, core, box, edges });
    }
  return panels;
}

/** To a whole pixel of the wall; what is one to a thousandth stays. */
const outwards = (mm: number, pixelMm: number, round: (v: number) => number): number =>
  round(round === Math.floor ? mm / pixelMm + 1e-3 : mm / pixelMm - 1e-3) * pixelMm;

/** How far a panel prints beyond an edge of what is seen of it. */
function beyond(edge: PanelEdge, name: EdgeName, bleed: Sides): number {
  if (edge.is === 'wall') return bleed[name];
  const { least, most } = reachOf(edge.seam);
  const course = name === 'left' || name === 'top' ? -least : most;
  return course + edge.reachMm + edge.trimMm;
}

/** What is left of a panel once it is trimmed, mm of the wall. */
export function trimmedOutline({ box, edges }: Panel, size: Size): Point[] {
  const at = (name: EdgeName, end: number, sign: 1 | -1): number => {
    const edge = edges[name];
    if (edge.is === 'wall' || !edge.trimmed) return end;
    const { least, most } = reachOf(edge.seam);
    return edge.seam.at + (sign < 0 ? least : most) + sign * edge.reachMm;
  };
  const straight = {
    x0: at('left', box.x, -1),
    y0: at('top', box.y, -1),
    x1: at('right', box.x + box.width, 1),
    y1: at('bottom', box.y + box.height, 1)
  };
  let rings = [boxRing({ x: straight.x0, y: straight.y0, width: straight.x1 - straight.x0, height: straight.y1 - straight.y0 })];
  for (const name of EDGE_NAMES) {
    const edge = edges[name];
    if (edge.is === 'seam' && edge.trimmed && edge.seam.course.length > 0)
      rings = intersect(rings, [sideOf(name, edge, box, size)]);
  }
  return rings.reduce<Point[]>((longest, ring) => (ring.length > longest.length ? ring : longest), []);
}

/** All that lies on a panel's side of one of its seams. */
function sideOf(name: EdgeName, edge: Extract<PanelEdge, { is: 'seam' }>, box: Box, { widthMm, heightMm }: Size): Point[] {
  const { seam, reachMm } = edge;
  const isColumn = name === 'left' || name === 'right';
  const sign = name === 'left' || name === 'top' ? -1 : 1;
  const steps = seam.course.length - 1;
  const [from, to] = isColumn ? [box.y, box.y + box.height] : [box.x, box.x + box.width];
  const extent = isColumn ? heightMm : widthMm;
  const shares = [from / extent, ...Array.from({ length: steps + 1 }, (_, i) => i / steps), to / extent].filter(
    (share, i, all) => i === 0 || i === all.length - 1 || (share > all[0]! && share < all.at(-1)!)
  );
  const line = shares.map((share) => ({ along: share * extent, at: seam.at + courseAt(seam, share) + sign * reachMm }));
  const far = isColumn ? (sign > 0 ? box.x - 1 : box.x + box.width + 1) : sign > 0 ? box.y - 1 : box.y + box.height + 1;
  const ring = [...line, { along: line.at(-1)!.along, at: far }, { along: line[0]!.along, at: far }];
  return ring.map(({ along, at }) => (isColumn ? { x: at, y: along } : { x: along, y: at }));
}
