import { intersect } from '../geometry/areas';
import type { Box } from '../geometry/box';
import { areaWithin } from '../geometry/path';
import { pageBleed } from '../artwork/choices';
import { marksAcross, MARKS_ALONG_MM } from '../panels/mark-room';
import type { Panel } from '../panels/panels';
import {
  boxRing,
  courseAt,
  LEAST_WALL_BLEED_MM,
  openingRing,
  overlapOf,
  usualOverlap,
  type Seam,
  type Wall
} from '../panels/wall';
import { counted } from '../units/counted';
import { formatLength, longUnit } from '../units/length';
import { lengthIn, placed, printed, type CheckInput, type Found, type WallLook } from './check';

/** Narrower strips are hard to hold and to hang. */
const NARROW_MM = 150;
/** Lettering that is touched by less is at the seam's edge. */
const TOUCHED_MM = 1;

/** What is long is said in metres or feet. */
const far = ({ unit }: CheckInput, mm: number) => formatLength(mm, longUnit(unit));
const least = ({ bleed }: Wall) => Math.min(bleed.left, bleed.top, bleed.right, bleed.bottom);

/** What a wall's own sentence is told of. */
type WallCheck = (look: WallLook, input: CheckInput) => Found[];

const ofWall =
  (check: WallCheck) =>
  (input: CheckInput): Found[] =>
    input.wall ? check(input.wall, input) : [];

export const division = ofWall(({ planned, wall }, input) => {
  if (planned.faults.length > 0) return planned.faults.map((fault) => ({ ...fault, level: 'stop' }));
  const { panels, columns, rows } = planned;
  const seams = columns.length * planned.size.heightMm + rows.length * planned.size.widthMm;
  const said = panels.length === 1 ? 'One panel covers it.' : `${panels.length} panels, ${far(input, seams)} of seams${wall.joint === 'butt' ? ', butted' : ''}.`; // prettier-ignore
  return [{ id: 'panels', level: 'fine', figure: counted(panels.length, 'panel'), limit: '', sentence: said }];
});

/** A panel's extent across and along the film, with the marks beside it. */
function onFilm({ box }: Panel, wall: Wall): { across: number; along: number } {
  const [across, along] = wall.film === 'upright' ? [box.width, box.height] : [box.height, box.width];
  return { across: across + marksAcross(wall), along: along + MARKS_ALONG_MM };
}

export const filmWidth = ofWall(({ planned, film, wall }, input) => {
  const widest = planned.panels.reduce<Panel | undefined>(
    (most, panel) => (most && onFilm(most, wall).across >= onFilm(panel, wall).across ? most : panel),
    undefined
  );
  if (!widest) return [];
  const { across } = onFilm(widest, wall);
  if (across <= film.usableMm + 1e-6) return [];
  const said = { id: 'panel-width', figure: lengthIn(input, across), limit: lengthIn(input, film.usableMm), place: widest.core };
  return [
    {
      ...said,
      level: 'stop',
      sentence: `Panel ${widest.order} takes ${said.figure} across with what is printed beside it; ${said.limit} of the film can be used. Move a seam, or take a wider film.`
    }
  ];
});

export const filmLength = ofWall(({ planned, film, wall, stock }, input) => {
  const longest = planned.panels.reduce((most, panel) => Math.max(most, onFilm(panel, wall).along), 0);
  if (film.longestMm !== undefined && longest > film.longestMm + 1e-6)
    return [
      {
        id: 'panel-length',
        level: 'stop',
        figure: far(input, longest),
        limit: far(input, film.longestMm),
        sentence: `A panel is ${far(input, longest)} long; ${far(input, film.longestMm)} of a sheet can be used. Divide it ${wall.film === 'upright' ? 'by level seams' : 'by upright seams'} too.`
      }
    ];
  if (stock && longest > stock.longestMm)
    return [
      {
        id: 'panel-length',
        level: 'look',
        figure: far(input, longest),
        limit: far(input, stock.longestMm),
        sentence: `A panel is ${far(input, longest)} long; the longest roll of this width has ${far(input, stock.longestMm)}. It would not come out whole.`
      }
    ];
  return [];
});

export const filmStock = ofWall(({ stock, neededMm }, input) => {
  if (!stock || neededMm <= stock.inAllMm) return [];
  const said = { figure: far(input, neededMm), limit: far(input, stock.inAllMm) };
  return [
    {
      id: 'film-stock',
      level: 'look',
      ...said,
      sentence: `The panels take about ${said.figure} of film; ${said.limit} of this width are in stock. Order more, of the same batch.`
    }
  ];
});

