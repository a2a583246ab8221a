import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { FieldPlace } from './field';
import { aligned, ALIGNMENTS, fromField, freePlace, inField, pull, snapped, turnTo, type Pulled } from './field-placing';

const SIZE = { widthMm: 90, heightMm: 50 };
const mm = (least: number, most: number) => fc.double({ min: least, max: most, noNaN: true });
const aPlace: fc.Arbitrary<FieldPlace> = fc.record({
  x: mm(-50, 100),
  y: mm(-50, 100),
  width: mm(0.5, 80),
  height: mm(0.5, 80),
  turn: mm(-360, 360)
});
const aPoint = fc.record({ x: mm(-100, 200), y: mm(-100, 200) });
const aPull: fc.Arbitrary<Pulled> = fc.record({
  across: fc.constantFrom(-1 as const, 0 as const, 1 as const),
  down: fc.constantFrom(-1 as const, 0 as const, 1 as const)
});

describe('a field', () => {
  it('has a box of its own, and back', () => {
    fc.assert(
      fc.property(aPlace, aPoint, (place, at) => {
        const there = fromField(place, inField(place, at));
        expect(there.x).toBeCloseTo(at.x, 6);
        expect(there.y).toBeCloseTo(at.y, 6);
      })
    );
    const turned = { x: 10, y: 10, width: 20, height: 10, turn: 90 };
    // Its top left corner lies at the top right when it is turned a quarter clockwise about its middle.
    expect(fromField(turned, { x: 0, y: 0 })).toMatchObject({ x: expect.closeTo(25, 6), y: expect.closeTo(5, 6) });
  });

  it('follows the edge that is pulled, and keeps the opposite one, however it is turned', () => {
    fc.assert(
      fc.property(aPlace, aPull, aPoint, (place, pulled, to) => {
        const next = pull(place, pulled, to);
        // The corner across from what is pulled.
        const kept = (of: FieldPlace) =>
          fromField(of, { x: pulled.across < 0 ? of.width : 0, y: pulled.down < 0 ? of.height : 0 });
        expect(kept(next).x).toBeCloseTo(kept(place).x, 5);
        expect(kept(next).y).toBeCloseTo(kept(place).y, 5);
        expect(next.width).toBeGreaterThanOrEqual(0.5 - 1e-9);
        expect(next.height).toBeGreaterThanOrEqual(0.5 - 1e-9);
        if (pulled.across === 0) expect(next.width).toBe(place.width);
        const at = inField(next, to);
        // Where there is room the edge is at the pointer.
        if (pulled.across > 0 && next.width > 0.5 + 1e-6) expect(at.x).toBeCloseTo(next.width, 5);
        if (pulled.down < 0 && next.height > 0.5 + 1e-6) expect(at.y).toBeCloseTo(0, 5);
      })
    );
  });

  it('turns to a point, and to eighths of a turn where it is near them', () => {
    const place = { x: 0, y: 0, width: 20, height: 20, turn: 0 };
    expect(turnTo(place, { x: 10, y: -5 }).turn).toBe(0);
    expect(turnTo(place, { x: 30, y: 10.3 }).turn).toBe(90);
    expect(turnTo(place, { x: 30, y: -9 }).turn).toBe(45);
    expect(turnTo(place, { x: -5, y: 10 }).turn).toBe(270);
    expect(turnTo(place, { x: 20, y: -10 }).turn).toBeCloseTo(26.6, 1);
  });

  it('takes the lines of the piece and of other fields when it is near', () => {
    const other = { x: 20, y: 5, width: 30, height: 8, turn: 0 };
    const moved = { x: 20.6, y: 20.7, width: 10, height: 8, turn: 0 };
    const { place, guides } = snapped(moved, [other], SIZE, 1);
    // Its left edge on the other’s, its middle on the piece’s.
    expect(place).toMatchObject({ x: 20, y: 21 });
    expect(guides).toEqual([
      { is: 'across', at: 20 },
      { is: 'down', at: 25 }
    ]);
    expect(snapped(moved, [other], SIZE, 0.1)).toEqual({ place: moved, guides: [] });
    expect(snapped({ ...moved, turn: 30 }, [other], SIZE, 1).guides).toEqual([]);
    fc.assert(
      fc.property(aPlace, fc.array(aPlace, { maxLength: 5 }), mm(0, 3), (one, others, near) => {
        const { place: to } = snapped(one, others, SIZE, near);
        expect(Math.abs(to.x - one.x)).toBeLessThanOrEqual(near + 1e-9);
        expect(Math.abs(to.y - one.y)).toBeLessThanOrEqual(near + 1e-9);
        expect([to.width, to.height, to.turn]).toEqual([one.width, one.height, one.turn]);
      })
    );
  });

  it('begins inside of the piece, below the others while there is room', () => {
    fc.assert(
      fc.property(mm(5, 500), mm(5, 500), fc.boolean(), (widthMm, heightMm, square) => {
        const places: FieldPlace[] = [];
        for (let i = 0; i < 4; i++) {
          const place = freePlace(places, { widthMm, heightMm }, square);
          expect(place.x).toBeGreaterThanOrEqual(-1e-9);
          expect(place.x + place.width).toBeLessThanOrEqual(widthMm + 1e-9);
          expect(place.y + place.height).toBeLessThanOrEqual(heightMm + 1e-9);
          places.push(place);
        }
        expect(places[1]!.y).toBeGreaterThanOrEqual(
          Math.min(places[0]!.y + places[0]!.height, (heightMm - places[1]!.height) / 2) - 1e-9
        );
      })
    );
  });
});

describe('a field that is lined up with another', () => {
  /** The corners of a field as it is turned. */
  const around = (place: FieldPlace) => {
    const corners = [0, place.width].flatMap((x) => [0, place.height].map((y) => fromField(place, { x, y })));
    const [xs, ys] = [corners.map(({ x }) => x), corners.map(({ y }) => y)];
    const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
    return { left, right, top, bottom, 'middle across': (left + right) / 2, 'middle down': (top + bottom) / 2 };
  };

  it('has that edge or middle where the other has it, however both are turned, and stays as large', () => {
    fc.assert(
      fc.property(aPlace, aPlace, fc.constantFrom(...ALIGNMENTS), (place, other, alignment) => {
        const moved = aligned(place, other, alignment);
        expect(around(moved)[alignment]).toBeCloseTo(around(other)[alignment], 6);
        const isAcross = ['left', 'middle across', 'right'].includes(alignment);
        expect(moved).toEqual({ ...place, ...(isAcross ? { x: moved.x } : { y: moved.y }) });
      })
    );
  });
});
