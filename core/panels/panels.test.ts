import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { areaWithin } from '../geometry/path';
import { intersect, unite } from '../geometry/areas';
import { hangingOrder, printingOrder } from './hanging';
import { marksAcross } from './mark-room';
import { panelPiece } from './panel-piece';
import { planWall, trimmedOutline, type Film, type Panel, type PlannedWall } from './panels';
import { boxRing, courseAt, newWall, usualOverlap, type Opening, type Wall } from './wall';

const FILM: Film = { usableMm: 1290, dpi: 360, family: 'calendered' };
const wall = (over: Partial<Wall> = {}): Wall => ({ ...newWall(20), ...over });
const SIZE = { widthMm: 9000, heightMm: 2600 };

const anyDivision = fc.record({
  how: fc.constantFrom('fewest' as const, 'equal' as const, 'count' as const, 'widest' as const),
  count: fc.integer({ min: 9, max: 12 }),
  widestMm: fc.integer({ min: 700, max: 1250 }),
  seams: fc.constant(null)
});
const anyWall: fc.Arbitrary<Wall> = fc
  .record({
    film: fc.constantFrom('upright' as const, 'lying' as const),
    across: anyDivision,
    along: fc.constantFrom('whole' as const, 'count' as const),
    joint: fc.constantFrom('overlap' as const, 'butt' as const),
    overlapMm: fc.integer({ min: 3, max: 40 }),
    side: fc.constantFrom('beneath' as const, 'above' as const, 'both' as const),
    onTop: fc.constantFrom('later' as const, 'earlier' as const),
    order: fc.constantFrom('from left' as const, 'from right' as const, 'from middle' as const),
    startMarksMm: fc.constantFrom(0, 1000)
  })
  .map(({ across, along, ...rest }) => {
    const lengthwise = { how: along, count: 2, widestMm: 1000, seams: null };
    const isUpright = rest.film === 'upright';
    return wall({ ...rest, columns: isUpright ? across : lengthwise, rows: isUpright ? lengthwise : across });
  });
const anySize = fc.record({ widthMm: fc.integer({ min: 5000, max: 10_000 }), heightMm: fc.integer({ min: 5000, max: 10_000 }) });

const pairs = ({ panels }: PlannedWall): [Panel, Panel][] =>
  panels.flatMap((panel) =>
    (['right', 'bottom'] as const).flatMap((name): [Panel, Panel][] => {
      const edge = panel.edges[name];
      return edge.is === 'seam' ? [[panel, panels[edge.neighbour]!]] : [];
    })
  );

