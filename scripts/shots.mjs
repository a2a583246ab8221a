// Takes every picture in docs/screenshots from fresh demo data, at 1280 × 800; names as arguments choose some.
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { installWhenStale } from './install.mjs';

installWhenStale();
const { chromium } = await import('@playwright/test');
const { buildAll } = await import('./build.mjs');
const { root } = await import('./node-build.mjs');
const { seed, startMachines, startServer } = await import('./stack.mjs');
const { CHROMIUM, CHROMIUM_ARGS } = await import('./chromium.mjs');

const out = process.env.SHOTS ?? join(root, 'docs/screenshots');
const existing = process.env.SHOTS_URL;
const chosen = process.argv.slice(2);
const data = mkdtempSync(join(tmpdir(), 'zing-shots-'));
const children = [];
let url = existing;
if (!url) {
  await buildAll();
  const machines = await startMachines(join(data, 'printer'), 'full');
  await seed(data, machines);
  const server = await startServer({ ZING_DATA: data });
  children.push(...Object.values(machines).map(({ child }) => child), server.child);
  url = server.url;
}
mkdirSync(out, { recursive: true });
const browser = await chromium.launch({ executablePath: CHROMIUM, args: CHROMIUM_ARGS });

/** One picture; `dark` in the other theme; `act` does something first. */
async function shot(name, path, { dark = false, act = async () => {} } = {}) {
  if (chosen.length > 0 && !chosen.includes(name)) return;
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, colorScheme: dark ? 'dark' : 'light' });
  const wrong = [];
  page.on('pageerror', (error) => wrong.push(error.message));
  await page.goto(`${url}${path}`);
  await page.locator('main').waitFor();
  await act(page);
  await page.evaluate(() => document.fonts.ready);
  await page.waitForFunction(() => [...document.images].every((image) => image.src !== '' && image.complete));
  // Pictures within drawings and tiles tell no one when they are there; events keep one line open.
  await page.waitForTimeout(2500);
  await page.screenshot({ path: join(out, `${name}.png`) });
  await page.close();
  if (wrong.length > 0) throw new Error(`${name}: ${wrong.join('; ')}`);
  console.log(`${name}.png`);
}

const api = async (method, path, body) =>
  (
    await fetch(`${url}/api${path}`, {
      method,
      headers: { origin: url, ...(body && { 'content-type': 'application/json' }) },
      ...(body && { body: JSON.stringify(body) })
    })
  ).json();
