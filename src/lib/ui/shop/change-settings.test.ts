import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import { changeSettings } from './change-settings';

vi.mock('svelte-sonner', () => ({ toast: {} }));

/** A server that takes its time. */
let kept: { names: string[]; unit: string };
beforeEach(() => {
  kept = { names: ['a', 'b', 'c'], unit: 'mm' };
  vi.stubGlobal('fetch', async (_path: string, init: RequestInit) => {
    await new Promise((resolve) => setTimeout(resolve, 5));
    if (init.method === 'PUT') {
      const said = JSON.parse(init.body as string) as Partial<typeof kept>;
      if (said.names?.includes('refused')) return new Response('{"error":"No such name."}', { status: 422 });
      kept = { ...kept, ...said };
    }
    return new Response(JSON.stringify(kept));
  });
});
afterEach(() => vi.unstubAllGlobals());

/** Stands in for a list of the shop’s. */
const change = (of: (names: string[]) => string[]) =>
  changeSettings((now) => ({ names: of((now as unknown as typeof kept).names) }) as never);

it('takes two presses one after the other, and what another window has done meanwhile', async () => {
  const forgotten = ['a', 'b'].map((name) => change((names) => names.filter((one) => one !== name)));
  kept = { ...kept, names: [...kept.names, 'theirs'] };
  await Promise.all(forgotten);
  expect(kept).toEqual({ names: ['c', 'theirs'], unit: 'mm' });
});

it('says what is refused, and goes on with the next', async () => {
  const [refused, taken] = [change((names) => [...names, 'refused']), change((names) => [...names, 'd'])];
  await expect(refused).rejects.toThrow('No such name.');
  await taken;
  expect(kept.names).toEqual(['a', 'b', 'c', 'd']);
});
