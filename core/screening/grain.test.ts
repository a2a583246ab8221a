import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { seededRandom } from '../geometry/random';
import { grain } from './grain';

const COLUMNS = 40;
const field = (value: (x: number, y: number) => number) =>
  Array.from({ length: COLUMNS * COLUMNS }, (_, i) => value(i % COLUMNS, Math.floor(i / COLUMNS)));

describe('grain', () => {
  it('is none in an even tone, and what it is in a chequered one', () => {
    expect(
      grain(
        field(() => 62),
        COLUMNS,
        0.25
      )
    ).toBe(0);
    expect(
      grain(
        field((x, y) => ((x + y) % 2 === 0 ? 60 : 64)),
        COLUMNS,
        0.25
      )
    ).toBeCloseTo(2, 9);
  });

  it('does not see what changes slowly, and grows with what is uneven', () => {
    expect(
      grain(
        field((x) => 60 + x * 0.02),
        COLUMNS,
        0.25
      )
    ).toBeLessThan(0.03);
    const random = seededRandom(5);
    const noise = field(() => random() - 0.5);
    fc.assert(
      fc.property(fc.double({ min: 0.1, max: 5, noNaN: true }), (much) => {
        const one = grain(
          noise.map((v) => 60 + v),
          COLUMNS,
          0.25
        );
        const more = grain(
          noise.map((v) => 60 + v * much),
          COLUMNS,
          0.25
        );
        expect(more / one).toBeCloseTo(much, 6);
      })
    );
  });
});
