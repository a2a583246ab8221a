import { apply, translation, type Matrix, type Point } from '../geometry/matrix';
import type { FinishingShape } from '../marks/finishing';
import { fittedLine } from '../marks/line-of-text';
import type { Amounts } from '../marks/print-list';
import { formatFigure } from '../units/length';
import { HEAD_MM, SIDE_MM } from './mark-room';
import type { PanelPiece } from './panel-piece';
import type { EdgeName, Panel, PanelEdge, PlannedWall } from './panels';
import { courseAt, type Wall } from './wall';

/**
 * What is printed beside a panel for those who hang it: in the waste at its two ends along the film, and, where start marks are asked
 * for, in a strip at one side. Lengths are mm.
 */

const TICK_MM = 6;
const THIN_MM = 0.3;
const GAP_MM = 1.5;
const LETTERS_MM = 4;
const SMALL_MM = 2.6;
const PATCH = { width: 6, height: 5 };
const PATCHES: Amounts[] = [
  [1, 0, 0, 0],
  [0, 1, 0, 0],
  [0, 0, 1, 0],
  [0, 0, 0, 1],
  [0, 0, 0, 0.5],
  [0.5, 0.4, 0.4, 0]
];
/** Narrower panels have no control strip. */
const LEAST_FOR_STRIP_MM = 110;

/** How a panel lies to the film, as it is printed before every second one is turned about. */
export const filmTurn = ({ film }: Pick<Wall, 'film'>): 0 | 90 => (film === 'upright' ? 0 : 90);

const WHERE: Record<EdgeName, string> = { left: 'at its left', top: 'above', right: 'at its right', bottom: 'below' };

/** How a panel meets its neighbours, in words. */
export function meetings({ edges }: Panel, { panels }: Pick<PlannedWall, 'panels'>, joint: Wall['joint']): string {
  const said = (Object.keys(WHERE) as EdgeName[]).flatMap((name) => {
    const edge = edges[name];
    if (edge.is === 'wall') return [];
    const other = panels.find(({ index }) => index === edge.neighbour)!.order;
    return [`${joint === 'butt' ? 'beside' : edge.onTop ? 'on' : 'under'} ${other} ${WHERE[name]}`];
  });
  return said.join(', ');
}

/** Where its neighbour's edge comes to lie, or its own is trimmed: off the seam's mean place, at a share of the seam. */
function lineAt(wall: Wall, edge: Extract<PanelEdge, { is: 'seam' }>, overlapMm: number, sign: 1 | -1, share: number): number {
  const off = edge.seam.at + courseAt(edge.seam, share);
  if (edge.trimmed) return off + sign * edge.reachMm;
  const others = wall.side === 'both' ? overlapMm / 2 : wall.side === 'above' ? overlapMm : 0;
  return off - sign * (edge.onTop ? 0 : others);
}

/**
 * The marks of a panel.
 *
 * @param piece the same panel as a piece: shapes are mm of its part of the wall
 * @param words what stands first on it: its docket, the wall's name
 */
