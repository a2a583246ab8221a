import { describe, expect, it } from 'vitest';
import { askedFor, leftToPrint } from './came-out';
import type { Print } from './server/printing/print';

const print = (over: Partial<Print>): Print =>
  ({ id: 1, request: 'a', state: 'failed', printedMm: 0, restOf: null, keptMm: null, endedAt: 1, ...over }) as Print;

describe('what was asked for', () => {
  const done = { state: 'done' as const };

  it('is told from what was asked for before', () => {
    expect(askedFor([])).toEqual([]);
    const prints = [
      print({ id: 3, request: 'b', endedAt: null }),
      print({ id: 2, request: 'b', ...done }),
      print({ id: 1, request: 'a', ...done })
    ];
    expect(askedFor(prints)).toEqual([
      { asked: 2, done: 1, open: 1 },
      { asked: 1, done: 1, open: 0 }
    ]);
  });

  it('has come out where what broke off went on to its end, however often, and is what was asked for last then', () => {
    const one = (id: number, request: string, over: Partial<Print>) => print({ id, request, printedMm: 100, ...over });
    const prints = [
      one(7, 'f', { restOf: 6, fromMm: 700, ...done }),
      one(6, 'e', { restOf: 2, fromMm: 400 }),
      one(5, 'd', { restOf: 2, fromMm: 400, printedMm: 0 }),
      one(4, 'c', done),
      one(3, 'a', { state: 'cancelled', printedMm: 0 }),
      one(2, 'a', {}),
      one(1, 'a', done)
    ];
    expect(askedFor(prints)).toEqual([
      { asked: 3, done: 2, open: 0 },
      { asked: 1, done: 1, open: 0 }
    ]);
    expect(askedFor([one(8, 'g', { restOf: 6, endedAt: null }), ...prints.slice(1)])[0]).toEqual({ asked: 3, done: 1, open: 1 });
    expect(askedFor(prints.slice(1))[0]).toEqual({ asked: 3, done: 1, open: 0 });
    // One that is kept in part is out too: the rest of it is another run's.
    expect(askedFor([one(2, 'a', { keptMm: 60 }), one(1, 'a', done)])).toEqual([{ asked: 2, done: 2, open: 0 }]);
  });
});

describe('what is left of a run', () => {
  const done = (id: number, request = 'a') => print({ id, request, state: 'done' });
  const left = (state: 'ripped' | 'printed' | 'printing', times: number, prints: Print[]) =>
    leftToPrint({ state, times, came: prints.filter(({ state }) => state === 'done').length }, prints);

  it('are equal sheets that did not come out, whatever was asked for', () => {
    expect(left('ripped', 3, [])).toEqual({ left: 3, of: 3 });
    expect(left('ripped', 3, [done(1)])).toEqual({ left: 2, of: 3 });
    expect(left('ripped', 3, [done(2, 'b'), done(1)])).toEqual({ left: 1, of: 3 });
    expect(left('printed', 3, [done(3, 'b'), done(2, 'b'), done(1)])).toEqual({ left: 0, of: 3 });
    // Left at that, or printed again.
    expect(left('printed', 1, [done(1)])).toEqual({ left: 0, of: 1 });
  });

  it('is what was asked for last and did not come out, and nothing of what is under way', () => {
    const broken = print({ id: 2 });
    expect(left('ripped', 1, [broken, done(1)])).toEqual({ left: 1, of: 2 });
    expect(left('printed', 1, [print({ id: 3, request: 'b' }), done(1)])).toEqual({ left: 1, of: 1 });
    // Printed again twice, of which one did not come out: that says nothing of the three before.
    const before = [done(3), done(2), done(1)];
    expect(left('printed', 3, [print({ id: 5, request: 'b' }), done(4, 'b'), ...before])).toEqual({ left: 1, of: 2 });
    expect(left('printing', 3, [print({ id: 3, endedAt: null }), broken, done(1)]).left).toBe(0);
    expect(left('ripped', 1, [print({ id: 3, restOf: 2, request: 'b', state: 'done' }), broken, done(1)]).left).toBe(0);
  });
});
