import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { toldApart } from './names';

describe('toldApart', () => {
  it('gives numbers to what is there more than once, and to nothing else', () => {
    expect(toldApart(['White', 'Cyan', 'White', 'White'])).toEqual(['White', 'Cyan', 'White 2', 'White 3']);
    expect(toldApart(['White', 'White', 'White 2'])).toEqual(['White', 'White 3', 'White 2']);
    expect(toldApart(['', ''])).toEqual(['', ' 2']);
  });

  it('never leaves two alike, and changes nothing that is told apart already', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom('a', 'b', 'a 2', 'a 3', 'b 2', '2'), { maxLength: 12 }), (names) => {
        const own = toldApart(names);
        expect(new Set(own).size).toBe(names.length);
        expect(toldApart(own)).toEqual(own);
        own.forEach((name, i) => expect(name === names[i] || names.indexOf(names[i]!) < i).toBe(true));
      })
    );
  });
});
