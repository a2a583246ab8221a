import { expect, test, type Page } from '@playwright/test';
import * as mupdf from 'mupdf';
import { startMachine, startServer } from '../../scripts/stack.mjs';
import { temporaryFolder } from '../harness';

type Started = Awaited<ReturnType<typeof startServer>>;
let started: Record<'printer' | 'instrument' | 'server', Started>;
const folder = temporaryFolder();

test.beforeAll(async () => {
  const [printer, instrument] = await Promise.all([
    startMachine('printer', { SPEED: 'full' }),
    startMachine('instrument', { SPEED: 'full', SEED: '4711' })
  ]);
  started = { printer, instrument, server: await startServer({ ZING_DATA: folder.path }) };
});
test.afterAll(() => {
  for (const { child } of Object.values(started)) child.kill();
  folder.remove();
});

/** Goes to a step, and waits until it is shown: the one before has a chart too. */
async function toStep(page: Page, name: string) {
  await page.getByRole('link', { name: new RegExp(`^${name}`) }).click();
  await expect(page.getByRole('heading', { name, level: 2, exact: true })).toBeVisible();
}

/** Makes a chart of the step that is shown, and prints it. */
async function print(page: Page, region = page.getByRole('region', { name: 'The chart' }).first()) {
  await region.getByRole('button', { name: 'Make the chart' }).click();
  await region.getByRole('button', { name: 'Print the chart' }).click();
  await expect(region.getByRole('button', { name: 'Read strip A', exact: true })).toBeVisible({ timeout: 150_000 });
  return region;
}

