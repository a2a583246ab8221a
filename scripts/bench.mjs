// Prints one line a figure: name, value, unit. Names as arguments choose some. A fresh process a figure, so that memory is told apart.
import { spawnSync } from 'node:child_process';
import { buildNode, root } from './node-build.mjs';

await buildNode();
const names = [
  'rip-page',
  'rip-peak-memory',
  'rip-stickers',
  'rip-memory-growth',
  'facts-100-pages',
  'facts-50k-paths',
  'trace-24mpx',
  'trace-error'
];
const chosen = process.argv.slice(2);
const unknown = chosen.filter((name) => !names.includes(name));
if (unknown.length > 0) {
  console.error(`There is no figure named ${unknown.join(', ')}. There are: ${names.join(', ')}.`);
  process.exit(2);
}
for (const name of chosen.length > 0 ? chosen : names) {
  const { status } = spawnSync(process.execPath, ['dist-node/bench.js', name], { cwd: root, stdio: 'inherit' });
  if (status !== 0) process.exit(status ?? 1);
}
