import { describe, expect, it } from 'vitest';
import { drifted } from '../../tests/made/drifted';
import { deltaE00 } from '../colour/lab';
import type { Inks } from '../colour/separation';
import { seededRandom } from '../geometry/random';
import { MIXTURE_GRID, mixed, mixturePoints, type Mixture } from '../inks/mixture';
import { composed, correctionOf, fittedToAll, type Fitted } from './matching';
import { withMixture } from './mixing';
import { spreadOf } from './profile-from-chart';

type Made = ReturnType<typeof drifted>;

const fitted = (made: Made): Fitted => fittedToAll(correctionOf(made.baseline, made.now), made.baseline, made.now);

/** Inks within the limits that were on no chart. */
function unseen({ loop, total }: Made): Inks[] {
  const allowed = loop.allowed(total);
  const random = seededRandom(5);
  const all: Inks[] = [];
  while (all.length < 600) {
    const some = [random(), random(), random(), random() ** 2].map((v) => Math.round(v * 255) / 255) as Inks;
    if (allowed(some)) all.push(some);
  }
  return all;
}

/** How far inks print from what they did, in truth, ΔE00 in the mean. */
function missed(made: Made, all: readonly Inks[], tables: readonly ArrayLike<number>[], mixture?: Mixture): number {
  const curves = tables.map((table) => Float64Array.from(table));
  return spreadOf(
    all.map((inks) => {
      const printed = (mixture ? mixed(mixture, inks) : inks) as Inks;
      return deltaE00(made.truthBefore(inks), made.truthNow(printed, curves));
    })
  ).mean;
}

describe('inks of another hue', () => {
  const made = drifted('gloss', { gain: [1.05, 1, 1, 1], strength: [1, 0.97, 1, 1], hue: [4, -4, 5, 0] });
  const curves = fitted(made);
  const whole = withMixture(curves, made.baseline, made.now);
  const mixture = whole.mixture!;

  it('are not brought back by curves, and by mixing them otherwise they are, as near as was foretold', () => {
    const onChart = made.baseline.map(({ patch }) => patch.inks);
    expect(curves.predicted.mean).toBeGreaterThan(1);
    expect(whole.byCurves).toEqual(curves.predicted);
    expect(missed(made, onChart, whole.tables, mixture)).toBeLessThan(0.7 * missed(made, onChart, curves.tables));
    expect(Math.abs(missed(made, onChart, whole.tables, mixture) - whole.predicted.mean)).toBeLessThan(0.1);
    // Most of what is left on the chart are its ladders: what prints of one ink alone has that ink's hue.
    expect(missed(made, unseen(made), curves.tables)).toBeGreaterThan(1);
    expect(missed(made, unseen(made), whole.tables, mixture)).toBeLessThanOrEqual(0.45);
  });

  it('are never added where they are not asked for: black lettering is black alone', () => {
    mixturePoints().forEach((point, i) =>
      point.forEach((value, ink) => {
        if (value === 0) expect(mixture[i * 4 + ink]).toBe(0);
      })
    );
    expect(mixed(mixture, [0, 0, 0, 0.7]).slice(0, 3)).toEqual([0, 0, 0]);
  });

  it('print more where more is asked for, and move smoothly', () => {
    const points = mixturePoints();
    const strides = [3, 2, 1, 0].map((power) => MIXTURE_GRID ** power);
    points.forEach((point, i) =>
      point.forEach((value, ink) => {
        const amount = value + mixture[i * 4 + ink]!;
        expect(amount).toBeGreaterThanOrEqual(0);
        expect(amount).toBeLessThanOrEqual(1);
        expect(Math.abs(mixture[i * 4 + ink]!)).toBeLessThanOrEqual(0.15);
        if (value === 0) return;
        const before = i - strides[ink]!;
        expect(amount).toBeGreaterThanOrEqual(points[before]![ink]! + mixture[before * 4 + ink]! - 1e-3);
      })
    );
  });

  it('are brought back once more on top of that, as one mixture', () => {
    const on = made.baseline.map(({ patch }) => ({
      patch,
      lab: made.truthNow(mixed(mixture, patch.inks) as Inks, whole.tables)
    }));
    // Against itself as it was brought back there is nothing to do, so nothing is done.
    const again = correctionOf(on, on);
    const both = composed(whole, again);
    expect(missed(made, unseen(made), both.tables, both.mixture)).toBeCloseTo(
      missed(made, unseen(made), whole.tables, mixture),
      1
    );
    // A bent curve on top of it: the mixture takes it in.
    const bent = [0, 1, 2, 3].map(() =>
      Float64Array.from({ length: 256 }, (_, v) => v / 255 + 0.02 * Math.sin((Math.PI * v) / 255))
    );
    const taken = composed(whole, { tables: bent });
    expect(taken.tables.map((table) => Array.from(table))).toEqual(whole.tables.map((table) => Array.from(table)));
    for (const inks of unseen(made).slice(0, 100)) {
      const wanted = mixed(
        mixture,
        inks.map((v) => v + 0.02 * Math.sin(Math.PI * v))
      );
      mixed(taken.mixture!, inks).forEach((value, ink) => expect(Math.abs(value - wanted[ink]!)).toBeLessThan(0.01));
    }
  });
});

describe('drops of another size', () => {
  it('are brought back by curves alone', () => {
    const made = drifted('matt', { gain: [1.12, 0.88, 1.12, 0.9], strength: [1, 1, 1, 1] });
    const curves = fitted(made);
    expect(withMixture(curves, made.baseline, made.now)).toBe(curves);
  });
});
