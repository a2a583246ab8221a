// The server with live reload, and the demo's stand-ins beside it. Workers are built when it starts.
import { spawn } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { installWhenStale } from './install.mjs';

installWhenStale();
const { buildNode, root } = await import('./node-build.mjs');
const { startMachines, seed } = await import('./stack.mjs');
await buildNode();
const data = process.env.ZING_DATA ?? join(root, '.data');
mkdirSync(data, { recursive: true });
const machines = await startMachines(join(data, 'printer'), 'full');
await seed(data, machines);
const vite = spawn(
  process.execPath,
  [
    join(root, 'node_modules/vite/bin/vite.js'),
    'dev',
    '--host',
    '127.0.0.1',
    ...(process.env.PORT ? ['--strictPort', '--port', process.env.PORT] : [])
  ],
  { cwd: root, env: { ...process.env, ZING_DATA: data }, stdio: 'inherit' }
);
const children = [vite, ...Object.values(machines).map(({ child }) => child)];
const stop = () => children.forEach((child) => child.kill());
process.on('SIGINT', stop);
process.on('SIGTERM', stop);
vite.on('exit', stop);
