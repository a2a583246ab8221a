// Fifty people at one shop, each looking at lists, dockets and the Floor, searching and changing things: npm run torture -- --load
import { setTimeout } from 'node:timers/promises';
import { parseArgs } from 'node:util';
import { openFullShop, percentile, timed } from './open-full-shop.mjs';

const { values } = parseArgs({
  options: {
    load: { type: 'boolean' },
    clients: { type: 'string', default: '50' },
    seconds: { type: 'string', default: '180' },
    dockets: { type: 'string', default: '2000' }
  }
});
/** Between two things that a person does, ms at most. */
const PAUSE_MS = 300;
/** Reads are answered within, at the 99th of 100, ms. */
const MOST_P99_MS = 500;
const dockets = Number(values.dockets);

const shop = await openFullShop({ dockets, artworks: dockets / 4 });
const { url, call } = shop;
const any = (of) => of[Math.floor(Math.random() * of.length)];
const someDocket = () => 1 + Math.floor(Math.random() * dockets);
const READS = [
  () => '/api/floor',
  () => '/dockets/__data.json',
  () => `/api/lists/dockets?q=${any(['harbour', 'quay', 'flag', 'lodz', 'tags 1'])}`,
  () => `/api/lists/dockets?sort=${any(['-due', 'customer', '-check'])}&from=${any([0, 100, 700])}`,
  () => '/api/lists/artwork?sort=name',
  () => '/api/lists/runs?list=printed',
  () => `/dockets/${someDocket()}/__data.json`,
  () => `/api/search?q=${any(['regatta', 'run 4', 'film', 'board 12'])}`,
  () => '/api/settings'
];
const reads = [];
const writes = [];
const errors = [];
const end = Date.now() + Number(values.seconds) * 1000;

async function write() {
  const id = someDocket();
  const began = performance.now();
  if (Math.random() < 0.5) {
    const { version } = await call('GET', `/dockets/${id}`);
    await call('PUT', `/dockets/${id}`, { version, note: `seen at ${Date.now()}`, joins: true });
  } else await call('POST', '/dockets/many', { ids: [id, id + 1], what: any(['put away', 'bring back']) });
  writes.push(performance.now() - began);
}
async function person() {
  const listening = new AbortController();
  void fetch(`${url}/api/events`, { signal: listening.signal })
    .then(async ({ body }) => {
      for await (const bytes of body) void bytes;
    })
    .catch(() => undefined);
  while (Date.now() < end) {
    try {
      if (Math.random() < 0.1) await write();
      else reads.push(await timed(url + any(READS)()));
    } catch (error) {
      // Two people at one docket: the second is told, and that is as it should be.
      if (!/another window/.test(String(error))) errors.push(String(error.cause ?? error));
    }
    await setTimeout(Math.random() * PAUSE_MS);
  }
  listening.abort();
}

await Promise.all(Array.from({ length: Number(values.clients) }, person));
await shop.close();
const p99 = percentile(reads, 0.99);
console.log(`reads\t${reads.length}\t${(reads.length / Number(values.seconds)).toFixed(0)} a second`);
console.log(`read p50\t${percentile(reads, 0.5).toFixed(1)}\tms\nread p99\t${p99.toFixed(1)}\tms`);
console.log(`writes\t${writes.length}\nwrite p99\t${percentile(writes, 0.99).toFixed(1)}\tms`);
console.log(`errors\t${errors.length}`);
for (const error of errors.slice(0, 10)) console.log(`  ${error}`);
process.exit(errors.length > 0 || p99 > MOST_P99_MS ? 1 : 0);
