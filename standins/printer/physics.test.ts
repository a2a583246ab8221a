import { describe, expect, it } from 'vitest';
import { deltaE00, xyzToLab } from '$core/colour/lab';
import { ModelEvaluator } from '$core/colour/printer-model';
import { SURFACES } from '$core/media/card';
import { Physics } from './physics';

const lab = (physics: Physics, amounts: number[]) => xyzToLab(physics.xyz(amounts));

describe('what our drops make', () => {
  it('saturates, and shines when the media takes no more', () => {
    for (const surface of SURFACES) {
      const physics = new Physics(surface);
      const lightness = [0, 0.2, 0.4, 0.6, 0.8].map((k) => lab(physics, [0, 0, 0, k])[0]);
      for (let i = 2; i < lightness.length; i++)
        expect(lightness[i - 1]! - lightness[i]!).toBeLessThan(lightness[i - 2]! - lightness[i - 1]!);
      expect(lab(physics, [1, 1, 1, 1])[0]).toBeGreaterThan(lab(physics, [0.5, 0.5, 0.5, 0.8])[0]);
    }
  });

  it('is the same for the same ink, in few large drops or many small', () => {
    const coarse = new Physics('gloss', 84 * 360 * 360);
    const fine = new Physics('gloss', 21 * 720 * 720);
    expect(deltaE00(lab(coarse, [0.4, 0.2, 0, 0.1]), lab(fine, [0.4, 0.2, 0, 0.1]))).toBeLessThan(0.01);
  });

  it('is darkest with the black that the surface takes', () => {
    const black = (surface: 'gloss' | 'matt', kind: 'gloss' | 'matt') =>
      lab(new Physics(surface, undefined, undefined, kind), [0, 0, 0, 0.8])[0];
    expect(black('gloss', 'gloss')).toBeLessThan(black('gloss', 'matt') - 3);
    expect(black('matt', 'matt')).toBeLessThan(black('matt', 'gloss') - 2);
    // Paper and the other inks are the same.
    const matt = new Physics('gloss', undefined, undefined, 'matt');
    expect(matt.xyz([0.5, 0.2, 0, 0])).toEqual(new Physics('gloss').xyz([0.5, 0.2, 0, 0]));
  });

  it('changes with the unit and with age', () => {
    const aged = new Physics('gloss', undefined, { gain: [0.94, 1, 1, 1], strength: [1, 0.95, 1, 1] });
    const fresh = new Physics('gloss');
    expect(deltaE00(lab(aged, [0.5, 0, 0, 0]), lab(fresh, [0.5, 0, 0, 0]))).toBeGreaterThan(0.5);
    expect(deltaE00(lab(aged, [0, 0.5, 0, 0]), lab(fresh, [0, 0.5, 0, 0]))).toBeGreaterThan(0.5);
    expect(deltaE00(lab(aged, [0, 0, 0.5, 0]), lab(fresh, [0, 0, 0.5, 0]))).toBeLessThan(1e-6);
  });

  it('is nearly what the machine says of itself, through its starting curves', () => {
    const physics = new Physics('matt');
    const { curves, model } = physics.start();
    const said = new ModelEvaluator(model);
    for (const inks of [
      [0.5, 0, 0, 0],
      [0.2, 0.6, 0.4, 0.1],
      [0, 0, 1, 0],
      [0.3, 0.3, 0.3, 0.5]
    ]) {
      const amounts = inks.map((v, i) => curves[i]![Math.round(v * 255)]!);
      const [c, m, y, k] = inks as [number, number, number, number];
      expect(deltaE00(lab(physics, amounts), xyzToLab(said.xyz(c, m, y, k)))).toBeLessThan(1);
    }
  });
});
