import { spreadOf } from '$core/calibration/profile-from-chart';
import { deltaE00 } from '$core/colour/lab';
import { climbed, coloursInReach } from '../tests/made/named';

/**
 * What is promised of named colours, against the stand-in's noise-free truth: a hundred in reach on each of three medias, climbed
 * from nothing with a reader's noise.
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

const figures = await named();
for (const name of process.argv.slice(2)) {
  const [value, unit] = figures[name] ?? [NaN, ''];
  process.stdout.write(`${name}\t${value.toFixed(3)}\t${unit}\n`);
}
