import fc from 'fast-check';
import { parseLength } from '$core/units/typed';
import { describe, expect, it } from 'vitest';
import type { FloorRun } from '$lib/server/app/floor';
import { allInWords, commonScale, endOf, lengthOf, tapeMarks, payOut, sizeInWords, toCome } from './paying-out';
import { offerInWords } from './offer';

const run = (id: number, state: FloorRun['state'], lengths: number[]): FloorRun =>
  ({
    id,
    state,
    lengthMm: lengths.reduce((sum, length) => sum + length, 0),
    parts: lengths.map((length) => ({ length, copies: [] }))
  }) as unknown as FloorRun;
const runs = fc
  .array(
    fc.record({
      state: fc.constantFrom('printed', 'printing', 'ripped', 'ripping', 'laying out'),
      lengths: fc.array(fc.integer({ min: 1, max: 9000 }), { minLength: 1, maxLength: 4 })
    }),
    { maxLength: 12 }
  )
  .map((list) => list.map(({ state, lengths }, i) => run(i + 1, state, lengths)));

describe('runs on a roll', () => {
  it('lie one after another without overlapping, the printed first and at most two of them', () => {
    fc.assert(
      fc.property(runs, (list) => {
        const places = payOut(list);
        places.forEach((place, i) => {
          expect(place.length).toBe(lengthOf(place.run));
          const next = places[i + 1];
          if (next) expect(next.start).toBeGreaterThan(place.start + place.length);
        });
        const printed = places.map(({ run: { state } }) => state === 'printed');
        expect(printed).toEqual([...printed].sort((p, q) => Number(q) - Number(p)));
        expect(printed.filter(Boolean).length).toBe(Math.min(2, list.filter(({ state }) => state === 'printed').length));
        expect(places.length).toBe(printed.filter(Boolean).length + list.filter(({ state }) => state !== 'printed').length);
      })
    );
  });

  it('are all drawn to the one scale at which the longest and the widest fit', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ acrossMm: fc.integer({ min: 100, max: 5000 }), list: runs }), { minLength: 1 }),
        (lanes) => {
          const drawn = lanes.map(({ acrossMm, list }) => ({ acrossMm, places: payOut(list) }));
          const scale = commonScale(drawn, 900);
          expect(scale).toBeGreaterThan(0);
          for (const { places } of drawn) expect(endOf(places) * scale).toBeLessThanOrEqual(900);
        }
      )
    );
  });

  it('take of it what has not come out yet', () => {
    fc.assert(
      fc.property(runs, fc.integer({ min: 0, max: 9000 }), (list, mm) => {
        const open = list.filter(({ state }) => state !== 'printed');
        expect(toCome(list, () => 0)).toBe(open.reduce((sum, { lengthMm }) => sum + lengthMm, 0));
        const [first, ...others] = open;
        if (!first) return;
        const rest = Math.max(0, first.lengthMm - mm);
        expect(toCome(list, ({ id }) => (id === first.id ? mm : 0))).toBe(rest + toCome(others, () => 0));
      })
    );
  });

  it('are told by their length, on sheets by how many are left of them', () => {
    const sheets = (state: FloorRun['state'], times: number, came: number, parts = 1): FloorRun => ({
      ...run(
        9,
        state,
        Array.from({ length: parts }, () => 1000)
      ),
      stock: { kind: 'sheet', width: 2000, height: 1000, corner: 'front left' },
      ...{ times, came }
    });
    const rolls = [run(1, 'ripped', [1500, 500]), run(2, 'laying out', [250])].map((one): FloorRun => ({
      ...one,
      stock: { kind: 'roll', width: 1300 },
      times: 1,
      came: 0
    }));
    expect(rolls.map((one) => sizeInWords(one, 'mm'))).toEqual(['2.00 m', '0.25 m']);
    expect(sizeInWords(sheets('laying out', 1, 0, 3), 'mm')).toBe('3 sheets');
    expect(sizeInWords(sheets('ripped', 3, 0), 'mm')).toBe('3 sheets');
    expect(sizeInWords(sheets('ripped', 3, 1), 'mm')).toBe('2 of 3 sheets left');
    expect(sizeInWords(sheets('printed', 1, 1), 'mm')).toBe('1 sheet');
    expect(allInWords(rolls, 'mm')).toBe('2.25 m');
    expect(allInWords(rolls, 'in')).toBe('7.38 ft');
    expect(allInWords([...rolls, sheets('ripped', 3, 1), sheets('laying out', 1, 0, 2)], 'mm')).toBe('2.25 m and 4 sheets');
    expect(allInWords([sheets('ripped', 1, 0)], 'mm')).toBe('1 sheet');
    const inJig = { ...sheets('laying out', 2, 0), stock: { ...sheets('ripped', 1, 0).stock, jig: {} } } as FloorRun;
    expect(sizeInWords(inJig, 'mm')).toBe('2 loads');
    expect(allInWords([...rolls, sheets('ripped', 1, 0), inJig], 'mm')).toBe('2.25 m, 1 sheet and 2 loads');
  });

  it('have a ruler that can be read at any scale', () => {
    for (const unit of ['mm', 'in'] as const)
      for (const scale of [0.0005, 0.004, 0.02, 0.1, 0.4]) {
        const marks = tapeMarks(900 / scale, scale, unit);
        expect(marks[0]?.mm).toBe(0);
        for (let i = 1; i < marks.length; i++) expect((marks[i]!.mm - marks[i - 1]!.mm) * scale).toBeGreaterThan(47);
        for (const { mm, words } of marks) expect(parseLength(words)).toBeCloseTo(mm, 6);
      }
  });
});

describe('what would become of dockets in a lane', () => {
  const offer = {
    laneId: 1,
    machine: 'Petrel 13',
    media: 'Film',
    mode: '720 × 720',
    loaded: true,
    here: 1,
    lying: 0,
    cannot: '',
    tooLarge: '',
    usableMm: 580,
    lengthMm: 840,
    seconds: null,
    mediaCost: null,
    timeCost: null,
    inkCost: null,
    cost: null,
    outOfGamut: 0.031,
    measured: 3,
    awaited: false
  };
  it('is said in a sentence', () => {
    expect(offerInWords(null, 3, 'mm')).toMatch(/^Looking/);
    expect(offerInWords(offer, 3, 'mm')).toBe('2 of 3 to 720 × 720, 0.84 m, 3.1 % of colours out of reach at most');
    expect(offerInWords({ ...offer, here: 3, outOfGamut: null, measured: 0 }, 3, 'mm')).toBe(
      'No other mode, 0.84 m, colours not measured yet'
    );
    expect(offerInWords({ ...offer, here: 0, measured: 1 }, 1, 'mm')).toMatch(/^To 720 × 720, .* out of reach$/);
    expect(offerInWords({ ...offer, cannot: 'Petrel 13 has no white.' }, 3, 'mm')).toBe('Petrel 13 has no white.');
    expect(offerInWords({ ...offer, tooLarge: 'Hoarding is 640.0 mm wide.', lengthMm: null }, 3, 'mm')).toBe(
      'Hoarding is 640.0 mm wide.'
    );
  });
});
