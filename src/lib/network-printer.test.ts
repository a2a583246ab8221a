import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { askedPages, fitted, NetworkPrinter, ownSheet, sheetsFor, sizeOfName } from './network-printer';

const PLAIN = { name: 'Gloss', recipeId: null, way: 'lay out', port: 6310 };
const refused = (change: object): string | undefined =>
  NetworkPrinter.safeParse({ ...PLAIN, ...change }).error?.issues[0]?.message;

describe('a network printer', () => {
  it('that only this machine reaches needs nothing more', () => expect(refused({})).toBeUndefined());

  for (const [change, sentence] of [
    [{ name: ' ' }, 'needs a name'],
    [{ name: 'Gloss/film' }, 'has no /'],
    [{ port: 631 }, '1024 to 65,535'],
    [{ isOpen: true }, 'which addresses may print'],
    [{ isOpen: true, addresses: ['192.168.1.300'] }, '192.168.1.20'],
    [{ isOpen: true, addresses: ['192.168.1.0/33'] }, '192.168.1.20'],
    [{ isOpen: true, key: 'short' }, '16 to 64'],
    [{ isAnnounced: true }, 'not announced to others'],
    [{ isOpen: true, key: 'a'.repeat(16), isAnnounced: true }, 'has the key in it'],
    [{ mostPages: 0 }, '1 to 500 pages']
  ] as const)
    it(`is refused with ${JSON.stringify(change)}`, () => expect(refused(change)).toContain(sentence));

  for (const change of [
    { isOpen: true, addresses: ['192.168.1.0/24', 'fe80::1', '10.0.0.7'], isAnnounced: true },
    { isOpen: true, key: 'aB3-_aB3-_aB3-_aB3' }
  ])
    it(`is taken with ${JSON.stringify(change)}`, () => expect(refused(change)).toBeUndefined());
});

describe('what a program asks for', () => {
  it('is all pages, or those of its ranges', () => {
    expect(askedPages({ pages: [] }, 3)).toEqual([0, 1, 2]);
    expect(
      askedPages(
        {
          pages: [
            { from: 2, to: 2 },
            { from: 4, to: 9 }
          ]
        },
        5
      )
    ).toEqual([1, 3, 4]);
    expect(askedPages({ pages: [{ from: 7, to: 9 }] }, 5)).toEqual([]);
  });

  it('is a size that fits, in proportion, and fills one way', () => {
    const side = fc.double({ min: 10, max: 3000, noNaN: true });
    fc.assert(
      fc.property(side, side, side, side, (w, h, x, y) => {
        const { width, height } = fitted({ width: w, height: h }, { width: x, height: y });
        expect(width).toBeLessThanOrEqual(Math.max(1, x));
        expect(height).toBeLessThanOrEqual(Math.max(1, y));
        expect(Math.min(x - width, y - height)).toBeLessThan(0.11);
      })
    );
  });
});

describe('sheets', () => {
  it('are those that a media takes, upright or turned', () => {
    expect(sheetsFor(1300, 50_000)).toHaveLength(7);
    expect(sheetsFor(300, 50_000).map(({ name }) => name)).toEqual([
      'iso_a6_105x148mm',
      'iso_a5_148x210mm',
      'iso_a4_210x297mm',
      'iso_a3_297x420mm'
    ]);
    expect(sheetsFor(90, 90)).toEqual([]);
  });

  it('say their size in their name', () => {
    expect(sizeOfName('iso_a4_210x297mm')).toEqual({ width: 210, height: 297 });
    expect(sizeOfName('na_index-4x6_4x6in')).toEqual({ width: 101.6, height: 152.39999999999998 });
    expect(sizeOfName('a4')).toBeUndefined();
    expect(sizeOfName('custom_x_0x10mm')).toBeUndefined();
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 500_000 }), fc.integer({ min: 1, max: 500_000 }), (w, h) => {
        const { name } = ownSheet('custom', 'own', w / 100, h / 100);
        expect(sizeOfName(name)).toEqual({ width: w / 100, height: h / 100 });
        // No noughts at the end of a fraction.
        expect(name).toMatch(/^custom_own_\d+(\.\d*[1-9])?x\d+(\.\d*[1-9])?mm$/);
      })
    );
  });
});
