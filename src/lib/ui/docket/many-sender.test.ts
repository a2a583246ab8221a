import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { ManyChange } from '$lib/docket-choices';
import { ManySender } from './many-sender';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

describe('changes of many dockets', () => {
  it('are sent in order, one at a time, the keystrokes of one breath together', async () => {
    const sent: { ids: readonly number[]; change: ManyChange }[] = [];
    let atOnce = 0;
    let most = 0;
    const sender = new ManySender(async (ids, change) => {
      most = Math.max(most, ++atOnce);
      // The first is the slowest, as on a busy server.
      await new Promise((resolve) => setTimeout(resolve, sent.length === 0 ? 900 : 10));
      sent.push({ ids, change });
      atOnce--;
    });
    for (const copies of [1, 12, 125]) sender.add([3, 4], { choices: { copies } });
    sender.add([3, 4], { note: 'Matt', choices: { bleedMm: 2 } });
    await vi.advanceTimersByTimeAsync(350);
    sender.add([3, 4], { note: 'Gloss' });
    sender.add([5], { note: 'Other' });
    sender.flush();
    await vi.advanceTimersByTimeAsync(2000);
    expect(sent).toEqual([
      { ids: [3, 4], change: { note: 'Matt', choices: { copies: 125, bleedMm: 2 } } },
      { ids: [3, 4], change: { note: 'Gloss' } },
      { ids: [5], change: { note: 'Other' } }
    ]);
    expect(most).toBe(1);
  });
});
