import { describe, expect, it } from 'vitest';
import { pieceKey } from '$core/layout/pieces';
import type { Placement } from '$core/layout/placement';
import type { Rates } from '$core/layout/run-costs';
import type { RunPiece } from '$core/layout/run-piece';
import type { Docket } from '$lib/server/dockets/dockets';
import { RunMoney } from './run-money.svelte';

const RATES: Rates = { press: null, times: 3, mediaPerM2: 4, machinePerHour: 0, inkPerMl: 0.5 };
const docketOf = (id: number, widthMm: number, heightMm: number) =>
  ({ id, choices: { widthMm, heightMm, bleedMm: 0, stack: null } }) as unknown as Docket;
const DOCKETS = [docketOf(1, 100, 100), docketOf(2, 400, 100)];
/** Docket 2 is a wall of two panels, of which the first is a quarter. */
const PANELS = [0, 1].map((piece) => pieceKey({ docket: '2', piece }));
const PIECES = new Map(
  PANELS.map((id, i) => [id, { id, docket: '2', widthMm: i === 0 ? 100 : 300, heightMm: 100, panel: {} } as unknown as RunPiece])
);
const layoutOf = (...ids: string[]) =>
  ({ parts: [{ length: 500, copies: ids.map((id, copy) => ({ id, copy })) }], length: 500, areaM2: 0.5, wasteShare: 0.2 }) as unknown as Placement; // prettier-ignore
const moneyOf = (layout: Placement, countedMl: number | null = null, rates = RATES) =>
  new RunMoney(() => ({ layout, dockets: DOCKETS, pieces: PIECES, rates, inks: { 1: 2, 2: 8 }, countedMl }));

describe('the money of a run', () => {
  it('counts ink by its plates once there are some, and else by what was measured; a panel is a part of its wall', () => {
    expect(moneyOf(layoutOf('1', '1', PANELS[0]!), 7).ink).toEqual({ ml: 21, counted: true });
    const { ink, costs } = moneyOf(layoutOf('1', '1', PANELS[0]!));
    expect(ink).toEqual({ ml: 3 * (2 + 2 + 8 / 4), counted: false });
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
});
