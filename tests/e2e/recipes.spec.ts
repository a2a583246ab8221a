import { expect, test } from '@playwright/test';
import { existsSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { startMachine, startServer } from '../../scripts/stack.mjs';
import { readyStacks, withStack } from '../../core/artwork/docket-stack';
import { DEFAULT_CUT } from '../../core/artwork/cut-choices';
import { attribute, decodeResponse, encodeRequest, OPERATION, STATUS, TAG } from '../../protocol/ipp';
import type { DocketChoices } from '../../src/lib/docket-choices';
import { temporaryFolder } from '../harness';
import { cmykBox, madePdf, spotStroke } from '../made/pdf';
import { call } from './api';
import { openPage } from './open';

/** What a docket is told is kept as a recipe, a folder carries it, and what is put there is printed by itself. */

type Started = Awaited<ReturnType<typeof startServer>>;
let started: Record<'printer' | 'server', Started>;
const folder = temporaryFolder();
const inbox = temporaryFolder();

test.beforeAll(async () => {
  const media = { name: 'Board', surface: 'matt', widthMm: 400, lengthMm: 0, sheetMm: 300, sheets: 30 };
  const printer = await startMachine('printer', { SPEED: 'full', MODEL: 'Skua 25', MEDIA: JSON.stringify(media) });
  started = { printer, server: await startServer({ ZING_DATA: folder.path, ZING_STILL_MS: '400' }) };
});
test.afterAll(() => {
  for (const { child } of Object.values(started)) child.kill();
  folder.remove();
  inbox.remove();
});

test('a recipe is kept from a docket, a folder carries it, and what lies there is printed; what cannot be is mended from the in-tray', async ({
  page,
  request
}) => {
  test.setTimeout(300_000);
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
  await expect
    .poll(async () => (await api<{ hasProfile: boolean }[]>('GET', '/conditions'))[0]!.hasProfile, { timeout: 60_000 })
    .toBe(true);
  const pdf = (widthMm: number, heightMm: number, ink: string) =>
    madePdf({ width: widthMm, height: heightMm, content: cmykBox(ink, 0, 0, widthMm, heightMm) });
  const taken = await request.post(`${server.url}/api/artworks?name=Label.pdf`, {
    data: pdf(60, 40, '0.6 0.1 0 0'),
    headers: { origin: server.url, 'content-type': 'application/pdf' }
  });
  const { id: artworkId } = (await taken.json()) as { id: number };
  await expect.poll(async () => (await api<{ state: string }>('GET', `/artworks/${artworkId}`)).state).toBe('ready');
  const { ids } = await api<{ ids: [number] }>('POST', '/dockets', { pages: [{ artworkId, page: 0 }] });
  const docket = await api<{ version: number; choices: DocketChoices }>('GET', `/dockets/${ids[0]}`);
  const line = { id: 'line-1', tool: 'kiss cut', from: { kind: 'page', shape: 'rounded', radiusMm: 4 }, offsetMm: 0, corners: 'round', smoothMm: 0.1, holes: false, smallestMm2: 1, bridgeMm: 0 }; // prettier-ignore
  await api('PUT', `/dockets/${ids[0]}`, {
    version: docket.version,
    choices: {
      ...docket.choices,
      conditionId: condition.id,
      bleedMm: 2,
      bleedFrom: 'mirror',
      cut: true,
      lines: { ...DEFAULT_CUT, made: [line] },
      ...withStack(readyStacks({}).find(({ name }) => name === 'White under colour')!.stack)
    }
  });

  await test.step('the docket in front of one is kept as a recipe, whole, and told in sentences', async () => {
    await openPage(page, `${server.url}/dockets/${ids[0]}`);
    await page.getByRole('button', { name: 'Keep as a recipe' }).click();
    const dialog = page.getByRole('dialog', { name: 'Keep as a recipe' });
    // Nothing is kept without a name.
    await expect(dialog.getByRole('button', { name: 'Keep it' })).toBeDisabled();
    await expect(dialog.getByText('Layers of ink, from the media up: white, colour.')).toBeVisible();
    await expect(dialog.getByText('kiss cut along the finished size')).toBeVisible();
    await dialog.getByLabel('number of copies').check();
    await dialog.getByLabel('Copies of the recipe').fill('3');
    await dialog.getByLabel('Copies of the recipe').press('Tab');
    await dialog.getByLabel('Name', { exact: true }).fill('Window labels');
    await dialog.getByRole('button', { name: 'Keep it' }).click();
    await expect(dialog).toBeHidden();
    await openPage(page, `${server.url}/shop/recipes`);
    await expect(page.getByRole('row', { name: /Window labels/ })).toContainText(
      '2 mm of bleed, by mirroring the edge where the file has none. 3 copies.'
    );
    // By keyboard and mouse it is changed whole, or not at all.
    await page.getByRole('link', { name: 'Window labels', exact: true }).click();
    await page.getByLabel('When bleed is made').selectOption('always');
    await page.getByRole('button', { name: 'As it was' }).click();
    await expect(page.getByLabel('When bleed is made')).toHaveValue('missing');
    await page.getByLabel('Note').fill('For the window');
    await page.getByRole('button', { name: 'Keep the change' }).click();
    await expect(page.getByRole('region', { name: 'As it was before' }).getByRole('row')).toHaveCount(1);
  });

  const path = join(inbox.path, 'in');
  await test.step('a folder is watched with it, for files alone that are meant', async () => {
    mkdirSync(path);
    writeFileSync(join(path, 'Diary.txt'), 'Not to be printed.');
    await openPage(page, `${server.url}/artwork`);
    await page.getByRole('link', { name: 'In-tray' }).click();
    await expect(page.getByText('Nothing has come by itself yet.')).toBeVisible();
    await page.getByRole('button', { name: 'Watch a folder' }).click();
    await page.getByLabel('Folder on the server').fill(path);
    await page.getByLabel('Recipe of the folder').selectOption({ label: 'by Window labels' });
    await page.getByLabel('How far it goes').selectOption('release');
    await page.getByLabel('What is to be looked at').selectOption({ label: 'what is to be looked at goes on' });
    await expect(page.getByText('Sign_24x.pdf is 24 copies')).toBeVisible();
    await page.getByRole('button', { name: 'Watch it' }).click();
    await expect(page.getByRole('alert').filter({ hasText: 'lies one thing already' })).toBeVisible();
    await page.getByLabel('Folder on the server').fill(join(inbox.path, 'labels'));
    await page.getByRole('button', { name: 'Watch it' }).click();
    await expect(page.getByRole('article', { name: join(inbox.path, 'labels') })).toContainText(
      'by Window labels, laid out and released'
    );
    expect(readdirSync(path)).toEqual(['Diary.txt']);
  });

  const labels = join(inbox.path, 'labels');
  const rowOf = (name: string) => page.getByRole('table', { name: 'What came' }).getByRole('row').filter({ hasText: name });
  await test.step('what is put there is printed in white and colour, as often as its name says', async () => {
    mkdirSync(join(labels, 'Gull & Sons'));
    writeFileSync(join(labels, 'Gull & Sons', 'Sign_5x.pdf'), pdf(50, 30, '0 0.5 0.4 0'));
    await expect(rowOf('Sign_5x.pdf')).toContainText('done', { timeout: 60_000 });
    await expect(rowOf('Sign_5x.pdf')).toContainText('Gull & Sons');
    await rowOf('Sign_5x.pdf').getByRole('link', { name: 'Sign_5x' }).click();
    await expect(page.getByLabel('Customer', { exact: true })).toHaveValue('Gull & Sons');
    const made = Number(page.url().split('/').at(-1));
    const { choices, runId } = await api<{ choices: DocketChoices; runId: number }>('GET', `/dockets/${made}`);
    expect([choices.copies, choices.bleedMm, choices.cut, choices.lines.made.length]).toEqual([5, 2, true, 1]);
    expect(choices.stack!.layers.map(({ ink }) => ink)).toEqual(['white', 'colour']);
    await expect
      .poll(async () => (await api<{ state: string }>('GET', `/runs/${runId}`)).state, { timeout: 120_000 })
      .toBe('printed');
    const jobs = (await (await request.get(`${printer.url}/jobs`)).json()) as { name: string }[];
    expect(jobs.map(({ name }) => name)).toContain(`Run ${runId}`);
    expect(existsSync(join(labels, 'taken', 'Gull & Sons', 'Sign_5x.pdf'))).toBe(true);
  });

  await test.step('what is too large waits with its reason, and is made again by another recipe', async () => {
    const whole = await api<{ id: number; recipe: object }[]>('GET', '/recipes');
    await api('POST', '/recipes', { name: 'Labels, small', note: '', on: whole[0]!.id, sets: { size: { is: 'width', mm: 80 } } });
    writeFileSync(join(labels, 'Large.pdf'), pdf(900, 700, '0 0 0.5 0.2'));
    writeFileSync(join(labels, 'Letter.pdf'), 'Dear printers');
    await openPage(page, `${server.url}/artwork/in-tray`);
    await expect(rowOf('Letter.pdf')).toContainText('refused', { timeout: 60_000 });
    await expect(rowOf('Large.pdf')).toContainText('waits for a person', { timeout: 60_000 });
    await expect(page.getByRole('navigation', { name: 'Places' }).getByRole('link', { name: /Artwork/ })).toContainText(
      '2 to see'
    );
    await page.getByRole('button', { name: /^Needs a person 2/ }).click();
    await expect(rowOf('Sign_5x.pdf')).toBeHidden();
    await rowOf('Large.pdf').getByLabel('Recipe for Large.pdf').selectOption({ label: 'by Labels, small' });
    await rowOf('Large.pdf').getByRole('button', { name: 'Make it again' }).click();
    await expect(rowOf('Large.pdf')).toBeHidden();
    await page.getByRole('button', { name: /^All 3/ }).click();
    await expect(rowOf('Large.pdf')).toContainText('done', { timeout: 60_000 });
    const link = rowOf('Large.pdf').getByRole('link', { name: /^run \d+$/ });
    const run = Number((await link.innerText()).slice(4));
    await expect
      .poll(async () => (await api<{ state: string }>('GET', `/runs/${run}`)).state, { timeout: 120_000 })
      .toBe('printed');
    await rowOf('Letter.pdf').getByRole('button', { name: 'Seen to' }).click();
    await expect(page.getByRole('navigation', { name: 'Places' }).getByRole('link', { name: /Artwork/ })).not.toContainText(
      'to see'
    );
  });

  await test.step('a program sends a file with a ticket, once, and asks what became of it', async () => {
    const ticket = { customer: 'Ferry company', copies: 2, recipe: 'Window labels' };
    const post = (name: string, said: string) =>
      request.post(`${server.url}/api/arrivals?name=${name}&ticket=${encodeURIComponent(said)}`, {
        data: pdf(40, 40, '0.2 0.8 0 0'),
        headers: { origin: server.url, 'content-type': 'application/octet-stream', 'idempotency-key': 'order-7' }
      });
    const sent = (await (await post('Sent.pdf', JSON.stringify(ticket))).json()) as { id: number };
    expect(await (await post('Sent.pdf', JSON.stringify(ticket))).json()).toMatchObject({ id: sent.id });
    const asked = () => api<{ state: string; dockets: { check: { level: string }; seconds: number; mediaCost: number; cost: number | null; lengthMm: number }[] }>('GET', `/arrivals/${sent.id}`); // prettier-ignore
    await expect.poll(async () => (await asked()).state, { timeout: 60_000 }).toBe('done');
    const { dockets } = await asked();
    expect(dockets).toHaveLength(1);
    expect(dockets[0]).toMatchObject({ runId: null, check: { level: expect.stringMatching(/fine|look/) } });
    expect(dockets[0]!.seconds).toBeGreaterThan(0);
    // Its price once its ink is measured: with its media, and its machine's time.
    await expect.poll(async () => (await asked()).dockets[0]!.cost, { timeout: 60_000 }).toBeGreaterThan(dockets[0]!.mediaCost);
    // With a table of its records, in a form.
    const places = madePdf({ width: 80, height: 50, spots: { 'Data area Name': [0, 1, 0, 0] }, content: `${cmykBox('0.1 0 0 0', 0, 0, 80, 50)} ${spotStroke('10 10 m 70 10 l 70 30 l 10 30 l h')}` }); // prettier-ignore
    const form = (table: string) =>
      request.post(`${server.url}/api/arrivals`, {
        multipart: {
          file: { name: 'Badges.pdf', mimeType: 'application/pdf', buffer: places },
          ticket: JSON.stringify({ customer: 'Regatta' }),
          table: { name: table, mimeType: 'text/csv', buffer: Buffer.from('Name\nAnna\nBjörn\n') }
        },
        headers: { origin: server.url }
      });
    const filled = (await (await form('Guests.csv')).json()) as { id: number; table: string };
    expect(filled.table).toBe('Guests.csv');
    const badges = () => api<{ state: string; reason: string; dockets: { id: number }[] }>('GET', `/arrivals/${filled.id}`);
    await expect.poll(async () => (await badges()).state, { timeout: 60_000 }).toBe('done');
    const [{ id: badge }] = (await badges()).dockets as [{ id: number }];
    const { records } = (await api<{ choices: DocketChoices }>('GET', `/dockets/${badge}`)).choices;
    expect([records.table?.name, records.table?.count, records.fields.length]).toEqual(['Guests.csv', 2, 1]);
    const none = await form('Guests.doc');
    expect([none.status(), ((await none.json()) as { error: string }).error]).toEqual([422, expect.stringContaining('is no table by its name')]); // prettier-ignore
    const wrong = await post('Other.pdf', '{"copies": 0}');
    expect([wrong.status(), (await wrong.json()) as { error: string }]).toEqual([422, expect.objectContaining({ error: 'At least 1 copy.' })]); // prettier-ignore
  });

  await test.step('a printer for every program is made, for whom it is said to be, and what is printed on it comes', async () => {
    await openPage(page, `${server.url}/artwork/in-tray`);
    const printers = page.getByRole('region', { name: 'Printers for every program' });
    await printers.getByRole('button', { name: 'Make a printer' }).click();
    await expect(printers.getByRole('button', { name: 'Make it' })).toBeDisabled();
    await printers.getByLabel('Name, as other programs list it').fill('Window labels');
    await printers.getByLabel('Recipe of the printer').selectOption({ label: 'by Window labels' });
    await printers.getByLabel('Port').fill(String(20_000 + (process.pid % 12_000)));
    // Nobody prints from elsewhere unless it is said who.
    await printers.getByLabel('Who reaches it').selectOption({ label: 'also for other machines' });
    await printers.getByRole('button', { name: 'Make it' }).click();
    await expect(printers.getByRole('alert')).toContainText('Say which addresses may print');
    await printers.getByLabel('Addresses that may print').fill('10.1.0.0/16 192.168.7.9');
    await printers.getByRole('button', { name: 'Make it' }).click();
    const made = printers.getByRole('article', { name: 'Window labels' });
    await expect(made).toContainText('For 10.1.0.0/16, 192.168.7.9.');
    // Where others reach it; this machine may print on it too.
    const told = await made.locator('code').innerText();
    expect(told).toMatch(/^ipp:\/\/[\w.-]+:\d+\/ipp\/print$/);
    const uri = told.replace(/\/\/[\w.-]+:/, '//127.0.0.1:');
    const head = encodeRequest(OPERATION.printJob, 1, [
      attribute(TAG.uri, 'printer-uri', uri),
      attribute(TAG.name, 'requesting-user-name', 'Anna'),
      attribute(TAG.name, 'job-name', 'Opening hours')
    ]);
    const reply = await request.post(uri.replace('ipp:', 'http:'), {
      data: Buffer.concat([head, pdf(55, 35, '0.1 0.1 0.7 0')]),
      headers: { 'content-type': 'application/ipp' }
    });
    expect(decodeResponse(await reply.body()).code).toBe(STATUS.ok);
    await expect(rowOf('Opening hours')).toContainText('done', { timeout: 60_000 });
    await expect(rowOf('Opening hours')).toContainText('Anna · printed on Window labels');
    await page.getByLabel('Where it came from').selectOption({ label: 'sent by programs' });
    await expect(rowOf('Opening hours')).toBeHidden();
    await expect(rowOf('Sent.pdf')).toBeVisible();
    await page.getByLabel('Where it came from').selectOption({ label: 'printed on Window labels' });
    await expect(rowOf('Sent.pdf')).toBeHidden();
    await expect(rowOf('Opening hours')).toBeVisible();
    await made.getByRole('button', { name: 'Switch off Window labels' }).click();
    await expect(made).toContainText('Switched off.');
    await expect(request.get(uri.replace('ipp:', 'http:'))).rejects.toThrow();
    await made.getByRole('button', { name: 'Take Window labels away' }).click();
    await expect(made).toBeHidden();
    await page.getByRole('button', { name: 'Bring it back' }).click();
    await expect(made).toContainText('For 10.1.0.0/16, 192.168.7.9.');
  });

  await test.step('a rule of the shop says which recipe, tried on a file before it is kept', async () => {
    await openPage(page, `${server.url}/shop/recipes`);
    const rules = page.getByRole('region', { name: 'Rules for what comes in' });
    await rules.getByRole('button', { name: 'Another rule' }).click();
    await rules.getByLabel('Rule 1: the file is called').fill('label*');
    await rules.getByLabel('Rule 1: the file is called').press('Tab');
    await rules.getByLabel('Rule 1: recipe').selectOption({ label: 'Labels, small' });
    await rules.getByText('Try them on a file').click();
    await rules.getByLabel('File to try the rules on').selectOption({ label: 'Label.pdf' });
    await rules.getByRole('button', { name: 'Try', exact: true }).click();
    await expect(rules.getByRole('status')).toContainText('Rule 1 fits: it is made by Labels, small.');
    await rules.getByLabel('File to try the rules on').selectOption({ label: 'Large.pdf' });
    await rules.getByRole('button', { name: 'Try', exact: true }).click();
    await expect(rules.getByRole('status')).toContainText('No rule fits');
    // What is not kept yet waits: a recipe is looked at, and the page is loaded anew.
    await page.getByRole('link', { name: 'Labels, small', exact: true }).click();
    await expect(page.getByRole('textbox', { name: 'Name of the recipe' })).toHaveValue('Labels, small');
    await page.getByRole('link', { name: 'All recipes' }).click();
    await expect(rules.getByLabel('Rule 1: the file is called')).toHaveValue('label*');
    await page.reload();
    await expect(rules.getByLabel('Rule 1: the file is called')).toHaveValue('label*');
    await rules.getByRole('button', { name: 'Keep the rules' }).click();
    await expect(rules.getByRole('button', { name: 'Keep the rules' })).toBeHidden();
    const { ids: again } = await api<{ ids: [number] }>('POST', '/dockets', { pages: [{ artworkId, page: 0 }] });
    const made = await api<{ choices: DocketChoices }>('GET', `/dockets/${again[0]}`);
    expect([made.choices.widthMm, made.choices.copies]).toEqual([80, 3]);
  });

  await test.step('it is applied by hand too, with what it changes shown before', async () => {
    await openPage(page, `${server.url}/dockets/${ids[0]}`);
    await page.getByRole('button', { name: 'Apply a recipe' }).click();
    const dialog = page.getByRole('dialog', { name: 'Apply a recipe' });
    await dialog.getByLabel('Labels, small').check();
    await expect(dialog.getByText(/80 mm × 53\.3\d* mm/)).toBeVisible();
    await dialog.getByRole('button', { name: 'Apply it' }).click();
    await expect(dialog).toBeHidden();
    await expect(page.getByLabel('Width', { exact: true })).toHaveValue('80');
    await page.getByRole('button', { name: 'Take back the last change' }).click();
    await expect(page.getByLabel('Width', { exact: true })).toHaveValue('60');
  });
});
