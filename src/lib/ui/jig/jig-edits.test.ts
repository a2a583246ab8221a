import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { NEW_JIG, type Jig } from '$core/layout/jig';
import type { KeptJig } from '$lib/server/machines/jigs';
import { jigEdits } from './jig-edits';

const said: string[] = [];
vi.mock('svelte-sonner', () => ({ toast: { error: (text: string) => said.push(text) } }));

let kept: KeptJig;
let isAway: boolean;
let edits: ReturnType<typeof jigEdits>;
/** Another window was here. */
const other = (part: Partial<Jig>) => (kept = { ...kept, version: kept.version + 1, jig: { ...kept.jig, ...part } });
const answer = (_path: string, init: RequestInit): Promise<Response> => {
  if (isAway) return Promise.reject(new TypeError('fetch failed'));
  const says = (status: number, body: unknown) => Promise.resolve(new Response(JSON.stringify(body), { status }));
  if (init.method !== 'PUT') return says(200, kept);
  const { version, jig } = JSON.parse(init.body as string) as { version: number; jig: Jig };
  if (version !== kept.version) return says(409, { error: 'This jig was changed in another window.' });
  if (jig.name === 'Taken') return says(409, { error: 'There is a jig Taken already.' });
  other({ ...jig, name: jig.name.trim() });
  return says(200, kept);
};
beforeEach(() => {
  vi.useFakeTimers();
  [said.length, isAway] = [0, false];
  kept = { id: 3, version: 1, jig: { ...NEW_JIG, name: 'Tags', off: ['1.1'] }, changedAt: 0, runs: [] };
  vi.stubGlobal('fetch', answer);
  edits = jigEdits(kept);
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const change = (part: Partial<Jig>) => edits.edits.change({ ...edits.edits.current, ...part });
const nudge = (dx: number) => ({ dx, dy: 0, turn: 0 });

describe('a jig that saves itself', () => {
  it('has what another window nudged and switched off beside what is done here', async () => {
    other({ off: ['1.1', '2.2'], nudges: { '3.3': nudge(1) } });
    change({ off: [], nudges: { '4.4': nudge(2) } });
    change({ startX: 12 });
    await vi.advanceTimersByTimeAsync(1000);
    expect(kept.jig).toMatchObject({ off: ['2.2'], startX: 12, nudges: { '3.3': nudge(1), '4.4': nudge(2) } });
    expect(edits.edits.current).toEqual(kept.jig);
    expect(said).toEqual([]);
    // And what the page is told of later; a step back takes back mine alone.
    other({ startY: 30 });
    edits.adopt(kept);
    edits.edits.undo();
    edits.edits.undo();
    await vi.advanceTimersByTimeAsync(1000);
    expect(kept.jig).toMatchObject({ off: ['1.1', '2.2'], startX: NEW_JIG.startX, startY: 30, nudges: { '3.3': nudge(1) } });
    // What was loaded before the last save is older.
    edits.adopt({ ...kept, version: 2, jig: NEW_JIG });
    expect(edits.edits.current).toEqual(kept.jig);
  });

  it('leaves out a name that is taken, and is shown as it is kept', async () => {
    change({ name: 'Taken' });
    change({ rows: 3 });
    await vi.advanceTimersByTimeAsync(1000);
    expect(kept.jig).toMatchObject({ name: 'Tags', rows: 3 });
    expect([edits.edits.current, edits.edits.pending]).toEqual([kept.jig, false]);
    expect(said.at(-1)).toBe('There is a jig Taken already.');
    change({ name: ' Tallies ' });
    await vi.advanceTimersByTimeAsync(1000);
    expect(edits.edits.current.name).toBe('Tallies');
  });

  it('waits for the server', async () => {
    isAway = true;
    change({ rows: 3 });
    await vi.advanceTimersByTimeAsync(5000);
    expect(edits.edits.pending).toBe(true);
    isAway = false;
    await vi.advanceTimersByTimeAsync(3000);
    expect([edits.edits.pending, kept.jig.rows]).toEqual([false, 3]);
  });
});
