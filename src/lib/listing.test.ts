import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { daysBetween, dueInWords } from './due';
import {
  fold,
  listAddress,
  localPage,
  localShape,
  readFrom,
  readListQuery,
  writeListQuery,
  type ListShape,
  type LocalSpec
} from './listing';

const SHAPE: ListShape = {
  sorts: ['name', 'due'],
  facets: ['media', 'customer'],
  usual: { sort: 'name', down: false },
  open: { facet: 'media', value: 'Film' }
};
const value = fc.string({ maxLength: 200, unit: 'grapheme' }).filter((text) => text.length <= 200);
const query = fc.record({
  words: value.filter((text) => text.trim() !== '' || text === ''),
  sort: fc.constantFrom(...SHAPE.sorts),
  down: fc.boolean(),
  facets: fc.dictionary(fc.constantFrom(...SHAPE.facets), fc.uniqueArray(value, { minLength: 1, maxLength: 5 }), {
    noNullPrototype: true
  })
});

describe('the address of a list', () => {
  it('says what the list shows, and nothing of what is usual', () => {
    fc.assert(
      fc.property(query, (asked) => {
        const address = writeListQuery(asked, SHAPE).toString();
        expect(readListQuery(new URLSearchParams(address), SHAPE)).toEqual(asked);
      })
    );
    expect(writeListQuery({ words: ' ', sort: 'name', down: false, facets: {} }, SHAPE).toString()).toBe('');
  });

  it('keeps what in it is not of the list', () => {
    fc.assert(
      fc.property(query, query, value, (before, after, card) => {
        const params = new URLSearchParams([['card', card], ...writeListQuery(before, SHAPE), ['from', '300']]);
        const address = new URLSearchParams(listAddress(params, after, SHAPE));
        expect(address.get('card')).toBe(card);
        // Another list begins at its start.
        expect(address.has('from')).toBe(false);
        expect(readListQuery(address, SHAPE)).toEqual(after);
      })
    );
  });

  it('that somebody wrote by hand asks for something that there is', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom('q', 'sort', 'media', 'from', 'x'), fc.string({ maxLength: 400 }))),
        (parts) => {
          const params = new URLSearchParams(parts);
          const asked = readListQuery(params, SHAPE);
          expect(SHAPE.sorts).toContain(asked.sort);
          expect(Object.keys(asked.facets).every((name) => SHAPE.facets.includes(name))).toBe(true);
          expect(asked.words.length).toBeLessThanOrEqual(200);
          expect(readFrom(params)).toBeGreaterThanOrEqual(0);
          expect(Number.isSafeInteger(readFrom(params))).toBe(true);
        }
      )
    );
  });
});

describe('words', () => {
  it('are found whatever their capitals, accents and forms', () => {
    expect(fold('Łódź ŻAGLE Øre Straße')).toBe('lodz zagle ore strasse');
    expect(fold('ﬁlm')).toBe('film');
    expect(fold('É')).toBe(fold('E\u0301'));
  });
});

describe('a list whose rows are at hand', () => {
  interface Row {
    id: number;
    name: string;
    tags: string[];
  }
  const SPEC: LocalSpec<Row> = {
    id: ({ id }) => id,
    words: ({ name }) => name,
    sorts: { name: ({ name }) => name, id: ({ id }) => id },
    facets: { tag: ({ tags }) => tags },
    usual: { sort: 'name', down: false }
  };
  const rows = fc
    .array(fc.record({ name: fc.constantFrom('b', 'a', 'Ä', 'ab'), tags: fc.uniqueArray(fc.constantFrom('x', 'y', 'z')) }))
    .map((list) => list.map((row, i) => ({ ...row, id: i + 1 })));

  it('counts in each facet what choosing a value would show', () => {
    fc.assert(
      fc.property(rows, fc.constantFrom('', 'a', 'b a'), fc.subarray(['x', 'y']), (all, words, tags) => {
        const asked = { words, sort: 'name', down: false, facets: { tag: tags } };
        const page = localPage(all, SPEC, asked);
        expect(page.count).toBe(page.rows.length);
        for (const { value: tag, count } of page.facets.tag!)
          expect(localPage(all, SPEC, { ...asked, facets: { tag: [tag] } }).count).toBe(count);
        const names = page.rows.map(({ name }) => name);
        expect(names).toEqual([...names].sort((p, q) => p.localeCompare(q)));
      })
    );
  });

  it('has an order for what no order is said for: the newest first', () => {
    const all = [1, 2, 3].map((id) => ({ id, name: 'a', tags: [] }));
    const page = localPage(all, SPEC, readListQuery(new URLSearchParams(), localShape(SPEC)));
    expect(page.rows.map(({ id }) => id)).toEqual([3, 2, 1]);
  });
});

describe('a due date', () => {
  it('is told as the days that are left', () => {
    const on = (day: string) => dueInWords(day, '2026-11-26');
    expect(['2026-11-26', '2026-11-27', '2026-11-25', '2026-12-01', '2026-11-01', ''].map(on)).toEqual([
      'today',
      'tomorrow',
      '1 day late',
      'in 5 days',
      '25 days late',
      ''
    ]);
    // Not by hours: clocks are put forward in between.
    expect(daysBetween('2026-03-28', '2026-03-30')).toBe(2);
    expect(daysBetween('soon', '2026-03-30')).toBeUndefined();
  });
});
