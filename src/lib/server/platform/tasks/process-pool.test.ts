import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, afterEach, describe, expect, it } from 'vitest';
import { until } from '../../../../../tests/harness';
import { ProcessPool, WorkEnded, type PoolShape } from './process-pool';

const folder = mkdtempSync(join(tmpdir(), 'zing-pool-'));
const script = join(folder, 'work.mjs');
writeFileSync(
  script,
  `import { spawn } from 'node:child_process';
   import { existsSync, writeFileSync } from 'node:fs';
   const kept = [];
   const work = {
     add: ([a, b]) => a + b,
     process: () => process.pid,
     fail: () => { throw new Error('no such figure'); },
     hang: () => { for (;;); },
     waits: (ms) => new Promise((r) => setTimeout(r, ms, 'waited')),
     starts: (file) => { writeFileSync(file, String(spawn('sleep', ['600']).pid)); for (;;); },
     eat: () => { for (;;) kept.push(Buffer.alloc(2e7, 1)); },
     needs: (megabytes) => { process.send({ needs: megabytes }); kept.push(Buffer.alloc(3e8, 1)); return new Promise((r) => setTimeout(r, 500, 'fits')); },
     tells: (steps) => { for (let i = 1; i <= steps; i++) process.send({ done: i / steps }); return 'told'; },
     breaks: () => process.exit(70),
     breaksOnce: (file) => { if (existsSync(file)) return 'done'; writeFileSync(file, ''); process.exit(70); }
   };
   process.on('message', async ({ name, request }) => {
     let answer;
     try { answer = { ok: true, value: await work[name](request) }; } catch (error) { answer = { ok: false, error: error.message, fault: 'file' }; }
     process.send(answer);
   });
   process.on('disconnect', () => process.exit());`
);
const AMPLE = { seconds: 20, megabytes: 1000 };
let pool: ProcessPool;
const make = (shape: PoolShape) => (pool = new ProcessPool(script, shape));
afterEach(() => pool.destroy());
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const cause = (work: Promise<unknown>) =>
  work.then(
    () => 'done',
    (error: unknown) => (error instanceof WorkEnded ? error.cause : String(error))
  );

describe('processes for work that may go wrong', () => {
  it('answer, one after another in the same process, several at once', async () => {
    make({ lanes: 2 });
    const sums = await Promise.all(Array.from({ length: 20 }, (_, i) => pool.run<number>('add', [i, 1], AMPLE)));
    expect(sums).toEqual(Array.from({ length: 20 }, (_, i) => i + 1));
    const ids = new Set(await Promise.all(Array.from({ length: 8 }, () => pool.run<number>('process', null, AMPLE))));
    expect(ids.size).toBe(2);
    await expect(pool.run('fail', null, AMPLE)).rejects.toThrow('no such figure');
  });

  it('tell how much is done before they answer, each to whoever asked', async () => {
    make({ lanes: 2 });
    const told: number[][] = [[], []];
    const tell = (steps: number, to: number) =>
      pool.run<string>('tells', steps, AMPLE, undefined, (share) => told[to]!.push(share));
    expect(await Promise.all([tell(4, 0), tell(2, 1), pool.run('tells', 3, AMPLE)])).toEqual(['told', 'told', 'told']);
    expect(told).toEqual([
      [0.25, 0.5, 0.75, 1],
      [0.5, 1]
    ]);
  });

  it('are ended when they take too long or too much memory, and the next work is done', async () => {
    make({ lanes: 1 });
    const [late, fat, fine] = await Promise.all([
      cause(pool.run('hang', null, { seconds: 1, megabytes: 1000 })),
      cause(pool.run('eat', null, { seconds: 20, megabytes: 400 })),
      pool.run('add', [1, 2], AMPLE)
    ]);
    expect([late, fat, fine]).toEqual(['time', 'memory', 3]);
    // What the work itself found to need comes on top of the limit.
    expect(await cause(pool.run('needs', 0, { seconds: 20, megabytes: 200 }))).toBe('memory');
    expect(await pool.run('needs', 400, { seconds: 20, megabytes: 200 })).toBe('fits');
  });

  it('are given the time that they compute, and some more by the clock when they do not come to it', async () => {
    make({ lanes: 1 });
    const short = { seconds: 0.5, megabytes: 1000 };
    // What it computes to begin is not the work's.
    await pool.run('add', [1, 1], AMPLE);
    expect(await pool.run('waits', 1500, short)).toBe('waited');
    expect(await cause(pool.run('waits', 60_000, short))).toBe('stalled');
    expect(await cause(pool.run('hang', null, short))).toBe('time');
  });

  it('that break are replaced: the work is tried once more, and only then at fault', async () => {
    make({ lanes: 1 });
    expect(await pool.run('breaksOnce', join(folder, 'once'), AMPLE)).toBe('done');
    expect(await cause(pool.run('breaks', null, AMPLE))).toBe('broke');
    expect(await pool.run('add', [2, 2], AMPLE)).toBe(4);
  });

  it('are ended with all that they started', async () => {
    make({ lanes: 1 });
    const file = join(folder, 'started');
    expect(await cause(pool.run('starts', file, { seconds: 1, megabytes: 1000 }))).toBe('time');
    // Gone, or ended and not yet fetched by whoever is its parent now.
    const status = `/proc/${readFileSync(file, 'utf8')}/stat`;
    await until(() => !existsSync(status) || /\) [ZX] /.test(readFileSync(status, 'utf8')));
  });

  it('hold nobody up: what is slow begins again in lanes of its own', async () => {
    make({ lanes: 1, slow: { afterSeconds: 0.3, lanes: 1 } });
    const stop = new AbortController();
    // None of these ends by itself: were they not put aside, nothing else would ever be done.
    const endless = { seconds: 10_000, megabytes: 1000 };
    const slow = Array.from({ length: 4 }, () => cause(pool.run('hang', null, endless, stop.signal)));
    const quick = await Promise.all(Array.from({ length: 10 }, (_, i) => pool.run('add', [i, i], AMPLE)));
    expect(quick).toEqual(Array.from({ length: 10 }, (_, i) => 2 * i));
    stop.abort(new Error('cancelled'));
    expect(await Promise.all(slow)).toEqual(Array(4).fill('Error: cancelled'));
    // Begun again it has all its time.
    const started = performance.now();
    expect(await cause(pool.run('hang', null, { seconds: 1.2, megabytes: 1000 }))).toBe('time');
    expect(performance.now() - started).toBeGreaterThan(1500);
  });

  it('are cancelled, waiting or at work', async () => {
    make({ lanes: 1 });
    const stop = new AbortController();
    const both = [pool.run('hang', null, AMPLE, stop.signal), pool.run('hang', null, AMPLE, stop.signal)].map(cause);
    setTimeout(() => stop.abort(new Error('cancelled')), 200);
    expect(await Promise.all(both)).toEqual(['Error: cancelled', 'Error: cancelled']);
    expect(await pool.run('add', [3, 4], AMPLE)).toBe(7);
  });
});
