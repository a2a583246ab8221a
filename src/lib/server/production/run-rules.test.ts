import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { PRIORITIES } from '$lib/docket-choices';
import type { RunState } from '$lib/run-rule';
import { DEFAULT_RULE } from '$lib/run-rule';
import { evenSides } from '$core/geometry/box';
import { pieceKey } from '$core/layout/pieces';
import { countedInk, type Rates } from '$core/layout/run-costs';
import { RunMoney } from '$lib/ui/run/run-money.svelte';
import { fitsOn, isMoreUrgent, mustBeOpen, mustNotBeBusy, shareOfRun, timesLeft } from './run-rules';

describe('a run', () => {
  it.each<[RunState, RegExp]>([
    ['ripping', /being RIPped. Cancel that first/],
    ['printing', /being printed. Wait for it/],
    ['printed', /has been printed/]
  ])('that is %s is not changed, and says why', (state, why) => {
    expect(() => mustBeOpen({ state, times: 1, came: 0 })).toThrow(why);
    expect(() => mustNotBeBusy({ state })).toThrow(why);
  });
  it.each<[RunState]>([['laying out'], ['ripped']])('that is %s may be changed', (state) => {
    expect(() => mustBeOpen({ state, times: 1, came: 0 })).not.toThrow();
    expect(() => mustNotBeBusy({ state })).not.toThrow();
  });
  it('that came out in part is not changed: it would be printed twice', () => {
    expect(() => mustBeOpen({ state: 'ripped', times: 3, came: 1 })).toThrow('came out 1 of 3 times. Print what is left');
    expect(() => mustBeOpen({ state: 'ripped', times: 1, came: 2 })).toThrow('came out already');
    expect([[3, 0], [3, 1], [3, 3], [1, 2]].map(([times, came]) => timesLeft({ times: times!, came: came! }))).toEqual([3, 2, 1, 1]); // prettier-ignore
  });
});

describe('what is more urgent', () => {
  const dockets = fc.record({
    priority: fc.constantFrom(...PRIORITIES),
    dueOn: fc.constantFrom('', '2026-11-20', '2026-12-01', '2027-01-01')
  });

  it('is never both of two, and is an order', () => {
    fc.assert(
      fc.property(dockets, dockets, dockets, (p, q, r) => {
        expect(isMoreUrgent(p, q) && isMoreUrgent(q, p)).toBe(false);
        expect(isMoreUrgent(p, p)).toBe(false);
        if (isMoreUrgent(p, q) && isMoreUrgent(q, r)) expect(isMoreUrgent(p, r)).toBe(true);
      })
    );
  });

  it('goes by priority, then by the day, and no day is last', () => {
    expect(isMoreUrgent({ priority: 'high', dueOn: '' }, { priority: 'normal', dueOn: '2026-11-20' })).toBe(true);
    expect(isMoreUrgent({ priority: 'normal', dueOn: '2026-11-20' }, { priority: 'normal', dueOn: '2026-12-01' })).toBe(true);
    expect(isMoreUrgent({ priority: 'normal', dueOn: '2027-01-01' }, { priority: 'normal', dueOn: '' })).toBe(true);
  });
});

describe('plates', () => {
  it('print on what is as large or larger, of the same kind', () => {
    const roll = (width: number) => ({ kind: 'roll', width }) as never;
    const sheet = (width: number, height: number) => ({ kind: 'sheet', width, height }) as never;
    expect(fitsOn(roll(1000), roll(1300))).toBe(true);
    expect(fitsOn(roll(1300.3), roll(1300))).toBe(true);
    expect(fitsOn(roll(1301), roll(1300))).toBe(false);
    expect(fitsOn(sheet(500, 300), sheet(500, 400))).toBe(true);
    expect(fitsOn(sheet(500, 400), sheet(500, 300))).toBe(false);
    expect(fitsOn(sheet(500, 400), roll(1300))).toBe(false);
  });
});

