import { profileFromChart } from '$core/calibration/profile-from-chart';
import { BLACK, judge, PressLoop } from '../tests/made/press-loop';

/**
 * Everything that is promised of linearising and profiling, against the stand-in's noise-free truth: one round from
 * nothing to a profile of 1300 patches on a gloss media. Prints the figures that are named, of one and the same round.
 */

async function climbAll(): Promise<Record<string, [value: number, unit: string]>> {
  const loop = new PressLoop('gloss');
  const departure = loop.linearise();
  const total = loop.total();
  const read = loop.chart(1300, total);
  const start = performance.now();
  const built = profileFromChart(read, {
    name: 'Bench',
    made: { year: 2026, month: 1, day: 1 },
    version: 2,
    separation: { limits: loop.inkLimits(total), black: BLACK },
    forwardGrid: 17,
    backwardGrid: 33
  });
  const seconds = (performance.now() - start) / 1000;
  const { a2b, roundTrip, lcmsDifference, over, step, reversal } = await judge(loop, built.profile, total);
  return {
    'linear-departure': [departure, '%'],
    'a2b-mean': [a2b.mean, 'ΔE00'],
    'a2b-p95': [a2b.p95, 'ΔE00'],
    'roundtrip-mean': [roundTrip.mean, 'ΔE00'],
    'roundtrip-p95': [roundTrip.p95, 'ΔE00'],
    'lcms-difference': [lcmsDifference, 'ΔE00'],
    'ink-over': [over, 'points'],
    'ramp-step': [step, 'ΔE00'],
    'ramp-reversal': [reversal * 100, '%'],
    'profile-build': [seconds, 's']
  };
}

const figures = await climbAll();
for (const name of process.argv.slice(2)) {
  const [value, unit] = figures[name] ?? [NaN, ''];
  process.stdout.write(`${name}\t${value.toFixed(3)}\t${unit}\n`);
}
