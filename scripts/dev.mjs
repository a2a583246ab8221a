// The server with live reload, and the stand-ins beside it. Workers are built when it starts.
import { spawn } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { installWhenStale } from './install.mjs';

installWhenStale();
const { buildNode, root } = await import('./node-build.mjs');
const { startMachine, seed } = await import('./stack.mjs');
await buildNode();
const data = process.env.ZING_DATA ?? join(root, '.data');
mkdirSync(data, { recursive: true });
const printer = await startMachine('printer', { SPEED: 'full', FOLDER: join(data, 'printer') });
const cutter = await startMachine('cutter');
await seed(data, printer.url, cutter.url);
const vite = spawn(process.execPath, [join(root, 'node_modules/vite/bin/vite.js'), 'dev', '--host', '127.0.0.1'], {
  cwd: root,
  env: { ...process.env, ZING_DATA: data },
  stdio: 'inherit'
});
const stop = () => [printer.child, cutter.child, vite].forEach((child) => child.kill());
process.on('SIGINT', stop);
vite.on('exit', stop);