export const bleed = ofWall(({ wall }, input) => {
  const { choices, preparation, page } = input;
  const has = choices.bleedFrom === 'page' ? pageBleed(preparation, page, choices.widthMm) : Infinity;
  const most = Math.max(wall.bleed.left, wall.bleed.top, wall.bleed.right, wall.bleed.bottom);
  if (most > has + 0.05)
    return [
      {
        id: 'wall-bleed',
        level: 'look',
        figure: lengthIn(input, has),
        limit: lengthIn(input, most),
        sentence: `${lengthIn(input, most)} of bleed are asked for around the wall, the page has ${lengthIn(input, has)}. The rest stays white.`,
        mend: { label: 'Make it by mirroring the edge', change: { bleedFrom: 'mirror' } }
      }
    ];
  const own = least(wall);
  const said = { id: 'wall-bleed', figure: lengthIn(input, own), limit: lengthIn(input, LEAST_WALL_BLEED_MM) };
  if (own >= LEAST_WALL_BLEED_MM) return [{ ...said, level: 'fine', sentence: `${said.figure} of bleed around the wall.` }];
  const enough = (mm: number) => Math.max(mm, LEAST_WALL_BLEED_MM);
  const { left, top, right, bottom } = wall.bleed;
  return [
    {
      ...said,
      level: 'look',
      sentence: `${said.figure} of bleed at an edge of the wall; walls are out of true by more. Less than ${said.limit} may leave a bare strip.`,
      mend: {
        label: `Make it ${said.limit}`,
        change: {
          wall: { ...wall, bleed: { left: enough(left), top: enough(top), right: enough(right), bottom: enough(bottom) } }
        }
      }
    }
  ];
});

export const overlap = ofWall(({ wall, planned, film }, input) => {
  if (wall.joint === 'butt' || planned.panels.length < 2) return [];
  const { least: enough, usual } = usualOverlap(film.family);
  const own = overlapOf(wall, film.family);
  if (own >= enough) return [];
  return [
    {
      id: 'overlap',
      level: 'look',
      figure: lengthIn(input, own),
      limit: lengthIn(input, enough),
      sentence: `Panels overlap by ${lengthIn(input, own)}; ${film.family ?? 'this'} film shrinks, and wants ${lengthIn(input, enough)} at least. Seams may open.`,
      mend: { label: `Overlap by ${lengthIn(input, usual)}`, change: { wall: { ...wall, overlapMm: null } } }
    }
  ];
});

export const narrow = ofWall(({ planned }, input) => {
  const found = planned.panels
    .filter(() => planned.panels.length > 1)
    .find(({ core }) => Math.min(core.width, core.height) < NARROW_MM);
  if (!found) return [];
  const mm = Math.min(found.core.width, found.core.height);
  return [
    {
      id: 'panel-narrow',
      level: 'look',
      figure: lengthIn(input, mm),
      limit: lengthIn(input, NARROW_MM),
      place: found.core,
      sentence: `Of panel ${found.order} only ${lengthIn(input, mm)} are seen: that is hard to hold and to hang. Make all panels equal, or move a seam.`
    }
  ];
});

/** Every seam with where it runs, as flat strips. */
function strips({ planned }: WallLook): { name: string; seam: Seam; strip: (from: number, to: number) => Box; extent: number }[] {
  const { columns, rows, size } = planned;
  return [
    ...columns.map((seam, i) => ({
      name: `Seam ${i + 1}`,
      seam,
      extent: size.heightMm,
      strip: (from: number, to: number) => ({
        ...between(seam, from, to),
        y: from * size.heightMm,
        height: (to - from) * size.heightMm
      })
    })),
    ...rows.map((seam, i) => ({
      name: `Level seam ${i + 1}`,
      seam,
      extent: size.widthMm,
      strip: (from: number, to: number) => {
        const { x: y, width: height } = between(seam, from, to);
        return { x: from * size.widthMm, width: (to - from) * size.widthMm, y, height };
      }
    }))
  ];
}

function between(seam: Seam, from: number, to: number): { x: number; width: number } {
  const [p, q] = [seam.at + courseAt(seam, from), seam.at + courseAt(seam, to)];
  return { x: Math.min(p, q), width: Math.max(0.01, Math.abs(q - p)) };
}

const meets = (a: Box, b: Box, by: number): boolean =>
  a.x < b.x + b.width - by && a.x + a.width > b.x + by && a.y < b.y + b.height - by && a.y + a.height > b.y + by;

/** Curves are looked at in so many pieces. */
const PIECES = 60;

const piecesOf = ({ seam, strip }: ReturnType<typeof strips>[number]): Box[] => {
  const count = seam.course.length === 0 ? 1 : PIECES;
  return Array.from({ length: count }, (_, i) => strip(i / count, (i + 1) / count));
};

