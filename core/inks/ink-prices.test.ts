import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { inkUse, meanPrice, pricesByLayer, pricesOf, sumOfInk, timesInk } from './ink-prices';

const INKS = (
  [
    ['Cyan', 'colour'],
    ['Black', 'colour'],
    ['Light cyan', 'light'],
    ['White 1', 'white'],
    ['White 2', 'white'],
    ['Varnish', 'varnish']
  ] as const
).map(([name, role]) => ({ name, role }));

describe('what ink costs', () => {
  it('is what the shop pays for any, but for inks that it says otherwise of', () => {
    const prices = pricesOf(INKS, { 'White 1': 0.3, Varnish: 0, Gold: 9 });
    expect(prices).toEqual([null, null, null, 0.3, null, 0]);
    // 10 ml of each; an ink that is not among them is any.
    expect(inkUse([10, 10, 10, 10, 10, 10, 10], prices, 0.1)).toEqual({ ml: 70, cost: expect.closeTo(5 * 1 + 3, 9) });
    expect(inkUse([], prices, 0.1)).toEqual({ ml: 0, cost: 0 });
    expect(pricesOf([{ name: 'constructor' }, { name: '__proto__' }], {})).toEqual([null, null]);
  });

  it('is told layer by layer, light inks with the colours, and nothing is said of what costs as any', () => {
    expect(pricesByLayer(INKS, pricesOf(INKS, {}))).toEqual({});
    const byLayer = pricesByLayer(INKS, pricesOf(INKS, { 'Light cyan': 0.4, 'White 2': 0.5 }));
    expect(byLayer).toEqual({ colour: [null, null, 0.4], white: [null, 0.5] });
    expect(meanPrice(byLayer.colour, 0.1)).toBeCloseTo(0.2, 9);
    expect(meanPrice(byLayer.white, 0.1)).toBeCloseTo(0.3, 9);
    expect(meanPrice(byLayer.varnish, 0.1)).toBe(0.1);
  });

  it('before it is known how much of each is as if of all alike', () => {
    const price = fc.option(fc.double({ min: 0, max: 5, noNaN: true }), { nil: null });
    fc.assert(
      fc.property(
        fc.array(price, { minLength: 1, maxLength: 8 }),
        fc.double({ min: 0, max: 2, noNaN: true }),
        (prices, usual) => {
          const counted = inkUse(prices.map(() => 3), prices, usual); // prettier-ignore
          expect(counted.ml * meanPrice(prices, usual)).toBeCloseTo(counted.cost, 6);
        }
      )
    );
  });

  it('adds up', () => {
    const uses = [{ ml: 1, cost: 0.5 }, { ml: 2, cost: 0 }]; // prettier-ignore
    expect(timesInk(sumOfInk(uses), 3)).toEqual({ ml: 9, cost: 1.5 });
    expect(sumOfInk([])).toEqual({ ml: 0, cost: 0 });
  });
});
