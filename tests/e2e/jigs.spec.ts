import { expect, test } from '@playwright/test';
import { startMachine, startServer } from '../../scripts/stack.mjs';
import { temporaryFolder } from '../harness';
import { smallPage } from '../made/small-page';
import { call } from './api';
import { openPage } from './open';

type Started = Awaited<ReturnType<typeof startServer>>;
let started: Record<'printer' | 'server', Started>;
const folder = temporaryFolder();

test.beforeAll(async () => {
  const media = { name: 'Board', surface: 'matt', widthMm: 400, lengthMm: 0, sheetMm: 300, sheets: 9 };
  const printer = await startMachine('printer', { SPEED: 'full', MODEL: 'Skua 25', MEDIA: JSON.stringify(media) });
  started = { printer, server: await startServer({ ZING_DATA: folder.path }) };
});
test.afterAll(() => {
  for (const { child } of Object.values(started)) child.kill();
  folder.remove();
});

test('a jig is told once, a pocket is nudged, and dockets fall into it load after load', async ({ page, request }) => {
  const { server, printer } = started;
  const api = <T>(method: 'GET' | 'POST' | 'PUT', path: string, data?: object) =>
    call<T>(request, server.url, method, path, data);
  await api('POST', '/machines', { kind: 'printer', name: 'Skua 25', url: printer.url });
  const [{ id: machineId }] = await api<[{ id: number }]>('GET', '/machines');
  const media = await api<{ id: number }>('POST', '/media', { name: 'Board', thicknessMm: 3 });
  const condition = await api<{ id: number }>('POST', '/conditions', {
    machineId,
    mediaId: media.id,
    mode: 'Skua 25/Skerry/rigid/360/4/both ways/draft'
  });
  const docket = async (name: string, cmyk: string, copies: number): Promise<number> => {
    const taken = await request.post(`${server.url}/api/artworks?name=${name}.pdf`, {
      data: smallPage(`${cmyk} k 0 0 20 20 re f`),
      headers: { origin: server.url, 'content-type': 'application/pdf' }
    });
    const { id: artworkId } = (await taken.json()) as { id: number };
    await expect.poll(async () => (await api<{ state: string }>('GET', `/artworks/${artworkId}`)).state).toBe('ready');
    const { ids } = await api<{ ids: number[] }>('POST', '/dockets', { pages: [{ artworkId, page: 0 }] });
    const { version, choices } = await api<{ version: number; choices: object }>('GET', `/dockets/${ids[0]}`);
    await api('PUT', `/dockets/${ids[0]}`, {
      version,
      choices: { ...choices, conditionId: condition.id, copies, cut: false, bleedMm: 2 }
    });
    return ids[0]!;
  };

  await test.step('the shop has none, and says what one is for; a new one is told in sentences', async () => {
    await openPage(page, `${server.url}/shop`);
    await page.getByRole('link', { name: 'Jigs' }).click();
    await expect(page.getByText('A jig holds things in their places on a flatbed')).toBeVisible();
    await page.getByRole('button', { name: 'New jig' }).click();
    await page.getByLabel('Name of the jig').fill('Round tags');
    await page.getByLabel('Name of the jig').press('Enter');
    const say = async (label: string, text: string) => {
      await page.getByLabel(label, { exact: true }).fill(text);
      await page.getByLabel(label, { exact: true }).press('Enter');
    };
    await say('Width of the bed', '400');
    await say('Length of the bed', '300');
    await say('Width of the thing', '20');
    await say('Height of the thing', '20');
    await page.getByLabel('Outline of the thing').selectOption('ellipse');
    await say('Places across', '5');
    await say('Places along', '2');
    // Gap and pitch follow each other.
    await say('Pitch across', '32');
    await expect(page.getByLabel('Gap along', { exact: true })).toHaveValue('12');
    await say('Pitch along', '10');
    await expect(page.getByText('A pitch of 10 mm along is less than the thing')).toBeVisible();
    await expect(page.getByText('10 pockets, 5 across and 2 along.')).toBeVisible();
  });

  await test.step('what cannot be printed is said with the figure, and taken back', async () => {
    await page.getByLabel('Places across', { exact: true }).fill('14');
    await page.getByLabel('Places across', { exact: true }).press('Enter');
    await expect(page.getByText(/^Pocket 13 reaches 24\.0 mm beyond the bed/)).toBeVisible();
    await page.getByRole('heading', { name: 'One pocket' }).click();
    // What was typed in one go is one step back, and one forth again.
    await page.keyboard.press('Control+z');
    await expect(page.getByText('beyond the bed')).toBeHidden();
    await page.keyboard.press('Control+Shift+z');
    await expect(page.getByText('beyond the bed').first()).toBeVisible();
    await page.getByLabel('Places across', { exact: true }).fill('5');
    await page.getByLabel('Places across', { exact: true }).press('Enter');
    await expect(page.getByText('beyond the bed')).toBeHidden();
    await expect(page.getByText('10 pockets, 5 across and 2 along.')).toBeVisible();
  });

  await test.step('one pocket is moved by keys and figures, one is switched off', async () => {
    const picture = page.getByRole('img', { name: /^The jig on its bed of 400 × 300 mm, 10 pockets/ });
    await picture.focus();
    await page.keyboard.press(']');
    await page.keyboard.press(']');
    await expect(page.getByText(/^Pocket 2 in column 2, row 1/)).toBeVisible();
    await page.keyboard.press('Alt+ArrowRight');
    await page.keyboard.press('Alt+Shift+ArrowRight');
    await expect(page.getByLabel('Moved across')).toHaveValue('1.1');
    await page.getByLabel('Moved along').fill('-0.5');
    await page.getByLabel('Moved along').press('Enter');
    await picture.focus();
    await page.keyboard.press(']');
    await page.getByRole('button', { name: 'Switch it off' }).click();
    await expect(page.getByText('9 pockets, 5 across and 2 along, 1 switched off.')).toBeVisible();
    await page.getByRole('link', { name: 'All jigs' }).click();
    await expect(page.getByRole('row', { name: /^Round tags 9 20 × 20 400 × 300/ })).toBeVisible();
  });

  const runId = await test.step('two dockets share it: 9, then 3', async () => {
    const [first, second] = [await docket('Cyan', '1 0 0 0', 7), await docket('Magenta', '0 1 0 0', 5)];
    await api('POST', '/runs', { docketIds: [first, second] });
    await openPage(page, `${server.url}/runs`);
    await page
      .getByRole('link', { name: /^Run \d+/ })
      .first()
      .click();
    const jig = page.getByRole('region', { name: 'Jig' });
    await jig.getByLabel('Placed on').selectOption('Round tags');
    await expect(jig.getByText('2 loads: 9, then 3')).toBeVisible();
    await expect(jig.getByText('The last fills 1–3; 6 pockets stay empty')).toBeVisible();
    // Bleed is there to be cut off: nothing is said of it.
    await expect(jig.getByText('is lost')).toBeHidden();
    await jig.getByLabel('What is larger').selectOption('inside');
    await expect(page.getByText(/A piece of 24 × 24 mm is larger than the pockets of Round tags/).first()).toBeVisible();
    await jig.getByLabel('What is larger').selectOption('cut off');
    await expect(jig.getByText('2 loads: 9, then 3')).toBeVisible();
    return Number(/\/runs\/(\d+)/.exec(page.url())![1]);
  });

  await test.step('it is RIPped load by load, printed, and the jig cannot be deleted meanwhile', async () => {
    await page.getByRole('button', { name: 'RIP', exact: true }).click();
    await expect.poll(async () => (await api<{ state: string }>('GET', `/runs/${runId}`)).state).toBe('ripped');
    await api('POST', `/runs/${runId}/release`);
    await expect.poll(async () => (await api<{ state: string }>('GET', `/runs/${runId}`)).state).toBe('printed');
    const next = await api<{ layout: { parts: { copies: unknown[] }[] } }>('GET', `/runs/${runId + 1}`);
    expect(next.layout.parts.map(({ copies }) => copies.length)).toEqual([3]);
    await openPage(page, `${server.url}/shop/jigs`);
    await expect(page.getByRole('button', { name: 'Delete Round tags' })).toBeDisabled();
    await page.getByRole('button', { name: 'Copy Round tags' }).click();
    await expect(page.getByLabel('Name of the jig')).toHaveValue('Round tags 2');
    await page.getByRole('link', { name: 'All jigs' }).click();
    await page.getByRole('button', { name: 'Delete Round tags 2' }).click();
    await page.getByRole('button', { name: 'Bring it back' }).click();
    await expect(page.getByRole('link', { name: 'Round tags 2' })).toBeVisible();
  });
});
