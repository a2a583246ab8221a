import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { BLACK, judge, PressLoop } from '../../tests/made/press-loop';
import { profileFromChart, type BuiltProfile } from '../calibration/profile-from-chart';
import { ForwardGrid } from './forward-grid';
import { fitSurface } from './gaussian-process';
import { inksToLab, readLut, readProfileFacts } from './icc-read';
import { atChroma, iptToLab, labToIpt } from './ipt';
import { deltaE00, type Triple } from './lab';
import { monotone } from './monotone';
import { BLACK_CHOICES, blackShare, neutralInks, type BlackChoice } from './black';
import { Separator } from './separation';

describe('from readings to a profile, on a small chart', () => {
  const loop = new PressLoop('gloss');
  let departure = 0;
  let total = 0;
  let built: BuiltProfile;

  beforeAll(() => {
    departure = loop.linearise();
    total = loop.total();
    built = profileFromChart(loop.chart(420, total), {
      name: 'Petrel 13, gloss white film',
      made: { year: 2027, month: 8, day: 20 },
      version: 2,
      separation: { limits: loop.inkLimits(total), black: BLACK },
      forwardGrid: 13,
      backwardGrid: 25,
      measured: 'CGATS.17\nORIGINATOR "test"\n'
    });
  });

  it('is straight after one round', () => {
    expect(departure).toBeLessThan(0.6);
  });

  it('keeps what was promised', async () => {
    const { a2b, roundTrip, lcmsDifference, over, step, reversal } = await judge(loop, built.profile, total);
    expect(a2b.mean).toBeLessThan(0.2);
    expect(a2b.p95).toBeLessThan(0.5);
    expect(roundTrip.mean).toBeLessThan(0.4);
    expect(roundTrip.p95).toBeLessThan(1.1);
    expect(lcmsDifference).toBeLessThan(0.05);
    expect(over).toBe(0);
    expect(step).toBeLessThan(0.5);
    expect(reversal).toBeLessThan(0.04);
  });

  it('tells how well it fits, and gives its readings back', () => {
    expect(built.fit.mean).toBeLessThan(0.3);
    expect(built.findings).toEqual([]);
    expect(built.gamutVolume).toBeGreaterThan(300_000);
    const facts = readProfileFacts(built.profile);
    expect(facts).toMatchObject({
      version: '2.4',
      deviceClass: 'prtr',
      colourSpace: 'CMYK',
      description: 'Petrel 13, gloss white film'
    });
    expect(facts.measured).toBe('CGATS.17\nORIGINATOR "test"\n');
  });

  it.skipIf(!existsSync('/usr/bin/transicc'))('opens in another reader', () => {
    const folder = mkdtempSync(join(tmpdir(), 'zing-icc-'));
    try {
      const file = join(folder, 'condition.icc');
      writeFileSync(file, built.profile);
      const said = execFileSync('transicc', ['-i', file, '-o*Lab', '-t1', '-n'], { input: '100 0 0 0\n', encoding: 'utf8' });
      const lab = said.trim().split(/\s+/).map(Number) as Triple;
      expect(deltaE00(lab, inksToLab(readLut(built.profile, 'A2B1'))([1, 0, 0, 0]))).toBeLessThan(0.05);
    } finally {
      rmSync(folder, { recursive: true });
    }
  });

  it('perceptual is another table than colorimetric, and the gamut is told', () => {
    const [perceptual, relative] = ['B2A0', 'B2A1'].map((name) => readLut(built.profile, name).table);
    expect(perceptual).not.toEqual(relative);
    const gamut = readLut(built.profile, 'gamt').table;
    const inside = gamut.filter((v) => v === 0).length / gamut.length;
    expect(inside).toBeGreaterThan(0.05);
    expect(inside).toBeLessThan(0.6);
  });

  it('flags a patch that its neighbours contradict', () => {
    const read = loop.chart(160, total).map((patch, i) => (i === 70 ? { ...patch, lab: [60, 40, 20] as Triple } : patch));
    const { findings } = profileFromChart(read, {
      name: 'x',
      made: { year: 2027, month: 8, day: 20 },
      version: 4,
      separation: { limits: { total: 3 }, black: BLACK },
      forwardGrid: 5,
      backwardGrid: 5
    });
    expect(findings.some(({ kind, ids }) => kind === 'outlier' && ids[0] === read[70]!.id)).toBe(true);
  });
});

describe('a grid of colours', () => {
  const cubic = (c: number, m: number, y: number, k: number, out: Triple) => {
    out[0] = 100 - 30 * c - 20 * m * m - 5 * y - 40 * k * c;
    out[1] = 50 * m - 40 * c + 10 * y * k;
    out[2] = 80 * y - 30 * c * m;
  };
  const grid = ForwardGrid.sample(cubic, 7);
  const unit = fc.double({ min: 0, max: 1, noNaN: true });

  it('reads quadratics exactly, edges included, and its slopes are those of its values', () => {
    const out = new Float64Array(15);
    const want: Triple = [0, 0, 0];
    fc.assert(
      fc.property(unit, unit, unit, unit, (c, m, y, k) => {
        cubic(c, m, y, k, want);
        grid.slopes(c, m, y, k, out);
        const plain = grid.lab(c, m, y, k);
        for (let v = 0; v < 3; v++) {
          expect(out[v]).toBeCloseTo(want[v]!, 3);
          expect(plain[v]).toBeCloseTo(want[v]!, 3);
        }
        expect(out[3]).toBeCloseTo(-30 - 40 * k, 2);
        expect(out[3 + 3]).toBeCloseTo(-40 * m, 2);
        expect(out[3 + 3 + 1]).toBeCloseTo(50, 2);
        expect(out[9 + 2]).toBeCloseTo(80, 2);
        expect(out[12]).toBeCloseTo(-40 * c, 2);
      })
    );
  });
});

