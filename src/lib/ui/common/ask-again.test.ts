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

/** An answer that comes in pieces. @param ends how: whole, or cut off */
const inPieces = (pieces: readonly string[], ends: 'whole' | 'cut' | 'late') => {
  const left = [...pieces];
  const body = new ReadableStream<Uint8Array>({
    pull(stream) {
      const next = left.shift();
      if (next !== undefined) return stream.enqueue(new TextEncoder().encode(next));
      if (ends === 'cut') stream.error(new TypeError('network error'));
      if (ends === 'whole') stream.close();
    }
  });
  return new Response(body, { status: 200, headers: { 'content-type': 'text/sveltekit-data' } });
};

it('asks again for what is cut off in its middle, and passes on all of it', async () => {
  const plain = vi
    .fn<typeof fetch>()
    .mockResolvedValueOnce(inPieces(['{"nodes":', '[1'], 'cut'))
    .mockResolvedValueOnce(inPieces([], 'cut'))
    .mockResolvedValueOnce(inPieces(['{"nodes":', '[1,2]}\n', '{"chunk"', ':3}\n'], 'whole'));
  const answer = askingAgain(plain, HERE)('/dockets/__data.json');
  await vi.advanceTimersByTimeAsync(2000);
  const got = await answer;
  expect([got.status, got.headers.get('content-type')]).toEqual([200, 'text/sveltekit-data']);
  expect(await got.text()).toBe('{"nodes":[1,2]}\n{"chunk":3}\n');
  expect(plain).toHaveBeenCalledTimes(3);
});

it('waits for no more than the first line of an answer, and lets go of the rest with who asked', async () => {
  const plain = vi.fn<typeof fetch>().mockResolvedValue(inPieces(['{"nodes":[]}\n'], 'late'));
  const got = await askingAgain(plain, HERE)('/runs/4/__data.json');
  const reader = got.body!.getReader();
  expect(new TextDecoder().decode((await reader.read()).value)).toBe('{"nodes":[]}\n');
  await reader.cancel();
  // What has no line’s end is all of it, and nothing is nothing.
  plain.mockResolvedValueOnce(inPieces(['{"a":', '1}'], 'whole'));
  expect(await (await askingAgain(plain, HERE)('/api/floor')).json()).toEqual({ a: 1 });
  plain.mockResolvedValueOnce(new Response(null, { status: 204 }));
  expect((await askingAgain(plain, HERE)('/api/floor')).status).toBe(204);
});
