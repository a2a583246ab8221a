import { expect, test, type APIRequestContext, type Page } from '@playwright/test';
import { zipSync } from 'fflate';
import sharp from 'sharp';
import * as spreadsheets from '@e965/xlsx';
import { startMachine, startServer } from '../../scripts/stack.mjs';
import { temporaryFolder } from '../harness';
import { madePdf } from '../made/pdf';
import { readPrintCode } from '../../core/marks/print-code';
import { readCodes } from '$protocol/code-reader';
import { call } from './api';
import { openPage } from './open';

/** Passes for the crews of a regatta: from the customer’s spreadsheet to what is cut out, and three of them once more. */

type Started = Awaited<ReturnType<typeof startServer>>;
let started: Started[] = [];
let url = '';
const folder = temporaryFolder();

const CREW = [
  ['Ada Vik', 'Kittiwake', '27001'],
  ['Zoë Ng', 'Tern', '27002'],
  ['Bartholomäus Featherstonehaugh-von der See', 'Gannet II', '27003'],
  ['Li Quay', 'Kittiwake', '27004'],
  ['Þóra Hafsteinsdóttir', 'Puffin of the Slip', '27005'],
  ['Ove Ærø', 'Tern', '27006'],
  ['José Peña', 'Tern', '27007'],
  ['Una Voe', 'Little Auk', '27008']
];
/** Headings are spelled as nobody asks for them. */
const HEADINGS = ['FULL-NAME', 'Boat name', 'Pass No.'];
const codeOf = (record: number) => `${CREW[record - 1]![2]}/${CREW[record - 1]![1]}`;

test.beforeAll(async ({ request }) => {
  test.setTimeout(600_000);
  const media = JSON.stringify({ name: 'White film', surface: 'gloss', widthMm: 500, lengthMm: 9000 });
  const [printer, cutter] = await Promise.all([
    startMachine('printer', { SPEED: 'full', MEDIA: media }),
    startMachine('cutter', { SEED: '11' })
  ]);
  const server = await startServer({ ZING_DATA: folder.path });
  started = [server, printer, cutter];
  ({ url } = server);
  await call(request, url, 'POST', '/machines', { kind: 'printer', name: 'Petrel 13', url: printer.url });
  await call(request, url, 'POST', '/machines', { kind: 'cutter', name: 'Tern 130', url: cutter.url });
  await call(request, url, 'POST', '/media', { name: 'White film', widthMm: 500 });
  // The camera sees what came out an eighth as fine: a draft has no marks for it.
  const mode = 'Petrel 13/Harbour/calendered/720/8/both ways/quality';
  await call(request, url, 'POST', '/conditions', { machineId: 1, mediaId: 1, mode });
  const ready = async () => (await call<{ hasProfile: boolean }[]>(request, url, 'GET', '/conditions'))[0]!.hasProfile;
  await expect.poll(ready, { timeout: 240_000 }).toBe(true);
});
test.afterAll(() => {
  for (const { child } of started) child.kill();
  folder.remove();
});

function spreadsheet(): Buffer {
  const book = spreadsheets.utils.book_new();
  spreadsheets.utils.book_append_sheet(book, spreadsheets.utils.aoa_to_sheet([HEADINGS, ...CREW]), 'Crews');
  return spreadsheets.write(book, { type: 'buffer', bookType: 'ods' }) as Buffer;
}