describe('dividing a wall', () => {
  it('covers the wall with its bleed exactly, once where it is seen', () => {
    fc.assert(
      fc.property(anyWall, anySize, (made, size) => {
        const planned = planWall(made, size, FILM);
        expect(planned.faults).toEqual([]);
        const whole = size.widthMm * size.heightMm;
        // What is seen of each is seen once.
        expect(planned.panels.reduce((sum, { core }) => sum + core.width * core.height, 0)).toBeCloseTo(whole, 3);
        const printed = unite(planned.panels.map(({ box }) => boxRing(box)));
        const { bleed } = made;
        const pixel = 25.4 / FILM.dpi;
        const wanted = boxRing({ x: -bleed.left, y: -bleed.top, width: size.widthMm + bleed.left + bleed.right, height: size.heightMm + bleed.top + bleed.bottom }); // prettier-ignore
        expect(areaWithin(intersect(printed, [wanted]))).toBeCloseTo(areaWithin([wanted]), -1);
        const most = areaWithin([boxRing({ x: 0, y: 0, width: size.widthMm + 40 + 2 * pixel, height: size.heightMm + 40 + 2 * pixel })]); // prettier-ignore
        expect(areaWithin(printed)).toBeLessThanOrEqual(most);
      }),
      { numRuns: 150 }
    );
  });

  it('has neighbours overlap as asked once they are trimmed, and none is wider than the film', () => {
    fc.assert(
      fc.property(anyWall, anySize, (made, size) => {
        const planned = planWall(made, size, FILM);
        for (const [a, b] of pairs(planned)) {
          const edge = b.column > a.column ? a.edges.right : a.edges.bottom;
          const back = b.column > a.column ? b.edges.left : b.edges.top;
          if (edge.is !== 'seam' || back.is !== 'seam') throw new Error('They meet.');
          expect(edge.reachMm + back.reachMm).toBeCloseTo(made.joint === 'butt' ? 0 : made.overlapMm!, 9);
          expect(edge.onTop).toBe(!back.onTop);
          // What lies on top is the one that was hung later, unless it is said otherwise.
          expect(edge.onTop).toBe(made.onTop === 'later' ? a.order > b.order : a.order < b.order);
        }
        const across = made.film === 'upright' ? 'width' : 'height';
        const own = made[made.film === 'upright' ? 'columns' : 'rows'].how;
        if (own !== 'count')
          for (const { box } of planned.panels) expect(box[across] + marksAcross(made)).toBeLessThanOrEqual(FILM.usableMm + 1e-6);
      }),
      { numRuns: 150 }
    );
  });

  it('begins every panel on a whole pixel of the wall', () => {
    fc.assert(
      fc.property(anyWall, anySize, (made, size) => {
        for (const { box } of planWall(made, size, FILM).panels)
          for (const mm of [box.x, box.y, box.width, box.height]) {
            const px = (mm * FILM.dpi) / 25.4;
            expect(Math.abs(px - Math.round(px))).toBeLessThan(1e-6);
          }
      }),
      { numRuns: 30 }
    );
  });

  it('takes as few as fit: the first of them as wide as the film, or all equal', () => {
    const few = planWall(wall({ columns: { how: 'fewest', count: 1, widestMm: 1, seams: null } }), SIZE, FILM);
    const equal = planWall(wall(), SIZE, FILM);
    // 1290 less 7 of marks; 10 of overlap and 2 of trim a seam, 20 of bleed at the ends.
    expect(few.panels).toHaveLength(8);
    expect(few.panels.slice(1, 7).every(({ box }) => box.width > 1282 && box.width <= 1283.1)).toBe(true);
    expect(few.panels[7]!.core.width).toBeLessThan(few.panels[0]!.core.width);
    expect(equal.panels.map(({ core }) => core.width)).toEqual(Array.from({ length: 8 }, () => 1125));
    expect(equal.overlapMm).toBe(usualOverlap('calendered').usual);
  });

  it('keeps the length of a sheet too', () => {
    const sheets = { ...FILM, usableMm: 2000, longestMm: 1000 };
    const made = wall({ rows: { how: 'equal', count: 1, widestMm: 1, seams: null } });
    const { panels } = planWall(made, SIZE, sheets);
    expect(new Set(panels.map(({ row }) => row)).size).toBe(3);
    expect(Math.max(...panels.map(({ box }) => box.height))).toBeLessThan(1000 - 22);
  });
});

describe('what cannot be divided', () => {
  const faults = (made: Wall, size = SIZE, film = FILM) => planWall(made, size, film).faults.map(({ sentence }) => sentence);
  const at = (...places: number[]) => ({ how: 'equal' as const, count: 1, widestMm: 1, seams: places.map((mm) => ({ at: mm, course: [] })) }); // prettier-ignore

  it('is said with the figure: seams out of order, beyond the wall, or nearer than the overlap', () => {
    expect(faults(wall({ columns: at(3000, 2000) }))[0]).toBe('Seam 2, 2 m from the left, crosses or lies before seam 1 at 3 m. Move one of them.'); // prettier-ignore
    expect(faults(wall({ columns: at(9500) }))[0]).toContain('lies 9.5 m from the left; the wall ends at 9 m');
    expect(faults(wall({ columns: at(0) }))[0]).toContain('lies 0 m from the left');
    expect(faults(wall({ columns: at(3000, 3008) }))[0]).toContain('are 8 mm; panels overlap by 10 mm');
    expect(faults(wall({ rows: at(1000, 900) }))[0]).toMatch(/^Level seam 2/);
  });

  it('is said with the figure: too many panels, or a film of which nothing is left', () => {
    const [many] = faults(wall({ columns: { how: 'widest', count: 1, widestMm: 18, seams: null } }));
    expect(many).toContain('This would be 500 panels; 200 are the most.');
    const grid = { how: 'count' as const, count: 20, widestMm: 1, seams: null };
    expect(faults(wall({ columns: grid, rows: grid }))[0]).toContain('400 panels');
    expect(faults(wall({ overlapMm: 300 }), SIZE, { ...FILM, usableMm: 300 })[0]).toContain('nothing is left for the picture');
  });

  it('is told of seams that cross on their way, though their mean places do not', () => {
    const seams = [
      { at: 3000, course: [0, 40] },
      { at: 3030, course: [0, -40] }
    ];
    const [crossing] = faults(wall({ columns: { ...at(), seams } }));
    expect(crossing).toContain('crosses or lies before seam 1');
  });
});

