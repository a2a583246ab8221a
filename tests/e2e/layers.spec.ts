import { expect, test, type APIRequestContext, type Page } from '@playwright/test';
import sharp from 'sharp';
import { startMachine, startServer } from '../../scripts/stack.mjs';
import { temporaryFolder } from '../harness';
import { lettering, madePdf } from '../made/pdf';
import { call } from './api';
import { openPage } from './open';

/** A window sticker that is seen from behind, and a board with everything under and over its colour: from file to print. */

type Started = Awaited<ReturnType<typeof startServer>>;
let started: Started[] = [];
let url = '';
const folder = temporaryFolder();

const SHEETS = { surface: 'gloss', widthMm: 400, lengthMm: 0, sheetMm: 300, sheets: 5 };
const MACHINES = [
  { model: 'Skua 25', media: { ...SHEETS, name: 'Clear film', body: 'clear' } },
  { model: 'Skua 25', media: { ...SHEETS, name: 'Black board', body: 'dark', colour: '#1a1b1e' } },
  { model: 'Petrel 13', media: { name: 'White film', surface: 'gloss', widthMm: 400, lengthMm: 9000 } }
];
const MEDIA = [
  { name: 'Clear film', family: 'cast', widthMm: 400, body: 'clear', printedSide: 'back' },
  { name: 'Black board', family: 'rigid', widthMm: 400, thicknessMm: 3, body: 'dark', colour: '#1a1b1e', primer: true },
  { name: 'White film', widthMm: 400 }
];
const MODES = [
  'Skua 25/Skerry/cast/360/4/both ways/draft',
  'Skua 25/Skerry/rigid/360/4/both ways/draft',
  'Petrel 13/Harbour/calendered/360/4/both ways/draft'
];

test.beforeAll(async ({ request }) => {
  test.setTimeout(600_000);
  const printers = await Promise.all(
    MACHINES.map(({ model, media }) => startMachine('printer', { SPEED: 'full', MODEL: model, MEDIA: JSON.stringify(media) }))
  );
  const server = await startServer({ ZING_DATA: folder.path });
  started = [server, ...printers];
  ({ url } = server);
  for (const [i, card] of MEDIA.entries()) {
    await call(request, url, 'POST', '/machines', { kind: 'printer', name: `Machine ${i + 1}`, url: printers[i]!.url });
    await call(request, url, 'POST', '/media', card);
    await call(request, url, 'POST', '/conditions', { machineId: i + 1, mediaId: i + 1, mode: MODES[i]! });
  }
  const ready = async () =>
    (await call<{ hasProfile: boolean }[]>(request, url, 'GET', '/conditions')).filter((one) => one.hasProfile).length;
  await expect.poll(ready, { timeout: 240_000 }).toBe(3);
});
test.afterAll(() => {
  for (const { child } of started) child.kill();
  folder.remove();
});

const ticket = (page: Page) => page.getByRole('complementary', { name: 'Ticket' });
const layers = (page: Page) => page.getByRole('region', { name: 'Layers of ink' });
const bars = (page: Page) => layers(page).getByRole('list', { name: 'Layers from the media upwards' }).getByRole('listitem');
/** What each bar says, from the media upwards. */
const says = (page: Page) => bars(page).locator('summary');
const bar = (page: Page, text: RegExp) => bars(page).filter({ has: page.locator('summary', { hasText: text }) });
const check = (page: Page, text: RegExp) => ticket(page).getByRole('listitem').filter({ hasText: text });

