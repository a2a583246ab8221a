import { describe, expect, it } from 'vitest';
import { mlPerSquareMetre } from '$core/inks/drops';
import { CELLS } from '$core/inks/spread';
import { evenSides } from '$core/geometry/box';
import { pieceKey } from '$core/layout/pieces';
import type { Placement } from '$core/layout/placement';
import type { CountedInk, Rates } from '$core/layout/run-costs';
import type { RunPiece } from '$core/layout/run-piece';
import { RunMoney } from './run-money.svelte';

const RATES: Rates = { press: null, times: 3, mediaPerM2: 4, machinePerHour: 0 };
/** Docket 2 is a wall of 400 × 100 mm in two panels, of which the first is a quarter. */
const PANELS = [0, 1].map((piece) => pieceKey({ docket: '2', piece }));
const wall = (x: number, width: number) => ({ wall: { widthMm: 400, heightMm: 100 }, part: { x, y: 0, width, height: 100 }, pictureBeyondMm: 0 }); // prettier-ignore
const pieceOf = (id: string, docket: string, widthMm: number, panel?: object) =>
  [id, { id, docket, widthMm, heightMm: 100, bleed: evenSides(0), panel } as unknown as RunPiece] as const;
const PIECES = new Map([
  pieceOf('1', '1', 100),
  pieceOf(PANELS[0]!, '2', 100, wall(0, 100)),
  pieceOf(PANELS[1]!, '2', 300, wall(100, 300))
]);
const layoutOf = (...ids: string[]) =>
  ({ parts: [{ length: 500, copies: ids.map((id, copy) => ({ id, copy })) }], length: 500, areaM2: 0.5, wasteShare: 0.2 }) as unknown as Placement; // prettier-ignore
/** A mode of which a full drop everywhere is so many ml a m². */
const ON = { mode: { dpi: 720, drops: [6, 12, 24] as [number, number, number] }, press: { fullDrop: {} }, inkPrices: {} };
const laid = (ml: number) => [{ id: 1, ink: 'colour' as const, m2: ml / mlPerSquareMetre({ x: 720, y: 720 }, [24, 24, 24]), spread: Array.from({ length: CELLS ** 2 }, () => 255) }]; // prettier-ignore
/** So much ink at 0.5 a ml. */
const use = (ml: number) => ({ ml, cost: ml / 2 });
const moneyOf = (layout: Placement, counted: CountedInk | null = null, rates = RATES) =>
  new RunMoney(() => ({
    layout,
    pieces: PIECES,
    clipOf: (piece) => piece.panel?.clip,
    rates,
    inks: { 1: laid(2), 2: laid(8) },
    condition: ON,
    inkPerMl: 0.5,
    counted
  }));

describe('the money of a run', () => {
  it('counts ink by its plates once there are some, and else by what was measured; a panel is a part of its wall', () => {
    expect(moneyOf(layoutOf('1', '1', PANELS[0]!), { all: use(7), byDocket: undefined }).ink).toEqual({
      ...use(21),
      counted: true
    });
    const { ink, costs } = moneyOf(layoutOf('1', '1', PANELS[0]!));
    expect(ink).toEqual({ ml: expect.closeTo(3 * (2 + 2 + 8 / 4)), cost: expect.closeTo(9), counted: false });
    expect(costs).toMatchObject({ media: 6, ink: 9, all: 15 });
  });

  it('of another layout has the ink of its copies', () => {
    const money = moneyOf(layoutOf('1', '1'));
    expect(money.costsOf(layoutOf('1', '1', '1')).ink).toBeCloseTo(money.costs.ink * 1.5);
    expect(moneyOf(layoutOf()).costsOf(layoutOf('1')).ink).toBe(0);
  });

  it('is shared among its dockets without a rest', () => {
    const money = moneyOf(layoutOf('1', '1', PANELS[0]!, PANELS[1]!));
    const [one, two] = [money.shareOf(1)!, money.shareOf(2)!];
    expect(one.cost + two.cost).toBeCloseTo(money.costs.all);
    // Two squares beside a wall of four.
    expect(one.waste / (one.waste + two.waste)).toBeCloseTo(2 / 6);
    expect(money.shareOf(3)).toBeUndefined();
  });

  it('is of each docket what its plates have of ink, and of marks what its area is', () => {
    const money = moneyOf(layoutOf('1', PANELS[1]!), { all: use(10), byDocket: new Map([[1, use(8)], [2, use(1)]]) }); // prettier-ignore
    const [one, two] = [money.shareOf(1)!, money.shareOf(2)!];
    expect(one.cost + two.cost).toBeCloseTo(money.costs.all);
    expect(one.cost).toBeCloseTo(money.costs.media / 4 + (money.costs.ink * 8.25) / 10);
  });
});
