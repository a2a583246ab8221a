import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { PAGE_ROWS, type ListPage } from '$lib/listing';
import { ListRows } from './rows.svelte';
import type { ListSource } from './source';

interface Row {
  id: number;
}

/** A server with a list of numbers, that answers when it is let to. */
function listOf(ids: readonly number[]) {
  let now = ids;
  const waiting: (() => void)[] = [];
  const asked = { pages: [] as number[], ids: 0, known: 0 };
  let fault: Error | undefined;
  const answer = <T>(value: () => T) =>
    fault ? Promise.reject<T>(fault) : new Promise<T>((resolve) => waiting.push(() => resolve(value())));
  const page = (from: number): ListPage<Row> => ({
    count: now.length,
    all: now.length,
    from,
    rows: now.slice(from, from + PAGE_ROWS).map((id) => ({ id })),
    facets: {}
  });
  const source: ListSource<Row> = {
    page: (_, from) => {
      asked.pages.push(from);
      return answer(() => page(from));
    },
    ids: (_, from, count) => {
      asked.ids++;
      return answer(() => now.slice(from, from + count));
    },
    known: (_, some) => {
      asked.known++;
      return answer(() => some.filter((id) => now.includes(id)));
    }
  };
  const rows = new ListRows<Row>(source, ({ id }) => id);
  return {
    rows,
    asked,
    first: () => page(0),
    /** The list as it is from now on. */
    become: (next: readonly number[]) => (now = next),
    /** Nothing more is answered. */
    fail: (says: string) => (fault = new Error(says)),
    /** All that was asked for is answered, what it leads to as well. */
    settle: async () => {
      for (let i = 0; i < 5; i++) {
        for (const one of waiting.splice(0)) one();
        await new Promise((resolve) => setImmediate(resolve));
      }
    }
  };
}
const ANY = new URLSearchParams();
const TOP = { from: 0, to: 12 };
const upTo = (n: number) => Array.from({ length: n }, (_, i) => 1000 + i);
const sorted = (ids: Iterable<number>) => [...ids].sort((p, q) => p - q);

describe('the rows of a list', () => {
  it('are asked for page by page, as they come near, each page once', async () => {
    const { rows, asked, first, settle } = listOf(upTo(350));
    rows.show(first(), ANY, TOP);
    rows.need(TOP);
    expect(asked.pages).toEqual([]);
    expect([rows.count, rows.at(99)?.id, rows.at(100)]).toEqual([350, 1099, undefined]);
    for (let from = 0; from < 330; from += 3) rows.need({ from, to: from + 12 });
    await settle();
    expect(asked.pages).toEqual([100, 200, 300]);
    expect(rows.at(349)?.id).toBe(1349);
    expect(rows.at(350)).toBeUndefined();
  });

  it('that are ticked are those of a simple model, whatever is pressed, at hand or not', async () => {
    const press = fc.record({ at: fc.nat(249), how: fc.constantFrom('this', 'alone', 'range') });
    await fc.assert(
      fc.asyncProperty(fc.array(press, { maxLength: 12 }), async (presses) => {
        const ids = upTo(250);
        const { rows, first, settle } = listOf(ids);
        rows.show(first(), ANY, TOP);
        rows.need({ from: 0, to: 249 });
        await settle();
        let wanted = new Set<number>();
        let anchor = 0;
        for (const { at, how } of presses) {
          const work = rows.tick(at, how as 'this');
          await settle();
          await work;
          const id = ids[at]!;
          if (how === 'range') wanted = new Set(ids.slice(Math.min(anchor, at), Math.max(anchor, at) + 1));
          else {
            const was = wanted.has(id);
            if (how === 'alone') wanted = new Set();
            if (how === 'this' && was) wanted.delete(id);
            else wanted.add(id);
            anchor = at;
          }
        }
        expect(sorted(rows.ticked)).toEqual(sorted(wanted));
      }),
      { numRuns: 40 }
    );
  });

  it('are ticked up to one that is not at hand yet', async () => {
    const { rows, first, settle } = listOf(upTo(250));
    rows.show(first(), ANY, TOP);
    await rows.tick(98, 'this');
    const range = rows.tick(249, 'range');
    await settle();
    await range;
    expect(sorted(rows.ticked)).toEqual(upTo(250).slice(98));
  });

  it('that cannot be asked for are told, and the ticks stay', async () => {
    const { rows, first, fail } = listOf(upTo(250));
    rows.show(first(), ANY, TOP);
    await rows.tick(98, 'this');
    fail('The server cannot be reached.');
    await rows.tickAll();
    expect([rows.failed, sorted(rows.ticked)]).toEqual(['The server cannot be reached.', [1098]]);
  });

  it('of a long range come from the server, and the range that was asked for last counts', async () => {
    const { rows, asked, first, settle } = listOf(upTo(3000));
    rows.show(first(), ANY, TOP);
    await rows.tick(2, 'this');
    const all = rows.tickAll();
    // Meanwhile a short one, whose rows are at hand.
    await rows.tick(6, 'range');
    await settle();
    await all;
    expect([asked.ids, sorted(rows.ticked)]).toEqual([1, [1002, 1003, 1004, 1005, 1006]]);
  });

  it('lose the ticks of those that are gone, and keep what was ticked while that was asked', async () => {
    const { rows, asked, first, settle, become } = listOf(upTo(50));
    rows.show(first(), ANY, TOP);
    await rows.tick(3, 'this');
    await rows.tick(4, 'this');
    become(upTo(50).filter((id) => id !== 1003));
    rows.show(first(), ANY, TOP);
    expect(asked.known).toBe(1);
    await rows.tick(8, 'this');
    await settle();
    expect(sorted(rows.ticked)).toEqual([1004, 1009]);
  });

  it('of an earlier list that come late are not taken', async () => {
    const { rows, first, settle, become } = listOf(upTo(300));
    rows.show(first(), ANY, TOP);
    rows.need({ from: 190, to: 210 });
    become(upTo(120).map((id) => id + 5000));
    rows.show(first(), new URLSearchParams('q=quay'), TOP);
    await settle();
    expect([rows.count, rows.at(0)?.id, rows.at(200)]).toEqual([120, 6000, undefined]);
  });
});
