// Installs packages when they are missing or older than the lock file. Runs before any package is there.
import { spawnSync } from 'node:child_process';
import { existsSync, statSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = resolve(dirname(fileURLToPath(import.meta.url)), '..');

export function installWhenStale() {
  const installed = join(root, 'node_modules/.package-lock.json');
  if (existsSync(installed) && statSync(installed).mtimeMs >= statSync(join(root, 'package-lock.json')).mtimeMs) return;
  console.log('Installing packages. This takes a few minutes the first time.');
  const { status } = spawnSync('npm', ['ci', '--no-audit', '--no-fund'], { cwd: root, stdio: 'inherit' });
  if (status !== 0) throw new Error('The packages could not be installed; what is above says why.');
}
