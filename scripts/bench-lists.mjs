// How a shop of a year feels: its lists, its Floor, and what many open pages cost the server. On the built application.
import { readFileSync } from 'node:fs';
import { setTimeout } from 'node:timers/promises';
import { openFullShop, percentile, timed } from './open-full-shop.mjs';

const FLOORS = 20;
const LISTS = [
  '/api/lists/dockets',
  '/api/lists/dockets?q=harbour&sort=customer',
  '/api/lists/artwork',
  '/api/lists/runs',
  '/api/floor',
  '/api/search?q=regatta%20banner'
];
/** Clock ticks a second of /proc. */
const HZ = 100;

/** ms, 95th of the first page of each list, after a change each time. */
async function listMs({ url, call }) {
  const times = [];
  for (let i = 0; i < 30; i++) {
    for (const path of LISTS) {
      const id = 100 + ((i * 37) % 500);
      const { version } = await call('GET', `/dockets/${id}`);
      await call('PUT', `/dockets/${id}`, { version, note: `list ${i} ${path}` });
      const took = await timed(url + path);
      // The first ones warm up.
      if (i > 1) times.push(took);
    }
  }
  return percentile(times, 0.95);
}

/** A Floor as a browser keeps it open: it listens, and loads anew when something changed, at most every 700 ms. */
function openFloor(url) {
  const end = new AbortController();
  const { signal } = end;
  let stale = true;
  const load = async () => {
    while (!signal.aborted) {
      if (stale) {
        stale = false;
        await (await fetch(`${url}/api/floor`, { signal })).arrayBuffer();
      }
      await setTimeout(700, undefined, { signal });
    }
  };
  const listen = async () => {
    const { body } = await fetch(`${url}/api/events`, { signal });
    for await (const bytes of body) if (Buffer.from(bytes).includes('"changed"')) stale = true;
  };
  load().catch(() => undefined);
  listen().catch(() => undefined);
  return () => end.abort();
}

const cpuSeconds = (pid) => {
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1].split(' ');
  return (Number(fields[11]) + Number(fields[12])) / HZ;
};

/** Of a core, while a job prints with 20 Floors open. */
async function sse20({ url, call, machineId, runId, printer, pid }) {
  const floors = Array.from({ length: FLOORS }, () => openFloor(url));
  await setTimeout(3000);
  await fetch(`${printer.url}/speed`, { method: 'POST', body: JSON.stringify({ speed: 1 }) });
  await call('POST', `/runs/${runId}/print`, { machineId, times: 1 });
  await setTimeout(4000);
  const [began, used] = [performance.now(), cpuSeconds(pid)];
  await setTimeout(15_000);
  const share = (cpuSeconds(pid) - used) / ((performance.now() - began) / 1000);
  for (const close of floors) close();
  await fetch(`${printer.url}/speed`, { method: 'POST', body: JSON.stringify({ speed: 1e6 }) });
  return share * 100;
}

/** ms that the server's loop stands still at most while a RIP and a layout go on, plates are looked at and 20 Floors are open. */
async function stallMs({ url, call, runId, stall }) {
  const floors = Array.from({ length: FLOORS }, () => openFloor(url));
  await setTimeout(3000);
  const { rows } = await call('GET', '/lists/dockets?stage=not%20laid%20out');
  await stall();
  const { id } = await call('POST', '/runs', { docketIds: rows.slice(0, 60).map((row) => row.id) });
  const { version, rule } = await call('GET', `/runs/${id}`);
  await call('PUT', `/runs/${id}`, { version, rule: { ...rule, placing: 'close' } });
  await call('POST', `/runs/${id === runId ? runId : id}/rip`);
  for (let i = 0; i < 300 && (await call('GET', `/runs/${id}`)).state !== 'ripped'; i++) await setTimeout(200);
  const tiles = [1, 2, 4, 8, 64].map((shrink) => fetch(`${url}/api/runs/${id}/tiles?shrink=${shrink}&x=0&y=0`));
  for (const tile of await Promise.all(tiles)) {
    if (!tile.ok) throw new Error(`A tile of the run's plates was answered ${tile.status}.`);
    await tile.arrayBuffer();
  }
  const worst = await stall();
  for (const close of floors) close();
  return worst;
}

/** The Floor in a browser that has seen nothing of it: until a docket of the tray is ticked, and what came over the line. */
async function firstPage(browser, url) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
  const page = await context.newPage();
  const devtools = await context.newCDPSession(page);
  await devtools.send('Network.enable');
  const of = new Map();
  let bytes = 0;
  devtools.on('Network.responseReceived', ({ requestId, type }) => of.set(requestId, type));
  devtools.on('Network.loadingFinished', ({ requestId, encodedDataLength }) => {
    // Pictures come as they are looked at, and faces as the letters of names ask for them.
    if (!['Image', 'Font'].includes(of.get(requestId))) bytes += encodedDataLength;
  });
  const began = performance.now();
  await page.goto(url);
  await page.getByRole('button', { name: 'Lay out' }).first().waitFor();
  await page.getByRole('checkbox').first().check();
  await page.getByText('1 ticked').waitFor();
  const ms = performance.now() - began;
  await page.waitForTimeout(1000);
  await context.close();
  return { ms, kb: bytes / 1000 };
}

async function inBrowser({ url }, wanted, report) {
  const { chromium } = await import('@playwright/test');
  const { CHROMIUM, CHROMIUM_ARGS } = await import('./chromium.mjs');
  const browser = await chromium.launch({ executablePath: CHROMIUM, args: CHROMIUM_ARGS });
  try {
    if (wanted.includes('first-page-kb') || wanted.includes('first-page-ms')) {
      // The browser's own start is not the page's.
      await setTimeout(3000);
      const firsts = [];
      for (let i = 0; i < 3; i++) firsts.push(await firstPage(browser, url));
      if (wanted.includes('first-page-kb')) report('first-page-kb', firsts[0].kb, 'kB');
      if (wanted.includes('first-page-ms'))
        report(
          'first-page-ms',
          percentile(
            firsts.map(({ ms }) => ms),
            0.5
          ),
          'ms'
        );
    }
    if (wanted.includes('list-10000')) {
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
      await page.goto(`${url}/dockets?list=open&list=put%20away`);
      await page.getByRole('grid', { name: 'dockets' }).waitFor();
      await page.waitForTimeout(1000);
      const frames = await page.evaluate(async () => {
        const scroller = document.querySelector('[role=grid]').parentElement;
        const times = [];
        let last = performance.now();
        for (let i = 0; i < 360; i++) {
          scroller.scrollTop += 130;
          await new Promise((resolve) => requestAnimationFrame(resolve));
          const now = performance.now();
          times.push(now - last);
          last = now;
        }
        return times;
      });
      report('list-10000', percentile(frames, 0.95), 'ms');
    }
  } finally {
    await browser.close();
  }
}

const OF_SERVER = { 'list-ms': [listMs, 'ms'], 'stall-ms': [stallMs, 'ms'], 'sse-20': [sse20, '%'] };
export const LIST_FIGURES = [...Object.keys(OF_SERVER), 'list-10000', 'first-page-kb', 'first-page-ms'];

/** @param report told each figure: name, value, unit */
export async function benchLists(wanted, report) {
  const shop = await openFullShop({ dockets: 10_000, artworks: 5000 });
  try {
    await inBrowser(shop, wanted, report);
    for (const [name, [measure, unit]] of Object.entries(OF_SERVER))
      if (wanted.includes(name)) report(name, await measure(shop), unit);
  } finally {
    await shop.close();
  }
}
