import { correctionOf, fittedToAll } from '$core/calibration/matching';
import { withMixture } from '$core/calibration/mixing';
import { spreadOf } from '$core/calibration/profile-from-chart';
import { NO_ADJUSTMENT } from '$core/colour/adjustment';
import { deltaE00, labOfRgb, labToXyz, xyzToSrgb } from '$core/colour/lab';
import type { Inks } from '$core/colour/separation';
import { backTable, SoftProof, UNCHANGED } from '$core/colour/soft-proof';
import type { Tone } from '$core/colour/tone';
import { mixed as mixedInks } from '$core/inks/mixture';
import { seededRandom } from '$core/geometry/random';
import { KERNELS_FILE } from '$lib/server/platform/tasks/pool';
import { openKernels } from '$lib/server/platform/workers/kernels-file';
import { drifted } from '../tests/made/drifted';
import { climbed, coloursInReach } from '../tests/made/named';

/**
 * What is promised of named colours, of the soft proof and of matching, against the stand-in's noise-free truth: a hundred colours in reach on
 * each of three medias, climbed from nothing with a reader's noise.
 */

const SURFACES = ['gloss', 'matt', 'paper'] as const;
const COLOURS = 100;

async function named(): Promise<Record<string, [value: number, unit: string]>> {
  const errors: number[] = [];
  for (const surface of SURFACES) {
    const made = await climbed(surface, 900, 17);
    for (const lab of coloursInReach(made, COLOURS)) errors.push(deltaE00(made.truth(made.maker.make(lab).inks), lab));
  }
  return { 'spot-mean': [spreadOf(errors).mean, 'ΔE00'], 'spot-worst': [Math.max(...errors), 'ΔE00'] };
}

/** Changes of tone on a picture of 1600 × 1100 pixels that are all unlike their neighbours, and how true what is seen is. */
const WIDE = 1600 * 1100;
const CHANGES = 60;

async function proofed(): Promise<Record<string, [value: number, unit: string]>> {
  const made = await climbed('gloss', 900, 17);
  const { grid, white, begin } = made.maker.press;
  const proof = new SoftProof(openKernels(KERNELS_FILE), { forward: grid, white, back: backTable(begin) });
  const random = seededRandom(9);
  proof.show(Uint8Array.from({ length: WIDE * 4 }, (_, i) => 90 + 60 * Math.sin(i * 0.0013 + (i & 3)) + random() * 30));
  const times = Array.from({ length: CHANGES }, (_, n) => {
    const tone: Tone = {
      all: {
        points: [
          [0, 0],
          [0.5, 0.4 + n / 300],
          [1, 1]
        ],
        mayFall: false
      }
    };
    const adjustment = { ...NO_ADJUSTMENT, brightness: n % 2 === 0 ? 0 : n / 100 };
    const from = performance.now();
    proof.render({ tones: [tone], adjustment, white: 'media' });
    return performance.now() - from;
  });
  const inks: number[] = [];
  const allowed = made.loop.allowed(made.total);
  while (inks.length < 8000) {
    const some = [random(), random(), random(), random() ** 2].map((v) => Math.round(v * 255));
    if (allowed(some.map((v) => v / 255) as Inks)) inks.push(...some);
  }
  proof.show(Uint8Array.from(inks));
  const seen = proof.render(UNCHANGED);
  const errors: number[] = [];
  for (let i = 0; i < inks.length; i += 4) {
    const truth = made.truth([0, 1, 2, 3].map((k) => inks[i + k]! / 255) as Inks);
    const isShown = xyzToSrgb(labToXyz(truth)).every((v) => v > 0.005 && v < 0.995);
    if (isShown) errors.push(deltaE00(truth, labOfRgb(seen[i]!, seen[i + 1]!, seen[i + 2]!)));
  }
  return { 'proof-ms': [spreadOf(times).p95, 'ms'], 'proof-mean': [spreadOf(errors).mean, 'ΔE00'] };
}

/** A machine whose drops changed by 12 % and one of whose inks lost a tenth of its strength, before and after its correction. */
function matched(): Record<string, [value: number, unit: string]> {
  const made = drifted('gloss', { gain: [1.12, 0.88, 1.12, 0.9], strength: [1, 1, 0.9, 1] });
  const { tables } = fittedToAll(correctionOf(made.baseline, made.now), made.baseline, made.now);
  const miss = (through?: Float64Array[]) =>
    spreadOf(made.baseline.map(({ patch }) => deltaE00(made.truthBefore(patch.inks), made.truthNow(patch.inks, through)))).mean;
  return { 'match-before': [miss(), 'ΔE00'], 'match-after': [miss(tables), 'ΔE00'] };
}

/** Inks of other hues, by 4 to 5°: as they print within the limits, by curves alone, and by curves and a mixture. */
function mixed(): Record<string, [value: number, unit: string]> {
  const made = drifted('gloss', { gain: [1.05, 1, 1, 1], strength: [1, 0.97, 1, 1], hue: [4, -4, 5, 0] });
  const curves = fittedToAll(correctionOf(made.baseline, made.now), made.baseline, made.now);
  const { tables, mixture } = withMixture(curves, made.baseline, made.now);
  const allowed = made.loop.allowed(made.total);
  const random = seededRandom(5);
  const unseen: Inks[] = [];
  while (unseen.length < 2000) {
    const some = [random(), random(), random(), random() ** 2].map((v) => Math.round(v * 255) / 255) as Inks;
    if (allowed(some)) unseen.push(some);
  }
  const miss = (printed: (inks: Inks) => Inks, through?: Float64Array[]) =>
    spreadOf(unseen.map((inks) => deltaE00(made.truthBefore(inks), made.truthNow(printed(inks), through)))).mean;
  return {
    'match-hue-before': [miss((inks) => inks), 'ΔE00'],
    'match-hue-curves': [miss((inks) => inks, curves.tables), 'ΔE00'],
    'match-hue-after': [miss((inks) => mixedInks(mixture ?? [], inks) as Inks, tables), 'ΔE00']
  };
}

const asked = process.argv.slice(2);
const figures = {
  ...(asked.some((name) => name.startsWith('spot')) && (await named())),
  ...(asked.some((name) => name.startsWith('proof')) && (await proofed())),
  ...(asked.some((name) => name.startsWith('match')) && matched()),
  ...(asked.some((name) => name.startsWith('match-hue')) && mixed())
};
for (const name of asked) {
  const [value, unit] = (figures as Record<string, [number, string]>)[name] ?? [NaN, ''];
  process.stdout.write(`${name}\t${value.toFixed(3)}\t${unit}\n`);
}