/** Asks again and again until an answer is as it should be. */
async function until(path, isSo) {
  for (let i = 0; i < 600; i++) {
    const answer = await api('GET', path);
    if (isSo(answer)) return answer;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
  throw new Error(`${path} did not come to what was waited for.`);
}

/** A print that its machine gave up in the middle, and that can go on. @returns its run */
async function brokenPrint(artworkId, conditionId) {
  const { ids } = await api('POST', '/dockets', { pages: [{ artworkId, page: 0 }] });
  const { version, choices } = await api('GET', `/dockets/${ids[0]}`);
  const plain = { ...choices, conditionId, copies: 60, cut: false, bleedMm: 0 };
  await api('PUT', `/dockets/${ids[0]}`, { version, choices: plain });
  const { id } = await api('POST', '/runs', { docketIds: ids });
  await api('POST', `/runs/${id}/rip`);
  const run = await until(`/runs/${id}`, ({ state }) => state !== 'ripping');
  const machine = (await api('GET', '/machines')).find((one) => one.id === run.condition.machineId);
  await fetch(`${machine.url}/faults`, { method: 'POST', body: JSON.stringify({ lostForSeconds: 1 }) });
  const [print] = await api('POST', `/runs/${id}/print`, { machineId: machine.id, times: 1 });
  await until(`/prints/${print.id}`, ({ endedAt }) => endedAt !== null);
  return id;
}

try {
  const { rows } = await api('GET', '/lists/runs');
  const runs = await Promise.all(rows.map(({ id }) => api('GET', `/runs/${id}`)));
  const { rows: dockets } = await api('GET', '/lists/dockets?list=open&list=put%20away');
  const ripped = runs.find((run) => run.state === 'ripped' && run.dockets.some(({ name }) => name.startsWith('Sail')));
  const sail = dockets.find((docket) => docket.name.startsWith('Sail'));
  await shot('floor', '/');
  await shot('artwork', '/artwork');
  await shot('dockets', '/dockets?sort=customer&list=open&list=put%20away');
  await shot('docket', `/dockets/${sail.id}`);
  const poster = dockets.find((docket) => docket.name.startsWith('Lantern'));
  const gull = dockets.find((docket) => docket.name.startsWith('Gull'));
  const measured = (page) =>
    page.getByText('Ink and colours are being measured…').waitFor({ state: 'detached', timeout: 30_000 });
  await shot('docket-checks', `/dockets/${poster.id}`, { act: measured });
  /** The layers of a docket in the ticket, and their picture. */
  const layers = (picture, unfold) => async (page) => {
    await measured(page);
    await page.getByLabel('Picture', { exact: true }).selectOption(picture);
    await page.getByRole('region', { name: 'Layers of ink' }).evaluate((line) => line.scrollIntoView({ block: 'start' }));
    if (unfold) await page.locator('summary', { hasText: unfold }).click();
    else await page.getByLabel('What is behind it').fill('#5c6670');
    await page.getByLabel('Drawing').waitFor({ state: 'detached', timeout: 30_000 });
  };
  const slip = dockets.find((docket) => docket.name === 'The Slip');
  const door = dockets.find((docket) => docket.name.startsWith('Door'));
  await shot('docket-layers', `/dockets/${slip.id}`, { act: layers('front', 'varnish') });
  await shot('docket-behind', `/dockets/${door.id}`, { dark: true, act: layers('behind') });
  const edit = async (page) => {
    await measured(page);
    await page.getByRole('button', { name: 'Edit nodes' }).click();
    await page.getByRole('button', { name: 'Node 6 of line 1' }).focus();
  };
  await shot('cut-editor', `/dockets/${gull.id}`, { act: edit });
  const conditions = await api('GET', '/conditions');
  const gloss = conditions.find((condition) => condition.media === 'Gloss white film');
  await shot('media-card', `/media/${gloss.mediaId}`);
  for (const step of ['profile', 'verify'])
    await shot(step, `/colour/${gloss.id}?step=${step}`, { act: (page) => page.waitForTimeout(1500) });
  await shot('gamut', `/colour/${gloss.id}?step=profile`, {
    dark: true,
    act: async (page) => {
      await page.getByText(/% of sRGB’s/).waitFor({ timeout: 30_000 });
      await page.getByRole('region', { name: 'Fit' }).scrollIntoViewIfNeeded();
      await page.getByRole('region', { name: 'Gamut' }).scrollIntoViewIfNeeded();
    }
  });
  await shot('costs', '/shop/costs', { act: (page) => page.waitForTimeout(1500) });
  const settled = async (page) => {
    await page.getByText('cheapest').waitFor({ timeout: 60_000 });
    await page.getByText('still looking').waitFor({ state: 'detached', timeout: 90_000 });
  };
  const by = (placing) => runs.find((run) => run.state === 'laying out' && run.rule.placing === placing);
  await shot('run', `/runs/${by('close').id}`, { act: settled });
  await shot('true-shape', `/runs/${by('shapes').id}`, { act: settled });
  const banner = dockets.find((docket) => docket.name.startsWith('Pier'));
  await shot('eyelets', `/dockets/${banner.id}`, {
    act: async (page) => {
      await measured(page);
      await page.getByRole('region', { name: 'Finishing' }).scrollIntoViewIfNeeded();
    }
  });
  const layered = runs.find((run) => run.dockets.some(({ name }) => name === 'The Slip'));
  await shot('inspect', `/runs/${layered.id}/inspect`);
  const cut = 1;
  for (const step of ['load', 'marks', 'cut']) await api('POST', `/cuts/${cut}/${step}`);
  await until(`/cuts/${cut}`, ({ state }) => state === 'cut');
  await shot('cutting', `/cutting/${cut}`);
  // What is RIPped comes out first, so that the next docket has a run of its own.
  await api('POST', `/runs/${ripped.id}/print`, { machineId: ripped.condition.machineId, times: 1 });
  await until(`/runs/${ripped.id}`, ({ state }) => state === 'printed');
  const berth = dockets.find((docket) => docket.name.startsWith('Berth'));
  await shot('stopped', `/runs/${await brokenPrint((await api('GET', `/dockets/${berth.id}`)).artworkId, gloss.id)}`);
} finally {
  await browser.close();
  children.forEach((child) => child.kill());
  rmSync(data, { recursive: true, force: true });
}
