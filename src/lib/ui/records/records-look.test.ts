import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Docket } from '$lib/server/dockets/dockets';
import { RecordsLook } from './records-look.svelte';

const docketOf = (version: number, hasTable = true) =>
  ({ id: 7, version, choices: { records: { table: hasTable ? { hash: 'a' } : null, fields: [{ id: 1 }] } } }) as unknown as Docket; // prettier-ignore

let answers: ((text: string, status?: number) => void)[];
let asked: string[];
let look: RecordsLook;
beforeEach(() => {
  vi.useFakeTimers();
  [answers, asked] = [[], []];
  vi.stubGlobal('fetch', (path: string, { signal }: RequestInit = {}) => {
    if (path.endsWith('/share')) return Promise.resolve(new Response('0.4'));
    asked.push(path);
    return new Promise<Response>((resolve, reject) => {
      signal?.addEventListener('abort', () => reject(new DOMException('aborted', 'AbortError')));
      answers.push((text, status = 200) => resolve(new Response(text, { status })));
    });
  });
  look = new RecordsLook();
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const pass = (ms: number) => vi.advanceTimersByTimeAsync(ms);

describe('records looked at', () => {
  it('are asked for once typing pauses, tell how far that is, and what was found stays until then', async () => {
    look.look(docketOf(3));
    await pass(300);
    expect(asked).toEqual([]);
    await pass(1000);
    expect([asked, look.busy, look.share]).toEqual([['/api/dockets/7/records/risks?version=3'], true, 0.4]);
    answers[0]!('{"risks":[{"record":4}]}');
    await pass(10);
    expect([look.busy, look.found?.risks.length]).toEqual([false, 1]);
    look.look(docketOf(4));
    await pass(1000);
    expect([look.busy, look.found?.risks.length]).toEqual([true, 1]);
    answers[1]!('{"error":"Its table is gone."}', 404);
    await pass(10);
    expect([look.busy, look.failed, look.found?.risks.length]).toEqual([false, 'Its table is gone.', 1]);
  });

  it('are given up when something newer is typed, and of the newest alone', async () => {
    const giveUp = look.look(docketOf(3));
    await pass(500);
    giveUp();
    look.look(docketOf(4));
    await pass(500);
    answers[1]!('{"risks":[]}');
    await pass(10);
    expect([asked.length, look.busy, look.found?.risks, look.failed]).toEqual([2, false, [], '']);
  });

  it('are none, and nobody waits for them, once there is no table any more', async () => {
    const giveUp = look.look(docketOf(3));
    await pass(500);
    expect(look.busy).toBe(true);
    giveUp();
    look.look(docketOf(4, false));
    await pass(2000);
    expect([look.busy, look.found, asked.length]).toEqual([false, null, 1]);
  });
});
