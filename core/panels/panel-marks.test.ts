import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { markRoomOf } from './mark-room';
import { checklist, mapPages, type MapOf } from './map';
import { meetings, panelMarks } from './panel-marks';
import { panelPiece } from './panel-piece';
import { planWall } from './panels';
import { newWall, type Wall } from './wall';

const SIZE = { widthMm: 5000, heightMm: 2400 };
const FILM = { usableMm: 1290, dpi: 360, family: 'cast' as const };
const planned = (wall: Wall) => planWall(wall, SIZE, FILM);

describe('what is printed beside a panel', () => {
  it('lies in the waste around it, never on its print, whichever way the film runs', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('upright' as const, 'lying' as const),
        fc.constantFrom('overlap' as const, 'butt' as const),
        fc.constantFrom(0, 500, 1000),
        fc.boolean(),
        (film, joint, startMarksMm, grid) => {
          const two = { how: 'count' as const, count: 2, widestMm: 1, seams: null };
          const whole = { ...two, how: grid ? ('count' as const) : ('whole' as const) };
          const across = { ...two, how: 'equal' as const };
          const divided = film === 'upright' ? { columns: across, rows: whole } : { columns: whole, rows: across };
          const wall: Wall = { ...newWall(20), film, joint, startMarksMm, ...divided };
          const plan = planned(wall);
          const room = markRoomOf(wall);
          for (const panel of plan.panels) {
            const piece = panelPiece(wall, panel, SIZE);
            const marks = panelMarks(wall, plan, panel, piece, 'Docket 7 · Wall');
            const { part, bleed } = piece;
            const print = {
              left: -bleed.left,
              top: -bleed.top,
              right: part.width + bleed.right,
              bottom: part.height + bleed.bottom
            };
            for (const mark of marks) {
              if (mark.kind !== 'bar') continue;
              const [x1, y1] = [mark.x + mark.width, mark.y + mark.height];
              const isBeside = mark.x >= print.right - 0.01 || x1 <= print.left + 0.01 || mark.y >= print.bottom - 0.01 || y1 <= print.top + 0.01; // prettier-ignore
              expect(isBeside).toBe(true);
              expect(mark.x).toBeGreaterThanOrEqual(print.left - room.left - 0.5);
              expect(x1).toBeLessThanOrEqual(print.right + room.right + 0.5);
              expect(mark.y).toBeGreaterThanOrEqual(print.top - room.top - 0.5);
              expect(y1).toBeLessThanOrEqual(print.bottom + room.bottom + 0.5);
            }
            const words = marks.flatMap((mark) => (mark.kind === 'text' ? [mark.text] : []));
            expect(words[0]).toBe(`${panel.order} of ${plan.panels.length} · Docket 7 · Wall`);
            const count = words.filter((text) => / m$/.test(text)).length;
            const along = film === 'upright' ? panel.box.height : panel.box.width;
            if (startMarksMm > 0) expect(Math.abs(count - along / startMarksMm)).toBeLessThanOrEqual(1);
            else expect(count).toBe(0);
          }
        }
      ),
      { numRuns: 40 }
    );
  });

  it('says where a seam runs on both panels of it: the lines meet when the panels are laid', () => {
    const wall = newWall(20);
    const plan = planned(wall);
    const [first, second] = plan.panels;
    const ticks = (panel: (typeof plan.panels)[number]) => {
      const piece = panelPiece(wall, panel, SIZE);
      return panelMarks(wall, plan, panel, piece, '')
        .flatMap((mark) =>
          mark.kind === 'bar' && Math.abs(mark.width - 0.3) < 1e-6 && Math.abs(mark.height - 6) < 1e-6
            ? [mark.x + 0.15 + piece.part.x]
            : []
        )
        .map((x) => Math.round(x * 10) / 10);
    };
    const seam = plan.columns[0]!.at;
    // The first lies beneath: its mark is where the second’s edge comes.
    expect(ticks(first!)).toEqual([seam, seam]);
    expect(ticks(second!)).toContain(seam);
  });

  it('says how it meets its neighbours', () => {
    const plan = planned(newWall(20));
    expect(plan.panels.map((panel) => meetings(panel, plan, 'overlap'))).toEqual([
      'under 2 at its right',
      'on 1 at its left, under 3 at its right',
      'on 2 at its left, under 4 at its right',
      'on 3 at its left'
    ]);
  });
});

describe('the map', () => {
  const mapOf = (over: Partial<Wall> = {}, unit: MapOf['unit'] = 'mm'): MapOf => {
    const wall = { ...newWall(20), ...over };
    return {
      wall,
      planned: planned(wall),
      name: 'Slip <wall> & "co"',
      customer: '',
      docket: 7,
      media: 'Film',
      filmMm: 1370,
      unit
    };
  };

  it('has every panel’s number and every seam’s place, in the shop’s unit, and nothing of its words is markup', () => {
    const [first, table] = mapPages(mapOf()) as [string, string];
    for (const words of ['>1250 mm<', '>2500 mm<', '>3750 mm<', '>5000 mm<', '>2400 mm<']) expect(first).toContain(words);
    for (const number of [1, 2, 3, 4]) expect(first).toContain(`font-weight="bold">${number}</text>`);
    expect(first).not.toContain('<wall>');
    expect(first).toContain('&#60;wall&#62;');
    expect(table).toContain('on 1 at its left, under 3 at its right');
    expect(mapPages(mapOf({}, 'in'))[0]).toContain('>49.2 in<');
    expect(mapPages(mapOf({}, 'in')).join()).toMatch(/\d ft of seams/);
    expect(mapPages(mapOf()).join()).toMatch(/\d m of seams/);
  });

  it('goes on over pages for many panels, and is none of a wall that cannot be divided', () => {
    const grid = { how: 'count' as const, count: 12, widestMm: 1, seams: null };
    const pages = mapPages(mapOf({ columns: grid, rows: { ...grid, count: 5 } }));
    expect(pages).toHaveLength(1 + Math.ceil(60 / 26));
    const crossed = { ...grid, seams: [{ at: 3000, course: [] }, { at: 2000, course: [] }] }; // prettier-ignore
    expect(() => mapPages(mapOf({ columns: crossed }))).toThrow('has no map');
  });

  it('has a list to go through, of what this wall has', () => {
    const list = (over: Partial<Wall>) => checklist(mapOf(over)).join(' ');
    expect(list({})).toContain('Plumb line 1250 mm from the left edge');
    expect(list({})).toContain('5 mm of overlap');
    expect(list({ joint: 'butt' })).toContain('butted');
    expect(list({})).not.toContain('corner');
    expect(list({ corners: [2000] })).toContain('corner');
    expect(list({ order: 'from right' })).toContain('Plumb line 3750 mm');
  });
});
