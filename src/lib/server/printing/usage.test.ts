import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { evenSides } from '$core/geometry/box';
import { fourInks } from '$core/inks/ink-set';
import type { Stock } from '$core/layout/placement';
import type { Machines } from '../machines/machines';
import type { Settings } from '../platform/settings';
import type { Runs } from '../production/run-store';
import type { Print, PrintEnd } from './print';
import { madeGood, usageOf, type Usage } from './usage';

const TWO = [
  { id: '1/0', docket: '1', widthMm: 200, heightMm: 100, bleed: evenSides(0) },
  { id: '2/0', docket: '2', widthMm: 400, heightMm: 250, bleed: evenSides(0) }
];

/** Of 20 ml on the plates 19, the second's in black alone. */
const BY_DOCKET = { 1: [2, 4, 6, 3], 2: [0, 0, 0, 4] };

const END = { state: 'done' as const, reason: null, printedMm: 0, inkMl: [1, 2, 3, 4], seconds: 100 };

interface Lies {
  laid?: typeof TWO;
  /** Of the first docket, where only some are in the run. */
  pieces?: [number, number][] | null;
  inkByDocket?: Record<number, number[]> | undefined;
  stock?: Stock;
}

/** A run of two dockets on a roll of a metre, 800 mm long, and what it works with. */
function shopWith(
  copies: readonly { id: string; y: number }[],
  { laid = TWO, pieces = null, inkByDocket, stock = { kind: 'roll', width: 1000 } }: Lies = {}
) {
  const areas = new Map(laid.map(({ id, widthMm, heightMm }) => [id, (widthMm * heightMm) / 1e6]));
  const runs = {
    get: () => ({
      laid,
      stock,
      layout: { parts: [{ copies, usedM2: copies.reduce((sum, { id }) => sum + areas.get(id)!, 0) }] },
      condition: { media: 'Film', costPerM2: 6 },
      result: { inkMl: [2, 4, 6, 8], ...(inkByDocket && { inkByDocket }) },
      dockets: [1, 2].map((id) => ({ id, name: `Docket ${id}`, customer: 'Gull & Sons' })),
      entries: [{ pieces }, { pieces: null }]
    }),
    frozen: () => ({
      plan: {
        widthMm: 1000,
        lengthMm: 800,
        inks: fourInks([6, 13, 21])
      }
    })
  } as unknown as Runs;
  const settings = { current: { inkCostPerMl: 0.1 } } as unknown as Settings;
  const machines = { get: () => ({ costPerHour: 36 }), inkPrices: () => ({ Black: 0.5 }) } as unknown as Machines;
  return { runs, settings, machines };
}

const printOf = (printedMm: number, fromMm = 0): Print =>
  ({ runId: 1, machineId: 1, machine: 'Petrel 13', printedMm, fromMm, inkMl: END.inkMl }) as Print;

/** What a print of so many copies of each piece took, of which so much came out. */
function used(copies: readonly number[], printedMm: number, end: Partial<PrintEnd> = {}, lies: Lies = {}): Usage {
  const all = (lies.laid ?? TWO).flatMap(({ id }, i) => Array.from({ length: copies[i]! }, () => ({ id, y: 0 })));
  return usageOf(shopWith(all, lies), printOf(printedMm), { ...END, printedMm, ...end });
}
const sum = (usage: Usage, of: (docket: Usage['dockets'][number]) => number) =>
  usage.dockets.reduce((all, one) => all + of(one), 0);

