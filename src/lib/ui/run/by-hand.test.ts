import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Item, Pin, PlaceRule, Stock } from '$core/layout/placement';
import { alignPins, allPins, distributePins, isSame, pinBox, pinsOverlap, snap } from './by-hand';

const items = new Map<string, Item>([
  ['wide', { id: 'wide', width: 80, height: 30, copies: 9, mayTurn: true }],
  ['small', { id: 'small', width: 20, height: 25, copies: 9, mayTurn: true }]
]);
const rule: PlaceRule = {
  placing: 'hand',
  gapX: 4,
  gapY: 6,
  margin: 10,
  lead: 15,
  tail: 5,
  align: 'left',
  single: false,
  fill: 'none',
  longest: null,
  turnStep: 90,
  effort: 'quick',
  steps: null
};
const ROLL: Stock = { kind: 'roll', width: 500 };
const SHEET: Stock = { kind: 'sheet', width: 500, height: 300, corner: 'front left' };
const pin = (id: string, x: number, y: number, over: Partial<Pin> = {}): Pin => ({
  id,
  copy: 0,
  part: 0,
  x,
  y,
  turn: 0,
  ...over
});

const place = fc.double({ min: 0, max: 400, noNaN: true });
const pins = fc
  .array(fc.record({ id: fc.constantFrom('wide', 'small'), x: place, y: place, turn: fc.constantFrom(0, 90, 180, 270) }), {
    minLength: 3,
    maxLength: 8
  })
  .map((list) => list.map((one, copy) => ({ ...one, copy, part: 0 })));

describe('pins', () => {
  it('are boxes of the turned piece', () => {
    expect(pinBox(pin('wide', 1, 2), items)).toEqual({ x: 1, y: 2, width: 80, height: 30 });
    expect(pinBox(pin('wide', 1, 2, { turn: 90 }), items)).toEqual({ x: 1, y: 2, width: 30, height: 80 });
  });

  it('come from every copy of a layout, each with its part', () => {
    const copy = { id: 'small', copy: 3, x: 5, y: 6, width: 20, height: 25, turn: 90, pinned: false };
    const part = { copies: [copy], ghosts: [], length: 0, reach: 0, usedM2: 0, cuts: null };
    const layout = {
      parts: [part, part],
      length: 0,
      areaM2: 0,
      wasteM2: 0,
      wasteShare: 0,
      cuts: null,
      tooLarge: [],
      refusal: null
    };
    const all = allPins(layout);
    expect(all).toEqual([0, 1].map((i) => ({ id: 'small', copy: 3, part: i, x: 5, y: 6, turn: 90 })));
    expect(isSame(all[0]!, all[1]!)).toBe(false);
  });

  it('may not lie over the margin, nor nearer to another than the gap', () => {
    const other = pin('small', 100, 100, { copy: 1 });
    const why = (moved: Pin, stock: Stock = ROLL, by = rule) => pinsOverlap([moved, other], [moved], items, stock, by);
    expect(why(pin('small', 9, 50))).toMatch(/margin/);
    expect(why(pin('small', 471, 50))).toMatch(/margin/);
    expect(why(pin('small', 50, 14))).toMatch(/margin/);
    expect(why(pin('small', 50, 4000))).toBe('');
    // A sheet ends.
    expect(why(pin('small', 50, 270), SHEET)).toMatch(/margin/);
    expect(why(pin('small', 50, 265), SHEET)).toBe('');
    expect(why(pin('small', 123.9, 100))).toMatch(/gap/);
    expect(why(pin('small', 124, 100))).toBe('');
    expect(why(pin('small', 100, 130.9))).toMatch(/gap/);
    expect(why(pin('small', 100, 131))).toBe('');
    // Another part is another strip; contours see to themselves.
    expect(why(pin('small', 100, 100, { part: 1 }))).toBe('');
    expect(why(pin('small', 100, 100), ROLL, { ...rule, placing: 'shapes' })).toBe('');
  });

  it('snap to margins, level with others and a gap beside them, and else stay', () => {
    const other = { x: 200, y: 100, width: 80, height: 30 };
    const at = (x: number, y: number, reach = 5) => snap({ x, y, width: 20, height: 25 }, [other], ROLL, rule, reach);
    expect(at(12, 17)).toEqual({ x: 10, y: 15 });
    expect(at(286, 98)).toEqual({ x: 284, y: 100 });
    expect(at(178, 107)).toEqual({ x: 176, y: 105 });
    expect(at(468, 138)).toEqual({ x: 470, y: 136 });
    expect(at(50, 60)).toEqual({ x: 50, y: 60 });
    expect(at(286, 98, 1)).toEqual({ x: 286, y: 98 });
  });

  it('moved by snapping never move farther than the reach', () => {
    fc.assert(
      fc.property(place, place, fc.double({ min: 0, max: 20, noNaN: true }), (x, y, reach) => {
        const to = snap({ x, y, width: 20, height: 25 }, [{ x: 200, y: 100, width: 80, height: 30 }], SHEET, rule, reach);
        expect(Math.abs(to.x - x)).toBeLessThanOrEqual(reach + 1e-9);
        expect(Math.abs(to.y - y)).toBeLessThanOrEqual(reach + 1e-9);
      })
    );
  });

  it('line up on the outermost of them, and move in one direction alone', () => {
    fc.assert(
      fc.property(pins, fc.constantFrom('left', 'right', 'start', 'end'), (list, edge) => {
        const boxes = (all: readonly Pin[]) => all.map((one) => pinBox(one, items));
        const line = (all: readonly Pin[]) =>
          boxes(all).map((b) => ({ left: b.x, right: b.x + b.width, start: b.y, end: b.y + b.height })[edge]);
        const made = alignPins(list, edge, items);
        const aim = edge === 'left' || edge === 'start' ? Math.min(...line(list)) : Math.max(...line(list));
        for (const at of line(made)) expect(at).toBeCloseTo(aim, 9);
        const other = edge === 'left' || edge === 'right' ? 'y' : 'x';
        expect(made.map((one) => one[other])).toEqual(list.map((one) => one[other]));
      })
    );
  });

  it('spread with equal gaps, the outer ones staying', () => {
    fc.assert(
      fc.property(pins, fc.boolean(), (list, along) => {
        const made = distributePins(list, along, items).map((one) => pinBox(one, items));
        const [at, size] = along ? (['y', 'height'] as const) : (['x', 'width'] as const);
        const gaps = made.slice(1).map((box, i) => box[at] - made[i]![at] - made[i]![size]);
        for (const gap of gaps) expect(gap).toBeCloseTo(gaps[0]!, 6);
        // The first and the last by where they begin.
        const begins = list.map((one) => one[at]);
        expect(made[0]![at]).toBeCloseTo(Math.min(...begins), 9);
        expect(made.at(-1)![at]).toBeCloseTo(Math.max(...begins), 6);
        expect(made).toHaveLength(list.length);
      })
    );
    const two = [pin('wide', 1, 2), pin('small', 3, 4)];
    expect(distributePins(two, true, items)).toEqual(two);
  });
});
