import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { freeName } from './free-name';

describe('a free name', () => {
  it('is the wanted one where that is free, and else has a number after it', () => {
    expect(freeName('Round tags', 80, () => false)).toBe('Round tags');
    const taken = new Set(['Round tags', 'Round tags 2', 'Round tags 3']);
    expect(freeName('Round tags', 80, (name) => taken.has(name))).toBe('Round tags 4');
    expect(freeName('x'.repeat(80), 80, (name) => !name.endsWith(' 12'))).toBe(`${'x'.repeat(77)} 12`);
  });

  it('is never longer than names may be, and never one that is taken', () => {
    fc.assert(
      fc.property(fc.string({ minLength: 1, maxLength: 100, unit: 'binary' }), fc.nat(120), (wanted, many) => {
        const taken = new Set<string>();
        for (let i = 0; i <= many; i++) {
          const name = freeName(wanted, 80, (one) => taken.has(one));
          expect(name.length).toBeLessThanOrEqual(80);
          expect(name.isWellFormed()).toBe(true);
          expect(taken.has(name)).toBe(false);
          taken.add(name);
        }
      })
    );
  });
});
