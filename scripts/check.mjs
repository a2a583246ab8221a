// Looks through a data folder and says what is wrong: npm run check -- [FOLDER] [--mend]
import { spawnSync } from 'node:child_process';
import { installWhenStale } from './install.mjs';

installWhenStale();
const { buildNode, root } = await import('./node-build.mjs');
await buildNode();
const { status } = spawnSync(process.execPath, ['dist-node/check.js', ...process.argv.slice(2)], {
  cwd: root,
  stdio: 'inherit'
});
process.exit(status ?? 1);