/** A docket of a new file on a media, and its page open. */
async function docketOf(page: Page, request: APIRequestContext, name: string, pdf: Buffer, conditionId: number): Promise<void> {
  const reply = await request.post(`${url}/api/artworks?name=${name}.pdf`, {
    data: pdf,
    headers: { origin: url, 'content-type': 'application/pdf' }
  });
  const { id } = (await reply.json()) as { id: number };
  await expect
    .poll(async () => (await call<{ state: string }>(request, url, 'GET', `/artworks/${id}`)).state, { timeout: 120_000 })
    .toBe('ready');
  const { ids } = await call<{ ids: number[] }>(request, url, 'POST', '/dockets', { pages: [{ artworkId: id, page: 0 }] });
  await openPage(page, `${url}/dockets/${ids[0]}`);
  await ticket(page).getByLabel('Media and print mode').selectOption(String(conditionId));
  await expect(layers(page)).toContainText(`On ${MEDIA[conditionId - 1]!.name}`);
  await expect(ticket(page).getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();
}

/** What of the docket that is open is told by pictures alone. */
interface Picked {
  choices: {
    widthMm: number;
    heightMm: number;
    bleedMm: number;
    stack: { layers: { ink: string; cover: { is: string; picked?: [number, number, number][] } }[] } | null;
    lines: { made: { from: { background?: [number, number, number] | null } }[] };
  };
}
const docketNow = (page: Page, request: APIRequestContext): Promise<Picked> =>
  call<Picked>(request, url, 'GET', `/dockets/${/\d+$/.exec(page.url())![0]}`);

/** Lays out, RIPs and prints what is open. @returns the run’s number and its print’s */
async function printed(page: Page): Promise<{ run: number; print: number }> {
  await ticket(page).getByRole('button', { name: 'Lay it out' }).click();
  await expect(page).toHaveURL(/\/runs\/\d+$/);
  await page.getByRole('button', { name: 'RIP', exact: true }).click();
  const begun = page.waitForResponse((reply) => reply.url().endsWith('/print') && reply.request().method() === 'POST');
  await page.getByRole('button', { name: 'Print', exact: true }).click({ timeout: 120_000 });
  const [print] = (await (await begun).json()) as { id: number }[];
  await expect(page.getByRole('region', { name: 'Print' }).getByText('Done')).toBeVisible({ timeout: 150_000 });
  return { run: Number(/\d+$/.exec(page.url())![0]), print: print!.id };
}

/** What came out, as it is looked at: the colour at a place, mm from the top left corner of what is seen. */
async function lookAt(request: APIRequestContext, print: number, query: string) {
  const reply = await request.get(`${url}/api/prints/${print}/output?${query}`);
  expect(reply.ok()).toBe(true);
  const { data, info } = await sharp(await reply.body())
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  return (x: number, y: number) => {
    const at = (Math.round((y / 300) * info.height) * info.width + Math.round((x / 400) * info.width)) * 3;
    return [...data.subarray(at, at + 3)] as [number, number, number];
  };
}
/** Where the copy lies on its sheet, mm. */
async function placeOf(request: APIRequestContext, run: number): Promise<{ x: number; y: number }> {
  const { layout } = await call<{ layout: { parts: { copies: { x: number; y: number }[] }[] } }>(
    request,
    url,
    'GET',
    `/runs/${run}`
  );
  return layout.parts[0]!.copies[0]!;
}

test('a window sticker is printed mirrored, with white behind its colours, and reads right through the glass', async ({
  page,
  request
}) => {
  // Cyan on the left, lettering; nothing on the right.
  const file = madePdf({
    width: 200,
    height: 100,
    content: `1 0 0 0 k 10 10 70 80 re f ${lettering('0 0 0 1 k', 90, 40, 12, 'OPEN')}`
  });
  await docketOf(page, request, 'Sticker', file, 1);

  await test.step('the media asks for white, and one press gives it', async () => {
    await check(page, /is clear, and no white lies under the colours/)
      .getByRole('button', { name: 'Colour under white' })
      .click();
    await expect(layers(page).getByLabel('Seen', { exact: true })).toHaveValue('behind');
    await expect(layers(page).getByLabel('Mirrored')).toHaveValue('yes');
    await expect(says(page)).toHaveText([/^\s*colour/, /white 100 % where anything prints, 0.2 mm inside/]);
    await expect(check(page, /clear, and no white/)).toHaveCount(0);
  });

  await test.step('forgetting to mirror is told', async () => {
    await layers(page).getByLabel('Mirrored').selectOption('no');
    await check(page, /seen from behind, and not mirrored/)
      .getByRole('button', { name: 'Mirror it' })
      .click();
    await expect(layers(page).getByLabel('Mirrored')).toHaveValue('yes');
  });

  await test.step('layers are moved by keyboard, and it is taken back', async () => {
    await bar(page, /white/).locator('summary').focus();
    await page.keyboard.press('Alt+ArrowDown');
    await expect(says(page)).toHaveText([/white/, /colour/]);
    await page.keyboard.press('Control+z');
    await expect(says(page)).toHaveText([/colour/, /white/]);
  });

  await test.step('it is printed as it is seen', async () => {
    const { run, print } = await printed(page);
    const { x, y } = await placeOf(request, run);
    const behind = await lookAt(request, print, 'from=behind&backing=%23000000');
    const front = await lookAt(request, print, 'from=front&backing=%23000000');
    // Turned or not, the copy is 200 × 100; what is seen from behind has left and right changed places.
    const seen = (dx: number, dy: number) => behind(400 - x - 200 + dx, y + dy);
    expect(seen(45, 50)[2]).toBeGreaterThan(seen(45, 50)[0] + 60);
    expect(Math.max(...seen(180, 20))).toBeLessThan(40);
    // From the front there is white over the colour.
    const [r, g, b] = front(x + 200 - 45, y + 50);
    expect(Math.min(r, g, b)).toBeGreaterThan(120);
    expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThan(40);
  });
});

test('a board has primer, white, colour and varnish on a part of it, all in one job', async ({ page, request }) => {
  const file = madePdf({
    width: 200,
    height: 100,
    content: '0 1 1 0 k 10 10 80 80 re f /S0 cs 1 scn 110 10 80 80 re f',
    spots: { Varnish: [0.2, 0.1, 0, 0] }
  });
  await docketOf(page, request, 'Board', file, 2);

  await test.step('all of it is one choice', async () => {
    await layers(page).getByLabel('Layers', { exact: true }).selectOption('Primer, white, colour, varnish');
    await expect(says(page)).toHaveText([
      /primer 100 % on all of it/,
      /white/,
      /colour/,
      /gloss varnish 100 % where the file marks it/
    ]);
    await expect(layers(page).getByText('4 of 6 layers in one job')).toBeVisible();
    await expect(check(page, /holds on Black board only over primer/)).toHaveCount(0);
  });

  await test.step('layers are dragged, and varnish below colour is told', async () => {
    await bar(page, /varnish/)
      .locator('[draggable=true]')
      .dragTo(bar(page, /primer/));
    await expect(says(page)).toHaveText([/varnish/, /primer/, /white/, /colour/]);
    await check(page, /Varnish lies below colour/)
      .getByRole('button', { name: 'Varnish last' })
      .click();
    await expect(says(page)).toHaveText([/primer/, /white/, /colour/, /varnish/]);
  });

  await test.step('a white edge that may peep out is told, and an amount above what there is', async () => {
    const white = bar(page, /white/);
    await white.locator('summary').click();
    await white.getByLabel('Choke of white').fill('0');
    await white.getByLabel('Choke of white').press('Enter');
    await check(page, /a white edge may peep out/)
      .getByRole('button', { name: 'Keep it 0.2 mm inside' })
      .click();
    await expect(white).toContainText('0.2 mm inside');
    const varnish = bar(page, /varnish/);
    await varnish.locator('summary').click();
    await varnish.getByLabel('Amount of varnish in per cent').fill('150');
    await varnish.getByLabel('Amount of varnish in per cent').press('Enter');
    await check(page, /150 % of varnish is asked for/)
      .getByRole('button', { name: '100 % of varnish' })
      .click();
    await expect(varnish).toContainText('gloss varnish 100 %');
  });

  await test.step('it comes out with its colour on the black, shining where it is marked', async () => {
    const { run, print } = await printed(page);
    const { x, y } = await placeOf(request, run);
    const seen = await lookAt(request, print, 'from=front');
    const gloss = await lookAt(request, print, 'from=gloss');
    expect(seen(x + 50, y + 50)[0]).toBeGreaterThan(120);
    expect(Math.max(...seen(x + 150, y + 50))).toBeLessThan(60);
    expect(gloss(x + 150, y + 50)[0] - gloss(x + 50, y + 50)[0]).toBeGreaterThan(30);
    await page.goto(`${url}/runs/${run}/inspect`);
    const inks = page.getByRole('complementary', { name: 'Inks' });
    await expect(inks.getByRole('rowheader')).toHaveText([
      '1. primer, on the media',
      '2. white',
      '3. colour',
      '4. varnish, gloss, on top'
    ]);
  });
});

test('both sides of a film have pages of their own, with white between and around them', async ({ page, request }) => {
  const one = (colour: string) => ({ width: 200, height: 100, content: `${colour} k 0 0 200 100 re f` });
  await docketOf(page, request, 'Both sides', madePdf(one('1 0 0 0'), one('0 1 0 0')), 1);

  await test.step('another page is chosen for the side that is seen from behind', async () => {
    await layers(page).getByLabel('Layers', { exact: true }).selectOption('Colour, white, colour');
    await bars(page).first().locator('summary').click();
    await bars(page).first().getByLabel('Page of colour 1').selectOption('page 2 of the file');
    await expect(says(page)).toHaveText([/colour of page 2, the other way round/, /white/, /^\s*colour/]);
  });

  await test.step('white reaches beyond the piece', async () => {
    const white = bar(page, /white/);
    await white.locator('summary').click();
    await white.getByLabel('Cover of white', { exact: true }).selectOption('on all of it and around it');
    await white.getByLabel('Margin of white').fill('10');
    await white.getByLabel('Margin of white').press('Enter');
    await expect(white).toContainText('on all of it and 10 mm around it');
  });

  await test.step('each side shows its page, and white lies around it', async () => {
    const { run, print } = await printed(page);
    const { x, y } = await placeOf(request, run);
    const front = await lookAt(request, print, 'from=front&backing=%23000000');
    const behind = await lookAt(request, print, 'from=behind&backing=%23000000');
    const [cyan, magenta] = [front(x + 60, y + 60), behind(400 - x - 60, y + 60)];
    expect(cyan[2]).toBeGreaterThan(cyan[0] + 60);
    expect(magenta[0]).toBeGreaterThan(magenta[1] + 60);
    // The piece with its margin is 220 × 120.
    for (const [dx, dy] of [
      [5, 60],
      [215, 60],
      [110, 5],
      [110, 115]
    ] as const)
      expect(Math.min(...front(x + dx, y + dy))).toBeGreaterThan(120);
    expect(Math.max(...front(x + 226, y + 60))).toBeLessThan(40);

    await page.getByRole('button', { name: 'See what came out' }).click();
    const dialog = page.getByRole('dialog', { name: 'What came out' });
    await dialog.getByLabel('Seen').selectOption('from behind');
    const picture = dialog.getByRole('img', { name: 'What came out of the machine' });
    await expect(picture).toHaveAttribute('src', /from=behind/);
    await expect.poll(() => picture.evaluate((img: HTMLImageElement) => img.complete && img.naturalWidth)).toBeGreaterThan(100);
    await page.keyboard.press('Escape');
    await expect(dialog).toBeHidden();
  });
});

test('colours are picked on the artwork: for a layer, and as what a cut line leaves out', async ({ page, request }) => {
  // Red on the left, blue on the right, on a yellow ground with a white rim.
  const file = madePdf({
    width: 200,
    height: 100,
    content: '0 0 1 0 k 5 5 190 90 re f 0 1 1 0 k 20 20 60 60 re f 1 1 0 0 k 120 20 60 60 re f'
  });
  await docketOf(page, request, 'Picked', file, 2);
  const { choices } = await docketNow(page, request);
  const pickAt = async (x: number, y: number): Promise<void> => {
    const box = (await page.getByRole('button', { name: 'Click a colour of the artwork' }).boundingBox())!;
    const { bleedMm: bleed, widthMm, heightMm } = choices;
    const at = (of: number, size: number, from: number, length: number) => from + ((of + bleed) / (size + 2 * bleed)) * length;
    await page.mouse.click(at(x, widthMm, box.x, box.width), at(y, heightMm, box.y, box.height));
  };

  await test.step('white lies under the red alone, then under the blue too', async () => {
    await layers(page).getByLabel('Layers', { exact: true }).selectOption('Primer, white, colour, varnish');
    const white = bar(page, /white/);
    await white.locator('summary').click();
    await white.getByLabel('Cover of white', { exact: true }).selectOption('where some colours are');
    for (const x of [50, 150]) {
      await white.getByRole('button', { name: 'Pick on the artwork' }).click();
      await pickAt(x, 50);
    }
    // Both, though the second was picked while the first was looked at: red has a* above, blue has b* below nothing.
    const covers = async () => (await docketNow(page, request)).choices.stack?.layers.find(({ ink }) => ink === 'white')?.cover;
    await expect.poll(async () => (await covers())?.picked?.length).toBe(2);
    const picked = (await covers())!.picked!.toSorted((p, q) => q[2] - p[2]);
    expect(picked[0]![1]).toBeGreaterThan(20);
    expect(picked[1]![2]).toBeLessThan(-10);
  });

  await test.step('a cut line goes around what is not of the background that was clicked', async () => {
    await ticket(page).getByRole('button', { name: 'Add a cut line' }).click();
    await ticket(page).getByLabel('Line 1 around').selectOption('what is not background');
    await ticket(page).getByRole('button', { name: 'Pick the background' }).click();
    await pickAt(100, 50);
    await expect(ticket(page).getByRole('button', { name: 'Other background' })).toBeVisible();
    await expect
      .poll(async () => (await docketNow(page, request)).choices.lines.made[0]?.from.background)
      .toEqual([expect.any(Number), expect.any(Number), expect.any(Number)]);
    const [, , b] = (await docketNow(page, request)).choices.lines.made[0]!.from.background!;
    expect(b).toBeLessThan(90);
  });
});

test('a machine without the ink is told before, and lanes refuse with the reason', async ({ page, request }) => {
  const file = madePdf({
    width: 100,
    height: 60,
    content: '0 1 1 0 k 10 10 30 30 re f /S0 cs 1 scn 50 10 30 30 re f',
    spots: { White: [0.1, 0, 0, 0] }
  });
  await docketOf(page, request, 'White', file, 3);
  await expect(check(page, /It is printed with white, and Machine 3 has no such ink/)).toBeVisible();
  await expect(ticket(page).getByRole('button', { name: 'Lay it out' })).toBeDisabled();
  const id = Number(/\d+$/.exec(page.url())![0]);
  const refused = await request.post(`${url}/api/runs`, { data: { docketIds: [id] }, headers: { origin: url } });
  expect(refused.status()).toBe(422);
  expect(((await refused.json()) as { error: string }).error).toMatch(/cannot be printed here: Machine 3 has no white/);
  await check(page, /has no such ink/)
    .getByRole('button', { name: 'Print without white' })
    .click();
  await expect(ticket(page).getByRole('button', { name: 'Lay it out' })).toBeEnabled();
  await expect(check(page, /“White” is white, and no layer prints it/)).toBeVisible();
});

test('white is as dear as the shop says, and tickets follow', async ({ page, request }) => {
  await docketOf(page, request, 'Dear', madePdf({ width: 200, height: 100, content: '1 0 0 0 k 0 0 200 100 re f' }), 1);
  await layers(page).getByLabel('Layers', { exact: true }).selectOption('Colour under white');
  const money = async () => {
    const [, ml, cost] = /([\d.]+) ml, €([\d.]+)/.exec((await bar(page, /white/).textContent()) ?? '') ?? [];
    return ml === undefined ? null : { ml: Number(ml), cost: Number(cost) };
  };
  await expect.poll(money, { timeout: 60_000 }).not.toBeNull();
  const before = (await money())!;
  expect(before.cost).toBeCloseTo(before.ml * 0.12, 1);
  const docket = page.url();

  await openPage(page, `${url}/shop`);
  const machine = page.getByRole('region', { name: 'Machines' }).getByRole('listitem').filter({ hasText: 'Machine 1' });
  await machine.getByText(/^8 inks, €0.12 a ml$/).click();
  const price = machine.getByLabel('White 1 of Machine 1, a ml');
  await price.fill('dear');
  await price.press('Enter');
  await expect(price).toHaveAttribute('aria-invalid', 'true');
  for (const ink of ['White 1', 'White 2']) {
    await machine.getByLabel(`${ink} of Machine 1, a ml`).fill('2.4');
    await machine.getByLabel(`${ink} of Machine 1, a ml`).press('Enter');
  }
  await expect(machine.getByText('8 inks, 2 at prices of their own')).toBeVisible();
  await openPage(page, docket);
  await expect.poll(async () => (await money())?.cost, { timeout: 60_000 }).toBeCloseTo(before.ml * 2.4, 0);

  // An empty box is what the shop pays for any again.
  await openPage(page, `${url}/shop`);
  await machine.getByText(/^8 inks/).click();
  await machine.getByLabel('White 2 of Machine 1, a ml').fill('');
  await machine.getByLabel('White 2 of Machine 1, a ml').press('Enter');
  await expect(machine.getByText('8 inks, 1 at a price of its own')).toBeVisible();
});