describe('what a print took', () => {
  it('is reckoned by the machine’s figures, an ink at its own cost where it has one', () => {
    const usage = used([3, 2], 800);
    expect(usage).toMatchObject({ media: 'Film', machine: 'Petrel 13', metres: 0.8, m2: 0.8, inkMl: 10 });
    expect(usage.mediaCost).toBeCloseTo(4.8, 9);
    expect(usage.inkCost).toBeCloseTo(6 * 0.1 + 4 * 0.5, 9);
    expect(usage.timeCost).toBeCloseTo(1, 9);
    expect(usage.wasteM2).toBeCloseTo(0.8 - 3 * 0.02 - 2 * 0.1, 9);
  });

  it('is shared by dockets without rest, by their areas where nothing else is known', () => {
    fc.assert(
      fc.property(fc.nat(40), fc.nat(40), fc.double({ min: 1, max: 50_000, noNaN: true }), (a, b, mm) => {
        const usage = used([a, b], mm);
        const has = a + b > 0;
        expect(sum(usage, ({ cost }) => cost)).toBeCloseTo(has ? usage.mediaCost + usage.inkCost + usage.timeCost : 0, 6);
        expect(sum(usage, ({ inkMl }) => inkMl)).toBeCloseTo(has ? usage.inkMl : 0, 6);
        expect(sum(usage, ({ wasteM2 }) => wasteM2)).toBeCloseTo(has ? usage.wasteM2 : 0, 6);
        expect(sum(usage, ({ m2, wasteM2 }) => m2 + wasteM2)).toBeCloseTo(has ? usage.m2 : 0, 6);
        expect(usage.wasteM2).toBeGreaterThanOrEqual(0);
        expect(sum(usage, ({ copies }) => copies)).toBe(a + b);
      })
    );
  });

  it('is of ink what each docket has of the plates, and of marks by area, also where it broke off', () => {
    // 20 ml on the plates, one of them beside the dockets; the second lies on ten times the area of the first.
    for (const state of ['done', 'failed'] as const) {
      const { dockets, inkMl, inkCost, mediaCost, timeCost } = used([1, 2], 800, { state }, { inkByDocket: BY_DOCKET });
      const [first, second] = dockets as [Usage['dockets'][number], Usage['dockets'][number]];
      expect(first.inkMl / inkMl).toBeCloseTo((15 + 1 / 11) / 20, 9);
      expect(first.inkMl + second.inkMl).toBeCloseTo(inkMl, 9);
      // Black costs five times what others do: 5.2 for the plates, 2 of them the second's, and 0.5 beside.
      expect(second.cost).toBeCloseTo(((mediaCost + timeCost) * 10) / 11 + (inkCost * (2 + (0.5 * 10) / 11)) / 5.2, 9);
    }
  });

  it('is waste altogether where it broke off, and has no copies', () => {
    const usage = used([3, 2], 400, { state: 'failed' });
    expect(usage.wasteM2).toBeCloseTo(0.4, 9);
    expect(sum(usage, ({ copies }) => copies)).toBe(0);
    expect(sum(usage, ({ m2 }) => m2)).toBe(0);
  });

  it('is the things that lie in a jig, as far as they were printed, and none of it is waste', () => {
    const stock = { kind: 'sheet', width: 1000, height: 800, corner: 'front left', jig: {} } as unknown as Stock;
    const load = used([3, 2], 800, {}, { stock });
    expect([load.m2, load.mediaCost, load.wasteM2]).toEqual([0.26, 6 * 0.26, 0].map((v) => expect.closeTo(v, 9)));
    const half = used([3, 2], 400, { state: 'cancelled' }, { stock });
    expect([half.m2, half.wasteM2]).toEqual([expect.closeTo(0.13, 9), half.m2]);
  });

  it('counts a wall as often as all of its panels came out, and not for some of them', () => {
    const panels = [0, 1, 2].map((piece) => ({
      id: `1/${piece}`,
      docket: '1',
      widthMm: 300,
      heightMm: 500,
      bleed: evenSides(0)
    }));
    const whole = used([2, 2, 2], 3000, {}, { laid: panels });
    expect(whole.dockets.map(({ copies }) => copies)).toEqual([2]);
    expect(whole.dockets[0]!.m2).toBeCloseTo(6 * 0.15, 9);
    expect(used([2, 1, 2], 3000, {}, { laid: panels }).dockets[0]!.copies).toBe(1);
    const some = used([1, 1], 1000, {}, { laid: panels.slice(1), pieces: [[1, 1], [2, 1]] }); // prettier-ignore
    expect(some.dockets).toMatchObject([{ copies: 0 }]);
    expect(some.dockets[0]!.cost).toBeCloseTo(some.mediaCost + some.inkCost + some.timeCost, 9);
  });
});

