import { counted } from '../units/counted';
import { formatLength, longUnit, type ShopUnit } from '../units/length';
import { meetings } from './panel-marks';
import { printingOrder } from './hanging';
import { trimmedOutline, type Panel, type PlannedWall } from './panels';
import { courseAt, openingRing, type Opening, type Seam, type Wall } from './wall';
import type { Point } from '../geometry/matrix';

/** The map that goes to the customer and to those who hang a wall, as pages of SVG. Lengths of a page are mm. */

export interface MapOf {
  wall: Wall;
  planned: PlannedWall;
  /** What it is, and for whom. */
  name: string;
  customer: string;
  docket: number;
  media: string;
  filmMm: number;
  unit: ShopUnit;
  /** The address that its picture is put in at, and how far that goes beyond the wall; none for a map without it. */
  picture?: { href: string; bleedMm: number } | undefined;
}

const PAGE = { width: 297, height: 210 };
const EDGE = 12;
/** Room for the picture with its measures. */
const PICTURE = { x: 20, y: 36, width: 252, height: 86 };
const ROWS_A_PAGE = 26;
/** Measures of more seams than this stand at every second or third. */
const MOST_MEASURES = 24;

const escaped = (text: string): string => text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`);
const n = (mm: number): string => mm.toFixed(2);

function text(x: number, y: number, size: number, words: string, more = ''): string {
  return `<text x="${n(x)}" y="${n(y)}" font-family="sans-serif" font-size="${size}" ${more}>${escaped(words)}</text>`;
}

const page = (body: readonly string[]): string =>
  [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${PAGE.width}mm" height="${PAGE.height}mm" viewBox="0 0 ${PAGE.width} ${PAGE.height}" fill="none" stroke="none">`,
    `<rect width="${PAGE.width}" height="${PAGE.height}" fill="#ffffff"/>`,
    ...body,
    '</svg>'
  ].join('\n');

/** The wall on the page: its scale, and where it begins. */
function frameOf({ widthMm, heightMm }: PlannedWall['size']) {
  const scale = Math.min(PICTURE.width / widthMm, PICTURE.height / heightMm);
  return { scale, x: PICTURE.x + (PICTURE.width - widthMm * scale) / 2, y: PICTURE.y + (PICTURE.height - heightMm * scale) / 2 };
}

const ring = (points: readonly Point[], at: (p: Point) => Point): string =>
  `M${points.map((p) => `${n(at(p).x)} ${n(at(p).y)}`).join('L')}Z`;

/** Lengths on a map, without more figures than a tape has. */
const said = (mm: number, unit: ShopUnit): string =>
  unit === 'mm' ? formatLength(Math.round(mm), 'mm', 0) : formatLength(mm, unit, 1);

const openingName = ({ name }: Pick<Opening, 'name'>, i: number): string => name || `opening ${i + 1}`;
const openingWords = (opening: Opening, i: number): string =>
  `${openingName(opening, i)}${opening.leftOut ? '' : ', printed over'}`;

function seamLine(seam: Seam, isColumn: boolean, { widthMm, heightMm }: PlannedWall['size'], at: (p: Point) => Point): string {
  const steps = Math.max(1, seam.course.length - 1);
  const extent = isColumn ? heightMm : widthMm;
  const points = Array.from({ length: steps + 1 }, (_, i) => {
    const [along, across] = [(i / steps) * extent, seam.at + courseAt(seam, i / steps)];
    const { x, y } = at(isColumn ? { x: across, y: along } : { x: along, y: across });
    return `${n(x)} ${n(y)}`;
  });
  return `<path d="M${points.join('L')}" stroke="#ffffff" stroke-width="0.9"/><path d="M${points.join('L')}" stroke="#111111" stroke-width="0.35" stroke-dasharray="2 1"/>`;
}

