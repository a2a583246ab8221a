import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { ListQuery } from '../src/lib/listing';
import type { PrintMode } from '../core/media/modes';
import { ALL_MODES } from '../standins/printer/modes';

/** Starts stand-ins as processes of their own, and gives their addresses. */

export interface StandIn {
  url: string;
  hpglPort: number;
  port: string;
  /** Ends it; `SIGKILL` as if its current failed. */
  stop: (signal?: 'SIGTERM' | 'SIGKILL') => void;
}

export function startStandIn(
  name: 'printer' | 'cutter' | 'instrument' | 'library',
  env: Record<string, string> = {}
): Promise<StandIn> {
  const child: ChildProcess = spawn(process.execPath, [`dist-node/${name}.js`], {
    env: { ...process.env, PORT: '0', SPEED: 'full', ...env },
    stdio: ['ignore', 'pipe', 'inherit']
  });
  return new Promise((resolve, reject) => {
    child.once('exit', (code) => reject(new Error(`The ${name} stopped with ${code}.`)));
    child.stdout?.once('data', (line: Buffer) => {
      const { port, hpglPort } = JSON.parse(line.toString()) as { port: number; hpglPort?: number };
      resolve({
        url: `http://127.0.0.1:${port}`,
        port: String(port),
        hpglPort: hpglPort ?? 0,
        stop: (signal) => child.kill(signal)
      });
    });
  });
}

/** 720 × 720, 8 passes, of the printer stand-in. */
export const USUAL_MODE = ALL_MODES.find(
  (mode) => mode.code === 'Petrel 13/Harbour/calendered/720/8/both ways/quality'
) as PrintMode;

/** A print mode of the stand-ins by its code. */
export const modeOf = (code: string): PrintMode => ALL_MODES.find((mode) => mode.code === code) as PrintMode;

/** All of a list, the newest first, also what is put away. */
export const ALL: ListQuery = {
  words: '',
  sort: 'number',
  down: true,
  facets: { list: ['open', 'put away', 'to cut', 'cut', 'printed'] }
};

/** A folder of its own that is gone afterwards. */
export function temporaryFolder(): { path: string; remove: () => void } {
  const path = mkdtempSync(join(tmpdir(), 'zing-test-'));
  return { path, remove: () => removeFolder(path) };
}

/** A server that was told to end may be writing its last file: then all of it is gone through again, which retries of `rmSync` are not. */
function removeFolder(path: string, triesLeft = 100): void {
  try {
    rmSync(path, { recursive: true, force: true });
  } catch (error) {
    if (triesLeft === 0 || (error as NodeJS.ErrnoException).code !== 'ENOTEMPTY') throw error;
    Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 100);
    removeFolder(path, triesLeft - 1);
  }
}

/** Looks again and again until something is so. @throws after `seconds` */
export async function until<T>(look: () => T | Promise<T>, seconds = 280): Promise<NonNullable<T>> {
  const end = Date.now() + seconds * 1000;
  for (;;) {
    const found = await look();
    if (found) return found;
    if (Date.now() > end) throw new Error(`This did not come true in ${seconds} s: ${look.toString().slice(0, 200)}`);
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

export async function* oneChunk(bytes: Uint8Array | string): AsyncGenerator<Uint8Array> {
  yield await Promise.resolve(typeof bytes === 'string' ? new TextEncoder().encode(bytes) : bytes);
}
