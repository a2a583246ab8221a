import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { once } from './once';

describe('what is done once', () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  it('is not done again while it is done, nor right after, and again later', async () => {
    let end = () => {};
    const made: number[] = [];
    const make = once(async (n: number) => {
      made.push(n);
      await new Promise<void>((resolve) => (end = resolve));
    });
    const first = make(1);
    await make(2);
    end();
    await first;
    await make(3);
    expect(made).toEqual([1]);
    vi.advanceTimersByTime(299);
    await make(4);
    expect(made).toEqual([1]);
    vi.advanceTimersByTime(1);
    const later = make(5);
    end();
    await later;
    expect(made).toEqual([1, 5]);
  });

  it('that fails is told to who asked, and can be asked for again', async () => {
    let tries = 0;
    const make = once(() => {
      tries++;
      return Promise.reject(new Error('The disk is full.'));
    });
    await expect(make()).rejects.toThrow('The disk is full.');
    vi.advanceTimersByTime(300);
    await expect(make()).rejects.toThrow('The disk is full.');
    expect(tries).toBe(2);
  });
});
