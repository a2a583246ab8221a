import { DxfWriter, point3d, Units } from '@tarikjabiri/dxf';
import { TOOLS } from '../artwork/roles';
import type { Point } from '../geometry/matrix';
import type { Mark } from '../marks/print-list';
import type { CutLine } from './order';

/** Cut lines in open files, for cutters that take no HPGL: in mm of the print, in their order, a layer a tool. */

export interface CutFile {
  widthMm: number;
  lengthMm: number;
  lines: readonly CutLine[];
  /** What a cutter's own camera looks for. */
  marks: readonly Mark[];
}

/** Where marks are drawn. */
const MARKS = 'marks';
/** On the screen of whoever opens them. */
const COLOURS: Record<CutLine['tool'], string> = {
  'kiss cut': '#d0006f',
  crease: '#0060c0',
  perforation: '#808000',
  'through cut': '#c00000'
};
const DXF_COLOURS: Record<CutLine['tool'], number> = { 'kiss cut': 6, crease: 5, perforation: 2, 'through cut': 1 };

const figure = (mm: number) => String(Number(mm.toFixed(4)));

/** SVG 1.1: a millimetre is a unit. */
export function writeSvg({ widthMm, lengthMm, lines, marks }: CutFile): string {
  const path = ({ points, closed }: CutLine) =>
    `<path d="M${points.map(({ x, y }) => `${figure(x)} ${figure(y)}`).join('L')}${closed ? 'Z' : ''}"/>`;
  // One group a run of equal tools: so the order of cutting is that of the file.
  const groups: { tool: CutLine['tool']; paths: string[] }[] = [];
  for (const line of lines) {
    if (groups.at(-1)?.tool !== line.tool) groups.push({ tool: line.tool, paths: [] });
    groups.at(-1)!.paths.push(path(line));
  }
  const discs = marks.map(({ x, y, diameter }) => `<circle cx="${figure(x)}" cy="${figure(y)}" r="${figure(diameter / 2)}"/>`);
  const size = `width="${figure(widthMm)}mm" height="${figure(lengthMm)}mm" viewBox="0 0 ${figure(widthMm)} ${figure(lengthMm)}"`;
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    `<svg xmlns="http://www.w3.org/2000/svg" ${size}>`,
    `<g id="${MARKS}" fill="#000">${discs.join('')}</g>`,
    ...groups.map(
      ({ tool, paths }) =>
        `<g class="${tool.replace(' ', '-')}" fill="none" stroke="${COLOURS[tool]}" stroke-width="0.1">\n${paths.join('\n')}\n</g>`
    ),
    '</svg>',
    ''
  ].join('\n');
}

/** DXF in mm, y up: polylines on a layer a tool, marks as circles. */
export function writeDxf({ lengthMm, lines, marks }: CutFile): string {
  const dxf = new DxfWriter();
  dxf.setUnits(Units.Millimeters);
  for (const tool of TOOLS) dxf.addLayer(tool, DXF_COLOURS[tool], 'Continuous');
  dxf.addLayer(MARKS, 7, 'Continuous');
  const up = ({ x, y }: Point): Point => ({ x, y: lengthMm - y });
  for (const mark of marks) {
    const { x, y } = up(mark);
    dxf.addCircle(point3d(x, y), mark.diameter / 2, { layerName: MARKS });
  }
  for (const { tool, points, closed } of lines)
    dxf.addLWPolyline(
      points.map((p) => ({ point: up(p) })),
      // The first bit says that it is closed.
      { layerName: tool, flags: closed ? 1 : 0 }
    );
  return dxf.stringify();
}
