import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import * as fc from 'fast-check';
import { Edits, type Answer } from './history.svelte';
import { isAlike, together } from './together';
import { touched } from './touched';

const FIRST = { gaps: { across: 4, along: 4 }, name: 'Tags', pins: [{ x: 0, y: 0 }] };

describe('edits', () => {
  let saved: (typeof FIRST)[];
  let edits: Edits<typeof FIRST>;
  beforeEach(() => {
    vi.useFakeTimers();
    saved = [];
    edits = new Edits(FIRST, {
      save: (now) => {
        saved.push(now);
        return Promise.resolve({ kind: 'saved', now });
      },
      together
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
    const held = new Edits(FIRST, {
      save: (now) => {
        tried.push(now.gaps.across);
        return away ? Promise.reject(new Error('away')) : Promise.resolve({ kind: 'saved', now });
      },
      together
    });
    held.change({ ...FIRST, gaps: { across: 7, along: 4 } });
    await vi.advanceTimersByTimeAsync(300);
    expect(held.pending).toBe(true);
    expect(await held.flush()).toBe(false);
    away = false;
    await vi.advanceTimersByTimeAsync(2100);
    expect(tried).toEqual([7, 7, 7]);
    expect(await held.flush()).toBe(true);
    expect(held.pending).toBe(false);
    // What is not saved is not taken over by what the server has.
    typeGap(5);
    edits.adopt(FIRST);
    expect(edits.current.gaps.across).toBe(5);
  });
});

interface Sheet {
  name: string;
  gaps: { across: number; along: number };
  off: Record<string, boolean>;
}
const SHEET: Sheet = { name: 'Tags', gaps: { across: 4, along: 4 }, off: {} };

/** A server with one sheet, which may be away, refuse a wide gap, or have it changed by others before what is sent arrives. */
class FakeServer {
  sheet = SHEET;
  version = 1;
  isAway = false;

  save = async (next: Sheet, known: { version: number }): Promise<Answer<Sheet>> => {
    await new Promise((resolve) => setTimeout(resolve, 20));
    if (this.isAway) throw new Error('away');
    const settle = (kind: Answer<Sheet>['kind']) => {
      known.version = this.version;
      return { kind, now: this.sheet };
    };
    if (known.version !== this.version) return settle('newer');
    if (next.gaps.across > 100) return settle('refused');
    this.sheet = next;
    this.version++;
    return settle('saved');
  };

  /** A window with it, which takes what the server has when it is told to look. */
  window() {
    const known = { version: this.version };
    const edits = new Edits(this.sheet, { save: (next) => this.save(next, known), together });
    const look = () => {
      if (edits.saving || known.version >= this.version) return;
      known.version = this.version;
      edits.adopt(this.sheet);
    };
    return { edits, look };
  }
}

describe('edits of two windows', () => {
  let server: FakeServer;
  beforeEach(() => {
    vi.useFakeTimers();
    server = new FakeServer();
  });
  afterEach(() => {
    vi.useRealTimers();
  });
  const pass = (ms: number) => vi.advanceTimersByTimeAsync(ms);
  type Window = ReturnType<FakeServer['window']>;
  const change = ({ edits }: Window, part: Partial<Sheet>) => edits.change({ ...edits.current, ...part });

  it('come together, and steps back take back nothing of the other', async () => {
    const [mine, theirs] = [server.window(), server.window()];
    change(mine, { name: 'Tallies' });
    await pass(1000);
    theirs.look();
    change(theirs, { off: { '1.1': true } });
    change(mine, { gaps: { across: 9, along: 4 } });
    await pass(1000);
    mine.look();
    theirs.look();
    expect(mine.edits.current).toEqual({ name: 'Tallies', gaps: { across: 9, along: 4 }, off: { '1.1': true } });
    expect(theirs.edits.current).toEqual(mine.edits.current);
    mine.edits.undo();
    mine.edits.undo();
    await pass(1000);
    expect(server.sheet).toEqual({ ...SHEET, off: { '1.1': true } });
    mine.edits.redo();
    await pass(1000);
    expect(server.sheet).toEqual({ ...SHEET, name: 'Tallies', off: { '1.1': true } });
    // A step that another window made too is none any more.
    change(theirs, SHEET);
    theirs.look();
    change(theirs, { name: 'Tags' });
    await pass(1000);
    mine.look();
    expect([mine.edits.canUndo, mine.edits.current.name]).toEqual([false, 'Tags']);
  });

  it('keep what is typed since something that is refused, and say that it was', async () => {
    const mine = server.window();
    change(mine, { gaps: { across: 500, along: 4 } });
    await pass(260);
    change(mine, { name: 'Tallies' });
    const all = mine.edits.flush();
    await pass(1000);
    expect(await all).toBe(false);
    expect(server.sheet).toEqual({ ...SHEET, name: 'Tallies' });
    expect(mine.edits.current).toEqual(server.sheet);
    expect(mine.edits.pending).toBe(false);
    mine.edits.undo();
    expect(mine.edits.current).toEqual(SHEET);
  });

  it('write nothing over what was learnt of another window just before the server went away', async () => {
    const theirs = { ...SHEET, name: 'Theirs' };
    const answers: (Answer<Sheet> | undefined)[] = [{ kind: 'refused', now: SHEET }, { kind: 'newer', now: theirs }, undefined];
    const sent: Sheet[] = [];
    const edits = new Edits(SHEET, {
      save: (next) => {
        sent.push(next);
        if (answers.length === 0) return Promise.resolve({ kind: 'saved', now: next });
        const answer = answers.shift();
        return answer ? Promise.resolve(answer) : Promise.reject(new Error('away'));
      },
      together
    });
    edits.change({ ...SHEET, gaps: { across: 500, along: 4 }, off: { '1.1': true } });
    await pass(300);
    expect([sent.length, edits.pending, edits.current.name]).toEqual([3, true, 'Theirs']);
    await pass(3000);
    expect(sent.at(-1)).toEqual({ name: 'Theirs', gaps: { across: 500, along: 4 }, off: { '1.1': true } });
    expect(edits.pending).toBe(false);
  });

  it('lose nothing that is typed, whatever comes in between', async () => {
    const step = fc.record({
      who: fc.nat(1),
      does: fc.constantFrom('name', 'along', 'off', 'off', 'too wide', 'undo', 'redo', 'look', 'look', 'away', 'back'),
      n: fc.nat(3),
      ms: fc.constantFrom(0, 15, 100, 280, 3000)
    });
    await fc.assert(
      fc.asyncProperty(fc.array(step, { maxLength: 40 }), async (steps) => {
        server = new FakeServer();
        const windows = [server.window(), server.window()];
        // The other window has its own places: what one typed there last is what is there in the end.
        const offs: Record<string, boolean>[] = [{}, {}];
        let names = 0;
        for (const { who, does, n, ms } of steps) {
          const window = windows[who]!;
          const { current } = window.edits;
          if (does === 'name') change(window, { name: `Name ${++names}` });
          if (does === 'along') change(window, { gaps: { ...current.gaps, along: n } });
          if (does === 'too wide') change(window, { gaps: { ...current.gaps, across: 101 + n } });
          if (does === 'undo') window.edits.undo();
          if (does === 'redo') window.edits.redo();
          if (does === 'off') {
            const key = `${who}.${n}`;
            change(window, { off: { ...current.off, [key]: !current.off[key] } });
          }
          if (does === 'look') window.look();
          if (does === 'away' || does === 'back') server.isAway = does === 'away';
          offs[who] = ownPlaces(window, who);
          await pass(ms);
        }
        server.isAway = false;
        for (let i = 0; i < 4; i++) {
          await pass(3000);
          for (const window of windows) window.look();
        }
        for (const [who, window] of windows.entries()) {
          expect(window.edits.pending).toBe(false);
          expect(isAlike(window.edits.current, server.sheet)).toBe(true);
          expect(ownPlaces(window, who)).toEqual(offs[who]);
        }
        expect(server.sheet.gaps.across).toBe(4);
      }),
      { numRuns: 200 }
    );
  });
});

/** The places of a window alone. */
const ownPlaces = ({ edits }: { edits: Edits<Sheet> }, who: number) =>
  Object.fromEntries(Object.entries(edits.current.off).filter(([key]) => key.startsWith(`${who}.`)));

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
