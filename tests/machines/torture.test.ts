import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { expect, it } from 'vitest';

/** A short one of `npm run torture`; figures of a long one are in docs/safety.md. */
it('a server that is killed again and again loses nothing that it said yes to, and knows all that was printed', async () => {
  const child = spawn(process.execPath, ['dist-node/torture.js', '--rounds', '20', '--seed', '2'], {
    stdio: ['ignore', 'pipe', 'inherit']
  });
  let said = '';
  child.stdout.on('data', (text: Buffer) => (said += text.toString()));
  const [code] = (await once(child, 'exit')) as [number];
  expect(said).toMatch(/^wrong\t0$/m);
  expect(Number(/^acts acknowledged\t(\d+)$/m.exec(said)?.[1])).toBeGreaterThan(100);
  expect(code).toBe(0);
});
