import { existsSync, readFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { build } from 'vite';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { temporaryFolder, until } from '../../../../../tests/harness';
import { SecondTry, Threads } from './pool';

const folder = temporaryFolder();
let pool: SecondTry;

beforeAll(async () => {
  await build({
    configFile: false,
    logLevel: 'error',
    resolve: { alias: { $core: resolve('core'), $lib: resolve('src/lib') } },
    build: {
      ssr: true,
      target: 'node20',
      outDir: folder.path,
      rollupOptions: {
        input: { breaking: 'tests/made/breaking-worker.ts', slow: 'tests/made/slow-worker.ts' },
        output: { entryFileNames: '[name].mjs', format: 'es' }
      }
    }
  });
  pool = new SecondTry({ filename: join(folder.path, 'breaking.mjs'), minThreads: 0, maxThreads: 1 });
  pool.on('error', () => undefined);
});
afterAll(async () => {
  await pool.destroy();
  folder.remove();
});

// Broken off there it takes the process with it, and this test too.
it('is not ended before it has begun', async () => {
  const threads = new Threads({
    filename: join(folder.path, 'slow.mjs'),
    minThreads: 0,
    maxThreads: 1,
    workerData: folder.path
  });
  const work = threads.run(null, { name: 'nothing' }).catch(() => 'broken off');
  await until(() => existsSync(join(folder.path, 'begins')));
  expect(existsSync(join(folder.path, 'has begun'))).toBe(false);
  await threads.destroy();
  expect(existsSync(join(folder.path, 'has begun'))).toBe(true);
  expect(threads.threads).toEqual([]);
  await work;
});

describe('a thread whose module breaks', () => {
  it('is ended, and the work done in a fresh one', async () => {
    const file = join(folder.path, 'broke-in');
    const thread = (await pool.run(file, { name: 'once' })) as number;
    expect(thread).toBeGreaterThan(Number(readFileSync(file, 'utf8')));
    // The fresh one goes on.
    expect(await pool.run(file, { name: 'once' })).toBe(thread);
  });

  it('twice is told in words that an operator understands', async () => {
    for (const name of ['always', 'deep'])
      await expect(pool.run(null, { name })).rejects.toThrow(/^This breaks the program that works on it/);
  });

  it('is not ended by what is no trap', async () => {
    const file = join(folder.path, 'broke-in');
    const thread = await pool.run(file, { name: 'once' });
    await expect(pool.run('no such figure', { name: 'fails' })).rejects.toThrow('no such figure');
    expect(await pool.run(file, { name: 'once' })).toBe(thread);
  });
});
