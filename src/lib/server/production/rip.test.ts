import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Piscina } from 'piscina';
import { describe, expect, it } from 'vitest';
import { fourInks } from '$core/inks/ink-set';
import { temporaryFolder } from '../../../../tests/harness';
import { ripToFile } from './rip';
import type { RipJob } from './rip-job';

const job = {
  id: 'x',
  plan: {
    widthMm: 20,
    lengthMm: 10,
    dpi: { x: 360, y: 360 },
    sources: [],
    pieces: [],
    marks: [],
    inks: fourInks([6, 13, 21]),
    totalInk: null
  },
  method: 'blue-noise'
} as unknown as RipJob;

/** A pool whose threads break so many times. */
function pool(breaks: number): { pool: Piscina; runs: () => number } {
  let runs = 0;
  const run = (_request: unknown, { signal }: { signal: AbortSignal }) =>
    new Promise((_resolve, reject) => {
      runs++;
      const error = runs <= breaks ? new Error('worker exited with code: 70') : new Error('no more');
      signal.addEventListener('abort', () => reject(new Error('aborted')));
      setTimeout(() => reject(error), 5);
    });
  return { pool: { run, options: { maxThreads: 2 } } as unknown as Piscina, runs: () => runs };
}

describe('a RIP whose thread breaks', () => {
  const tried = async (breaks: number) => {
    const folder = temporaryFolder();
    const files = { plates: join(folder.path, 'p'), overview: join(folder.path, 'o'), coarse: join(folder.path, 'c') };
    const broken = pool(breaks);
    const error = await ripToFile(broken.pool, job, files, new AbortController().signal, () => undefined).catch((e: Error) => e);
    expect(readdirSync(folder.path)).toEqual([]);
    folder.remove();
    return { runs: broken.runs(), said: (error as Error).message };
  };

  it('begins once more, all of it', async () => {
    const { runs, said } = await tried(1);
    expect(runs).toBeGreaterThan(1);
    expect(said).toBe('no more');
  });

  it('is given up the second time, with a sentence', async () => {
    const { runs, said } = await tried(9);
    expect(runs).toBe(2);
    expect(said).toMatch(/breaks the program that draws it.*ask for its file anew/);
  });
});