export const lettering = ofWall((look, input) => {
  const texts = input.page.text.filter((text) => printed(input, text)).map(({ place }) => placed(input, place));
  for (const one of strips(look)) {
    const pieces = piecesOf(one);
    const hit = texts.find((text) => pieces.some((piece) => meets(piece, text, TOUCHED_MM)));
    if (hit)
      return [
        {
          id: 'seam-lettering',
          level: 'look',
          figure: far(input, one.seam.at),
          limit: '',
          place: hit,
          sentence: `${one.name} runs through lettering. A step of half a millimetre is seen there; move it, or let it look for a calm place.`
        }
      ];
  }
  return [];
});

/** Of a stretch of a seam that is busier a step is seen, as in a face or in small lettering. */
const BUSY = 0.6;

export const busy = ofWall((look, input) => {
  if (!look.busy) return [];
  const under = [...look.busy.columns, ...look.busy.rows];
  const [worst] = strips(look)
    .map((one, i) => ({ ...one, under: under[i]! }))
    .sort((p, q) => q.under.worst - p.under.worst);
  if (!worst || worst.under.worst <= BUSY) return [];
  const { name, extent, strip, under: found } = worst;
  const percent = (share: number) => `${Math.round(share * 100)} %`;
  const from = worst.name.startsWith('Level') ? 'the left' : 'the top';
  return [
    {
      id: 'seam-busy',
      level: 'look',
      figure: percent(found.worst),
      limit: percent(BUSY),
      place: strip(Math.max(0, found.worstAt - 0.05), Math.min(1, found.worstAt + 0.05)),
      sentence: `${name} runs through something busy ${far(input, found.worstAt * extent)} from ${from}, such as a face or small lettering. Let it look for a calm place, or move it.`
    }
  ];
});

export const openings = ofWall((look, input) => {
  const { wall, planned } = look;
  const { widthMm, heightMm } = planned.size;
  const named = (i: number) => wall.openings[i]!.name || `Opening ${i + 1}`;
  const found: Found[] = [];
  wall.openings.forEach((opening, i) => {
    const ring = openingRing(opening);
    const inside = areaWithin(intersect([ring], [boxRing({ x: 0, y: 0, width: widthMm, height: heightMm })]));
    if (inside < 1)
      found.push({
        id: `opening-${i}-outside`,
        level: 'stop',
        figure: far(input, opening.x),
        limit: far(input, widthMm),
        sentence: `${named(i)} lies outside of the wall: it begins ${far(input, opening.x)} from the left and ${far(input, opening.y)} from the top of ${far(input, widthMm)} × ${far(input, heightMm)}.`
      });
    const crossing = strips(look).find((one) => piecesOf(one).some((piece) => meets(piece, opening, TOUCHED_MM)));
    if (crossing && inside >= 1)
      found.push({
        id: `opening-${i}-seam`,
        level: 'look',
        figure: far(input, crossing.seam.at),
        limit: '',
        place: opening,
        sentence: `${crossing.name} runs through ${named(i)}: two panels meet at its edge. A seam beside it is easier to hang.`
      });
  });
  return found;
});

export const corners = ofWall(({ wall, planned }, input) => {
  const outside = wall.corners.find((corner) => corner <= 0 || corner >= planned.size.widthMm);
  if (outside !== undefined)
    return [
      {
        id: 'corner-outside',
        level: 'stop',
        figure: far(input, outside),
        limit: far(input, planned.size.widthMm),
        sentence: `A corner is ${far(input, outside)} from the left; the walls together are ${far(input, planned.size.widthMm)} wide.`
      }
    ];
  const near = planned.columns.flatMap((seam, i) =>
    wall.corners
      .filter((corner) => Math.abs(corner - seam.at) < wall.cornerMm)
      .map((corner) => ({ i, mm: Math.abs(corner - seam.at) }))
  )[0];
  if (!near) return [];
  return [
    {
      id: 'corner-seam',
      level: 'look',
      figure: lengthIn(input, near.mm),
      limit: lengthIn(input, wall.cornerMm),
      sentence: `Seam ${near.i + 1} is ${lengthIn(input, near.mm)} from a corner; ${lengthIn(input, wall.cornerMm)} are to be kept. Film lifts where it ends at a bend.`
    }
  ];
});

export const whiteStrip = ofWall(({ wall, planned }, input) => {
  const { stack } = input;
  if (wall.strip !== 'white' || wall.stripMm === 0 || planned.panels.length < 2) return [];
  if (stack.layers.some(({ ink }) => ink === 'white')) return [];
  return [
    {
      id: 'white-strip',
      level: 'look',
      figure: lengthIn(input, wall.stripMm),
      limit: '',
      sentence: `The far ends of overlaps are to be white, and this docket is printed without white: they stay blank.`
    }
  ];
});
