// Everything that says whether Zing Mast works: types, lint, format, unit tests, build, stand-ins, the browser.
import { spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { installWhenStale } from './install.mjs';

installWhenStale();
const { CHROMIUM, installDebianPackages } = await import('./chromium.mjs');
const { root } = await import('./node-build.mjs');

const missing = installDebianPackages({
  [CHROMIUM]: 'chromium',
  '/usr/bin/tiffinfo': 'libtiff-tools',
  '/usr/bin/ipptool': 'cups-ipp-utils',
  '/usr/sbin/cupsd': 'cups',
  '/usr/bin/transicc': 'liblcms2-utils',
  '/usr/bin/gs': 'ghostscript',
  '/usr/bin/hb-shape': 'libharfbuzz-bin',
  '/usr/bin/rsvg-convert': 'librsvg2-bin'
});
if (missing.includes('chromium')) {
  console.error(
    'The browser tests need Chromium. Install it with “apt-get install chromium” as root, or set CHROMIUM to where it is, then run npm test again.'
  );
  process.exit(1);
}
if (missing.length > 0) console.log(`Not here, so that checks by other readers are left out: ${missing.join(', ')}.`);

const bin = (name) => `node_modules/.bin/${name}`;

const failed = (title) => {
  console.error(`\n${title} failed; what is above says why.`);
  process.exit(1);
};
const inSeconds = (started) => `${((Date.now() - started) / 1000).toFixed(0)} s`;

/** One after another, each seen while it works. */
const step = (title, command, args) => {
  console.log(`\n── ${title}`);
  const started = Date.now();
  const { status } = spawnSync(command, args, { cwd: root, stdio: 'inherit', shell: false });
  console.log(`── ${title}: ${inSeconds(started)}`);
  if (status !== 0) failed(title);
};

/** Each of these keeps one processor busy and needs nothing of the others: all at once, told when each has ended. */
const together = async (steps) => {
  const work = steps.map(async ([title, command, args]) => {
    const started = Date.now();
    const child = spawn(command, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'], shell: false });
    let told = '';
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (bytes) => (told += bytes));
    const [code] = await once(child, 'close');
    console.log(`\n── ${title}\n${told}── ${title}: ${inSeconds(started)}`);
    return code === 0 ? undefined : title;
  });
  const title = (await Promise.all(work)).find(Boolean);
  if (title) failed(title);
};

step('Types', bin('svelte-kit'), ['sync']);
step('Build', process.execPath, ['scripts/build.mjs']);
await together([
  ['Types of all files', bin('svelte-check'), ['--threshold', 'warning', '--output', 'human']],
  ['Lint', bin('eslint'), ['.', '--max-warnings', '0']],
  ['Order of imports', bin('depcruise'), ['core', 'src', 'protocol', 'standins', 'demo']],
  ['What nothing uses', bin('knip'), ['--no-progress']],
  ['Format', bin('prettier'), ['--check', '--log-level', 'warn', '.']]
]);
step('Unit tests and stand-ins', bin('vitest'), ['run']);
step('Browser tests', bin('playwright'), ['test']);
console.log('\nAll is well.');
