import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { RecordShown } from './record-shown.svelte';

/** Addresses that were asked for. */
let asked: string[];
beforeEach(() => {
  vi.useFakeTimers();
  asked = [];
  vi.stubGlobal('fetch', async (path: string) => {
    asked.push(path);
    const number = Number(/\d+$/.exec(path)![0]);
    // The first is slow.
    await new Promise((resolve) => setTimeout(resolve, number === 1 ? 5000 : 20));
    return new Response(JSON.stringify(path.includes('table') ? { rows: [{ record: number }] } : [{ print: number }]));
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('the record that is shown', () => {
  it('is the first, until another is asked for that is printed', () => {
    let ranges = $state('3-5,9');
    const shown = new RecordShown(() => ranges);
    expect([shown.numbers, shown.number]).toEqual([[3, 4, 5, 9], 3]);
    shown.show(5);
    shown.step(1);
    expect(shown.number).toBe(9);
    shown.step(1);
    expect(shown.number).toBe(9);
    ranges = '4-5';
    expect(shown.number).toBe(4);
    ranges = '';
    expect(shown.number).toBeNull();
    shown.step(-1);
    expect(shown.number).toBeNull();
  });

  it('is read at once, its prints when one rests on it, and not what comes too late', async () => {
    const shown = new RecordShown(() => '1-9');
    const giveUp = shown.read(7, 1, 'hash');
    await vi.advanceTimersByTimeAsync(100);
    giveUp();
    shown.show(2);
    shown.read(7, 2, 'hash');
    await vi.advanceTimersByTimeAsync(10_000);
    expect(asked).toEqual(['/api/dockets/7/table?records=1', '/api/dockets/7/table?records=2', '/api/dockets/7/records/2']);
    expect(shown.row).toEqual({ record: 2 });
    expect(shown.prints).toEqual([{ print: 2 }]);
    // Of another nothing is known yet.
    shown.show(3);
    expect(shown.prints).toEqual([]);
    shown.read(7, null, undefined);
    expect(shown.row).toBeUndefined();
  });
});
