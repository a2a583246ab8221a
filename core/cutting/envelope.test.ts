import * as fc from 'fast-check';
import { Matrix, solve } from 'ml-matrix';
import { describe, expect, it } from 'vitest';
import { add, factorOf, halfSolved, product, solved, type Envelope, type Term } from './envelope';

const MOST = 24;
/** A share, or none. */
const figure = fc.double({ min: -3, max: 3, noNaN: true });
/** Some terms, all within a few unknowns of each other, or of the last two, which hang together with all. */
const terms = fc
  .tuple(fc.nat(MOST - 1), fc.array(fc.tuple(fc.nat(5), figure), { minLength: 1, maxLength: 4 }), fc.array(fc.tuple(fc.nat(1), figure), { maxLength: 2 })); // prettier-ignore

describe('a matrix whose rows begin late', () => {
  it('is solved as a whole one is, and gives of its inverse what is asked for', () => {
    fc.assert(
      fc.property(fc.integer({ min: 3, max: MOST }), fc.array(terms, { minLength: 1, maxLength: 30 }), (n, sums) => {
        const firsts = Array.from({ length: n }, (_, i) => (i < n - 2 ? Math.max(0, i - 5) : 0));
        const sparse: Envelope = { firsts, lower: firsts.map((_, i) => new Float64Array(i + 1)) };
        const dense = Matrix.eye(n, n);
        for (let i = 0; i < n; i++) add(sparse, [[i, 1]], 1);
        const all = sums.map(([from, near, last]): Term[] => [
          ...near.map(([on, by]): Term => [Math.max(0, Math.min(n - 3, from) - on), by]),
          ...last.map(([which, by]): Term => [n - 1 - which, by])
        ]);
        for (const of of all) {
          add(sparse, of, 0.5);
          for (const [i, a] of of) for (const [j, b] of of) dense.set(i, j, dense.get(i, j) + (a * b) / 2);
        }
        const factor = factorOf(sparse);
        const column = (of: readonly Term[]) => {
          const made = Matrix.zeros(n, 1);
          for (const [i, a] of of) made.set(i, 0, made.get(i, 0) + a);
          return made;
        };
        for (const of of all) {
          const half = halfSolved(factor, of);
          const wanted = solve(dense, column(of)).to1DArray();
          const off = solved(factor, half).map((value, i) => Math.abs(value - wanted[i]!));
          expect(Math.max(...off)).toBeLessThan(1e-9);
          const other = all[0]!;
          const both = column(other).to1DArray().reduce((sum, value, i) => sum + value * wanted[i]!, 0); // prettier-ignore
          expect(product(half, halfSolved(factor, other))).toBeCloseTo(both, 9);
        }
      }),
      { numRuns: 60 }
    );
  });
});
