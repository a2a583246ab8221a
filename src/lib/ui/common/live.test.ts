import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { ShopEvent, TaskProgress } from '$lib/server/platform/events';

/** What is loaded anew, by the addresses that it depends on. */
const loaded: string[][] = [];
const DEPENDS = ['zing:runs', 'zing:runs/7', 'zing:dockets/7', 'zing:dockets', 'zing:settings'];
vi.mock('$app/navigation', () => ({
  invalidate: (asks: (url: URL) => boolean) => {
    loaded.push(DEPENDS.filter((address) => asks(new URL(address))));
    return Promise.resolve();
  }
}));
const navigating: { complete: Promise<void> | null } = { complete: null };
vi.mock('$app/state', () => ({ navigating }));
const said: string[] = [];
vi.mock('svelte-sonner', () => ({ toast: { warning: (text: string) => said.push(text) } }));

class Line {
  static last: Line;
  onopen = () => undefined;
  onerror = () => undefined;
  onmessage: (message: { data: string }) => void = () => undefined;
  constructor() {
    Line.last = this;
  }
  close = () => undefined;
}
const tell = (event: ShopEvent) => Line.last.onmessage({ data: JSON.stringify(event) });
const taskOf = (id: number, share: number) => ({ id, kind: 'rip', subject: '7', state: 'working', error: null, share, secondsLeft: 5 }) as TaskProgress; // prettier-ignore

let live: (typeof import('./live.svelte'))['live'];
beforeEach(async () => {
  vi.useFakeTimers();
  vi.stubGlobal('EventSource', Line);
  [loaded.length, said.length] = [0, 0];
  vi.resetModules();
  ({ live } = await import('./live.svelte'));
  live.open(100);
  Line.last.onopen();
  tell({ kind: 'hello', changes: 100 });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const pass = (ms: number) => vi.advanceTimersByTimeAsync(ms);

describe('what the server tells', () => {
  it('loads anew what depends on it and nothing else, several changes at once', async () => {
    await pass(1000);
    expect(loaded).toEqual([]);
    tell({ kind: 'changed', what: 'dockets', ids: [8] });
    tell({ kind: 'changed', what: 'runs', ids: [7] });
    await pass(100);
    expect(loaded).toEqual([['zing:runs', 'zing:runs/7', 'zing:dockets']]);
    // Of all rows, so of each.
    tell({ kind: 'changed', what: 'dockets' });
    await pass(1000);
    expect(loaded[1]).toEqual(['zing:dockets/7', 'zing:dockets']);
  });

  it('loads no more often than can be looked at, and never while another page is gone to', async () => {
    for (let i = 0; i < 30; i++) {
      tell({ kind: 'changed', what: 'runs', ids: [7] });
      await pass(100);
    }
    expect(loaded.length).toBeLessThanOrEqual(5);
    loaded.length = 0;
    let arrive = () => undefined as void;
    navigating.complete = new Promise((resolve) => {
      arrive = () => {
        navigating.complete = null;
        resolve();
      };
    });
    tell({ kind: 'changed', what: 'settings' });
    await pass(3000);
    expect(loaded.flat()).not.toContain('zing:settings');
    arrive();
    await pass(1000);
    expect(loaded.flat()).toContain('zing:settings');
  });

  it('loads all anew where something was missed while the line was down, and keeps what is shown until then', async () => {
    Line.last.onerror();
    expect(live.connected).toBe(false);
    tell({ kind: 'changed', what: 'runs', ids: [7] });
    await pass(2000);
    expect(loaded).toEqual([]);
    Line.last.onopen();
    // Just that change was made since.
    tell({ kind: 'hello', changes: 101 });
    await pass(1000);
    expect(loaded).toEqual([['zing:runs', 'zing:runs/7']]);
    Line.last.onerror();
    Line.last.onopen();
    tell({ kind: 'hello', changes: 140 });
    await pass(1000);
    expect(loaded[1]).toEqual(DEPENDS);
  });

  it('knows of each work the newest, and nothing of before a break', () => {
    tell({ kind: 'task', task: taskOf(4, 0.2) });
    tell({ kind: 'task', task: taskOf(4, 0.6) });
    tell({ kind: 'task', task: taskOf(3, 0.9) });
    expect(live.task('rip', 7, taskOf(2, 0))?.share).toBe(0.6);
    expect(live.task('rip', 7, taskOf(5, 0.1))?.share).toBe(0.1);
    expect(live.task('rip', 8, null)).toBe(null);
    tell({ kind: 'hello', changes: 100 });
    expect(live.task('rip', 7, taskOf(2, 0))?.id).toBe(2);
    tell({ kind: 'said', text: 'Gannet 32 is out of film.' });
    expect(said).toEqual(['Gannet 32 is out of film.']);
  });
});
