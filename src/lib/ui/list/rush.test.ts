import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Rush } from './rush.svelte';

describe('a list that rushes by', () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  /** Moves of so many pixels, one every so many ms. */
  function moves(rush: Rush, count: number, px: number, ms: number): boolean[] {
    let top = 1000;
    return Array.from({ length: count }, () => {
      vi.advanceTimersByTime(ms);
      rush.moved((top += px), performance.now());
      return rush.isOn;
    });
  }

  it('is told after some fast moves in a row, either way, and no more once it has rested', () => {
    for (const px of [130, -130]) {
      const rush = new Rush();
      expect(moves(rush, 6, px, 17)).toEqual([false, false, false, true, true, true]);
      vi.advanceTimersByTime(99);
      expect(rush.isOn).toBe(true);
      vi.advanceTimersByTime(2);
      expect(rush.isOn).toBe(false);
    }
  });

  it('is none where somebody can read, or goes page by page', () => {
    expect(moves(new Rush(), 20, 40, 17)).not.toContain(true);
    expect(moves(new Rush(), 20, 700, 150)).not.toContain(true);
    const rush = new Rush();
    moves(rush, 2, 700, 17);
    vi.advanceTimersByTime(500);
    expect(moves(rush, 2, 700, 17)).not.toContain(true);
  });

  it('leaves nothing behind when its list goes', () => {
    const rush = new Rush();
    moves(rush, 6, 130, 17);
    rush.end();
    vi.advanceTimersByTime(1000);
    expect(rush.isOn).toBe(true);
    expect(vi.getTimerCount()).toBe(0);
  });
});
