import { describe, expect, it } from 'vitest';
import { faceColours, gamutHull } from './gamut';
import { srgbToXyz, xyzToLab, type Triple } from './lab';

describe('a gamut’s hull', () => {
  const surface = [...faceColours(3, 240, (rgb) => xyzToLab(srgbToXyz(rgb as Triple)))];

  it('of a ball is the ball', () => {
    const ball = surface.map(([l, a, b]): Triple => {
      const length = Math.hypot(l - 50, a, b);
      return [50 + ((l - 50) / length) * 40, (a / length) * 40, (b / length) * 40];
    });
    expect(gamutHull(ball).volume / ((4 / 3) * Math.PI * 40 ** 3)).toBeCloseTo(1, 1);
  });

  it('of sRGB has the volume that is known of it, within what its directions allow', () => {
    const { volume, points, faces } = gamutHull(surface);
    expect(volume / 1000).toBeGreaterThan(800);
    expect(volume / 1000).toBeLessThan(900);
    expect(Math.max(...faces.flat())).toBe(points.length - 1);
  });
});
