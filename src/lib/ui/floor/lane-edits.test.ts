import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { DEFAULT_RULE, type LaneChange } from '$lib/run-rule';
import type { Lane } from '$lib/server/production/lanes';
import { laneEdits } from './lane-edits';

const said: string[] = [];
vi.mock('svelte-sonner', () => ({ toast: { error: (text: string) => said.push(text) } }));

let lane: Lane;
let sent: LaneChange[];
beforeEach(() => {
  vi.useFakeTimers();
  [sent, said.length] = [[], 0];
  lane = { id: 2, condition: { id: 5 }, rule: DEFAULT_RULE, release: { kind: 'hand' } } as Lane;
  vi.stubGlobal('fetch', async (path: string, { body }: RequestInit) => {
    expect(path).toBe('/api/lanes/2');
    await new Promise((resolve) => setTimeout(resolve, 400));
    const change = JSON.parse(body as string) as LaneChange;
    sent.push(change);
    if (change.release?.kind === 'quiet' && change.release.minutes > 10_080)
      return new Response('{"error":"The wait is at most a week."}', { status: 422 });
    const { conditionId, ...rest } = change;
    lane = { ...lane, ...rest, ...(conditionId !== undefined && { condition: { id: conditionId } }) } as Lane;
    return new Response(JSON.stringify(lane));
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('settings of a lane that save themselves', () => {
  it('have all that is typed one after the other, however slow the server is', async () => {
    const edits = laneEdits(lane);
    const rule = (part: Partial<Lane['rule']>) => edits.change({ ...edits.current, rule: { ...edits.current.rule, ...part } });
    rule({ gapX: 9 });
    await vi.advanceTimersByTimeAsync(300);
    rule({ margin: 12 });
    await vi.advanceTimersByTimeAsync(200);
    rule({ lead: 30 });
    await vi.advanceTimersByTimeAsync(5000);
    expect(lane.rule).toEqual({ ...DEFAULT_RULE, gapX: 9, margin: 12, lead: 30 });
    expect(sent.every((change) => Object.keys(change).join() === 'rule')).toBe(true);
  });

  it('leave out what is refused, and keep what was set beside it', async () => {
    const edits = laneEdits(lane);
    edits.change({ ...edits.current, release: { kind: 'quiet', minutes: 99_999 } });
    edits.change({ ...edits.current, conditionId: 6 });
    await vi.advanceTimersByTimeAsync(5000);
    expect([lane.condition.id, lane.release]).toEqual([6, { kind: 'hand' }]);
    expect([edits.current.release, edits.pending]).toEqual([{ kind: 'hand' }, false]);
    expect(said.at(-1)).toBe('The wait is at most a week.');
  });
});
