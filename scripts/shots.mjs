// Takes every picture in docs/screenshots from fresh demo data, at 1280 × 800; names as arguments choose some.
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { installWhenStale } from './install.mjs';

installWhenStale();
const { chromium } = await import('@playwright/test');
const mupdf = await import('mupdf');
const { buildAll } = await import('./build.mjs');
const { root } = await import('./node-build.mjs');
const { seed, startMachines, startServer } = await import('./stack.mjs');
const { CHROMIUM, CHROMIUM_ARGS } = await import('./chromium.mjs');

const out = process.env.SHOTS ?? join(root, 'docs/screenshots');
const existing = process.env.SHOTS_URL;
const chosen = process.argv.slice(2);
const isChosen = (name) => chosen.length === 0 || chosen.includes(name);
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
  if (!isChosen(name)) return;
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

/** The first page of a PDF that the program gives out. */
async function paperShot(name, path) {
  if (!isChosen(name)) return;
  const document = mupdf.Document.openDocument(await (await fetch(`${url}/api${path}`)).arrayBuffer(), 'application/pdf');
  const page = document.loadPage(0);
  const [x0, , x1] = page.getBounds();
  const scale = 1280 / (x1 - x0);
  const picture = page.toPixmap([scale, 0, 0, scale, 0, 0], mupdf.ColorSpace.DeviceRGB, false);
  writeFileSync(join(out, `${name}.png`), picture.asPNG());
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

try {
  const { rows } = await api('GET', '/lists/runs');
  const runs = await Promise.all(rows.map(({ id }) => api('GET', `/runs/${id}`)));
  const { rows: dockets } = await api('GET', '/lists/dockets?list=open&list=put%20away');
  const sail = dockets.find((docket) => docket.name.startsWith('Sail'));
  await shot('floor', '/');
  await shot('artwork', '/artwork');
  await shot('dockets', '/dockets?sort=customer&list=open&list=put%20away');
  const measured = (page) =>
    page.getByText('Ink and colours are being measured…').waitFor({ state: 'detached', timeout: 30_000 });
  /** The ticket has its figures, and its picture is drawn. */
  const drawn = async (page) => {
    await measured(page);
    await page.getByLabel('Drawing').waitFor({ state: 'detached', timeout: 30_000 });
  };
  await shot('docket', `/dockets/${sail.id}`, { act: drawn });
  /** The layers of a docket in the ticket, and their picture. */
  const layers = async (page) => {
    await measured(page);
    await page.getByLabel('Picture', { exact: true }).selectOption('front');
    await page.getByRole('region', { name: 'Layers of ink' }).evaluate((line) => line.scrollIntoView({ block: 'start' }));
    await page.locator('summary', { hasText: 'varnish' }).click();
    await page.getByLabel('Drawing').waitFor({ state: 'detached', timeout: 30_000 });
  };
  const slip = dockets.find((docket) => docket.name === 'The Slip');
  await shot('docket-layers', `/dockets/${slip.id}`, { act: layers });
  const conditions = await api('GET', '/conditions');
  const gloss = conditions.find((condition) => condition.media === 'Gloss white film');
  const slipway = dockets.find((docket) => docket.name === 'Slipway wall');
  await shot('wall', `/dockets/${slipway.id}/wall`, {
    act: async (page) => {
      await page.getByLabel('Course of seams').selectOption('curved');
      await page.getByRole('button', { name: 'Move them to calm places' }).click();
      await page.getByText(/busy .* before/).waitFor();
      await page.getByText('Saved', { exact: true }).waitFor();
      // A slow page is scrolled before it is pressed.
      await page.getByRole('heading', { name: 'Slipway wall' }).scrollIntoViewIfNeeded();
    }
  });
  await shot('recipe', `/dockets/${slip.id}`, {
    act: async (page) => {
      await measured(page);
      await page.getByRole('button', { name: 'Keep as a recipe' }).click();
      await page.getByLabel('Name', { exact: true }).fill('Signs on tarred board');
    }
  });
  await shot('in-tray', '/artwork/in-tray');
  await paperShot('wall-map', `/dockets/${slipway.id}/panel-map`);
  const settled = async (page) => {
    await page.getByText('cheapest').waitFor({ timeout: 60_000 });
    await page.getByText('still looking').waitFor({ state: 'detached', timeout: 90_000 });
  };
  const by = (placing) => runs.find((run) => run.state === 'laying out' && run.rule.placing === placing);
  await shot('run', `/runs/${by('close').id}`, { act: settled });
  // The jig, artwork in it, and its places found again in a photo of the loaded bed.
  const inJig = runs.find((run) => run.rule.jig !== null);
  const places = (page) => page.getByRole('button', { name: 'All places' }).click();
  await shot('jig', `/shop/jigs/${inJig.rule.jig}`, { act: places });
  await shot('jig-run', `/runs/${inJig.id}`, {
    act: async (page) => {
      await page.getByText('2 loads').waitFor({ timeout: 60_000 });
      await page.getByRole('region', { name: 'Jig' }).evaluate((line) => line.scrollIntoView({ block: 'start' }));
    }
  });
  const skua = (await api('GET', '/machines')).find(({ name }) => name === 'Skua 25');
  const { thing, pockets } = await api('GET', `/jigs/${inJig.rule.jig}/places`);
  const things = pockets.map(({ x, y, turn }) => ({ x, y, turn, ...thing }));
  await fetch(`${skua.url}/bed`, { method: 'POST', body: JSON.stringify({ things, scatterMm: 1, scatterTurn: 2, seed: 4 }) });
  const photo = Buffer.from(await (await fetch(`${skua.url}/bed/photo.png?px=3600&seed=4`)).arrayBuffer());
  await fetch(`${skua.url}/bed`, { method: 'POST', body: JSON.stringify({ things: [] }) });
  await shot('jig-photo', `/shop/jigs/${inJig.rule.jig}`, {
    act: async (page) => {
      await page.getByRole('button', { name: 'Find its places in a photo' }).click();
      await page.getByLabel('Take a photo').setInputFiles({ name: 'bed.png', mimeType: 'image/png', buffer: photo });
      await page.getByText(/places found/).waitFor({ timeout: 60_000 });
    }
  });
  const passes = dockets.find((docket) => docket.name.startsWith('Crew'));
  const looked = (page) => page.getByText(/records fit, and have all their values/).waitFor({ timeout: 60_000 });
  await shot('records', `/dockets/${passes.id}/records`, {
    act: async (page) => {
      await looked(page);
      await page.getByRole('button', { name: /^Field Name/ }).focus();
    }
  });
  const layered = runs.find((run) => run.dockets.some(({ name }) => name === 'The Slip'));
  await shot('inspect', `/runs/${layered.id}/inspect`);
  // A named colour that was printed, read and corrected twice; and a docket's tone.
  const kelp = (await api('GET', '/lists/colours?q=kelp')).rows[0];
  for (let round = 0; round < 2; round++) {
    const { id } = await api('POST', `/colours/${kelp.id}/charts`, { conditionId: gloss.id, kind: 'colour' });
    await until(`/charts/${id}`, ({ state }) => state === 'ready');
    await api('POST', `/charts/${id}/print`);
    await until(`/charts/${id}`, ({ printId }) => printId !== null);
    await api('POST', `/charts/${id}/read`, { strip: 0 });
    await api('POST', `/colours/${kelp.id}/correct`, { chartId: id });
  }
  await shot('named-colour', `/colour/named/${kelp.id}?condition=${gloss.id}`, {
    act: async (page) => {
      await page.getByText('By the model', { exact: true }).waitFor();
      await page.getByRole('table', { name: 'Rounds' }).scrollIntoViewIfNeeded();
    }
  });
  const evening = await api('GET', `/dockets/${dockets.find(({ name }) => name === 'Harbour evening').id}`);
  const toned = {
    tone: {
      all: {
        points: [
          [0, 0],
          [0.25, 0.19],
          [0.6, 0.62],
          [1, 1]
        ]
      }
    },
    adjustment: { ...evening.choices.adjustment, saturation: 0.4 }
  };
  await api('PUT', `/dockets/${evening.id}`, { version: evening.version, choices: { ...evening.choices, ...toned } });
  await shot('soft-proof', `/dockets/${evening.id}/tone`, {
    act: (page) => page.getByLabel('Before and after', { exact: true }).waitFor()
  });
  if (isChosen('watch')) {
    // The gloss film once more, after its new inks.
    const printer = (await api('GET', '/machines')).find(({ name }) => name === 'Petrel 13');
    await fetch(`${printer.url}/unit`, {
      method: 'POST',
      body: JSON.stringify({ gain: [1.06, 0.95, 1.02, 1], strength: [1, 1.04, 0.96, 1] })
    });
    const compared = await api('POST', `/conditions/${gloss.id}/charts`, { kind: 'compare' });
    await until(`/charts/${compared.id}`, ({ state }) => state === 'ready');
    await api('POST', `/charts/${compared.id}/print`);
    await until(`/charts/${compared.id}`, ({ printId }) => printId !== null);
    for (let strip = 0; strip < compared.layout.strips; strip++) await api('POST', `/charts/${compared.id}/read`, { strip });
    await api('POST', `/conditions/${gloss.id}/watch`, { act: 'compare', chartId: compared.id });
    await shot('watch', `/colour/${gloss.id}?step=watch`, {
      act: (page) => page.getByRole('region', { name: 'Over time' }).scrollIntoViewIfNeeded()
    });
  }
  if (isChosen('cutting-roll')) {
    // A roll with a print of another shop behind its own, which is left alone.
    const [roller] = (await api('GET', '/machines')).filter(({ kind }) => kind === 'cutter');
    const cutTasks = (await api('GET', '/lists/cuts')).rows.map(({ id }) => id).sort((a, b) => a - b);
    await api('PUT', `/cutters/${roller.id}/roll`, { tasks: cutTasks });
    const soiled = (await api('GET', `/cuts/${cutTasks[1]}`)).codes;
    for (const { x, y, width } of soiled)
      await fetch(`${roller.url}/roll/dirt`, {
        method: 'POST',
        body: JSON.stringify({ print: 1, x: x + width / 2, y: y + width / 2, radius: 8 })
      });
    await fetch(`${roller.url}/faults`, { method: 'POST', body: JSON.stringify({ linesPerSecond: 6 }) });
    await api('POST', `/cutters/${roller.id}/roll`, { act: 'start' });
    await until('/machines', (all) => all.some(({ cutter }) => cutter?.roll?.places[2]?.state === 'cutting'));
    await shot('cutting-roll', '/cutting');
    await until('/machines', (all) => all.some(({ cutter }) => cutter?.roll?.state === 'done'));
  }
} finally {
  await browser.close();
  children.forEach((child) => child.kill());
  rmSync(data, { recursive: true, force: true });
}
