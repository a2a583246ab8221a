import { expect, test, type APIRequestContext } from '@playwright/test';
import sharp from 'sharp';
import { distanceTo } from '../../core/geometry/path';
import { startMachine, startServer } from '../../scripts/stack.mjs';
import { temporaryFolder, USUAL_MODE } from '../harness';
import { cmykBox, madePdf, spotStroke } from '../made/pdf';
import { call } from './api';
import { openPage } from './open';

/** A roll of prints that is put into the cutter tail first and cut to its end by one press. */

type Started = Awaited<ReturnType<typeof startServer>>;
let printer: Started;
let cutter: Started;
let server: Started;
const folder = temporaryFolder();
const FILM = { name: 'Film', surface: 'gloss', widthMm: 300, lengthMm: 90_000 };
const SIZES = [[70, 40], [90, 60], [60, 80], [110, 50]] as const; // prettier-ignore

const stateOf = async (request: APIRequestContext, run: number) =>
  (await call<{ state: string }>(request, server.url, 'GET', `/runs/${run}`)).state;

/** A file of a size is RIPped in a run of its own. @returns the run */
async function ripped(request: APIRequestContext, [width, height]: readonly [number, number], copies: number): Promise<number> {
  const { url } = server;
  const line = `4 4 m ${width - 4} 4 l ${width - 4} ${height - 4} l ${width / 2} ${height - 12} l 4 ${height - 4} l h`;
  const content = `${cmykBox('0.3 0 0 0', 0, 0, width, height)}${spotStroke(line)}`;
  const file = await request.post(`${url}/api/artworks?name=tag-${width}.pdf`, {
    data: madePdf({ width, height, spots: { Cut: [0, 1, 0, 0] }, content }),
    headers: { origin: url, 'content-type': 'application/pdf' }
  });
  const { id: artworkId } = (await file.json()) as { id: number };
  const read = async () => (await call<{ state: string }>(request, url, 'GET', `/artworks/${artworkId}`)).state;
  await expect.poll(read).toBe('ready');
  const { ids: docketIds } = await call<{ ids: number[] }>(request, url, 'POST', '/dockets', { pages: [{ artworkId, page: 0 }] });
  await call(request, url, 'PUT', '/dockets/many', {
    ids: docketIds,
    change: { choices: { copies, conditionId: 1, bleedMm: 0 } }
  });
  const { id: run } = await call<{ id: number }>(request, url, 'POST', '/runs', { docketIds });
  await call(request, url, 'POST', `/runs/${run}/rip`);
  await expect.poll(() => stateOf(request, run)).toBe('ripped');
  return run;
}

/** A file of a size is printed three times on a run of its own. @returns the cut task */
async function printed(request: APIRequestContext, size: readonly [number, number]): Promise<number> {
  const { url } = server;
  const run = await ripped(request, size, 3);
  await call(request, url, 'POST', `/runs/${run}/print`, { machineId: 1, times: 1 });
  await expect.poll(() => stateOf(request, run)).toBe('printed');
  const { rows } = await call<{ rows: { id: number; runId: number }[] }>(request, url, 'GET', '/lists/cuts');
  return rows.find(({ runId }) => runId === run)!.id;
}

test.beforeAll(async ({ request }) => {
  test.setTimeout(600_000);
  [printer, cutter] = await Promise.all([
    startMachine('printer', { SPEED: 'full', MEDIA: JSON.stringify(FILM) }),
    startMachine('cutter', { SEED: '5' })
  ]);
  server = await startServer({ ZING_DATA: folder.path });
  const { url } = server;
  await call(request, url, 'POST', '/machines', { kind: 'printer', name: 'Petrel 13', url: printer.url });
  await call(request, url, 'POST', '/machines', { kind: 'cutter', name: 'Tern 130', url: cutter.url });
  await call(request, url, 'POST', '/media', { name: 'Film', widthMm: 300 });
  await call(request, url, 'POST', '/conditions', { machineId: 1, mediaId: 1, mode: USUAL_MODE.code });
  const ready = async () => (await call<{ hasProfile: boolean }[]>(request, url, 'GET', '/conditions'))[0]?.hasProfile;
  await expect.poll(ready, { timeout: 150_000 }).toBe(true);
});
test.afterAll(() => {
  for (const { child } of [server, printer, cutter]) child.kill();
  folder.remove();
});

