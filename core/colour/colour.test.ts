import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { increaseAtHalf, OFFSET_INCREASE, offsetCoated } from './conditions';
import { BLACK, inNeutral, REGISTRATION, type Amounts } from '../marks/print-list';
import { inksToLab, neutralBlack, readLut, readProfileFacts } from './icc-read';
import { descriptionTag, srgbProfile, textTag, withIntent, writeProfile, xyzTag } from './icc-write';
import { deltaE00, labToXyz, srgbToXyz, xyzToLab, xyzToSrgb, type Triple } from './lab';
import { openEngine, type Engine } from './lcms';
import { ModelEvaluator } from './printer-model';
import { buildProfile, modelPress } from './profile-build';
import { darkestNeutral, DEFAULT_SEPARATION } from './black';
import { ForwardGrid } from './forward-grid';
import { Separator } from './separation';

describe('CIEDE2000', () => {
  // Sharma, Wu, Dalal 2005, table 1: all 34 pairs.
  const pairs: [number, number, number, number, number, number, number][] = [
    [50, 2.6772, -79.7751, 50, 0, -82.7485, 2.0425],
    [50, 3.1571, -77.2803, 50, 0, -82.7485, 2.8615],
    [50, 2.8361, -74.02, 50, 0, -82.7485, 3.4412],
    [50, -1.3802, -84.2814, 50, 0, -82.7485, 1],
    [50, -1.1848, -84.8006, 50, 0, -82.7485, 1],
    [50, -0.9009, -85.5211, 50, 0, -82.7485, 1],
    [50, 0, 0, 50, -1, 2, 2.3669],
    [50, -1, 2, 50, 0, 0, 2.3669],
    [50, 2.49, -0.001, 50, -2.49, 0.0009, 7.1792],
    [50, 2.49, -0.001, 50, -2.49, 0.001, 7.1792],
    [50, 2.49, -0.001, 50, -2.49, 0.0011, 7.2195],
    [50, 2.49, -0.001, 50, -2.49, 0.0012, 7.2195],
    [50, -0.001, 2.49, 50, 0.0009, -2.49, 4.8045],
    [50, -0.001, 2.49, 50, 0.001, -2.49, 4.8045],
    [50, -0.001, 2.49, 50, 0.0011, -2.49, 4.7461],
    [50, 2.5, 0, 50, 0, -2.5, 4.3065],
    [50, 2.5, 0, 73, 25, -18, 27.1492],
    [50, 2.5, 0, 61, -5, 29, 22.8977],
    [50, 2.5, 0, 56, -27, -3, 31.903],
    [50, 2.5, 0, 58, 24, 15, 19.4535],
    [50, 2.5, 0, 50, 3.1736, 0.5854, 1],
    [50, 2.5, 0, 50, 3.2972, 0, 1],
    [50, 2.5, 0, 50, 1.8634, 0.5757, 1],
    [50, 2.5, 0, 50, 3.2592, 0.335, 1],
    [60.2574, -34.0099, 36.2677, 60.4626, -34.1751, 39.4387, 1.2644],
    [63.0109, -31.0961, -5.8663, 62.8187, -29.7946, -4.0864, 1.263],
    [61.2901, 3.7196, -5.3901, 61.4292, 2.248, -4.962, 1.8731],
    [35.0831, -44.1164, 3.7933, 35.0232, -40.0716, 1.5901, 1.8645],
    [22.7233, 20.0904, -46.694, 23.0331, 14.973, -42.5619, 2.0373],
    [36.4612, 47.858, 18.3852, 36.2715, 50.5065, 21.2231, 1.4146],
    [90.8027, -2.0831, 1.441, 91.1528, -1.6435, 0.0447, 1.4441],
    [90.9257, -0.5406, -0.9208, 88.6381, -0.8985, -0.7239, 1.5381],
    [6.7747, -0.2908, -2.4247, 5.8714, -0.0985, -2.2286, 0.6377],
    [2.0776, 0.0795, -1.135, 0.9033, -0.0636, -0.5514, 0.9082]
  ];
  it('gives the published figures', () => {
    for (const [l1, a1, b1, l2, a2, b2, want] of pairs) {
      expect(deltaE00([l1, a1, b1], [l2, a2, b2])).toBeCloseTo(want, 4);
      expect(deltaE00([l2, a2, b2], [l1, a1, b1])).toBeCloseTo(want, 4);
    }
  });
});