test('an operator takes a new media from nothing to a verified profile', async ({ page, request }) => {
  test.setTimeout(900_000);
  const { server, printer, instrument } = started;
  const headers = { origin: server.url };
  for (const [kind, name, url] of [
    ['printer', 'Petrel 13', printer.url],
    ['instrument', 'Plover S2', instrument.url]
  ]) {
    expect((await request.post(`${server.url}/api/machines`, { headers, data: { kind, name, url } })).ok()).toBe(true);
  }

  await test.step('an empty shelf teaches; a card is made, with what the machine suggests', async () => {
    await page.goto(`${server.url}/media`);
    await expect(page.getByText('No media yet.')).toBeVisible();
    await page.getByRole('button', { name: 'New card' }).click();
    await page.getByLabel('Name', { exact: true }).fill('Gloss white film');
    await page.getByLabel('Thickness, mm').fill('0.08');
    await page.getByLabel('Thickness, mm').press('Tab');
    await expect(page.getByRole('heading', { name: 'Gloss white film' })).toBeVisible();
    await expect(page.getByLabel('Head gap')).toHaveValue('1.5');
    await page.getByLabel('Head gap').fill('4');
    await page.getByLabel('Head gap').press('Tab');
    await expect(page.getByText('Head gap 4 mm: Petrel 13 is usually set to 1.5–2.3 mm')).toBeVisible();
    await page.getByRole('button', { name: 'Take back' }).click();
    await expect(page.getByLabel('Head gap')).toHaveValue('1.5');
    await expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();
    await page.reload();
    await expect(page.getByLabel('Head gap')).toHaveValue('1.5');
  });

  await test.step('a card that was made by mistake goes, and comes back with a click', async () => {
    const card = page.url();
    await page.getByRole('link', { name: 'All media' }).click();
    // A hand that is used to double clicks makes one.
    await page.getByRole('button', { name: 'New card' }).dblclick();
    await page.getByLabel('Name', { exact: true }).fill('Slip of paper');
    await page.getByLabel('Name', { exact: true }).press('Tab');
    await expect(page.getByRole('heading', { name: 'Slip of paper' })).toBeVisible();
    await expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();
    // Another card's name is refused, and it keeps its own.
    await page.getByLabel('Name', { exact: true }).fill('Gloss white film');
    await page.getByLabel('Name', { exact: true }).press('Tab');
    await expect(page.getByText('There is a media Gloss white film already.')).toBeVisible();
    await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Slip of paper');
    await page.getByRole('button', { name: 'Remove' }).click();
    await expect(page.getByText('Slip of paper is deleted: nothing was printed or measured on it.')).toBeVisible();
    await expect(page.getByText('1 of 1')).toBeVisible();
    await page.getByRole('button', { name: 'Take back' }).click();
    await page.getByRole('link', { name: 'Slip of paper' }).click();
    await page.getByRole('button', { name: 'Remove' }).click();
    await expect(page.getByText('1 of 1')).toBeVisible();
    await page.goto(card);
  });

  await test.step('the print mode is found in three clicks', async () => {
    await page.getByRole('link', { name: 'Find a print mode for it' }).click();
    await expect(page.getByRole('status').filter({ hasText: ' of ' })).toHaveText('16 of 112');
    await page.getByRole('button', { name: /^quality \d+/ }).click();
    await expect(page.getByRole('button', { name: /^paper/ })).toBeEnabled();
    // With many ticked it is not guessed which is meant.
    await page.getByLabel('Tick all print modes that are shown').check();
    await expect(page.getByText(/are ticked\. Tick the one that is meant\./)).toBeVisible();
    await expect(page.getByRole('button', { name: 'Make this a condition' })).toBeDisabled();
    await page.getByRole('button', { name: '720 × 720, 8 passes', exact: true }).click();
    await page.getByRole('button', { name: 'Make this a condition' }).click();
    await expect(page.getByRole('heading', { name: 'Ink limits', level: 2 })).toBeVisible();
  });

  await test.step('ink limits: a strip goes wrong, is named, and read again', async () => {
    const chart = await print(page);
    await chart.getByRole('button', { name: 'Read strip A', exact: true }).click();
    await expect(chart.getByText('24 of 84 read')).toBeVisible();
    await request.post(`${instrument.url}/settings`, { data: { next: 'backwards' } });
    await chart.getByRole('button', { name: 'Read strip B', exact: true }).press('Enter');
    await expect(chart.getByRole('alert')).toContainText('Strip B was read backwards');
    await chart.getByRole('button', { name: 'Read strip B', exact: true }).press('Enter');
    await expect(chart.getByRole('alert')).toBeHidden();
    await chart.getByRole('button', { name: 'Read all that is left' }).click();
    await expect(chart.getByText('all read')).toBeVisible();
    await page.getByRole('button', { name: 'Use these limits' }).click();
    await expect(page.getByRole('button', { name: 'These limits count' })).toBeDisabled();
    // What was done is written down, and outlives a reload.
    await page.reload();
    await expect(page.getByRole('region', { name: 'History' })).toContainText('Ink limits: cyan');
  });

  await test.step('linearised, and a second print says how straight', async () => {
    await toStep(page, 'Linearise');
    const chart = await print(page);
    await chart.getByRole('button', { name: 'Read all that is left' }).click();
    await page.getByRole('button', { name: 'Linearise', exact: true }).click();
    const second = page.getByRole('region', { name: 'Second print' });
    await print(page, second.getByRole('region', { name: 'The chart' }));
    await second.getByRole('button', { name: 'Read all that is left' }).click();
    await second.getByRole('button', { name: 'Check the linearisation' }).click();
    await expect(page.getByRole('heading', { name: /^After: / })).toBeVisible();
    const after = await page.getByRole('region', { name: 'After', exact: true }).getByRole('heading').textContent();
    expect(parseFloat(/After: ([\d.]+) %/.exec(after ?? '')?.[1] ?? '99')).toBeLessThan(1.2);
  });

  await test.step('total ink', async () => {
    await toStep(page, 'Total ink');
    const chart = await print(page);
    await chart.getByRole('button', { name: 'Read all that is left' }).click();
    await page.getByRole('button', { name: 'Use this limit' }).click();
    await expect(page.getByText(/Suggested/)).toBeVisible();
  });

  await test.step('a quick profile, with black as wanted', async () => {
    await toStep(page, 'Profile');
    await page.getByLabel('Size of the chart').selectOption({ label: '300 patches, quick' });
    await expect(page.getByRole('region', { name: 'The chart' })).toContainText('300 patches on');
    const chart = await print(page);
    await chart.getByRole('button', { name: 'Read all that is left' }).click();
    await expect(chart.getByText('all read')).toBeVisible({ timeout: 120_000 });
    await page.getByRole('radio', { name: /^heavy/ }).check();
    await page.getByRole('button', { name: 'Build the profile' }).click();
    await expect(page.getByRole('region', { name: 'Fit' })).toBeVisible({ timeout: 200_000 });
    await expect(page.getByRole('region', { name: 'Gamut' }).getByText(/% of sRGB’s/)).toBeVisible({ timeout: 120_000 });
  });

  await test.step('verified on fresh patches, with a report', async () => {
    await toStep(page, 'Verify');
    const chart = await print(page);
    await chart.getByRole('button', { name: 'Read all that is left' }).click();
    await page.getByRole('button', { name: 'Verify', exact: true }).click();
    await expect(page.getByText('✓ Passed')).toBeVisible();
    const report = await request.get(`${server.url}/api/conditions/1/report`);
    const text = mupdf.Document.openDocument(await report.body(), 'application/pdf')
      .loadPage(0)
      .toStructuredText('preserve-whitespace')
      .asText();
    expect(text).toContain('Verification: Gloss white film');
    expect(text).toContain('Passed');
  });

  await test.step('a step that is done again makes others stale, and can be taken back', async () => {
    await toStep(page, 'Total ink');
    await page.getByLabel('Most ink in all, %').fill('220');
    await page.getByRole('button', { name: 'Use this limit' }).click();
    await expect(page.getByRole('link', { name: /^Profile/ })).toContainText('stale');
    await toStep(page, 'Profile');
    await expect(page.getByText('This is stale: Total ink was done again since.')).toBeVisible();
    await page.getByRole('button', { name: /^Go to: Verified/ }).click();
    await expect(page.getByRole('link', { name: /^Profile/ })).toContainText('done');
    await page.getByRole('link', { name: 'Colour', exact: true }).click();
    await expect(page.getByRole('gridcell', { name: 'measured here' })).toBeVisible();
  });
});
