import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Edits } from './history.svelte';
import { touched } from './touched';

const FIRST = { gaps: { across: 4, along: 4 }, name: 'Tags', pins: [{ x: 0, y: 0 }] };

describe('edits', () => {
  let saved: (typeof FIRST)[];
  let edits: Edits<typeof FIRST>;
  beforeEach(() => {
    vi.useFakeTimers();
    saved = [];
    edits = new Edits(FIRST, (value) => {
      saved.push(value);
      return Promise.resolve();
    });
  });
  afterEach(() => {
    vi.useRealTimers();
  });
  const typeGap = (across: number) => edits.change({ ...edits.current, gaps: { ...edits.current.gaps, across } });
  const dragTo = (x: number, y: number) => edits.change({ ...edits.current, pins: [{ x, y }] });

  it('are one step back as long as one figure is typed, and another is one of its own however soon', () => {
    typeGap(1);
    typeGap(12);
    edits.change({ ...edits.current, name: 'Tag' });
    edits.change({ ...edits.current, name: 'Tally' });
    expect(edits.current).toMatchObject({ gaps: { across: 12 }, name: 'Tally' });
    edits.undo();
    expect(edits.current).toMatchObject({ gaps: { across: 12 }, name: 'Tags' });
    edits.undo();
    expect(edits.current).toEqual(FIRST);
    expect(edits.canUndo).toBe(false);
    edits.redo();
    edits.redo();
    expect(edits.current).toMatchObject({ gaps: { across: 12 }, name: 'Tally' });
    expect(edits.canRedo).toBe(false);
  });

  it('of a drag are one step, whichever way it goes', () => {
    for (const [x, y] of [[1, 0], [1, 2], [3, 2], [4, 5]] as const) dragTo(x, y); // prettier-ignore
    edits.undo();
    expect(edits.current).toEqual(FIRST);
  });

  it('are two steps with a pause between, or with a step back between', () => {
    typeGap(1);
    vi.advanceTimersByTime(1000);
    typeGap(2);
    edits.undo();
    expect(edits.current.gaps.across).toBe(1);
    typeGap(3);
    edits.undo();
    expect(edits.current.gaps.across).toBe(1);
  });

  it('are saved once after a moment, and again until the server takes them', async () => {
    typeGap(1);
    typeGap(12);
    expect(edits.pending).toBe(true);
    await vi.advanceTimersByTimeAsync(300);
    expect(saved.map(({ gaps }) => gaps.across)).toEqual([12]);
    expect(edits.pending).toBe(false);
    let away = true;
    const tried: number[] = [];
    const held = new Edits(FIRST, ({ gaps }) => {
      tried.push(gaps.across);
      return away ? Promise.reject(new Error('away')) : Promise.resolve();
    });
    held.change({ ...FIRST, gaps: { across: 7, along: 4 } });
    await vi.advanceTimersByTimeAsync(300);
    expect(held.pending).toBe(true);
    away = false;
    await vi.advanceTimersByTimeAsync(2100);
    expect(tried).toEqual([7, 7]);
    expect(held.pending).toBe(false);
    // What is not saved is not taken over by what the server has.
    typeGap(5);
    edits.adopt(FIRST);
    expect(edits.current.gaps.across).toBe(5);
  });
});

describe('places that are touched', () => {
  it('are told as deep as is asked for', () => {
    const next = { ...FIRST, gaps: { across: 4, along: 9 }, pins: [{ x: 3, y: 0 }, { x: 1, y: 1 }] }; // prettier-ignore
    expect(touched(FIRST, next)).toEqual(['/gaps/along', '/pins/0/x', '/pins/1']);
    expect(touched(FIRST, next, 2)).toEqual(['/gaps/along', '/pins/0', '/pins/1']);
    expect(touched(FIRST, next, 1)).toEqual(['/gaps', '/pins']);
    expect(touched(FIRST, FIRST)).toEqual([]);
    expect(touched([1], { 0: 1 })).toEqual(['']);
  });
});
