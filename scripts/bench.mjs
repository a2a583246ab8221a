// Prints one line a figure: name, value, unit. Names as arguments choose some. A fresh process a figure, so that memory is told apart.
import { spawnSync } from 'node:child_process';
import { buildNode, root } from './node-build.mjs';

await buildNode();
const names = [
  'rip-page',
  'rip-seven',
  'rip-white',
  'rip-mixed',
  'grain-light',
  'rip-scaling',
  'rip-shares',
  'rip-page-vs-gs',
  'rip-page-vs-mutool',
  'rip-peak-memory',
  'rip-stickers',
  'rip-memory-growth',
  'facts-100-pages',
  'facts-50k-paths',
  'trace-24mpx',
  'trace-error'
];
// Of one round, in one process.
const colourNames = [
  'linear-departure',
  'a2b-mean',
  'a2b-p95',
  'roundtrip-mean',
  'roundtrip-p95',
  'lcms-difference',
  'ink-over',
  'ramp-step',
  'ramp-reversal',
  'profile-build'
];
// Named colours and proofs, by what they come to in truth.
const matchingNames = [
  'spot-mean',
  'spot-worst',
  'proof-ms',
  'proof-mean',
  'match-before',
  'match-after',
  'match-hue-before',
  'match-hue-curves',
  'match-hue-after'
];
const layoutNames = ['pack-1s', 'pack-5s', 'pack-straight', 'pack-1000', 'shape-20s'];
// What comes in: drawings at full speed, and gradients through one thread.
const intakeNames = ['intake-250', 'soak-gradients'];
// One design and ten thousand records.
const recordNames = ['records-check', 'records-rip', 'records-memory', 'codes-read'];
// Places in photos of a loaded jig.
const jigNames = ['jig-find', 'jig-find-s'];
// Walls in panels.
const panelNames = ['seam-calm', 'panel-plan', 'panel-memory'];
// What lies in the cutter, and the way of the knife.
const cutNames = ['cut-wrong', 'cut-taken', 'cut-worst', 'cut-order-20000', 'cut-travel'];
// In a browser, on the built application.
const panNames = ['pan-5000', 'jig-5000'];
// A folder that a thousand files are put into.
const folderNames = ['folder-1000', 'folder-page-p95', 'folder-page-worst'];
// Of a shop of a year.
const { benchLists, LIST_FIGURES } = await import('./bench-lists.mjs');
const chosen = process.argv.slice(2);
const all = [
  ...names,
  ...colourNames,
  ...matchingNames,
  ...layoutNames,
  ...intakeNames,
  ...recordNames,
  ...cutNames,
  ...jigNames,
  ...panelNames,
  ...panNames,
  ...folderNames,
  ...LIST_FIGURES
];
const unknown = chosen.filter((name) => !all.includes(name));
if (unknown.length > 0) {
  console.error(`There is no figure named ${unknown.join(', ')}. There are: ${all.join(', ')}.`);
  process.exit(2);
}
const wanted = chosen.length > 0 ? chosen : all;
function run(script, args) {
  const { status } = spawnSync(process.execPath, [`dist-node/${script}.js`, ...args], { cwd: root, stdio: 'inherit' });
  if (status !== 0) process.exit(status ?? 1);
}
for (const name of wanted.filter((one) => names.includes(one))) run('bench', [name]);
const colours = wanted.filter((one) => colourNames.includes(one));
if (colours.length > 0) run('bench-colour', colours);
const matching = wanted.filter((one) => matchingNames.includes(one));
if (matching.length > 0) run('bench-matching', matching);
const layouts = wanted.filter((one) => layoutNames.includes(one));
if (layouts.length > 0) run('bench-layout', layouts);
const intakes = wanted.filter((one) => intakeNames.includes(one));
if (intakes.length > 0) run('bench-intake', intakes);
const cuts = wanted.filter((one) => cutNames.includes(one));
if (cuts.length > 0) run('bench-cutting', cuts);
const jigs = wanted.filter((one) => jigNames.includes(one));
if (jigs.length > 0) run('bench-jig', jigs);
const panels = wanted.filter((one) => panelNames.includes(one));
if (panels.length > 0) run('bench-panels', panels);
// A process a figure: memory is told apart.
for (const name of wanted.filter((one) => recordNames.includes(one))) run('bench-records', [name]);
for (const name of wanted.filter((one) => panNames.includes(one))) {
  const { panFrames } = await import('./bench-pan.mjs');
  console.log(`${name}\t${(await panFrames(name)).toFixed(2)}\tms`);
}
const folders = wanted.filter((one) => folderNames.includes(one));
if (folders.length > 0) {
  const { benchFolder } = await import('./bench-folder.mjs');
  const found = await benchFolder();
  for (const name of folders) console.log(`${name}\t${found[name].toFixed(2)}\t${name === 'folder-1000' ? 's' : 'ms'}`);
}
const lists = wanted.filter((one) => LIST_FIGURES.includes(one));
if (lists.length > 0) await benchLists(lists, (name, value, unit) => console.log(`${name}\t${value.toFixed(2)}\t${unit}`));
