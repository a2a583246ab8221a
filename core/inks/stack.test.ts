import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { extraInks, LAYER_INKS, layersTogether, marginMm, newLayer, PLAIN_STACK, Stack, type LayerInk } from './stack';

const stackOf = (...inks: LayerInk[]): Stack => ({ seen: 'front', layers: inks.map((ink, i) => newLayer(i + 1, ink)) });

describe('a stack', () => {
  it('is checked where it comes from outside', () => {
    const white = newLayer(2, 'white');
    const of = (...layers: unknown[]) => Stack.safeParse({ seen: 'front', layers }).error?.issues[0]?.message ?? 'fine';
    const colour = newLayer(1, 'colour');
    expect(of(colour, white)).toBe('fine');
    expect(of()).toBe('A stack has at least one layer.');
    expect(of(colour, { ...white, id: 1 })).toMatch(/same number/);
    expect(of(colour, { ...white, amount: 2.01 })).toMatch(/1 to 200 %/);
    expect(of(colour, { ...white, chokeMm: 6 })).toMatch(/at most 5 mm/);
    expect(of(colour, { ...white, ink: 'gold' })).not.toBe('fine');
    expect(of(colour, { ...white, cover: { is: 'layer', id: 7, except: false } })).toMatch(/does not have/);
    expect(of(colour, { ...white, cover: { is: 'layer', id: 2, except: true } })).toMatch(/does not have/);
    const round = [white, newLayer(3, 'varnish')].map((layer, i) => ({
      ...layer,
      cover: { is: 'layer', id: 3 - i, except: false }
    }));
    expect(of(colour, ...round)).toMatch(/in a circle/);
    expect(of(...Array.from({ length: 13 }, (_, i) => newLayer(i + 1, 'white')))).toMatch(/At most 12/);
  });

  it('reaches as far beyond the piece as its farthest margin; colour does not by its cover', () => {
    const margin = (ink: LayerInk, mm: number) => newLayer(1, ink, { cover: { is: 'margin', mm } });
    expect(marginMm([newLayer(1, 'white')])).toBe(0);
    expect(marginMm([margin('white', 4), margin('varnish', 9), margin('colour', 30)])).toBe(9);
  });

  it('says which inks it needs beside colours', () => {
    expect(extraInks(PLAIN_STACK)).toEqual([]);
    expect(extraInks(stackOf('primer', 'white', 'colour', 'white'))).toEqual(['primer', 'white']);
  });
});

describe('the layers of a run', () => {
  it('have every stack in its order, and are no more than they must be', () => {
    const inks = fc.array(fc.constantFrom(...LAYER_INKS), { minLength: 1, maxLength: 5 });
    fc.assert(
      fc.property(fc.array(inks, { minLength: 1, maxLength: 5 }), (all) => {
        const stacks = all.map((each) => stackOf(...each));
        const { layers, places } = layersTogether(stacks);
        places.forEach((at, s) => {
          expect(at.map((i) => layers[i]?.ink)).toEqual(all[s]);
          expect(at.every((i, k) => k === 0 || i > at[k - 1]!)).toBe(true);
        });
        // Each layer of the run is some stack's.
        expect(new Set(places.flat()).size).toBe(layers.length);
        expect(layers.length).toBeGreaterThanOrEqual(Math.max(...all.map(({ length }) => length)));
        expect(layersTogether([...stacks].reverse()).layers).toEqual(layers);
      })
    );
  });

  it('of two dockets that turn them round are one more than each has', () => {
    const { layers, places } = layersTogether([stackOf('white', 'colour'), stackOf('colour', 'white'), PLAIN_STACK]);
    expect(layers.map(({ ink }) => ink)).toHaveLength(3);
    expect(places[2]).toHaveLength(1);
    expect(layersTogether([PLAIN_STACK, PLAIN_STACK]).layers).toEqual([{ ink: 'colour' }]);
  });

  it('tell gloss varnish from matt', () => {
    const matt = { ...stackOf('colour'), layers: [newLayer(1, 'colour'), newLayer(2, 'varnish', { curing: 'matt' as const })] };
    const { layers } = layersTogether([matt, stackOf('colour', 'varnish')]);
    expect(layers).toHaveLength(3);
    expect(layers.slice(1).map(({ curing }) => curing)).toEqual(expect.arrayContaining(['gloss', 'matt']));
  });
});
