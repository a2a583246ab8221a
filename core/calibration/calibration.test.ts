import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { PressLoop } from '../../tests/made/press-loop';
import { ladder, twoLadders } from '../charts/patches';
import type { Triple } from '../colour/lab';
import { suggestLimit } from './channel-limits';
import { laddersOf } from './ladders';
import { departure, isotonic, lineariseLadder } from './linearise';
import { totalCurve } from './total-ink';

describe('channel limits', () => {
  it('end where ink adds no more colour, earlier on a media that takes ink up faster', () => {
    const limitsOn = (surface: 'gloss' | 'paper') => {
      const loop = new PressLoop(surface);
      return laddersOf(loop.read(ladder(21), (inks) => [...inks])).map((one) => suggestLimit(one));
    };
    const gloss = limitsOn('gloss');
    const paper = limitsOn('paper');
    expect(gloss.every(({ limit }) => limit >= 0.6 && limit <= 1)).toBe(true);
    const sum = (list: typeof gloss) => list.reduce((total, { limit }) => total + limit, 0);
    expect(sum(paper)).toBeLessThan(sum(gloss));
    expect(paper[0]!.why).toContain('adds less than');
  });

  it('end where the hue turns', () => {
    const one = laddersOf(new PressLoop('gloss', 0).read(ladder(21), (inks) => inks.map((v) => v * 0.5)))[1]!;
    const turned = { ...one, steps: one.steps.map((step, i) => ({ ...step, hue: i > 15 ? step.hue + 9 : step.hue })) };
    expect(suggestLimit(one).limit).toBe(1);
    expect(suggestLimit(turned)).toMatchObject({ limit: one.steps[15]!.share });
    expect(suggestLimit(turned).why).toContain('hue');
  });
});

describe('linearising', () => {
  const loop = new PressLoop('matt');
  const ladders = laddersOf(loop.read(twoLadders(21), (inks) => loop.amounts(inks)));

  it('gives rising curves from nothing to the limit, and a straight ladder', () => {
    for (const one of ladders) {
      const curve = lineariseLadder(one);
      expect(curve[0]).toBe(0);
      expect(curve[255]).toBe(1);
      for (let i = 1; i < 256; i++) expect(curve[i]!).toBeGreaterThanOrEqual(curve[i - 1]!);
    }
    expect(departure(ladders[0]!).worst).toBeGreaterThan(10);
    expect(new PressLoop('matt').linearise()).toBeLessThan(0.6);
  });

  it('refuses a ladder that turns back, and names the step', () => {
    const black = ladders[3]!;
    const steps = black.steps.map((step, i) => (i === 9 ? { ...step, distance: step.distance - 12 } : step));
    expect(() => lineariseLadder({ ...black, steps })).toThrow(/black turns back at 45 %/);
  });

  it('refuses two places that disagree, and a ladder that is not there', () => {
    const read = loop.read(twoLadders(21), (inks) => loop.amounts(inks));
    const wrong = read.map((one) => (one.patch.id === 'C11b' ? { ...one, lab: [20, 0, 0] as Triple } : one));
    expect(() => laddersOf(wrong)).toThrow(/cyan at 50 % was read twice.*C11 and C11b/);
    expect(() => laddersOf(read.filter((one) => !one.patch.id.startsWith('Y')))).toThrow('yellow has only');
  });

  it('makes a list rise with the least change', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -5, max: 5, noNaN: true }), { minLength: 1, maxLength: 30 }), (list) => {
        const rising = isotonic(list);
        expect(rising).toHaveLength(list.length);
        for (let i = 1; i < rising.length; i++) expect(rising[i]!).toBeGreaterThanOrEqual(rising[i - 1]! - 1e-12);
        const sum = (values: number[]) => values.reduce((total, v) => total + v, 0);
        expect(sum(rising)).toBeCloseTo(sum(list), 6);
      })
    );
  });
});

describe('total ink', () => {
  const steps = (darkest: (total: number) => number) =>
    Array.from({ length: 25 }, (_, i) => ({ total: i / 6, lab: [darkest(i / 6), 0, 0] as Triple }));
  it('ends where darkness stops growing', () => {
    const curve = totalCurve(
      'all',
      steps((t) => (t < 2.5 ? 95 - 32 * t : 15 + 2 * (t - 2.5))),
      [95, 0, 0]
    );
    expect(curve.suggested).toBeGreaterThan(2.2);
    expect(curve.suggested).toBeLessThan(2.8);
    expect(curve.why).toContain('no longer falls');
  });
  it('is the fullest where it never stops', () => {
    expect(
      totalCurve(
        'all',
        steps((t) => 95 - 20 * t),
        [95, 0, 0]
      ).suggested
    ).toBe(4);
  });
});
