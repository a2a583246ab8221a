import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apart, isAlike, listTogether, together } from './together';

const names = fc.uniqueArray(fc.nat(9), { maxLength: 8 });
const tree = fc.letrec<{ tree: unknown; leaf: unknown }>((tie) => ({
  leaf: fc.oneof(fc.nat(3), fc.constantFrom('a', null, true), fc.array(fc.nat(2), { maxLength: 2 })),
  tree: fc.oneof({ maxDepth: 2 }, tie('leaf'), fc.dictionary(fc.constantFrom('p', 'q', 'r'), tie('tree')))
})).tree;
const fields = fc.dictionary(fc.constantFrom('p', 'q', 'r'), tree);

describe('two states of one base together', () => {
  it('are what was touched on either side, and mine where both touched the same', () => {
    const base = { name: 'Tags', gaps: { across: 4, along: 4 }, pins: [1, 2], note: 'x' };
    const mine = { ...base, gaps: { across: 9, along: 4 }, pins: [1], name: 'Mine' };
    const theirs = { ...base, gaps: { across: 4, along: 7 }, pins: [1, 2, 3], name: 'Theirs', note: 'y' };
    expect(together(base, mine, theirs)).toEqual({ name: 'Mine', gaps: { across: 9, along: 7 }, pins: [1], note: 'y' });
    // What one took away, and the other left, is away; what one changed that the other took away is mine.
    const one = (parts: Record<string, number>) => parts;
    expect(together(one({ p: 1, q: 1 }), one({ q: 1 }), one({ p: 1, q: 2 }))).toEqual({ q: 2 });
    expect(together(one({ p: 1 }), one({ p: 2 }), one({}))).toEqual({ p: 2 });
  });

  it('have lists as one side left them, and row by row where these can be told', () => {
    const rolls = [{ mm: 1300, m: 50 }, { mm: 1000, m: 20 }]; // prettier-ignore
    const cut = [{ mm: 1300, m: 50 }, { mm: 1000, m: 12 }]; // prettier-ignore
    expect(together(rolls, [{ mm: 1370, m: 50 }, rolls[1]!], cut)).toEqual([{ mm: 1370, m: 50 }, cut[1]]);
    expect(together(rolls, [rolls[1]!], cut)).toEqual([rolls[1]]);
    // One row, touched on both sides; and two, where one was taken away and another came.
    expect(together(rolls, [rolls[0]!, { mm: 1010, m: 20 }], cut)).toEqual([rolls[0], { mm: 1010, m: 12 }]);
    const replaced = [{ mm: 1000, m: 20 }, { mm: 1600, m: 20 }]; // prettier-ignore
    expect(together(rolls, replaced, cut)).toEqual(replaced);
    // Three figures of a colour are one.
    expect(together([50, 0, 0], [60, 0, 0], [50, 10, 0])).toEqual([60, 0, 0]);
  });

  it('never are half of one kind of choice and half of another', () => {
    type Release = { kind: string; minutes?: number; time?: string };
    const base: { release: Release; unit: string } = { release: { kind: 'hand' }, unit: 'mm' };
    const mine = { ...base, release: { kind: 'quiet', minutes: 30 } };
    const theirs = { release: { kind: 'at', time: '17:30' }, unit: 'cm' };
    expect(together(base, mine, theirs)).toEqual({ ...mine, unit: 'cm' });
    expect(apart(base, { ...mine, unit: 'in' }, 2)).toEqual([mine, { ...base, unit: 'in' }]);
    expect(apart(mine, { ...mine, release: { kind: 'quiet', minutes: 5 } }, 2)).toEqual([
      { ...mine, release: { kind: 'quiet', minutes: 5 } }
    ]);
  });

  it('with one untouched are the other, and the same of both is that', () => {
    fc.assert(
      fc.property(fields, fields, (base, other) => {
        expect(together(base, base, other)).toEqual(other);
        expect(together(base, other, base)).toEqual(other);
        expect(together(base, other, other)).toEqual(other);
      })
    );
  });

  it('are alike only where nothing is touched', () => {
    fc.assert(fc.property(tree, tree, (p, q) => isAlike(p, q) === (JSON.stringify(sorted(p)) === JSON.stringify(sorted(q)))));
    expect(isAlike({ a: undefined }, {})).toBe(true);
    expect(isAlike([], {})).toBe(false);
    expect(isAlike([1], [1, 2])).toBe(false);
  });
});

/** With the names of fields in one order. */
function sorted(value: unknown): unknown {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return value;
  const parts = Object.entries(value as object).map(([key, part]): [string, unknown] => [key, sorted(part)]);
  return Object.fromEntries(parts.sort(([p], [q]) => (p < q ? -1 : 1)));
}

describe('two lists of one base together', () => {
  it('have what came on either side where it came, lack what went, and stand as they were put', () => {
    expect(listTogether([1, 2, 3], [3, 1, 2], [1, 2, 9, 3])).toEqual([3, 1, 2, 9]);
    expect(listTogether([1, 2, 3], [1, 7, 2, 3], [3, 2, 1])).toEqual([3, 2, 1, 7]);
    expect(listTogether([1, 2, 3], [1, 3], [8, 1, 2, 3])).toEqual([8, 1, 3]);
    expect(listTogether([1, 2], [7, 1, 2], [2])).toEqual([7, 2]);
    expect(listTogether(['a'], ['a', 'b'], ['a', 'b', 'c'])).toEqual(['a', 'b', 'c']);
  });

  it('lose nothing, double nothing, and bring nothing back', () => {
    fc.assert(
      fc.property(names, names, names, (base, mine, theirs) => {
        const all = listTogether(base, mine, theirs);
        const came = [...mine, ...theirs].filter((name) => !base.includes(name));
        const stayed = base.filter((name) => mine.includes(name) && theirs.includes(name));
        expect([...all].sort()).toEqual([...new Set([...came, ...stayed])].sort());
        expect(listTogether(base, base, theirs)).toEqual(theirs);
        expect(listTogether(base, mine, base)).toEqual(mine);
      })
    );
  });
});
