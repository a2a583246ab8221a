import { suggestLimit } from '../../core/calibration/channel-limits';
import { laddersOf, type Ladder, type Measured } from '../../core/calibration/ladders';
import { departure, lineariseLadder } from '../../core/calibration/linearise';
import { spreadOf } from '../../core/calibration/profile-from-chart';
import { relativeTo } from '../../core/colour/media-relative';
import { totalCurve } from '../../core/calibration/total-ink';
import { ladder, profilePatches, totals, twoLadders, type Patch } from '../../core/charts/patches';
import { inksToLab, labToInks, readLut } from '../../core/colour/icc-read';
import { deltaE00, xyzToLab, type Triple } from '../../core/colour/lab';
import { openEngine } from '../../core/colour/lcms';
import { BLACK_CHOICES } from '../../core/colour/black';
import { type Inks, type InkLimits } from '../../core/colour/separation';
import type { Surface } from '../../core/media/card';
import { Physics } from '../../standins/printer/physics';

/** The whole way from nothing to a profile in memory, with a reader's noise, and the noise-free truth to judge it by. */
export class PressLoop {
  readonly physics: Physics;
  readonly noise: number;
  limits: number[] = [1, 1, 1, 1];
  curves: Float64Array[] = [];
  #state = 1234567;

  constructor(surface: Surface, noise = 0.06) {
    this.physics = new Physics(surface);
    this.noise = noise;
  }

  /** Uniform in 0…1, the same each time (Park & Miller). */
  random(): number {
    this.#state = (this.#state * 48271) % 2147483647;
    return this.#state / 2147483647;
  }

  #normal(): number {
    return Math.sqrt(-2 * Math.log(1 - this.random())) * Math.cos(2 * Math.PI * this.random());
  }

  /** The exact colour of ink amounts, against the perfect reflector. */
  truth(amounts: readonly number[]): Triple {
    return xyzToLab(this.physics.xyz(amounts));
  }

  amounts(inks: readonly number[]): number[] {
    return inks.map((v, i) => {
      const curve = this.curves[i];
      if (!curve) return v * this.limits[i]!;
      const x = v * 255;
      const cell = Math.min(254, Math.floor(x));
      return curve[cell]! + (x - cell) * (curve[cell + 1]! - curve[cell]!);
    });
  }

  /** The exact colour of linearised values, against the media. */
  relative(inks: readonly number[]): Triple {
    return relativeTo(this.truth([0, 0, 0, 0]))(this.truth(this.amounts(inks)));
  }

  read(patches: readonly Patch[], amounts: (inks: Readonly<Inks>) => number[]): Measured[] {
    return patches.map((patch) => ({
      patch,
      lab: this.truth(amounts(patch.inks)).map((v) => v + this.noise * this.#normal()) as Triple
    }));
  }

  /** Steps 1 and 2. @returns the departure from straight that is left, in truth, in per cent */
  linearise(): number {
    this.curves = [];
    this.limits = laddersOf(this.read(ladder(21), (inks) => [...inks])).map((one) => suggestLimit(one).limit);
    const ladders = laddersOf(this.read(twoLadders(26), (inks) => this.amounts(inks)));
    this.curves = ladders.map((one, i) => lineariseLadder(one).map((share) => share * this.limits[i]!));
    return Math.max(...this.exactLadders().map((one) => departure(one).worst));
  }

  exactLadders(): Ladder[] {
    const exact = twoLadders(101).map((patch) => ({ patch, lab: this.truth(this.amounts(patch.inks)) }));
    return laddersOf(exact);
  }

  /** Step 3. */
  total(): number {
    const series = totals().filter(({ series }) => series === 'all' || series === 'black');
    const white = this.truth([0, 0, 0, 0]);
    return Math.max(
      ...series.map(({ series, patches }) => {
        const steps = this.read(patches, (inks) => this.amounts(inks)).map(({ patch, lab }) => ({
          total: this.amounts(patch.inks).reduce((sum, v) => sum + v, 0),
          lab
        }));
        return totalCurve(series, steps, white).suggested;
      })
    );
  }

  inkLimits(total: number): InkLimits {
    return { total, amounts: this.curves };
  }

  allowed(total: number): (inks: Readonly<Inks>) => boolean {
    return (inks) => this.amounts(inks).reduce((sum, v) => sum + v, 0) <= total;
  }

  chart(count: number, total: number) {
    return this.read(profilePatches(count, this.allowed(total)), (inks) => this.amounts(inks)).map(({ patch, lab }, i) => ({
      ...patch,
      strip: Math.floor(i / 24),
      lab
    }));
  }
}

export const BLACK = BLACK_CHOICES.medium;

/** Everything that is promised of a profile, against the truth. */
export async function judge(loop: PressLoop, profile: Uint8Array, total: number) {
  const engine = await openEngine();
  const toLab = engine.deviceToLab(profile, 'CMYK', 'relative');
  const toInks = engine.labToDevice(profile, 'relative');
  const allowed = loop.allowed(total);
  const unseen: Inks[] = [];
  while (unseen.length < 500) {
    const inks: Inks = [loop.random(), loop.random(), loop.random(), loop.random()];
    if (allowed(inks)) unseen.push(inks);
  }
  const a2b = spreadOf(unseen.map((inks) => deltaE00(toLab(inks), loop.relative(inks))));
  const roundTrip = spreadOf(
    unseen.map((inks) => {
      const lab = loop.relative(inks);
      return deltaE00(lab, loop.relative(toInks(lab)));
    })
  );
  const ourLab = inksToLab(readLut(profile, 'A2B1'));
  const ourInks = labToInks(readLut(profile, 'B2A1'));
  const lcmsDifference = Math.max(
    ...unseen.map((inks) => deltaE00(toLab(inks), ourLab(inks))),
    ...unseen.map((inks) => {
      const lab = loop.relative(inks);
      return deltaE00(toLab(toInks(lab)), toLab(ourInks(lab)));
    })
  );
  let over = 0;
  for (const name of ['B2A0', 'B2A1', 'B2A2']) {
    const { table } = readLut(profile, name);
    for (let i = 0; i < table.length; i += 4) {
      const ink = loop.amounts([...table.subarray(i, i + 4)]).reduce((sum, v) => sum + v, 0);
      if (ink > total + 1e-6) over++;
    }
  }
  const darkest = loop.relative(toInks([0, 0, 0]))[0];
  const ramps = [
    Array.from({ length: 256 }, (_, i): Triple => [100 - ((100 - darkest) * i) / 255, 0, 0]),
    Array.from({ length: 256 }, (_, i): Triple => [100 - (70 * i) / 255, (18 * i) / 255, (-48 * i) / 255])
  ].map((ramp) => ramp.map((lab) => toInks(lab)));
  let step = 0;
  let reversal = 0;
  for (const ramp of ramps) {
    const labs = ramp.map((inks) => loop.relative(inks));
    for (let i = 1; i < 255; i++) {
      const middle = [0, 1, 2].map((v) => (labs[i - 1]![v]! + labs[i + 1]![v]!) / 2) as Triple;
      step = Math.max(step, 2 * deltaE00(labs[i]!, middle));
    }
    const top = [0, 0, 0, 0];
    for (const inks of ramp)
      inks.forEach((v, i) => {
        top[i] = Math.max(top[i]!, v);
        reversal = Math.max(reversal, top[i]! - v);
      });
  }
  return { a2b, roundTrip, lcmsDifference, over, step, reversal };
}
