// Takes a folder of artwork through intake, preview and a small RIP, and compares with another renderer: npm run outside -- FOLDER …
import { spawnSync } from 'node:child_process';
import { installWhenStale } from './install.mjs';

installWhenStale();
const { buildNode, root } = await import('./node-build.mjs');
await buildNode();
const { status } = spawnSync(process.execPath, ['dist-node/outside.js', ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit'
});
process.exit(status ?? 1);