describe('a print that went on', () => {
  /** Rows of two, one of each docket, 20 mm apart. */
  const rows = Array.from({ length: 6 }, (_, i) => TWO.map(({ id }) => ({ id, y: i * 130 }))).flat();
  const needs = shopWith(rows, { inkByDocket: BY_DOCKET });

  it('took, with what it went on with, what one in one go takes, and what was printed twice is waste', () => {
    const whole = usageOf(needs, printOf(800), { ...END, printedMm: 800 });
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 1, max: 799 }), { maxLength: 3 }), (breaks) => {
        // Where each broke, and where it was gone on from: before the row that was not whole.
        const ends = [...breaks.sort((p, q) => p - q), 800];
        const begins = [0];
        for (const mm of ends.slice(0, -1)) begins.push(Math.max(begins.at(-1)!, Math.floor(mm / 130) * 130 - 5));
        const parts = ends.map((mm, i): [Print, Usage] => {
          const print = printOf(mm - begins[i]!, begins[i]);
          const state = i === ends.length - 1 ? ('done' as const) : ('failed' as const);
          return [print, usageOf(needs, print, { ...END, state, printedMm: print.printedMm })];
        });
        for (const [, usage] of parts.slice(0, -1)) expect(usage.wasteM2).toBe(usage.m2);
        const made = parts.map(([print, usage], i) =>
          i === parts.length - 1 ? usage : madeGood(needs, usage, print, begins[i + 1]!)
        );
        const sumUp = (of: (usage: Usage) => number) => made.reduce((all, usage) => all + of(usage), 0);
        const twice = sumUp(({ m2 }) => m2) - whole.m2;
        expect(twice).toBeGreaterThanOrEqual(-1e-9);
        expect(sumUp(({ wasteM2 }) => wasteM2)).toBeCloseTo(whole.wasteM2 + twice, 9);
        for (const [i, { id, copies, m2 }] of whole.dockets.entries()) {
          const of = (figure: 'copies' | 'm2') => sumUp(({ dockets }) => dockets.find((one) => one.id === id)?.[figure] ?? 0);
          expect(of('copies'), `copies of docket ${i}`).toBe(copies);
          expect(of('m2')).toBeCloseTo(m2, 9);
        }
        for (const [i, usage] of made.entries()) {
          expect(usage).toMatchObject({ inkCost: parts[i]![1].inkCost, mediaCost: parts[i]![1].mediaCost });
          expect(sum(usage, ({ m2, wasteM2 }) => m2 + wasteM2)).toBeCloseTo(usage.m2, 9);
          expect(sum(usage, ({ cost }) => cost)).toBeCloseTo(usage.mediaCost + usage.inkCost + usage.timeCost, 9);
          expect(sum(usage, ({ inkMl }) => inkMl)).toBeCloseTo(usage.inkMl, 9);
        }
      })
    );
  });

  it('took another sheet, each whole once it is begun', () => {
    const of = shopWith(rows, { stock: { kind: 'sheet', width: 1000, height: 800, corner: 'front left' } });
    const broken = (mm: number) => usageOf(of, printOf(mm), { ...END, state: 'cancelled', printedMm: mm });
    expect([broken(0).m2, broken(400).m2]).toEqual([0, 0.8]);
    const rest = usageOf(of, printOf(415, 385), { ...END, printedMm: 415 });
    const first = madeGood(of, broken(400), printOf(400), 385);
    expect([first, rest].map(({ dockets }) => dockets.map(({ copies }) => copies))).toEqual([[3, 3], [3, 3]]); // prettier-ignore
    expect([first.m2, rest.m2, first.wasteM2 + rest.wasteM2]).toEqual(
      [0.8, 0.8, 1.6 - 6 * 0.12].map((v) => expect.closeTo(v, 9))
    );
  });

  it('is paid for by the dockets that it printed', () => {
    const apart = [{ id: '1/0', y: 10 }, { id: '2/0', y: 150 }, { id: '2/0', y: 450 }]; // prettier-ignore
    const of = shopWith(apart, { inkByDocket: BY_DOCKET });
    const first = usageOf(of, printOf(140), { ...END, state: 'failed', printedMm: 140 });
    expect(first.dockets).toMatchObject([{ id: 1, copies: 0, m2: 0, inkMl: expect.closeTo(first.inkMl, 9) }]);
    const rest = usageOf(of, printOf(655, 145), { ...END, printedMm: 655 });
    expect(rest.dockets).toMatchObject([{ id: 2, copies: 2, m2: expect.closeTo(0.2, 9) }]);
    expect(rest.wasteM2).toBeCloseTo(0.655 - 0.2, 9);
    expect(madeGood(of, first, printOf(140), 145).dockets).toMatchObject([{ id: 1, copies: 1, m2: expect.closeTo(0.02, 9) }]);
    // What broke off in the white before the first is paid for by all.
    expect(usageOf(of, printOf(5), { ...END, state: 'failed', printedMm: 5 }).dockets).toHaveLength(2);
  });
});