/** The wall with its seams, numbers and measures. */
function drawing({ wall, planned, unit, picture }: MapOf): string[] {
  const { size, columns, rows, panels } = planned;
  const { scale, x: x0, y: y0 } = frameOf(size);
  const at = ({ x, y }: Point): Point => ({ x: x0 + x * scale, y: y0 + y * scale });
  const [w, h] = [size.widthMm * scale, size.heightMm * scale];
  const body: string[] = [];
  if (picture) {
    const beyond = picture.bleedMm * scale;
    body.push(
      `<clipPath id="wall"><rect x="${n(x0)}" y="${n(y0)}" width="${n(w)}" height="${n(h)}"/></clipPath>`,
      `<image clip-path="url(#wall)" x="${n(x0 - beyond)}" y="${n(y0 - beyond)}" width="${n(w + 2 * beyond)}" height="${n(h + 2 * beyond)}" preserveAspectRatio="none" href="${picture.href}"/>`
    );
  }
  for (const [i, opening] of wall.openings.entries()) {
    const d = ring(openingRing(opening), at);
    const middle = at({ x: opening.x + opening.width / 2, y: opening.y + opening.height / 2 });
    body.push(
      `<path d="${d}" fill="#ffffff" fill-opacity="${opening.leftOut ? 1 : 0.4}" stroke="#111111" stroke-width="0.25"/>`,
      // Readable on any picture: what lies under it is drawn first.
      ...['stroke="#ffffff" stroke-width="0.9" stroke-linejoin="round"', 'fill="#111111"'].map((paint) =>
        text(middle.x, middle.y + 1, 2.6, openingWords(opening, i), `${paint} text-anchor="middle"`)
      )
    );
  }
  body.push(`<rect x="${n(x0)}" y="${n(y0)}" width="${n(w)}" height="${n(h)}" stroke="#111111" stroke-width="0.4"/>`);
  for (const corner of wall.corners) {
    const { x } = at({ x: corner, y: 0 });
    body.push(
      `<path d="M${n(x)} ${n(y0 - 4)}V${n(y0 + h + 4)}" stroke="#111111" stroke-width="0.3" stroke-dasharray="0.6 0.9"/>`,
      text(x, y0 + h + 7, 2.4, 'corner', 'fill="#111111" text-anchor="middle"')
    );
  }
  columns.forEach((seam) => body.push(seamLine(seam, true, size, at)));
  rows.forEach((seam) => body.push(seamLine(seam, false, size, at)));
  for (const { core, order } of panels) {
    const { x, y: from } = at({ x: core.x + core.width / 2, y: core.y });
    const r = Math.max(1.6, Math.min(5, core.width * scale * 0.3, core.height * scale * 0.3));
    const y = from + r + 1.5;
    body.push(
      `<circle cx="${n(x)}" cy="${n(y)}" r="${n(r)}" fill="#ffffff" stroke="#111111" stroke-width="0.3"/>`,
      text(x, y + r * 0.42, Number((r * 1.2).toFixed(2)), String(order), 'fill="#111111" text-anchor="middle" font-weight="bold"')
    );
  }
  // How far each seam is from the wall's left edge, and each level one from its top.
  const each = Math.ceil(columns.length / MOST_MEASURES) || 1;
  columns.forEach((seam, i) => {
    if (i % each !== 0) return;
    const { x } = at({ x: seam.at + courseAt(seam, 0), y: 0 });
    body.push(
      `<path d="M${n(x)} ${n(y0 - 1)}V${n(y0 - 3)}" stroke="#111111" stroke-width="0.25"/>`,
      text(
        x + 0.8,
        y0 - 3.6,
        2.6,
        said(seam.at + courseAt(seam, 0), unit),
        `fill="#111111" transform="rotate(-45 ${n(x)} ${n(y0 - 3.4)})"`
      )
    );
  });
  rows.forEach((seam) => {
    const { y } = at({ x: 0, y: seam.at });
    body.push(text(x0 + w + 1.5, y + 0.9, 2.6, said(seam.at, unit), 'fill="#111111"'));
  });
  body.push(
    text(
      x0 - 2,
      y0 + h / 2,
      3,
      said(size.heightMm, unit),
      `fill="#111111" text-anchor="middle" transform="rotate(-90 ${n(x0 - 2)} ${n(y0 + h / 2)})"`
    ),
    `<path d="M${n(x0 - 6)} ${n(y0 + h)}H${n(x0 + w + 6)}" stroke="#111111" stroke-width="0.6"/>`,
    text(x0 + w + 1.5, y0 + h - 1, 2.4, 'floor', 'fill="#111111"'),
    text(x0 + w / 2, y0 + h + 10.5, 3, said(size.widthMm, unit), 'fill="#111111" text-anchor="middle"')
  );
  return body;
}

/** Numbers or names as they follow each other, cut where there is no room for more. */
function sequence(numbers: readonly (number | string)[], most: number): string {
  return numbers.length <= most ? numbers.join(', ') : `${numbers.slice(0, most).join(', ')} … ${numbers.at(-1)}`;
}

/** What those who hang it go through, one after the other. */
export function checklist({ wall, planned, unit }: Pick<MapOf, 'wall' | 'planned' | 'unit'>): string[] {
  const { size, panels, overlapMm } = planned;
  const first = panels.find(({ order }) => order === 1);
  /** Where the first is laid: its inner edge, or its left one. */
  const endsThere = first?.edges.left.is === 'wall';
  const edge = first && (wall.film === 'upright' ? first.core.x + (endsThere ? first.core.width : 0) : first.core.y);
  return [
    `Measured in three places: the wall is ${said(size.widthMm, unit)} wide and ${said(size.heightMm, unit)} high.`,
    'Wall clean, dry and smooth; sockets and rails taken off.',
    ...(edge !== undefined && panels.length > 1
      ? [
          wall.film === 'upright'
            ? `Plumb line ${said(edge, unit)} from the left edge: panel 1 ${endsThere ? 'ends' : 'begins'} there.`
            : `Level line ${said(edge, unit)} from the top: panel 1 begins there.`
        ]
      : []),
    'Roll turned so that panel 1 comes off first.',
    wall.joint === 'butt'
      ? 'Panels trimmed at their marks and butted.'
      : `Each panel laid on its marks: ${said(overlapMm, unit)} of overlap, the trimmed edge ${wall.onTop === 'later' ? 'on top' : 'beneath'}.`,
    ...(wall.openings.length > 0
      ? [
          `Openings cut out: ${sequence(
            wall.openings.map((opening, i) => openingName(opening, i)),
            12
          )}.`
        ]
      : []),
    ...(wall.corners.length > 0 ? ['Film pressed well into every corner, and relieved there.'] : []),
    'Bleed trimmed at the edges of the wall; edges heated and pressed.'
  ];
}

