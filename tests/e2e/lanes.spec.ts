import { expect, test, type APIRequestContext, type Page } from '@playwright/test';
import { startMachine, startServer } from '../../scripts/stack.mjs';
import { temporaryFolder } from '../harness';
import { cmykBox, madePdf } from '../made/pdf';
import { call } from './api';
import { openPage } from './open';

type Started = Awaited<ReturnType<typeof startServer>>;
let started: Started[] = [];
let url = '';
const folder = temporaryFolder();

const MACHINES = [
  { name: 'Petrel 13', media: { name: 'Film', surface: 'gloss', widthMm: 600, lengthMm: 20_000 } },
  { name: 'Gannet 32', media: { name: 'Cloth', surface: 'matt', widthMm: 900, lengthMm: 30_000 } },
  { name: 'Skua 25', media: { name: 'Board', surface: 'matt', widthMm: 700, lengthMm: 0, sheetMm: 500, sheets: 8 } }
];
const MEDIA = [
  { name: 'Film', widthMm: 600 },
  { name: 'Cloth', family: 'banner', surface: 'matt', widthMm: 900 },
  { name: 'Board', family: 'rigid', surface: 'matt', widthMm: 700, thicknessMm: 5 }
];
const MODES = [
  'Petrel 13/Harbour/calendered/360/4/both ways/draft',
  'Gannet 32/Estuary/banner/360/4/both ways/production',
  'Skua 25/Skerry/rigid/360/4/both ways/draft'
];
/** Name, size, copies; three for each media. */
const DOCKETS: [name: string, width: number, height: number, copies: number, media: number][] = [
  ['Bell', 120, 80, 7, 0],
  ['Buoy', 210, 140, 4, 0],
  ['Gull', 90, 260, 3, 0],
  ['Pier', 700, 300, 1, 1],
  ['Quay', 400, 250, 2, 1],
  ['Slip', 300, 200, 3, 1],
  ['Menu', 210, 297, 4, 2],
  ['Tide', 150, 150, 3, 2],
  ['Wind', 100, 100, 5, 2]
];

test.beforeAll(async ({ request }) => {
  test.setTimeout(900_000);
  const printers = await Promise.all(
    MACHINES.map(({ name, media }) => startMachine('printer', { SPEED: 'full', MODEL: name, MEDIA: JSON.stringify(media) }))
  );
  const server = await startServer({ ZING_DATA: folder.path });
  started = [server, ...printers];
  ({ url } = server);
  for (const [i, { name }] of MACHINES.entries())
    await call(request, url, 'POST', '/machines', { kind: 'printer', name, url: printers[i]!.url });
  for (const [i, card] of MEDIA.entries()) {
    await call(request, url, 'POST', '/media', card);
    await call(request, url, 'POST', '/conditions', { machineId: i + 1, mediaId: i + 1, mode: MODES[i]! });
  }
  await expect
    .poll(
      async () =>
        (await call<{ hasProfile: boolean }[]>(request, url, 'GET', '/conditions')).filter((one) => one.hasProfile).length,
      { timeout: 240_000 }
    )
    .toBe(3);
  for (const [i, [name, width, height, copies, media]] of DOCKETS.entries()) {
    const pdf = madePdf({ width, height, content: cmykBox(`${i / 10} 0.4 0.${9 - i} 0`, 0, 0, width, height) });
    const reply = await request.post(`${url}/api/artworks?name=${name}.pdf`, {
      data: pdf,
      headers: { origin: url, 'content-type': 'application/pdf' }
    });
    const { id } = (await reply.json()) as { id: number };
    await expect
      .poll(async () => (await call<{ state: string }>(request, url, 'GET', `/artworks/${id}`)).state, { timeout: 120_000 })
      .toBe('ready');
    const made = await call<{ ids: number[] }>(request, url, 'POST', '/dockets', { pages: [{ artworkId: id, page: 0 }] });
    await call(request, url, 'PUT', '/dockets/many', { ids: made.ids, change: { choices: { conditionId: media + 1, copies } } });
  }
});
test.afterAll(() => {
  for (const { child } of started) child.kill();
  folder.remove();
});

