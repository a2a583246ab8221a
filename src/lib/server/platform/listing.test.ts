import Database from 'better-sqlite3';
import fc from 'fast-check';
import { afterAll, describe, expect, it } from 'vitest';
import { fold, localPage, PAGE_ROWS, type LocalSpec } from '$lib/listing';
import { idsOf, knownOf, pageOf, rowsOf, type ListSpec } from './listing';

/** What the database answers is what the same list comes to in a few lines of JavaScript. */

interface Row {
  id: number;
  name: string;
  customer: string;
  due: number;
}
const SPEC: ListSpec = {
  from: 'thing t',
  id: 't.id',
  columns: 't.id, t.name, t.customer, t.due',
  words: 't.words',
  sorts: { number: 't.id', due: 't.due' },
  facets: {
    customer: { column: 't.customer' },
    due: { column: 't.due', say: () => (due) => (Number(due) < 3 ? 'late' : 'later') }
  },
  classes: {
    facet: 'soon',
    cases: () => [
      { name: 'now', when: 't.due = 0' },
      { name: 'soon', when: 't.due BETWEEN 1 AND 4' },
      { name: 'some day', when: 't.due > 4' }
    ]
  },
  usual: { sort: 'number', down: true }
};
const LOCAL: LocalSpec<Row> = {
  id: ({ id }) => id,
  words: ({ name, customer }) => `${name} ${customer}`,
  sorts: { number: ({ id }) => id, due: ({ due }) => due },
  facets: {
    customer: ({ customer }) => customer,
    due: ({ due }) => (due < 3 ? 'late' : 'later'),
    soon: ({ due }) => (due === 0 ? 'now' : due < 5 ? 'soon' : 'some day')
  },
  usual: { sort: 'number', down: true }
};

const db = new Database(':memory:');
db.exec('CREATE TABLE thing (id INTEGER PRIMARY KEY, name TEXT, customer TEXT, due INTEGER, words TEXT)');
afterAll(() => db.close());

function fill(rows: readonly Row[]): void {
  db.exec('DELETE FROM thing');
  const put = db.prepare('INSERT INTO thing VALUES (?, ?, ?, ?, ?)');
  db.transaction(() => {
    for (const row of rows) put.run(row.id, row.name, row.customer, row.due, fold(LOCAL.words(row)));
  })();
}
const CUSTOMERS = ['Quay', 'Łódź', "O'Brien; DROP TABLE thing", '%', '港'];
const rows = fc
  .array(
    fc.record({
      name: fc.constantFrom('Flag', 'flag É', 'Board', '100 %', '_'),
      customer: fc.constantFrom(...CUSTOMERS),
      due: fc.nat(6)
    }),
    { maxLength: 260 }
  )
  .map((list) => list.map((row, i): Row => ({ ...row, id: i + 1 })));
const query = fc.record({
  words: fc.constantFrom('', 'flag', 'e fl', '%', '_', "'", 'lodz', 'nowhere'),
  sort: fc.constantFrom('number', 'due'),
  down: fc.boolean(),
  facets: fc.record({
    customer: fc.subarray(CUSTOMERS),
    due: fc.subarray(['late', 'later', 'never']),
    soon: fc.subarray(['now', 'soon', 'some day', 'never'])
  })
});

describe('a list of the database', () => {
  it('is filtered, ordered, counted and paged as it should be, whatever is typed', () => {
    fc.assert(
      fc.property(rows, query, fc.nat(300), (all, asked, from) => {
        fill(all);
        const wanted = localPage(all, LOCAL, asked);
        const page = pageOf<Row>(db, SPEC, asked, 0);
        expect([page.count, page.all]).toEqual([wanted.count, all.length]);
        expect(page.rows).toEqual(wanted.rows.slice(0, PAGE_ROWS));
        expect(pageOf<Row>(db, SPEC, asked, from).rows).toEqual(wanted.rows.slice(from, from + PAGE_ROWS));
        const ids = wanted.rows.map(({ id }) => id);
        expect(idsOf(db, SPEC, asked, from, 40)).toEqual(ids.slice(from, from + 40));
        expect(knownOf(db, SPEC, asked, [1, 2, 3, 999]).sort()).toEqual(ids.filter((id) => id <= 3).sort());
        for (const name of ['customer', 'due', 'soon'])
          for (const { value, count } of page.facets[name]!)
            expect(wanted.facets[name]!.find((one) => one.value === value)?.count).toBe(count);
      }),
      { numRuns: 60 }
    );
  });

  it('has rows by their numbers, in the order asked for, and leaves out what is gone', () => {
    fill([1, 2, 3].map((id) => ({ id, name: 'x', customer: '', due: 0 })));
    expect(rowsOf<Row>(db, SPEC, [3, 99, 1]).map(({ id }) => id)).toEqual([3, 1]);
  });

  it('shows what is open where nothing is chosen and nothing looked for', () => {
    fill([0, 5].map((due, i) => ({ id: i + 1, name: 'Flag', customer: '', due })));
    const open = { ...SPEC, open: { facet: 'due', value: 'late' } };
    const asked = { words: '', sort: 'number', down: true, facets: {} };
    const count = (over: object) => pageOf<Row>(db, open, { ...asked, ...over }, 0).count;
    expect([count({}), count({ words: 'flag' }), count({ facets: { due: ['later'] } })]).toEqual([1, 2, 1]);
    // How many are put away is told all the same.
    expect(pageOf<Row>(db, open, asked, 0).facets.due).toContainEqual({ value: 'later', count: 1 });
  });
});