const panel = (page: Page) => page.getByRole('complementary', { name: 'Fields and table' });
const saved = (page: Page) => expect(panel(page).getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();

/** RIPs and prints the run that is open. @returns the number of its print */
async function printed(page: Page): Promise<number> {
  await page.getByRole('button', { name: 'RIP', exact: true }).click();
  const begun = page.waitForResponse((reply) => reply.url().endsWith('/print') && reply.request().method() === 'POST');
  await page.getByRole('button', { name: 'Print', exact: true }).click({ timeout: 120_000 });
  const [print] = (await (await begun).json()) as { id: number }[];
  await expect(page.getByRole('region', { name: 'Print' }).getByText('Done')).toBeVisible({ timeout: 150_000 });
  return print!.id;
}

/** A docket of a pass of 120 × 80 mm with a line around it. @returns its number */
async function passDocket(request: APIRequestContext): Promise<number> {
  const pdf = madePdf({
    width: 120,
    height: 80,
    content: '.1 0 .05 0 k 0 0 120 80 re f /S0 CS 1 SCN 0.2 w 2 2 116 76 re S',
    spots: { 'Cut line': [0, 1, 0, 0] }
  });
  const reply = await request.post(`${url}/api/artworks?name=Pass.pdf`, {
    data: pdf,
    headers: { origin: url, 'content-type': 'application/pdf' }
  });
  const { id: artworkId } = (await reply.json()) as { id: number };
  const state = async () => (await call<{ state: string }>(request, url, 'GET', `/artworks/${artworkId}`)).state;
  await expect.poll(state).toBe('ready');
  return (await call<{ ids: number[] }>(request, url, 'POST', '/dockets', { pages: [{ artworkId, page: 0 }] })).ids[0]!;
}

test('crew passes come out of a spreadsheet, are cut out, and three of them are printed again', async ({ page, request }) => {
  const docket = await passDocket(request);

  await test.step('the customer’s spreadsheet is taken as it is', async () => {
    await openPage(page, `${url}/dockets/${docket}`);
    await page.getByRole('link', { name: 'Give it records' }).click();
    await expect(page.getByRole('heading', { name: 'Records of Pass' })).toBeVisible();
    await openPage(page, page.url());
    const choosing = page.waitForEvent('filechooser');
    await panel(page).getByText('Take a table').click();
    await (await choosing).setFiles({ name: 'crews.ods', mimeType: 'application/octet-stream', buffer: spreadsheet() });
    await expect(panel(page).getByText('8 records from crews.ods.')).toBeVisible();
    await expect(page.getByRole('textbox', { name: 'FULL-NAME of record 3' })).toHaveValue(CREW[2]![0]!);
  });

  await test.step('a field is put on the piece by keyboard, and finds its column by its name', async () => {
    await panel(page).getByRole('button', { name: 'New lettering' }).click();
    await page.keyboard.press('Enter');
    await panel(page).getByLabel('Says', { exact: true }).fill('{full name}');
    await expect(panel(page).getByText('e.g. “Ada Vik”')).toBeVisible();
    await panel(page).getByLabel('Size of the lettering').selectOption('fixed');
    await panel(page).getByLabel('Points').fill('26');
    await panel(page).getByLabel('Points').press('Enter');
    for (const [label, value] of [
      ['Width', '64'],
      ['Height', '20'],
      ['From the left', '4'],
      ['From the top', '10']
    ] as const) {
      await panel(page).getByLabel(label, { exact: true }).fill(value);
      await panel(page).getByLabel(label, { exact: true }).press('Enter');
    }
    await saved(page);
  });

  await test.step('a code is drawn with the mouse; a name that no column has is told with what it may mean', async () => {
    await panel(page).getByRole('button', { name: 'New code' }).click();
    const box = (await page.getByRole('region', { name: 'Fields on the piece, to scale' }).boundingBox())!;
    // Pulled on the right half of the piece.
    await page.mouse.move(box.x + box.width * 0.58, box.y + box.height * 0.4);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * 0.7, box.y + box.height * 0.6, { steps: 5 });
    await page.mouse.up();
    await expect(page.getByRole('button', { name: /^Field Code/ })).toBeVisible();
    await panel(page).getByLabel('Kind of code').selectOption('Data Matrix');
    await panel(page).getByLabel('Says', { exact: true }).fill('{pass no}/{boat}');
    await panel(page).getByRole('button', { name: 'Boat name?' }).click();
    await expect(panel(page).getByLabel('Column for boat')).toHaveValue('Boat name');
    for (const [label, value] of [
      ['Width', '42'],
      ['Height', '42'],
      ['From the left', '72'],
      ['From the top', '20']
    ] as const) {
      await panel(page).getByLabel(label, { exact: true }).fill(value);
      await panel(page).getByLabel(label, { exact: true }).press('Enter');
    }
    await saved(page);
  });

  await test.step('the name that is too long is told, and mended for its record alone', async () => {
    const risks = panel(page).getByRole('region', { name: 'At risk' });
    await expect(risks.getByRole('heading', { name: /Do not fit: 2/ })).toBeVisible();
    await risks.getByRole('button', { name: /^3 Lettering: “Bartholomäus/ }).click();
    await expect(page.getByLabel('Record that is shown')).toHaveValue('3');
    await risks.getByRole('button', { name: 'Record 3 as large as fits' }).click();
    await expect(risks.getByRole('heading', { name: /Do not fit: 1/ })).toBeVisible();
    await risks.getByRole('button', { name: /^5 Lettering: “Þóra/ }).click();
    await risks.getByRole('button', { name: 'Each as large as fits' }).click();
    await expect(risks.getByText('All 8 records fit, and have all their values.')).toBeVisible();
    await page.keyboard.press('Control+z');
    await expect(risks.getByRole('heading', { name: /Do not fit: 1/ })).toBeVisible();
    await page.keyboard.press('Control+Shift+z');
    await expect(risks.getByText('All 8 records fit, and have all their values.')).toBeVisible();
  });

  await test.step('a cell is put right in the table, and all are seen in small', async () => {
    await page.getByRole('textbox', { name: 'FULL-NAME of record 4' }).fill('Li Quay-Tidewell');
    await page.getByRole('textbox', { name: 'FULL-NAME of record 4' }).press('Enter');
    await expect(page.getByRole('textbox', { name: 'FULL-NAME of record 5' })).toBeFocused();
    await saved(page);
    await page.getByRole('tab', { name: 'Contact sheet' }).click();
    const sheet = page.getByRole('group', { name: 'Contact sheet' });
    await expect(sheet.getByRole('button')).toHaveCount(8);
    await sheet.getByRole('button', { name: 'Record 6' }).click();
    await expect(page.getByLabel('Record that is shown')).toHaveValue('6');
  });

  let print = 0;
  await test.step('it is laid out, printed and cut out, each pass with its own code', async () => {
    await page.getByRole('link', { name: `Docket ${docket}` }).click();
    const ticket = page.getByRole('complementary', { name: 'Ticket' });
    await expect(ticket.getByRole('region', { name: 'Copies' })).toContainText('8 copies, as its records say');
    await expect(ticket.getByRole('region', { name: 'Records' })).toContainText('8 records of crews.ods in 2 fields.');
    await ticket.getByRole('button', { name: 'Lay it out' }).click();
    await expect(page).toHaveURL(/\/runs\/\d+$/);
    print = await printed(page);
    expect(await codesOf(request, print)).toEqual([1, 2, 3, 4, 5, 6, 7, 8].map(codeOf));
    await page.getByRole('link', { name: 'To the cutter' }).click();
    await page.getByRole('button', { name: 'Load the print' }).click();
    await page.getByRole('button', { name: 'Find the marks' }).click();
    await page.getByRole('button', { name: 'Cut', exact: true }).click();
    await expect(page.getByText('8 lines were cut.')).toBeVisible();
  });

  await test.step('three that were spoiled are chosen on the run, and printed again', async () => {
    await openPage(page, `${url}/runs/1`);
    const picture = page.getByRole('img', { name: /The run on its roll/ });
    await picture.focus();
    const chosen = page.getByRole('toolbar', { name: 'Copies that are chosen' });
    for (const [key, says] of [
      [']', 'record 1'],
      [']', 'record 2'],
      ['Shift+]', 'records 2, 3'],
      ['Shift+]', 'records 2, 3, 4']
    ] as const) {
      await page.keyboard.press(key);
      await expect(chosen).toContainText(says);
    }
    await chosen.getByRole('button', { name: 'Print them again' }).click();
    await expect(page).toHaveURL(/\/runs\/2$/);
    const again = await printed(page);
    expect(await codesOf(request, again)).toEqual([2, 3, 4].map(codeOf));
    // Both prints of it are written down.
    const of = await call<{ runId: number }[]>(request, url, 'GET', `/dockets/${docket}/records/3`);
    expect(of.map(({ runId }) => runId)).toEqual([2, 1]);
    expect(await call<object[]>(request, url, 'GET', `/dockets/${docket}/records/8`)).toHaveLength(1);
  });
});

