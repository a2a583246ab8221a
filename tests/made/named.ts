import { profileFromChart } from '../../core/calibration/profile-from-chart';
import { deltaE00, type Triple } from '../../core/colour/lab';
import { openEngine } from '../../core/colour/lcms';
import { ColourMaker } from '../../core/colour/named-inks';
import { pressOfProfile } from '../../core/colour/press-of-profile';
import type { Inks } from '../../core/colour/separation';
import type { Surface } from '../../core/media/card';
import { BLACK, PressLoop } from './press-loop';

/** A condition that was climbed in memory, and what makes colours of its inks; the truth beside it. */
export async function climbed(surface: Surface, patches: number, backwardGrid: number) {
  const loop = new PressLoop(surface);
  loop.linearise();
  const total = loop.total();
  const limits = loop.inkLimits(total);
  const { profile } = profileFromChart(loop.chart(patches, total), {
    name: 'Made',
    made: { year: 2026, month: 1, day: 1 },
    version: 2,
    separation: { limits, black: BLACK },
    forwardGrid: 17,
    backwardGrid
  });
  const maker = new ColourMaker(pressOfProfile(profile, limits, await openEngine()));
  /** The exact colour of inks under D50. */
  const truth = (inks: Readonly<Inks>): Triple => loop.truth(loop.amounts(inks));
  return { loop, total, profile, limits, maker, truth };
}

export type Climbed = Awaited<ReturnType<typeof climbed>>;

/** Colours that a condition can print, exactly, none of them too near its edges. */
export function coloursInReach({ loop, total, truth }: Climbed, count: number): Triple[] {
  const allowed = loop.allowed(total - 0.1);
  const list: Triple[] = [];
  while (list.length < count) {
    const inks = [0, 1, 2, 3].map((i) => 0.03 + loop.random() * (i === 3 ? 0.7 : 0.94)) as Inks;
    // Most named colours have two inks and little black.
    if (loop.random() < 0.7) inks[Math.floor(loop.random() * 3)] = 0.02;
    if (loop.random() < 0.6) inks[3] = 0.01;
    if (allowed(inks)) list.push(truth(inks));
  }
  return list;
}

/** The nearest that a condition truly has to a colour: by many tries and ever smaller steps. */
export function nearestTruly({ loop, total, truth }: Climbed, lab: Readonly<Triple>): number {
  const allowed = loop.allowed(total);
  const miss = (inks: Readonly<Inks>) => deltaE00(truth(inks), lab);
  let best: Inks = [0, 0, 0, 0];
  let least = miss(best);
  for (let n = 0; n < 12_000; n++) {
    const near = n < 4000 ? 1 : n < 8000 ? 0.15 : 0.03;
    const tried = best.map((v) => (near === 1 ? round(loop.random()) : round(v + near * (2 * loop.random() - 1)))) as Inks;
    if (!allowed(tried)) continue;
    const then = miss(tried);
    if (then < least) [best, least] = [tried, then];
  }
  return least;
}

const round = (v: number) => Math.min(1, Math.max(0, 1.2 * v - 0.1));
