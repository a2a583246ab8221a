import { pino } from 'pino';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Events } from '../platform/events';
import { Arrivals } from './arrivals';

/** One thing on its way, whose artwork was deleted meanwhile: a person must see to it. */
const row = { id: 7, state: 'reading', artwork_id: null, reason: null as string | null };
/** What the disk says to each attempt to write, in turn. */
let disk: (Error | undefined)[];
let wasRead: number[];
const full = () => Object.assign(new Error('database or disk is full'), { code: 'SQLITE_FULL' });

function arrivals(): Arrivals {
  const store = {
    row: () => row,
    onTheirWay: () => [row.id],
    change: (_: number, change: Partial<typeof row>) => {
      const error = disk.shift();
      if (error) throw error;
      Object.assign(row, change);
    }
  };
  return new Arrivals({
    store,
    events: new Events(),
    log: pino({ level: 'silent' }),
    wasRead: (id: number) => wasRead.push(id)
  } as never);
}

beforeEach(() => {
  vi.useFakeTimers({ toFake: ['setTimeout'] });
  [disk, wasRead] = [[], []];
  Object.assign(row, { state: 'reading', reason: null });
});
afterEach(() => vi.useRealTimers());
/** What is begun has its turn. */
const turns = async () => {
  for (let i = 0; i < 20; i++) await new Promise((resolve) => setImmediate(resolve));
};

describe('what came in', () => {
  it('waits for a person who must see to it', async () => {
    arrivals().start();
    await turns();
    expect(row).toMatchObject({ state: 'waiting', reason: 'Its artwork was deleted.' });
    expect(wasRead).toEqual([7]);
  });

  it('goes on by itself when a full disk has room again', async () => {
    disk = [full(), full()];
    const all = arrivals();
    all.start();
    for (const _ of [1, 2]) {
      await turns();
      expect([row.state, wasRead]).toEqual(['reading', []]);
      await vi.advanceTimersByTimeAsync(2000);
      void _;
    }
    await turns();
    expect([row.state, wasRead]).toEqual(['waiting', [7]]);
    all.stop();
  });

  it('is left to the next start by a shop that is closed meanwhile', async () => {
    disk = [full()];
    const all = arrivals();
    all.start();
    await turns();
    all.stop();
    await vi.advanceTimersByTimeAsync(5000);
    await turns();
    expect(row.state).toBe('reading');
  });
});