describe('what of a run falls to a docket', () => {
  const key = (docket: number, piece: number) => pieceKey({ docket: String(docket), piece });
  const runOf = (copies: { docket: number; width: number; height: number }[], length: number) =>
    ({
      id: 12,
      times: 1,
      rule: DEFAULT_RULE,
      condition: { machineId: 1, mediaId: 2, machine: 'Petrel 13', media: 'Film', mode: { name: '720 × 720' } },
      stock: { kind: 'roll', width: 1000 },
      dockets: [{ id: 1 }, { id: 2 }, { id: 3 }],
      laid: copies.map(({ docket, width, height }, piece) => ({
        id: key(docket, piece),
        docket: String(docket),
        widthMm: width,
        heightMm: height,
        bleed: evenSides(0)
      })),
      layout: {
        length,
        wasteShare: 0.1,
        // Turned by some degrees they take no more of it than lying straight.
        parts: [
          {
            copies: copies.map(({ docket, width, height }, piece) => ({
              id: key(docket, piece),
              copy: 0,
              width: width + height,
              height: width + height
            }))
          }
        ]
      }
    }) as unknown as Parameters<typeof shareOfRun>[0];

  const RATES: Rates = {
    press: { widthMm: 1000, headMm: 50, passes: 5, carriageMmPerS: 500, turnS: 1 },
    times: 3,
    mediaPerM2: 4,
    machinePerHour: 36
  };

  it('costs what the run’s own page says, media and time by area and ink by its plates', () => {
    const size = fc.integer({ min: 1, max: 900 });
    const ml = fc.double({ min: 0, max: 50, noNaN: true });
    const one = fc.record({ width: size, height: size, ml, dear: ml });
    fc.assert(
      fc.property(fc.array(one, { minLength: 1, maxLength: 3 }), ml, (list, marks) => {
        const run = { ...runOf(list.map((some, i) => ({ docket: i + 1, ...some })), 800), times: 3 }; // prettier-ignore
        run.layout.areaM2 = 0.8;
        run.layout.parts[0]!.length = 800;
        const inkByDocket = Object.fromEntries(list.map(({ ml, dear }, i) => [i + 1, [ml, dear]]));
        const sum = (of: (some: (typeof list)[number]) => number) => list.reduce((all, some) => all + of(some), 0);
        const counted = countedInk(
          { inkMl: [sum(({ ml }) => ml) + marks, sum(({ dear }) => dear)], inkByDocket },
          [null, 1.5],
          0.1
        );
        const money = new RunMoney(() => ({ layout: run.layout, pieces: new Map(run.laid.map((piece) => [piece.id, piece])), clipOf: () => undefined, rates: RATES, condition: {} as never, inks: {}, inkPerMl: 0.1, counted })); // prettier-ignore
        list.forEach((_, i) => {
          const { media, time, ink } = shareOfRun(run, i + 1, RATES, counted)!.costs;
          expect(media + time + ink!.cost).toBeCloseTo(money.shareOf(i + 1)!.cost, 6);
        });
        const all = list.map((_, i) => shareOfRun(run, i + 1, RATES, counted)!.costs.ink!.ml);
        expect(all.reduce((total, some) => total + some, 0)).toBeCloseTo(money.ink.ml, 6);
      })
    );
  });

  it('is by area, and all of them together are the run', () => {
    const one = fc.record({
      docket: fc.integer({ min: 1, max: 3 }),
      width: fc.integer({ min: 1, max: 900 }),
      height: fc.integer({ min: 1, max: 900 })
    });
    fc.assert(
      fc.property(fc.array(one, { minLength: 1, maxLength: 40 }), fc.integer({ min: 1, max: 90_000 }), (copies, length) => {
        const run = runOf(copies, length);
        const shares = [1, 2, 3].map((id) => shareOfRun(run, id, RATES, null));
        expect(shares.reduce((sum, share) => sum + (share?.lengthMm ?? 0), 0)).toBeCloseTo(length, 6);
        shares.forEach((share, i) => expect(share === null).toBe(!copies.some(({ docket }) => docket === i + 1)));
      })
    );
    expect(
      shareOfRun(
        runOf(
          [
            { docket: 1, width: 100, height: 300 },
            { docket: 2, width: 100, height: 100 }
          ],
          800
        ),
        2,
        RATES,
        null
      )
    ).toMatchObject({
      runId: 12,
      dockets: 3,
      lengthMm: 200,
      ofMm: 800
    });
  });
});
