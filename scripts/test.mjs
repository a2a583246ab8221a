// Everything that says whether Zing Mast works: types, lint, format, unit tests, build, stand-ins, the browser.
import { spawnSync } from 'node:child_process';
import { installWhenStale } from './install.mjs';

installWhenStale();
const { CHROMIUM, installDebianPackages } = await import('./chromium.mjs');
const { root } = await import('./node-build.mjs');

const missing = installDebianPackages({
  [CHROMIUM]: 'chromium',
  '/usr/bin/tiffinfo': 'libtiff-tools',
  '/usr/bin/ipptool': 'cups-ipp-utils',
  '/usr/bin/transicc': 'liblcms2-utils',
  '/usr/bin/gs': 'ghostscript',
  '/usr/bin/rsvg-convert': 'librsvg2-bin'
});
if (missing.includes('chromium')) {
  console.error(
    'The browser tests need Chromium. Install it with “apt-get install chromium” as root, or set CHROMIUM to where it is, then run npm test again.'
  );
  process.exit(1);
}
if (missing.length > 0) console.log(`Not here, so that checks by other readers are left out: ${missing.join(', ')}.`);

const step = (title, command, args) => {
  console.log(`\n── ${title}`);
  const started = Date.now();
  const { status } = spawnSync(command, args, { cwd: root, stdio: 'inherit', shell: false });
  console.log(`── ${title}: ${((Date.now() - started) / 1000).toFixed(0)} s`);
  if (status !== 0) {
    console.error(`\n${title} failed; what is above says why.`);
    process.exit(1);
  }
};
const bin = (name) => `node_modules/.bin/${name}`;

step('Types', bin('svelte-kit'), ['sync']);
step('Build', process.execPath, ['scripts/build.mjs']);
step('Types of all files', bin('svelte-check'), ['--threshold', 'warning', '--output', 'human']);
step('Lint', bin('eslint'), ['.', '--max-warnings', '0']);
step('Order of imports', bin('depcruise'), ['core', 'src', 'protocol', 'standins', 'demo']);
step('What nothing uses', bin('knip'), ['--no-progress']);
step('Format', bin('prettier'), ['--check', '--log-level', 'warn', '.']);
step('Unit tests and stand-ins', bin('vitest'), ['run']);
step('Browser tests', bin('playwright'), ['test']);
console.log('\nAll is well.');