/** A print of another shop: marks as ours, no code. */
const strayPrint = () => {
  const discs = [[20, 20], [120, 20], [20, 90], [120, 90], [38, 20]].map(([x, y]) => `<circle cx="${x}" cy="${y}" r="3"/>`).join(''); // prettier-ignore
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="496" height="390" viewBox="0 0 140 110"><rect width="140" height="110" fill="#fff"/>${discs}<rect x="40" y="40" width="50" height="30" fill="#446"/></svg>`;
  return sharp(Buffer.from(svg)).withMetadata({ density: 90 }).png().toBuffer();
};

test('a roll of four runs, put in tail first, is cut to its end; what is not known is left alone', async ({ page, request }) => {
  const { url } = server;
  const tasks: number[] = [];
  for (const size of SIZES) tasks.push(await printed(request, size));

  await test.step('it waits, drawn to scale, and is put into the cutter', async () => {
    await openPage(page, `${url}/cutting`);
    const waits = page.getByRole('region', { name: 'Film from Petrel 13' });
    await expect(waits).toContainText('4 prints to cut');
    // One that was spoiled is taken off it, and put back.
    const { code } = await call<{ code: string }>(request, url, 'GET', `/cuts/${tasks[3]}`);
    await page.getByRole('checkbox', { name: code }).check();
    await page.getByRole('button', { name: 'Not to be cut' }).click();
    await expect(waits).toContainText('3 prints to cut');
    await page.getByRole('button', { name: 'Take back' }).click();
    await expect(waits).toContainText('4 prints to cut');
    await openPage(page, `${url}/cutting/${tasks[3]}`);
    await page.getByRole('button', { name: 'Cut elsewhere' }).click();
    await expect(page.getByRole('region', { name: 'Put down by hand' })).toContainText('no roll and no docket waits for it');
    await expect(page.getByRole('button', { name: 'Load the print' })).toBeHidden();
    await page.getByRole('button', { name: 'Put it back' }).click();
    await expect(page.getByRole('button', { name: 'Load the print' })).toBeVisible();
    await openPage(page, `${url}/cutting`);
    await waits.getByLabel('tail first').check();
    await waits.getByRole('button', { name: 'Put it in Tern 130' }).click();
    await expect(page.getByRole('button', { name: 'Cut the roll' })).toBeVisible();
    // A reload in between loses nothing: it lies in the cutter.
    await page.reload();
    await expect(page.getByRole('status').filter({ hasText: 'nothing of it has been looked at' })).toBeVisible();
  });

  const roll = page.getByRole('region', { name: 'Roll in Tern 130' });
  await test.step('one press cuts it, though a code is smudged and a print is none of ours', async () => {
    await request.post(`${cutter.url}/roll/print`, { data: await strayPrint(), headers: { 'content-type': 'image/png' } });
    const { codes } = await call<{ codes: { x: number; y: number; width: number }[] }>(request, url, 'GET', `/cuts/${tasks[2]}`);
    const [, foot] = codes as [unknown, { x: number; y: number; width: number }];
    // Tail first: the third print comes second, and its foot before its head.
    const dirt = { print: 1, x: foot.x + foot.width / 2, y: foot.y + foot.width / 2, radius: 8 };
    expect((await request.post(`${cutter.url}/roll/dirt`, { data: dirt })).ok()).toBe(true);
    const go = page.getByRole('button', { name: 'Cut the roll' });
    await openPage(page, `${url}/cutting`);
    await go.dblclick();
    await expect(roll.getByRole('status')).toHaveText('Cut to its end: 4 prints cut, 1 not.', { timeout: 120_000 });
    await expect(roll.getByRole('row').filter({ hasText: 'cut, tail first' })).toHaveCount(4);
    await expect(roll.getByRole('row').filter({ hasText: 'refused' })).toContainText('No code was read on it.');
    await expect(page.getByRole('contentinfo', { name: 'Machines' })).toContainText('4 cut, 1 refused');
    // An answer that is lost is asked for again.
    let lost = 0;
    await page.route(/\/places\/5\?.*asked=/, (route) => (lost++ === 0 ? route.abort() : route.continue()));
    await roll.getByRole('button', { name: 'Camera’s picture' }).click();
    const closely = page.getByRole('dialog', { name: 'Camera’s picture' });
    await expect(closely).toBeVisible();
    const seen = closely.getByAltText('Place 5 of the roll as the camera sees it');
    // On a busy machine the camera takes its time, and a person may have to ask once more.
    await expect(async () => {
      if (!(await closely.isVisible())) await roll.getByRole('button', { name: 'Camera’s picture' }).click({ timeout: 2000 });
      const again = closely.getByRole('button', { name: 'Ask for it again' });
      if (await again.isVisible()) await again.click();
      const width = await seen.evaluate((image: HTMLImageElement) => image.naturalWidth, undefined, { timeout: 2000 });
      expect(width).toBeGreaterThan(100);
    }).toPass({ timeout: 100_000 });
    expect(lost).toBeGreaterThan(1);
    await page.keyboard.press('Escape');
  });

  await test.step('each print is cut along its own lines', async () => {
    const cut = (await (await request.get(`${cutter.url}/roll/cut`)).json()) as { lines: { print: number; points: { x: number; y: number }[] }[] }; // prettier-ignore
    for (const [i, task] of tasks.toReversed().entries()) {
      const { lines, state } = await call<{ lines: Parameters<typeof distanceTo>[0][]; state: string }>(request, url, 'GET', `/cuts/${task}`); // prettier-ignore
      expect(state).toBe('cut');
      const [, ...ways] = cut.lines.filter(({ print }) => print === i);
      expect(ways).toHaveLength(lines.length);
      for (const { points } of ways)
        expect(Math.min(...lines.map((line) => Math.max(...points.map((p) => distanceTo(line, p)))))).toBeLessThan(0.2);
    }
    expect(cut.lines.every(({ print }) => print < 4)).toBe(true);
  });

  await test.step('the number of a print that is cut, given for what is not known, is refused and says why', async () => {
    const { code } = await call<{ code: string }>(request, url, 'GET', `/cuts/${tasks[0]}`);
    await roll.getByLabel('Number of print 5').fill('no such number');
    await roll.getByRole('button', { name: 'Cut it by its number' }).click();
    await expect(page.getByText(/is no number of a print/)).toBeVisible();
    await roll.getByLabel('Number of print 5').fill(code);
    await roll.getByRole('button', { name: 'Cut it by its number' }).click();
    await expect(roll.getByRole('row').last()).toContainText('has been cut already');
    await roll.getByRole('button', { name: 'Cut all the same' }).click();
    // Its marks are not those of this number.
    await expect(roll.getByRole('row').last()).toContainText(/marks|Marks/);
    await roll.getByRole('button', { name: 'Take the roll out' }).click();
    await expect(roll).toHaveCount(0);
  });
});

test('a print that is cancelled is kept as far as it is whole, and the rest is laid out', async ({ page, request }) => {
  const { url } = server;
  const run = await ripped(request, [70, 40], 24);
  await request.post(`${printer.url}/speed`, { data: { speed: 6 } });
  await openPage(page, `${url}/runs/${run}`);
  const print = page.getByRole('region', { name: 'Print' });
  await print.getByRole('button', { name: 'Print', exact: true }).click();
  const progress = print.getByRole('progressbar', { name: 'Printing' });
  await expect.poll(async () => Number(await progress.getAttribute('value')), { timeout: 60_000 }).toBeGreaterThan(0.6);
  await print.getByRole('button', { name: 'Cancel' }).click();
  await expect(print).toContainText(/\d+ of 24 copies came out whole, with marks behind them/);
  const words = /(\d+) of 24 copies/.exec(await print.innerText())!;
  const whole = Number(words[1]);
  await print.getByRole('button', { name: `Keep them, and lay out the other ${24 - whole}` }).click();
  await expect(page).toHaveURL(`${url}/runs/${run + 1}`);
  await expect(page.getByRole('complementary', { name: 'Figures of the run' })).toContainText(`${24 - whole} of its 24 copies`);
  await openPage(page, `${url}/runs/${run}`);
  await expect(print).toContainText('Kept as far as it came out whole');
  await print.getByRole('link', { name: 'To the cutter' }).click();
  await expect(page.getByText(`${whole} lines`)).toBeVisible();
});