describe('a surface through readings', () => {
  it('says of left-out readings what it says when they really are left out', () => {
    const loop = new PressLoop('satin', 0.1);
    const read = loop.chart(80, 2.6);
    const inks = (list: typeof read) => Float64Array.from(list.flatMap((patch) => patch.inks));
    const labs = (list: typeof read) => Float64Array.from(list.flatMap((patch) => patch.lab));
    const all = fitSurface(inks(read), labs(read));
    const out: Triple = [0, 0, 0];
    const without = read.filter((_, i) => i !== 33);
    const less = fitSurface(inks(without), labs(without));
    less.predict(...read[33]!.inks, out);
    expect([less.reach, less.noise]).toEqual([all.reach, all.noise]);
    for (let v = 0; v < 3; v++) expect(read[33]!.lab[v]! - out[v]!).toBeCloseTo(all.leaveOut[33 * 3 + v]!, 2);
  });

  it('wants readings enough', () => {
    expect(() => fitSurface(new Float64Array(4 * 12), new Float64Array(3 * 12))).toThrow('40 readings');
  });
});

describe('black generation', () => {
  const loop = new PressLoop('gloss', 0);
  const physics = (c: number, m: number, y: number, k: number, out: Triple) => out.splice(0, 3, ...loop.relative([c, m, y, k]));
  loop.linearise();
  const grid = ForwardGrid.sample(physics, 11);
  const inks = (black: BlackChoice, total = 2.6) => neutralInks(grid, { limits: { total, amounts: loop.curves }, black }, 30);

  it('uses more black the heavier it is, and none is only what darkness needs', () => {
    const blackAt = (choice: BlackChoice) => inks(choice)[15]!.inks[3];
    const [none, light, medium, heavy] = Object.values(BLACK_CHOICES).map(blackAt) as [number, number, number, number];
    expect(none).toBeLessThan(0.02);
    expect(light).toBeGreaterThanOrEqual(none);
    expect(medium).toBeGreaterThan(light);
    expect(heavy).toBeGreaterThan(medium);
  });

  it('a steady choice never lets colours fall in greys', () => {
    for (const choice of [BLACK_CHOICES.light, BLACK_CHOICES.medium]) {
      const ramp = inks(choice);
      for (let i = 0; i < 3; i++) {
        let top = 0;
        for (const step of ramp) {
          top = Math.max(top, step.inks[i]!);
          expect(top - step.inks[i]!).toBeLessThan(0.04);
        }
      }
    }
  });

  it('keeps limits of pairs and of all, in ink', () => {
    const separator = new Separator(grid, { total: 2, red: 1.2, blue: 1.1, amounts: loop.curves });
    fc.assert(
      fc.property(
        fc.double({ min: 5, max: 95, noNaN: true }),
        fc.double({ min: -70, max: 70, noNaN: true }),
        fc.double({ min: -70, max: 70, noNaN: true }),
        (l, a, b) => {
          const at = Float64Array.of(0.2, 0.2, 0.2, 0.1);
          separator.solve([l, a, b], 0.2, 1, at);
          const [c, m, y, k] = loop.amounts([...at]) as [number, number, number, number];
          expect(c + m + y + k).toBeLessThanOrEqual(2 + 1e-9);
          expect(m + y).toBeLessThanOrEqual(1.2 + 1e-9);
          expect(c + m).toBeLessThanOrEqual(1.1 + 1e-9);
        }
      ),
      { numRuns: 60 }
    );
    expect(blackShare(separator, BLACK_CHOICES.heavy)(1)).toBe(1);
  });
});

describe('hues', () => {
  it('go to IPT and back, and keep their hue while chroma goes', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 5, max: 98, noNaN: true }),
        fc.double({ min: -60, max: 60, noNaN: true }),
        fc.double({ min: -60, max: 60, noNaN: true }),
        (l, a, b) => {
          iptToLab(labToIpt([l, a, b])).forEach((v, i) => expect(v).toBeCloseTo([l, a, b][i]!, 6));
          const half = atChroma([l, a, b], 0.5, l);
          expect(half[0]).toBeCloseTo(l, 0);
          const angle = (lab: Triple) => Math.atan2(labToIpt(lab)[2], labToIpt(lab)[1]);
          if (Math.hypot(a, b) > 10) expect(Math.abs(Math.sin(angle(half) - angle([l, a, b])))).toBeLessThan(0.01);
        }
      )
    );
  });
});

describe('a monotone curve', () => {
  it('goes through its points and never turns between them', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0, max: 10, noNaN: true }), { minLength: 2, maxLength: 12 }), (steps) => {
        let sum = 0;
        const ys = steps.map((step) => (sum += step));
        const xs = ys.map((_, i) => i * 1.5);
        const curve = monotone(xs, ys);
        xs.forEach((x, i) => expect(curve(x)).toBeCloseTo(ys[i]!, 9));
        let before = -Infinity;
        for (let x = 0; x <= xs.at(-1)!; x += 0.1) {
          const y = curve(x);
          expect(y).toBeGreaterThanOrEqual(before - 1e-9);
          before = y;
        }
      })
    );
  });
});
