// Builds the application: workers, stand-ins and compiled loops, then the server and the pages.
import { spawnSync } from 'node:child_process';
import { copyFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { buildNode, isFresh, root } from './node-build.mjs';

export async function buildAll() {
  await buildNode();
  const stamp = join(root, 'build/.stamp');
  if (
    isFresh(
      stamp,
      'src',
      'core',
      'protocol',
      'static',
      'svelte.config.js',
      'vite.config.ts',
      'scripts/server.mjs',
      'package-lock.json'
    )
  )
    return;
  const { status } = spawnSync(process.execPath, [join(root, 'node_modules/vite/bin/vite.js'), 'build', '--logLevel', 'warn'], {
    cwd: root,
    stdio: 'inherit'
  });
  if (status !== 0) throw new Error('The build failed; what is above says why.');
  // The adapter's own listens to everybody.
  copyFileSync(join(root, 'scripts/server.mjs'), join(root, 'build/index.js'));
  writeFileSync(stamp, new Date().toISOString());
}

if (import.meta.url === `file://${process.argv[1]}`) await buildAll();