function firstPage(map: MapOf): string {
  const { wall, planned, name, customer, docket, media, filmMm, unit } = map;
  const { size, panels, hanging, overlapMm, columns, rows } = planned;
  const seams = columns.length * size.heightMm + rows.length * size.widthMm;
  const joint = wall.joint === 'butt' ? 'butted' : `overlapping by ${said(overlapMm, unit)}`;
  const hungAs = hanging.map(({ order }) => order);
  const printed = printingOrder(hungAs);
  const list = checklist(map);
  return page([
    text(EDGE, 16, 6, name, 'fill="#111111" font-weight="bold"'),
    text(
      PAGE.width - EDGE,
      16,
      3.4,
      [`Docket ${docket}`, customer].filter(Boolean).join(' · '),
      'fill="#111111" text-anchor="end"'
    ),
    text(
      EDGE,
      22,
      3.2,
      `${counted(panels.length, 'panel')} ${wall.film} on ${media}, ${said(filmMm, unit)} wide; ${joint}; ${formatLength(seams, longUnit(unit))} of seams.`,
      'fill="#111111"'
    ),
    ...drawing(map),
    text(EDGE, 142, 3.6, 'Order', 'fill="#111111" font-weight="bold"'),
    text(
      EDGE,
      148,
      3,
      `Hung ${wall.order === 'by hand' ? 'as numbered' : wall.order}: ${sequence(hungAs, 30)}.`,
      'fill="#111111"'
    ),
    text(
      EDGE,
      153,
      3,
      `Printed and rolled the other way: ${sequence(printed, 30)}. The outermost on the roll is hung first.`,
      'fill="#111111"'
    ),
    text(EDGE, 163, 3.6, 'When it is hung', 'fill="#111111" font-weight="bold"'),
    ...list.flatMap((line, i) => [
      `<rect x="${EDGE}" y="${n(166 + i * 5)}" width="2.8" height="2.8" stroke="#111111" stroke-width="0.25"/>`,
      text(EDGE + 5, 168.6 + i * 5, 3, line, 'fill="#111111"')
    ])
  ]);
}

const COLUMNS: [string, number][] = [
  ['Panel', 12],
  ['Seen', 34],
  ['Printed', 76],
  ['From the left', 122],
  ['From the top', 154],
  ['Turned', 184],
  ['How it meets the others', 206]
];

function tablePage(map: MapOf, rows: readonly Panel[], number: number, of: number): string {
  const { planned, wall, unit, name } = map;
  const size = (width: number, height: number) => `${said(width, unit)} × ${said(height, unit)}`;
  return page([
    text(EDGE, 16, 5, `${name}: panels`, 'fill="#111111" font-weight="bold"'),
    text(PAGE.width - EDGE, 16, 3, `${number} of ${of}`, 'fill="#111111" text-anchor="end"'),
    ...COLUMNS.map(([word, x]) => text(x, 26, 3, word, 'fill="#111111" font-weight="bold"')),
    `<path d="M${EDGE} 28H${PAGE.width - EDGE}" stroke="#111111" stroke-width="0.25"/>`,
    ...rows.flatMap((panel, i) => {
      const y = 34 + i * 6.4;
      const { core, box } = panel;
      const outline = trimmedOutline(panel, planned.size);
      const left = Math.min(...outline.map((p) => p.x));
      const strip = wall.film === 'upright' ? panel.column : panel.row;
      const cells = [
        String(panel.order),
        size(core.width, core.height),
        size(box.width, box.height),
        said(Math.max(0, left), unit),
        said(core.y, unit),
        wall.alternate && strip % 2 === 1 ? 'about' : '',
        meetings(panel, planned, wall.joint) || 'alone'
      ];
      return cells.map((cell, k) => text(COLUMNS[k]![1], y, 3, cell, 'fill="#111111"'));
    })
  ]);
}

/** The map's pages: the wall with its seams and what is to be done, then a table of the panels as they are hung. @throws RangeError for a wall without panels */
export function mapPages(map: MapOf): string[] {
  const rows = map.planned.hanging;
  if (rows.length === 0) throw new RangeError('A wall that cannot be divided has no map.');
  const tables = Math.ceil(rows.length / ROWS_A_PAGE);
  return [
    firstPage(map),
    ...Array.from({ length: tables }, (_, i) =>
      tablePage(map, rows.slice(i * ROWS_A_PAGE, (i + 1) * ROWS_A_PAGE), i + 2, tables + 1)
    )
  ];
}
