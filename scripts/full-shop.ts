import { mkdirSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { makeFullShop } from '../tests/made/full-shop';

/** Makes a data folder of a shop that has worked for a year, for benchmarks and browser tests. */

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: {
    printer: { type: 'string' },
    dockets: { type: 'string', default: '10000' },
    artworks: { type: 'string', default: '5000' },
    runs: { type: 'string', default: '300' }
  }
});
const [folder] = positionals;
if (!folder || !values.printer) throw new Error('Say where, and the printer: full-shop FOLDER --printer URL');
mkdirSync(folder, { recursive: true });
const made = await makeFullShop(folder, values.printer, {
  artworks: Number(values.artworks),
  dockets: Number(values.dockets),
  printedRuns: Number(values.runs)
});
console.log(JSON.stringify(made));
process.exit(0);
