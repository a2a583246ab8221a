import { describe, expect, it } from 'vitest';
import { formatMl, laidMl } from './laid-ink';

describe('the ink of a layer', () => {
  const condition = { mode: { dpi: 254, drops: [5, 10, 20] as const }, press: { fullDrop: { white: 40 } } };

  it('is its drops: a hundred million a square metre at 254 dpi', () => {
    // 10 × 10 drops a mm² of 20 pl: 2 ml a square metre.
    expect(laidMl({ ink: 'colour', m2: 1.5 }, condition)).toBeCloseTo(3, 9);
    expect(laidMl({ ink: 'white', m2: 0.5 }, condition)).toBeCloseTo(2, 9);
    expect(laidMl({ ink: 'varnish', m2: 9 }, condition)).toBe(0);
  });

  it('is told in full millilitres where there are many', () => {
    expect([formatMl(0.04), formatMl(9.94), formatMl(123.4)]).toEqual(['0.0 ml', '9.9 ml', '123 ml']);
  });
});