interface Run {
  id: number;
  state: string;
  condition: { media: string };
  dockets: { name: string }[];
}
async function runsOf(request: APIRequestContext): Promise<Run[]> {
  const { rows } = await call<{ rows: { id: number }[] }>(request, url, 'GET', '/lists/runs');
  return Promise.all(rows.map(({ id }) => call<Run>(request, url, 'GET', `/runs/${id}`)));
}

const rule = (page: Page, name: string) => page.getByRole('radio', { name });
/** The length that a rule comes to, as its card says it, m. */
const lengthOf = async (page: Page, id: string) => parseFloat((await page.getByTestId(`length-${id}`).textContent()) ?? '');

test('a day’s dockets go to their lanes, are placed thriftily, and print on the right machines in one go', async ({
  page,
  request
}) => {
  await test.step('all are sent: each to the lane of its media', async () => {
    await page.goto(url);
    await expect(page.getByRole('complementary', { name: 'Dockets not laid out yet' }).getByRole('listitem')).toHaveCount(9);
    await page.getByRole('button', { name: 'Send all to their lanes' }).click();
    await expect(page.getByText('Nothing waits.')).toBeVisible();
    for (const { media } of MACHINES)
      await expect(
        page.getByRole('group', { name: `Lane of ${media.name}` }).getByRole('link', { name: /Run \d, laying out/ })
      ).toHaveCount(1);
    const runs = await runsOf(request);
    for (const run of runs)
      expect(run.dockets.map((docket) => docket.name).sort()).toEqual(
        DOCKETS.filter(([, , , , media]) => MEDIA[media]!.name === run.condition.media).map(([name]) => name)
      );
  });

  await test.step('the rules are compared, and follow the gap', async () => {
    await page.getByRole('link', { name: /Run 1, laying out/ }).click();
    await expect(page.getByRole('heading', { name: 'Run 1' })).toBeVisible();
    await expect(page.getByText('still looking')).toBeHidden({ timeout: 150_000 });
    await expect(page.getByText('cheapest')).toBeVisible();
    const [apart, rows, close] = [await lengthOf(page, 'apart'), await lengthOf(page, 'rows'), await lengthOf(page, 'close')];
    expect(rows).toBeLessThanOrEqual(apart);
    expect(close).toBeLessThanOrEqual(rows);
    await expect(rule(page, 'True shape')).toContainText('No docket here is placed by a contour');
    await rule(page, 'Close fit').click();
    await expect(rule(page, 'Close fit')).toBeChecked();
    await expect(page.getByTestId('length')).toHaveText(`${close.toFixed(2)} m`);
    await page.getByLabel('Gap across the roll', { exact: true }).fill('20');
    await expect.poll(() => lengthOf(page, 'close')).toBeGreaterThan(close);
    await expect(page.getByLabel('Gap along the roll', { exact: true })).toHaveValue('20');
  });

  await test.step('one copy is pinned where it is put, and the rest flows around', async () => {
    await expect(page.getByText('still looking')).toBeHidden({ timeout: 150_000 });
    const picture = page.getByRole('img', { name: /The run on its roll/ });
    const box = (await picture.boundingBox())!;
    // The first copy lies at the start of the roll, at its left edge or at its middle: it is found by pressing along the start.
    const toolbar = page.getByRole('toolbar', { name: 'Selected copies' });
    for (let y = 60; y < box.height - 20 && !(await toolbar.isVisible()); y += 40) await page.mouse.click(box.x + 60, box.y + y);
    await expect(toolbar).toContainText('One copy');
    await toolbar.getByRole('button', { name: 'Pin here' }).click();
    await expect(toolbar.getByRole('button', { name: 'Unpin' })).toBeVisible();
    await expect.poll(async () => (await call<{ pins: unknown[] }>(request, url, 'GET', '/runs/1')).pins.length).toBe(1);
    const { pins } = await call<{ pins: { id: string; x: number; y: number }[] }>(request, url, 'GET', '/runs/1');
    // An arrow moves it by a millimetre.
    await page.keyboard.press('ArrowRight');
    await expect
      .poll(async () => (await call<{ pins: { y: number }[] }>(request, url, 'GET', '/runs/1')).pins[0]!.y)
      .toBeCloseTo(pins[0]!.y + 1, 6);
    await page.keyboard.press('Escape');
    await expect(toolbar).toBeHidden();
  });

  await test.step('two windows change it at the same moment: both count, and a step back takes back nothing of the other', async () => {
    const run = () =>
      call<{ rule: { lead: number }; entries: { held: boolean }[] }>(request, url, 'GET', '/runs/1').then(
        ({ rule: { lead }, entries }) => `${lead} mm, ${entries.filter(({ held }) => held).length} held`
      );
    const other = await page.context().newPage();
    await openPage(other, `${url}/runs/1`);
    const lead = page.getByLabel('Lead before', { exact: true });
    const before = await lead.inputValue();
    await lead.fill('35');
    await other.getByRole('button', { name: 'Hold Buoy' }).click();
    await expect.poll(run).toBe('35 mm, 1 held');
    await expect(page.getByRole('button', { name: 'Resume Buoy' })).toBeVisible();
    await expect(other.getByLabel('Lead before', { exact: true })).toHaveValue('35');
    await page.getByRole('button', { name: 'Take back the last change' }).click();
    await expect.poll(run).toBe(`${before} mm, 1 held`);
    await other.getByRole('button', { name: 'Resume Buoy' }).click();
    await expect.poll(run).toBe(`${before} mm, 0 held`);
    await other.close();
  });

  await test.step('one docket is held: it leaves the layout at once', async () => {
    const copies = page.getByText('Copies', { exact: true }).locator('..').getByRole('definition').first();
    await expect(copies).toHaveText('14');
    await page.getByRole('button', { name: 'Hold Buoy' }).click();
    await expect(copies).toHaveText('10');
    await expect(page.getByRole('button', { name: 'Resume Buoy' })).toBeVisible();
  });

  await test.step('all are released in one go, and print where their media is loaded', async () => {
    await page.getByRole('link', { name: 'Floor' }).click();
    await page.getByRole('button', { name: 'Release all' }).click();
    // What was held waits in a run of its own; boards took more than one sheet, each a run.
    await expect
      .poll(
        async () =>
          (await runsOf(request))
            .filter((run) => run.state !== 'printed')
            .map((run) => run.dockets.map((docket) => docket.name).join()),
        { timeout: 200_000 }
      )
      .toEqual(['Buoy']);
    const runs = await runsOf(request);
    for (const run of runs.filter((one) => one.state === 'printed')) {
      await page.goto(`${url}/runs/${run.id}`);
      await expect(page.getByRole('region', { name: 'Print', exact: true }).getByText('Done').first()).toBeVisible();
    }
    await page.goto(url);
    for (const { name, media } of MACHINES)
      await expect(
        page
          .getByRole('group', { name: `Lane of ${media.name}` })
          .getByRole('link', { name: /Run \d, printed/ })
          .first(),
        name
      ).toBeVisible();
    const machines = await call<{ name: string; printer: { media: { sheets: number } } }[]>(request, url, 'GET', '/machines');
    expect(machines.find((one) => one.name === 'Skua 25')!.printer.media.sheets).toBeLessThan(8);
  });

  await test.step('what it took is in the costs', async () => {
    await page.goto(`${url}/shop/costs`);
    for (const { media } of MACHINES) await expect(page.getByRole('row', { name: new RegExp(media.name) })).toBeVisible();
    const csv = await (await request.get(`${url}/api/report?weeks=1&as=csv`)).text();
    expect(csv.split('\n').filter((line) => line.includes('Gannet 32')).length).toBe(3);
    const today = new Date().toLocaleDateString('sv');
    const report = await call<{ machine: string }[]>(request, url, 'GET', `/report?from=${today}&to=${today}`);
    expect(report.filter(({ machine }) => machine === 'Gannet 32')).toHaveLength(3);
    expect((await request.get(`${url}/api/report?from=yesterday`)).status()).toBe(422);
  });
});