describe('colour spaces', () => {
  it('go there and back', () => {
    const unit = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(unit, unit, unit, (r, g, b) => {
        const back = xyzToSrgb(labToXyz(xyzToLab(srgbToXyz([r, g, b]))));
        [r, g, b].forEach((v, i) => expect(Math.abs(v - (back[i] ?? 9))).toBeLessThan(1e-4));
      })
    );
  });
});

describe('a built profile', () => {
  const model = offsetCoated();
  const evaluator = new ModelEvaluator(model);
  let engine: Engine;
  let profile: Uint8Array<ArrayBuffer>;

  beforeAll(async () => {
    engine = await openEngine();
    profile = buildProfile(modelPress(model), {
      name: 'Test',
      made: { year: 2026, month: 1, day: 1 },
      version: 2,
      separation: DEFAULT_SEPARATION,
      forwardGrid: 9,
      backwardGrid: 17
    });
  });

  it('gives the model’s colours in an independent engine', () => {
    const lab = engine.deviceToLab(profile, 'CMYK', 'relative');
    const samples: [number, number, number, number][] = [
      [0, 0, 0, 0],
      [1, 0, 0, 0],
      [0, 1, 1, 0],
      [0.5, 0.25, 0.75, 0.125],
      [0.3, 0.3, 0.3, 0.3],
      [0, 0, 0, 1]
    ];
    for (const inks of samples) {
      // On and between the points of a coarse grid.
      expect(deltaE00(lab(inks), evaluator.lab(...inks))).toBeLessThan(0.8);
    }
  });

  it('separates colours that it can print, and comes back to them', () => {
    const inks = engine.labToDevice(profile, 'relative');
    const asked: Triple[] = [];
    for (const c of [0.05, 0.4, 0.8])
      for (const m of [0.1, 0.5]) for (const y of [0.1, 0.6]) for (const k of [0, 0.3]) asked.push(evaluator.lab(c, m, y, k));
    const misses = asked.map((lab) => deltaE00(lab, evaluator.lab(...inks(lab))));
    expect(misses.reduce((sum, v) => sum + v, 0) / misses.length).toBeLessThan(0.8);
    expect(Math.max(...misses)).toBeLessThan(3);
    expect(inks([100, 0, 0]).every((ink) => ink < 0.002)).toBe(true);
  });

  it('keeps the ink limit at every grid point of every intent', () => {
    for (const intent of ['relative', 'perceptual', 'saturation'] as const) {
      const inks = engine.labToDevice(profile, intent);
      for (let l = 0; l <= 100; l += 12.5)
        for (let a = -120; a <= 120; a += 40)
          for (let b = -120; b <= 120; b += 40) {
            const total = inks([l, a, b]).reduce((sum, v) => sum + v, 0);
            expect(total).toBeLessThan(DEFAULT_SEPARATION.limits.total + 0.01);
          }
    }
  });

  it('answers with another intent where that is chosen', () => {
    const vivid: Triple = [60, 90, 60];
    const chosen = engine.labToDevice(withIntent(profile, 'perceptual'), 'relative')(vivid);
    const direct = engine.labToDevice(profile, 'perceptual')(vivid);
    const plain = engine.labToDevice(profile, 'relative')(vivid);
    expect(chosen).toEqual(direct);
    expect(chosen).not.toEqual(plain);
  });

  it('has the reference medium’s black for its own in the perceptual intent of version 4, and none in version 2', () => {
    const made = buildProfile(modelPress(offsetCoated()), {
      name: 'Léger, “fin”',
      version: 4,
      made: { year: 2026, month: 1, day: 1 },
      separation: DEFAULT_SEPARATION,
      forwardGrid: 9,
      backwardGrid: 13
    });
    const darkest = (bytes: Uint8Array, l: number) =>
      engine.deviceToLab(bytes, 'CMYK', 'relative')(engine.labToDevice(bytes, 'perceptual')([l, 0, 0]))[0];
    const black = darkest(made, 0);
    // Below the reference black nothing is darker, but for what lies between two points of this coarse grid; above it all is lighter.
    expect(Math.abs(darkest(made, 3.1373) - black)).toBeLessThan(1.6);
    expect(darkest(made, 9)).toBeGreaterThan(black + 3);
    const press = ForwardGrid.sample(modelPress(offsetCoated()).forward, 9);
    const least = darkestNeutral(new Separator(press, DEFAULT_SEPARATION.limits));
    // The table itself: the engine would compensate the black point between it and L*a*b*.
    const [shown, plain] = ['A2B0', 'A2B1'].map((name) => inksToLab(readLut(made, name)));
    for (const inks of [
      [0, 0, 0, 0],
      [0.6, 0.5, 0.5, 0.9],
      [0.2, 0.7, 0.1, 0.2],
      [0, 0, 0, 1]
    ]) {
      const wanted = 3.1373 + ((plain!(inks)[0] - least) * (100 - 3.1373)) / (100 - least);
      expect(Math.abs(shown!(inks)[0] - wanted)).toBeLessThan(0.05);
    }
    expect(readLut(profile, 'A2B0').table).toEqual(readLut(profile, 'A2B1').table);
    expect(readProfileFacts(made).description).toBe('Léger, “fin”');
  });

  it('has a black of its own for marks: as dark and neutral as its limit of ink lets it be', () => {
    const inks = neutralBlack(profile)!;
    expect(inks.reduce((sum, v) => sum + v, 0)).toBeLessThanOrEqual(DEFAULT_SEPARATION.limits.total + 0.01);
    const [l, a, b] = evaluator.lab(...(inks as [number, number, number, number]));
    expect(l).toBeLessThan(14);
    expect(Math.hypot(a, b)).toBeLessThan(2.5);
    const made = inNeutral([{ inks: REGISTRATION }, { inks: BLACK }, {}], inks as Amounts);
    expect(made.map((one) => one.inks)).toEqual([inks, BLACK, undefined]);
    expect(neutralBlack(srgbProfile())).toBeUndefined();
  });

  it('keeps every letter of its name, in either version', () => {
    const named = (name: string, version: 2 | 4) => {
      const xyz = xyzTag([0.9642, 1, 0.8249]);
      const head = {
        deviceClass: 'mntr',
        colourSpace: 'GRAY',
        connection: 'XYZ ',
        made: { year: 2026, month: 1, day: 1 },
        version
      } as const;
      return writeProfile(head, { desc: descriptionTag(name, version), cprt: textTag('Ünter', version), wtpt: xyz });
    };
    const names = fc.string({ unit: fc.constantFrom(...'aZ9 éüßŁ–漢€,’'), minLength: 1, maxLength: 30 });
    fc.assert(
      fc.property(names, fc.constantFrom(2 as const, 4 as const), (name, version) => {
        const read = readProfileFacts(named(name, version)).description;
        expect(read.trim()).toBe(name.trim());
      })
    );
    // Readers of the plain part alone see letters, not signs.
    const bytes = named('Café crème', 2);
    expect(Buffer.from(bytes).toString('latin1')).toContain('Cafe creme');
  });

  it('reads sRGB as everyone does', () => {
    const lab = engine.deviceToLab(srgbProfile(), 'RGB', 'relative')([0.2, 0.5, 0.8]);
    expect(deltaE00(lab, xyzToLab(srgbToXyz([0.2, 0.5, 0.8])))).toBeLessThan(0.05);
  });
});

describe('the offset condition that CMYK without a profile is read with', () => {
  const model = offsetCoated();

  it.each([0, 1, 2, 3] as const)('ink %i gains what the published curve says at half tone, within a point', (ink) => {
    expect(Math.abs(increaseAtHalf(model, ink) - OFFSET_INCREASE)).toBeLessThan(0.01);
  });

  it('every ink darkens steadily', () => {
    const evaluator = new ModelEvaluator(model);
    for (let ink = 0; ink < 4; ink++) {
      const y = Array.from({ length: 101 }, (_, i) => {
        const inks: [number, number, number, number] = [0, 0, 0, 0];
        inks[ink] = i / 100;
        return evaluator.xyz(...inks)[1];
      });
      for (let i = 1; i < y.length; i++) expect(y[i]!).toBeLessThan(y[i - 1]!);
    }
  });
});
