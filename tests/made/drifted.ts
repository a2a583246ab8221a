import { comparedPatches } from '../../core/charts/patches';
import { xyzToLab, type Triple } from '../../core/colour/lab';
import type { Inks } from '../../core/colour/separation';
import type { Measured } from '../../core/calibration/ladders';
import type { Surface } from '../../core/media/card';
import { Physics, type Unit } from '../../standins/printer/physics';
import { PressLoop } from './press-loop';

/** One chart, read of a machine as it was and as it became, with the exact colours of both. */

export function drifted(surface: Surface, unit: Unit, noise = 0.06) {
  const loop = new PressLoop(surface, noise);
  loop.linearise();
  const total = loop.total();
  const patches = comparedPatches(loop.allowed(total));
  const later = new Physics(surface, undefined, unit);
  const normal = () => Math.sqrt(-2 * Math.log(1 - loop.random())) * Math.cos(2 * Math.PI * loop.random());
  const read = (truth: (inks: Readonly<Inks>) => Triple): Measured[] =>
    patches.map((patch) => ({ patch, lab: truth(patch.inks).map((v) => v + noise * normal()) as Triple }));
  const truthBefore = (inks: Readonly<Inks>): Triple => loop.truth(loop.amounts(inks));
  /** @param tables what is printed in place of each value */
  const truthNow = (inks: Readonly<Inks>, tables?: readonly Float64Array[]): Triple => {
    const printed = inks.map((v, i) => (tables ? tables[i]![Math.round(v * 255)]! : v));
    return xyzToLab(later.xyz(loop.amounts(printed)));
  };
  return { loop, total, baseline: read(truthBefore), now: read((inks) => truthNow(inks)), truthBefore, truthNow };
}
