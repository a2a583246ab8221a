import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { InkMeasuring } from './ink-measuring.svelte';

/** What the server was asked, and how each is answered when the test says. */
let asked: { path: string; answer: (status: number, body: object) => void }[];
let inks: InkMeasuring;
beforeEach(() => {
  vi.useFakeTimers();
  asked = [];
  vi.stubGlobal('fetch', (path: string) => {
    return new Promise<Response>((resolve) => {
      asked.push({ path, answer: (status, body) => resolve(new Response(JSON.stringify(body), { status })) });
    });
  });
  inks = new InkMeasuring();
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});
const aMoment = () => vi.advanceTimersByTimeAsync(400);

describe('what a docket takes of each ink', () => {
  it('is asked for once, however quickly figures are saved one after another', async () => {
    for (const version of [1, 2]) inks.ask(7, version)();
    inks.ask(7, 3);
    await aMoment();
    expect(asked.map(({ path }) => path)).toEqual(['/api/dockets/7/measure']);
    asked[0]!.answer(200, { layers: [] });
    await aMoment();
    expect(inks.measured).toEqual({ version: 3, of: { layers: [] } });
  });

  it('is not that of a docket that has changed since', async () => {
    const giveUp = inks.ask(7, 1);
    await aMoment();
    giveUp();
    inks.ask(7, 2);
    await aMoment();
    asked[1]!.answer(200, { layers: [2] });
    await aMoment();
    asked[0]!.answer(200, { layers: [1] });
    await aMoment();
    expect(inks.measured).toEqual({ version: 2, of: { layers: [2] } });
  });

  it('says why it is not known, until it is', async () => {
    inks.ask(7, 1);
    await aMoment();
    asked[0]!.answer(503, { error: 'Too much waits. Try again.' });
    await aMoment();
    expect([inks.trouble, inks.measured]).toEqual(['Too much waits. Try again.', null]);
    inks.ask(7, 1);
    await aMoment();
    asked[1]!.answer(200, { layers: [] });
    await aMoment();
    expect(inks.trouble).toBe('');
    inks.forget();
    expect(inks.measured).toBeNull();
  });
});
