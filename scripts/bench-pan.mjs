// How long a frame takes while a run of 5000 copies, or a jig of 5000 places, is panned and zoomed in the built application, in Chromium.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const COPIES = 5000;
const SECONDS = 6;

/** @param what `pan-5000` or `jig-5000` @returns ms a frame, 95th of 100 */
export async function panFrames(what) {
  const { chromium } = await import('@playwright/test');
  const { buildAll } = await import('./build.mjs');
  const { CHROMIUM, CHROMIUM_ARGS } = await import('./chromium.mjs');
  const { startMachine, startServer } = await import('./stack.mjs');
  await buildAll();
  const data = mkdtempSync(join(tmpdir(), 'zing-pan-'));
  const printer = await startMachine('printer', { SPEED: 'full' });
  const server = await startServer({ ZING_DATA: data });
  const { url } = server;
  const call = async (method, path, body) => {
    const reply = await fetch(`${url}/api${path}`, {
      method,
      ...(body && { body: JSON.stringify(body) }),
      headers: { origin: url, 'content-type': 'application/json' }
    });
    if (!reply.ok) throw new Error(`${method} ${path}: ${await reply.text()}`);
    return reply.json();
  };
  const until = async (look) => {
    for (let i = 0; i < 600; i++) {
      if (await look()) return;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
    throw new Error('The run to be panned could not be made.');
  };
  /** @returns its page and what its picture is called */
  const runOf5000 = async () => {
    await call('POST', '/machines', { kind: 'printer', name: 'Petrel 13', url: printer.url });
    await call('POST', '/media', { name: 'Gloss white film' });
    const [mode] = await call('GET', '/modes');
    await call('POST', '/conditions', { machineId: 1, mediaId: 1, mode: mode.code });
    await until(async () => (await call('GET', '/conditions'))[0].hasProfile);
    const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="30mm" height="20mm" viewBox="0 0 30 20">
      <rect width="30" height="20" fill="#2a6"/><circle cx="15" cy="10" r="8" fill="#fd3"/></svg>`;
    const { id } = await (
      await fetch(`${url}/api/artworks?name=tag.svg`, {
        method: 'POST',
        body: svg,
        headers: { origin: url, 'content-type': 'application/octet-stream' }
      })
    ).json();
    await until(async () => (await call('GET', `/artworks/${id}`)).state === 'ready');
    const made = await call('POST', '/dockets', { pages: [{ artworkId: id, page: 0 }] });
    await call('PUT', '/dockets/many', { ids: made.ids, change: { choices: { conditionId: 1, copies: COPIES } } });
    const run = await call('POST', '/runs', { docketIds: made.ids });
    return { path: `/runs/${run.id}`, picture: /The run on its roll/ };
  };
  const jigOf5000 = async () => {
    const jig = await call('POST', '/jigs', {});
    const bed = { widthMm: 2000, lengthMm: 1500, origin: 'front left' };
    const thing = { widthMm: 14, heightMm: 22, outline: { kind: 'rectangle', radiusMm: 3 } };
    const places = { columns: 100, rows: 50, gapX: 4, gapY: 4 };
    await call('PUT', `/jigs/${jig.id}`, { version: jig.version, jig: { ...jig.jig, bed, thing, ...places } });
    return { path: `/shop/jigs/${jig.id}`, picture: /The jig on its bed/ };
  };
  const browser = await chromium.launch({ executablePath: CHROMIUM, args: CHROMIUM_ARGS });
  try {
    const scene = what === 'jig-5000' ? await jigOf5000() : await runOf5000();
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${url}${scene.path}`);
    await page.getByText('still looking').waitFor({ state: 'detached', timeout: 120_000 });
    const picture = page.getByRole('img', { name: scene.picture });
    const box = await picture.boundingBox();
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    await page.evaluate(() => {
      window.frames_ = [];
      let before = performance.now();
      const note = () => {
        const now = performance.now();
        window.frames_.push(now - before);
        before = now;
        requestAnimationFrame(note);
      };
      requestAnimationFrame(note);
    });
    const end = Date.now() + SECONDS * 1000;
    await page.mouse.move(x, y);
    for (let i = 0; Date.now() < end; i++) {
      // Whole, half and near, panned at each.
      await page.mouse.wheel(0, i % 40 < 20 ? -60 : 60);
      await page.mouse.down();
      await page.mouse.move(x + 120 * Math.sin(i / 3), y + 60 * Math.cos(i / 4), { steps: 3 });
      await page.mouse.up();
      await page.mouse.move(x, y);
    }
    const frames = await page.evaluate(() => window.frames_);
    frames.sort((p, q) => p - q);
    return frames[Math.floor(frames.length * 0.95)];
  } finally {
    await browser.close();
    for (const { child } of [server, printer]) child.kill();
    rmSync(data, { recursive: true, force: true });
  }
}