test('columns are offered as a text is typed, pictures come out of a zip, and records are ticked', async ({ page, request }) => {
  const docket = await passDocket(request);
  const table = 'name,photo,note\nAda,ada.jpg,=1+1\nLi,li,\nZoë,zoe.png,from the slip\n';
  const headers = { origin: url, 'content-type': 'application/octet-stream' };
  const { version } = await call<{ version: number }>(request, url, 'GET', `/dockets/${docket}`);
  await request.put(`${url}/api/dockets/${docket}/table?version=${version}&name=crew.csv`, { data: table, headers });
  await openPage(page, `${url}/dockets/${docket}/records`);

  await test.step('what is offered is taken by keyboard', async () => {
    await panel(page).getByRole('button', { name: 'New lettering' }).click();
    await page.keyboard.press('Enter');
    const says = panel(page).getByLabel('Says', { exact: true });
    const offered = panel(page).getByRole('listbox', { name: 'What may be meant' });
    await says.fill('To {');
    await expect(offered.getByRole('option')).toHaveCount(4);
    await says.pressSequentially('n');
    await expect(offered.getByRole('option', { name: 'note' })).toBeVisible();
    await says.press('ArrowDown');
    await says.press('ArrowUp');
    await says.press('Enter');
    await expect(says).toHaveValue('To {name}');
    await expect(panel(page).getByText('e.g. “To Ada”')).toBeVisible();
    await says.pressSequentially(' {');
    await says.press('Escape');
    await expect(offered).toBeHidden();
    await says.fill('To {name}');
    await saved(page);
  });

  await test.step('pictures come out of a zip, and one that is missing is told', async () => {
    await panel(page).getByRole('button', { name: 'New picture' }).click();
    await page.keyboard.press('Enter');
    await panel(page).getByLabel('Says', { exact: true }).fill('{photo}');
    await saved(page);
    const picture = await sharp({ create: { width: 400, height: 300, channels: 3, background: '#336699' } })
      .jpeg()
      .toBuffer();
    const zip = zipSync({ 'crew/Ada.jpg': picture, 'crew/ZOE.jpeg': picture, 'list.txt': new Uint8Array([65]) });
    const choosing = page.waitForEvent('filechooser');
    const pictures = panel(page).getByRole('region', { name: 'Pictures' });
    await pictures.getByText('Take a zip of pictures').click();
    await (await choosing).setFiles({ name: 'crew.zip', mimeType: 'application/zip', buffer: Buffer.from(zip) });
    await expect(pictures.getByText('2 pictures from crew.zip.')).toBeVisible();
    await pictures.getByText('1 file of the zip left out').click();
    await expect(pictures.getByText('list.txt: it is no picture')).toBeVisible();
    const risks = panel(page).getByRole('region', { name: 'At risk' });
    await expect(risks.getByRole('heading', { name: /No picture: 1/ })).toBeVisible();
    await risks.getByRole('button', { name: /^2 Picture: there is no picture/ }).click();
    await risks.getByRole('button', { name: 'Print those without a picture' }).click();
    await expect(risks.getByText('All 3 records fit, and have all their values.')).toBeVisible();
  });

  await test.step('records are ticked, or chosen by what is in them', async () => {
    const only = panel(page).getByLabel('Records that are printed');
    await page.getByRole('checkbox', { name: 'Print record 2' }).uncheck();
    await expect(only).toHaveValue('1, 3-');
    await expect(panel(page).getByText('2 copies')).toBeVisible();
    await page.getByLabel('Show records with').fill('slip');
    await page.getByRole('button', { name: 'Print these alone' }).click();
    await expect(only).toHaveValue('3');
    await page.getByRole('checkbox', { name: 'Print record 3' }).click();
    await expect(page.getByText('One record at least is printed.')).toBeVisible();
    await expect(page.getByRole('checkbox', { name: 'Print record 3' })).toBeChecked();
    await page.getByRole('button', { name: 'Print all' }).click();
    await expect(only).toHaveValue('');
    await saved(page);
    // What a spreadsheet would work out is text there too.
    const written = await request.get(`${url}/api/dockets/${docket}/table/file`);
    expect((await written.text()).split('\r\n')[1]).toBe("Ada,ada.jpg,'=1+1");
  });
});

/** What another program reads on what came out of the machine, in the order of the passes. */
async function codesOf(request: Parameters<typeof call>[0], print: number): Promise<string[]> {
  const reply = await request.get(`${url}/api/prints/${print}/output`);
  const { data, info } = await sharp(await reply.body())
    .greyscale()
    .raw()
    .toBuffer({ resolveWithObject: true });
  const found = await readCodes(new Uint8Array(data), info.width, info.height);
  expect(new Set(found.map(({ format }) => format))).toEqual(new Set(['DataMatrix']));
  const texts = found.map(({ text }) => text).sort();
  // The print's own code stands at its head and its foot.
  const own = texts.filter((text) => readPrintCode(text) !== undefined);
  expect(own).toHaveLength(2);
  expect(own[0]).toBe(own[1]);
  return texts.filter((text) => !own.includes(text));
}
