// Debian's Chromium, as the pictures and the browser tests start it.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';

export const CHROMIUM = process.env.CHROMIUM ?? '/usr/bin/chromium';
export const CHROMIUM_ARGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync'
];

/** Programs that tests want, with the Debian package of each. @returns what is still missing */
export function installDebianPackages(wanted) {
  const missing = () => Object.entries(wanted).filter(([program]) => !existsSync(program));
  if (missing().length > 0 && process.getuid?.() === 0) {
    const packages = missing().map(([, name]) => name);
    console.log(`Installing ${packages.join(', ')} with apt-get.`);
    spawnSync('apt-get', ['update', '-q'], { stdio: 'ignore' });
    spawnSync('apt-get', ['install', '-y', '-q', '--no-install-recommends', ...packages], {
      stdio: ['ignore', 'ignore', 'inherit'],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
    });
  }
  return missing().map(([, name]) => name);
}