export function panelMarks(wall: Wall, planned: PlannedWall, panel: Panel, piece: PanelPiece, words: string): FinishingShape[] {
  const isUpright = wall.film === 'upright';
  const { part, bleed } = piece;
  // Across and along the film: what prints is `across` by `along` there, from its own corner.
  const [across, along] = isUpright
    ? [part.width + bleed.left + bleed.right, part.height + bleed.top + bleed.bottom]
    : [part.height + bleed.top + bleed.bottom, part.width + bleed.left + bleed.right];
  const toPart: Matrix = isUpright ? translation(-bleed.left, -bleed.top) : [0, -1, 1, 0, -bleed.left, across - bleed.top];
  const fromWall = (p: Point): Point =>
    isUpright ? { x: p.x - panel.box.x, y: p.y - panel.box.y } : { x: across - (p.y - panel.box.y), y: p.x - panel.box.x };
  const shapes: FinishingShape[] = [];
  const bar = (x: number, y: number, width: number, height: number, inks?: Amounts) => {
    const [p, q] = [apply(toPart, { x, y }), apply(toPart, { x: x + width, y: y + height })];
    const box = { x: Math.min(p.x, q.x), y: Math.min(p.y, q.y), width: Math.abs(q.x - p.x), height: Math.abs(q.y - p.y) };
    shapes.push({ kind: 'bar', ...box, ...(inks && { inks }) });
  };
  const letters = (x: number, y: number, most: number, room: number, text: string) => {
    shapes.push({ kind: 'text', ...apply(toPart, { x, y }), ...fittedLine(text, '', most, room), turn: isUpright ? 0 : 270 });
  };
  const count = planned.panels.length;
  const number = `${panel.order} of ${count}`;

  // Head: the arrow, two lines of words, the control strip.
  arrow(4, -HEAD_MM + 2, isUpright, bar);
  const hasStrip = wall.controlStrip && across >= LEAST_FOR_STRIP_MM;
  const strip = hasStrip ? PATCHES.length * PATCH.width + 4 : 0;
  letters(14, -HEAD_MM + 1.5, LETTERS_MM, across - 16 - strip, `${number} · ${words}`);
  const met = meetings(panel, planned, wall.joint);
  letters(14, -HEAD_MM + 7.5, SMALL_MM, across - 16 - strip, met ? `Hung as ${panel.order}: ${met}` : 'Hung alone');
  if (hasStrip)
    PATCHES.forEach((inks, i) => bar(across - strip + 2 + i * PATCH.width, -HEAD_MM + 1.5, PATCH.width, PATCH.height, inks));
  letters(12, along + GAP_MM + 1, LETTERS_MM, across - 24, number);

  // Where seams run: at both ends of the film, and at its sides those across it.
  const sides: [EdgeName, 1 | -1][] = [
    ['left', -1],
    ['right', 1],
    ['top', -1],
    ['bottom', 1]
  ];
  for (const [name, sign] of sides) {
    const edge = panel.edges[name];
    if (edge.is === 'wall') continue;
    const isColumn = name === 'left' || name === 'right';
    const [from, to, extent] = isColumn
      ? [panel.core.y, panel.core.y + panel.core.height, planned.size.heightMm]
      : [panel.core.x, panel.core.x + panel.core.width, planned.size.widthMm];
    [from, to].forEach((end, i) => {
      const at = lineAt(wall, edge, planned.overlapMm, sign, end / extent);
      const { x, y } = fromWall(isColumn ? { x: at, y: end } : { x: end, y: at });
      // Lying, the wall's top is at the far side of the film.
      if (isColumn === isUpright) bar(x - THIN_MM / 2, i === 0 ? -TICK_MM - 1 : along + 1, THIN_MM, TICK_MM);
      else bar((i === 0) === isUpright ? -TICK_MM - 1 : across + 1, y - THIN_MM / 2, TICK_MM, THIN_MM);
    });
  }

  // Start marks: so far along the wall, from its top or its left.
  if (wall.startMarksMm > 0) {
    const first = isUpright ? panel.box.y : panel.box.x;
    for (let n = Math.ceil(first / wall.startMarksMm); n * wall.startMarksMm <= first + along; n++) {
      const at = n * wall.startMarksMm - first;
      bar(-TICK_MM - 0.5, at - THIN_MM / 2, TICK_MM, THIN_MM);
      letters(-SIDE_MM + 0.5, at + 0.8, 1.8, SIDE_MM - 1, `${formatFigure((n * wall.startMarksMm) / 1000, 2)} m`);
    }
  }
  return shapes;
}

/** An arrow towards the wall's top, ten mm long: a stem and a head in steps. */
function arrow(
  x: number,
  y: number,
  isUpright: boolean,
  bar: (x: number, y: number, width: number, height: number) => void
): void {
  const STEPS = 4;
  const put = (along: number, off: number, length: number, width: number) =>
    isUpright
      ? bar(x + 4 + off - width / 2, y + 9 - along - length, width, length)
      : bar(x + along - 1, y + 4 + off - width / 2, length, width);
  put(0, 0, 5, 1.2);
  for (let i = 0; i < STEPS; i++) put(5 + i, 0, 1, 2 * (STEPS - i) - 1);
}
