import { existsSync, writeFileSync } from 'node:fs';
import { threadId } from 'node:worker_threads';
import { endingOnTraps } from '$lib/server/platform/workers/ending-on-traps';

/** Work for a thread whose module breaks: a WebAssembly module whose one function is `unreachable`. */
const broken = new WebAssembly.Instance(
  new WebAssembly.Module(
    Uint8Array.from(
      [
        [0, 0x61, 0x73, 0x6d, 1, 0, 0, 0],
        [1, 4, 1, 0x60, 0, 0],
        [3, 2, 1, 0],
        [7, 5, 1, 1, 0x66, 0, 0],
        [10, 5, 1, 3, 0, 0, 0x0b]
      ].flat()
    )
  )
).exports as { f: () => void };

/** Breaks the first time that a file is not there. @returns the thread that it did not break in */
export const once = endingOnTraps((file: string): number => {
  if (existsSync(file)) return threadId;
  writeFileSync(file, String(threadId));
  broken.f();
  return -1;
});
export const always = endingOnTraps((): void => broken.f());
const deeper = (n: number): number => 1 + deeper(n + 1);
/** Runs out of stack, which leaves a module as a trap does. */
export const deep = endingOnTraps((): number => deeper(0));
export const fails = endingOnTraps((what: string): never => {
  throw new Error(what);
});
