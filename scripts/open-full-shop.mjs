// A shop that has worked for a year, on the built application, for benchmarks and load.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { on } from 'node:events';
import { pathToFileURL } from 'node:url';
import { setTimeout } from 'node:timers/promises';
import { root } from './node-build.mjs';

const FILM = { name: 'Film', surface: 'gloss', widthMm: 300, lengthMm: 90_000 };

export const percentile = (values, share) => [...values].sort((p, q) => p - q)[Math.ceil(values.length * share) - 1];

/** Starts a server on such a shop, with its printer, once all of its dockets are looked at. */
export async function openFullShop({ dockets, artworks }) {
  const { buildAll } = await import('./build.mjs');
  const { startMachine, startServer } = await import('./stack.mjs');
  await buildAll();
  const folder = mkdtempSync(join(tmpdir(), 'zing-lists-'));
  const printer = await startMachine('printer', { SPEED: 'full', FOLDER: join(folder, 'printer'), MEDIA: JSON.stringify(FILM) });
  const of = ['--dockets', String(dockets), '--artworks', String(artworks)];
  const made = spawnSync(process.execPath, ['dist-node/full-shop.js', join(folder, 'shop'), '--printer', printer.url, ...of], {
    cwd: root,
    stdio: ['ignore', 'pipe', 'inherit']
  });
  if (made.status !== 0) throw new Error('The full shop could not be made.');
  const { machineId, runId } = JSON.parse(made.stdout.toString());
  const watch = pathToFileURL(join(root, 'scripts/loop-watch.mjs')).href;
  const server = await startServer({
    ZING_DATA: join(folder, 'shop'),
    ZING_LOG: 'fatal',
    NODE_OPTIONS: `${process.env.NODE_OPTIONS ?? ''} --import ${watch}`
  });
  const { url } = server;
  const call = async (method, path, body) => {
    const headers = { origin: url, 'content-type': 'application/json' };
    const reply = await fetch(`${url}/api${path}`, { method, headers, ...(body && { body: JSON.stringify(body) }) });
    if (!reply.ok) throw new Error(`${method} ${path}: ${await reply.text()}`);
    return reply.json();
  };
  const close = async () => {
    server.child.kill();
    printer.child.kill();
    await setTimeout(300);
    rmSync(folder, { recursive: true, force: true, maxRetries: 5 });
  };
  /** ms that the server's loop stood still at most since this was last asked. */
  const stall = async () => {
    server.child.kill('SIGUSR2');
    for await (const [text] of on(server.child.stdout, 'data')) {
      const told = /loop-stall ([\d.]+)/.exec(String(text));
      if (told) return Number(told[1]);
    }
  };
  // What came in is looked at first.
  while ((await call('GET', '/lists/dockets?check=not%20looked%20at%20yet')).count > 0) await setTimeout(300);
  return { url, call, close, machineId, runId, printer, stall, pid: server.child.pid };
}

/** How long an address takes to be answered, ms. @throws where it is refused */
export const timed = async (address) => {
  const began = performance.now();
  const reply = await fetch(address);
  await reply.arrayBuffer();
  if (!reply.ok) throw new Error(`${address}: ${reply.status}`);
  return performance.now() - began;
};
