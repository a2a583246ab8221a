// Loaded into a server that is measured (`node --import`): how long its loop stood still, asked for by a signal.
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { isMainThread } from 'node:worker_threads';

if (isMainThread) {
  const RESOLUTION_MS = 1;
  const delay = monitorEventLoopDelay({ resolution: RESOLUTION_MS });
  delay.enable();
  // The longest since it was last asked, ms, on a line of its own.
  process.on('SIGUSR2', () => {
    process.stdout.write(`\nloop-stall ${(delay.max / 1e6 - RESOLUTION_MS).toFixed(1)}\n`);
    delay.reset();
  });
}
