import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { askingAgain } from './ask-again';

const HERE = 'http://127.0.0.1:4780/dockets?sort=name';
const gone = () => Promise.reject(new TypeError('Failed to fetch'));

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

it.each(['/dockets/__data.json?x=1', '/api/floor'])(
  'asks for what a screen is made of until somebody answers: %s',
  async (address) => {
    const plain = vi.fn<typeof fetch>(gone);
    const how = { headers: { accept: 'x' } };
    const answer = askingAgain(plain, HERE)(address, how);
    await vi.advanceTimersByTimeAsync(60_500);
    expect(plain.mock.calls.length).toBeGreaterThan(50);
    plain.mockResolvedValueOnce(new Response('{}'));
    await vi.advanceTimersByTimeAsync(1000);
    expect((await answer).ok).toBe(true);
    expect(new Set(plain.mock.calls.map((call) => JSON.stringify(call)))).toEqual(new Set([JSON.stringify([address, how])]));
  }
);

it('says at once of all else that nobody answers, and passes on what is answered', async () => {
  const plain = vi.fn<typeof fetch>(gone);
  const ask = askingAgain(plain, HERE);
  await expect(ask('/api/dockets')).rejects.toThrow('Failed to fetch');
  await expect(ask('http://127.0.0.1:9/dockets/__data.json')).rejects.toThrow();
  await expect(ask('/__data.json', { signal: AbortSignal.abort() })).rejects.toThrow();
  expect(plain).toHaveBeenCalledTimes(3);
  // A fault is an answer too.
  plain.mockResolvedValue(new Response('', { status: 500 }));
  expect((await ask(new Request('http://127.0.0.1:4780/__data.json'))).status).toBe(500);
  expect(plain).toHaveBeenCalledTimes(4);
});