describe('the order of hanging', () => {
  it('names every panel once, the lowest of a column first, and is printed the other way round', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('from left' as const, 'from right' as const, 'from middle' as const, 'by hand' as const),
        fc.integer({ min: 1, max: 12 }),
        fc.integer({ min: 1, max: 5 }),
        fc.array(fc.nat(20), { maxLength: 20 }),
        (order, columns, rows, byHand) => {
          const hung = hangingOrder({ order, byHand }, columns, rows);
          expect([...hung].sort((p, q) => p - q)).toEqual(Array.from({ length: columns * rows }, (_, i) => i));
          expect(printingOrder(hung).at(-1)).toBe(hung[0]);
        }
      )
    );
    expect(hangingOrder({ order: 'from middle', byHand: [] }, 5, 1)).toEqual([2, 3, 1, 4, 0]);
    expect(hangingOrder({ order: 'from middle', byHand: [] }, 4, 1)).toEqual([1, 2, 0, 3]);
    expect(hangingOrder({ order: 'from right', byHand: [] }, 2, 2)).toEqual([3, 2, 1, 0]);
    expect(hangingOrder({ order: 'by hand', byHand: [2, 0, 1] }, 3, 1)).toEqual([2, 0, 1]);
  });
});

describe('a panel as a piece', () => {
  const door: Opening = {
    name: 'Door',
    x: 4000,
    y: 500,
    width: 900,
    height: 2100,
    shape: 'rectangle',
    outline: [],
    leftOut: true
  };

  it('prints all of its box but the openings, which the bleed reaches into', () => {
    const made = wall({ openings: [door] });
    const planned = planWall(made, SIZE, FILM);
    const area = planned.panels.reduce((sum, panel) => {
      const { clip, part, bleed } = panelPiece(made, panel, planned.size);
      expect(part.x).toBeGreaterThanOrEqual(0);
      expect(bleed.left).toBe(panel.column === 0 ? -panel.box.x : 0);
      return sum + (clip ? areaWithin(clip) : panel.box.width * panel.box.height);
    }, 0);
    const boxes = planned.panels.reduce((sum, { box }) => sum + box.width * box.height, 0);
    // The door lies in two panels, which overlap in it; it stands on the floor, from where nothing reaches into it.
    const hole = boxRing({ x: 4020, y: 520, width: 860, height: 2200 });
    const holes = planned.panels.reduce((sum, { box }) => sum + areaWithin(intersect([hole], [boxRing(box)])), 0);
    expect(boxes - area).toBeCloseTo(holes, 0);
    expect(holes).toBeGreaterThan(860 * 2060);
  });

  const open = (over: Partial<Opening>): Opening => ({ ...door, y: 0, height: SIZE.heightMm, ...over });
  const numbers = ({ panels }: PlannedWall) => panels.map(({ index, order }) => [index, order]);

  it('is none, and has no number, where it lies in an opening', () => {
    // Of eight panels of 1125 mm the third and the fourth lie in it.
    const gate = open({ x: 2150, width: 2450 });
    const made = wall({ openings: [gate] });
    const planned = planWall(made, SIZE, FILM);
    expect(planned.faults).toEqual([]);
    expect(planned.blank).toEqual([2, 3]);
    expect(numbers(planned)).toEqual([[0, 1], [1, 2], [4, 3], [5, 4], [6, 5], [7, 6]]); // prettier-ignore
    expect(planned.hanging.map(({ order }) => order)).toEqual([1, 2, 3, 4, 5, 6]);
    // No other meets it.
    expect([planned.panels[1]!.edges.right.is, planned.panels[2]!.edges.left.is]).toEqual(['wall', 'wall']);
    expect(planned.panels[1]!.edges.left.is).toBe('seam');
    for (const panel of planned.panels) {
      const { clip, part, bleed } = panelPiece(made, panel, SIZE);
      const whole = (part.width + bleed.left + bleed.right) * (part.height + bleed.top + bleed.bottom);
      expect(clip ? areaWithin(clip) : whole).toBeGreaterThan(100);
    }
    // By hand the order names what does not print too, wherever.
    const byHand = [7, 2, 6, 5, 4, 3, 1, 0];
    expect(numbers(planWall({ ...made, order: 'by hand', byHand }, SIZE, FILM)).map(([, order]) => order)).toEqual([6, 5, 4, 3, 2, 1]); // prettier-ignore
    // Printed over, all are there.
    expect(planWall(wall({ openings: [{ ...gate, leftOut: false }] }), SIZE, FILM).blank).toEqual([]);
    const all = planWall(wall({ openings: [open({ x: 0, width: SIZE.widthMm })] }), SIZE, FILM);
    expect([all.panels, all.faults.map(({ id }) => id)]).toEqual([[], ['openings-all']]);
  });

  it('always has something to print, and no neighbour that has nothing, whatever is left out', () => {
    const anyOpening = fc
      .record({
        x: fc.integer({ min: -200, max: 9000 }),
        y: fc.integer({ min: -200, max: 2600 }),
        width: fc.integer({ min: 50, max: 5000 }),
        height: fc.integer({ min: 50, max: 2800 })
      }) // prettier-ignore
      .map((box) => open(box));
    fc.assert(
      fc.property(fc.array(anyOpening, { minLength: 1, maxLength: 4 }), anyWall, (openings, other) => {
        const made = { ...other, openings };
        const planned = planWall(made, SIZE, FILM);
        const kept = new Set(planned.panels.map(({ index }) => index));
        expect(planned.panels.map(({ order }) => order).sort((p, q) => p - q)).toEqual(planned.hanging.map((_, i) => i + 1));
        for (const panel of planned.panels) {
          const { clip } = panelPiece(made, panel, SIZE);
          if (clip) expect(areaWithin(clip)).toBeGreaterThan(1);
          for (const edge of Object.values(panel.edges)) if (edge.is === 'seam') expect(kept).toContain(edge.neighbour);
        }
      }),
      { numRuns: 60 }
    );
  });

  it('is trimmed along a curved seam where it lies on top, and reaches under it everywhere where it does not', () => {
    const course = [0, 30, -20, 45, 10];
    const seams = [{ at: 4500, course }];
    const made = wall({ columns: { ...newWall().columns, seams } });
    const planned = planWall(made, SIZE, { ...FILM, usableMm: 6000 });
    const [under, over] = planned.panels as [Panel, Panel];
    expect(over.edges.left).toMatchObject({ onTop: true, trimmed: true });
    expect(under.box.x + under.box.width).toBeGreaterThanOrEqual(4500 + 45 + planned.overlapMm);
    expect(over.box.x).toBeLessThanOrEqual(4500 - 20 - made.trimMm);
    const outline = trimmedOutline(over, SIZE);
    for (const share of [0.1, 0.25, 0.5, 0.8]) {
      const y = share * SIZE.heightMm;
      const strip = intersect([outline], [boxRing({ x: 4000, y: y - 0.05, width: 1000, height: 0.1 })]);
      const left = Math.min(...strip.flat().map(({ x }) => x));
      expect(left).toBeCloseTo(4500 + courseAt({ course }, share), 1);
    }
  });

  it('has the far end of its overlap blank or white where that is asked for', () => {
    const blank = wall({ strip: 'blank', stripMm: 4 });
    const planned = planWall(blank, SIZE, FILM);
    const [first] = planned.panels as [Panel];
    const piece = panelPiece(blank, first, SIZE);
    const { box } = first;
    expect(areaWithin(piece.clip!)).toBeCloseTo((box.width - 4) * box.height, 0);
    expect(piece.white).toEqual([]);
    expect(panelPiece({ ...blank, strip: 'white' }, first, SIZE).white).toHaveLength(1);
    // The last lies on its neighbour, and beneath none.
    expect(panelPiece(blank, planned.panels.at(-1)!, SIZE).clip).toBeUndefined();
  });
});
