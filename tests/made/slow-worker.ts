import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { workerData } from 'node:worker_threads';

/** A thread whose module takes its time, and awaits at its top, as the interpreter's does. What it is given is a folder. */

const folder = workerData as string;
const SLOW_MS = 400;

writeFileSync(join(folder, 'begins'), '');
const until = performance.now() + SLOW_MS;
while (performance.now() < until);
await Promise.resolve();
writeFileSync(join(folder, 'has begun'), '');

export const nothing = (): undefined => undefined;
