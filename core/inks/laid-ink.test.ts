import { describe, expect, it } from 'vitest';
import { formatMl, laidInk } from './laid-ink';
import type { LayerInk } from './stack';

describe('the ink of a layer', () => {
  const condition = {
    mode: { dpi: 254, drops: [5, 10, 20] as const },
    press: { fullDrop: { white: 40 } },
    inkPrices: { white: [0.3, null] }
  };

  it('is its drops: a hundred million a square metre at 254 dpi', () => {
    // 10 × 10 drops a mm² of 20 pl: 2 ml a square metre.
    const inkOf = (ink: LayerInk, m2: number) => laidInk({ ink, m2 }, condition, 0.1);
    expect(inkOf('colour', 1.5)).toEqual({ ml: expect.closeTo(3, 9), cost: expect.closeTo(0.3, 9) });
    // Two whites in equal parts, of which one has a price of its own.
    expect(inkOf('white', 0.5)).toEqual({ ml: expect.closeTo(2, 9), cost: expect.closeTo(0.4, 9) });
    expect(inkOf('varnish', 9)).toEqual({ ml: 0, cost: 0 });
  });

  it('is told in full millilitres where there are many', () => {
    expect([formatMl(0.04), formatMl(9.94), formatMl(123.4)]).toEqual(['0.0 ml', '9.9 ml', '123 ml']);
  });
});
