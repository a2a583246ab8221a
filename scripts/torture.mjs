// Kills the server again and again in the middle of its work, and looks what is lost: npm run torture -- --rounds 200
import { spawnSync } from 'node:child_process';
import { installWhenStale } from './install.mjs';

installWhenStale();
const { buildAll } = await import('./build.mjs');
const { root } = await import('./node-build.mjs');
await buildAll();
if (process.argv.includes('--load')) await import('./load.mjs');
const { status } = spawnSync(process.execPath, ['dist-node/torture.js', ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit'
});
process.exit(status ?? 1);
