import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import { startMachine, startServer } from '../../scripts/stack.mjs';
import { temporaryFolder, USUAL_MODE } from '../harness';
import { cmykBox, lettering, madePdf } from '../made/pdf';

type Started = Awaited<ReturnType<typeof startServer>>;
let printer: Started;
let server: Started;
const folder = temporaryFolder();

test.beforeAll(async ({ request }) => {
  printer = await startMachine('printer', { SPEED: 'full' });
  server = await startServer({ ZING_DATA: folder.path });
  const post = (path: string, data: object) =>
    request.post(`${server.url}/api${path}`, { data, headers: { origin: server.url } });
  expect((await post('/machines', { kind: 'printer', name: 'Petrel 13', url: printer.url })).ok()).toBe(true);
  expect((await post('/media', { name: 'Gloss white film' })).ok()).toBe(true);
  expect((await post('/conditions', { machineId: 1, mediaId: 1, mode: USUAL_MODE.code })).ok()).toBe(true);
  const ready = async () => ((await (await request.get(`${server.url}/api/conditions`)).json()) as { hasProfile: boolean }[])[0];
  await expect.poll(async () => (await ready())?.hasProfile, { timeout: 150_000 }).toBe(true);
});
test.afterAll(() => {
  for (const { child } of [server, printer]) child.kill();
  folder.remove();
});

/** 100 × 80 mm without bleed or cut line: a soft picture, a disc in an unknown spot colour, small white lettering. */
const customerFile = (label: string) =>
  madePdf({
    width: 100,
    height: 80,
    spots: { 'Lantern glow': [0, 0.5, 1, 0], 'Cutt line': [0, 1, 0, 0] },
    picture: { width: 60, height: 40 },
    content: `${cmykBox('0.8 0.3 0 0.1', 0, 0, 100, 80)}q 60 0 0 40 20 30 cm /P Do Q /S0 cs 1 scn 40 5 20 15 re f
      ${lettering('0 0 0 0 k', 20, 74, 2, label)}/S1 CS 1 SCN 0.1 w 10 10 m 90 10 l 90 70 l 10 70 l h S`
  });

const saved = (page: Page) => expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();
const check = (page: Page, text: RegExp) =>
  page.getByRole('complementary', { name: 'Ticket' }).getByRole('listitem').filter({ hasText: text });

test('an unfit file is made fit to print and cut on its docket', async ({ page, context, request }) => {
  await test.step('two pages become two dockets, edited together', async () => {
    await page.goto(`${server.url}/artwork`);
    await page.getByLabel('Artwork files').setInputFiles([
      { name: 'Lantern.pdf', mimeType: 'application/pdf', buffer: customerFile('Lantern night') },
      {
        name: 'Second.pdf',
        mimeType: 'application/pdf',
        buffer: madePdf({ width: 50, height: 50, content: cmykBox('0 0 0 1', 5, 5, 40, 40) })
      }
    ]);
    await page.getByLabel('Tick page 1 of Lantern.pdf').check();
    await page.getByLabel('Tick page 1 of Second.pdf').check();
    await page.getByRole('button', { name: 'Make 2 dockets' }).click();
    const together = page.getByRole('complementary', { name: 'Edit together' });
    await together.getByLabel('Customer').fill('Regatta committee');
    await together.getByLabel('Due').fill('2027-08-28');
    await together.getByLabel('Media and mode').selectOption({ label: 'Gloss white film, 720 × 720, 8 passes' });
    const row = page.getByRole('row', { name: /Second/ });
    await expect(row).toContainText('Regatta committee');
    await expect(row).toContainText(/in \d+ days/);
    await page.getByRole('link', { name: 'Lantern', exact: true }).click();
    await expect(page.getByLabel('Name of the docket')).toHaveValue('Lantern');
  });

  await test.step('the checks say what is wrong, with the figure', async () => {
    await expect(check(page, /25 pixels an inch at this size/)).toBeVisible();
    await expect(check(page, /White lettering of 2.0 mm/)).toBeVisible();
    await expect(check(page, /“Lantern glow” has no role/)).toBeVisible();
    await expect(check(page, /“Cutt line” is one letter away from “cut line\*”/)).toBeVisible();
    await expect(check(page, /Ink and colours|at most \d+ %/i).or(page.getByText(/things are fine/))).toBeVisible();
  });

  await test.step('roles are given with a click; the mistyped one is a cut line', async () => {
    await check(page, /one letter away/)
      .getByRole('button', { name: 'It is kiss cut' })
      .click();
    await expect(check(page, /1 cut line, but cutting is off/)).toBeVisible();
    await page.getByLabel('Role of Lantern glow').selectOption('prints');
    await expect(check(page, /“Lantern glow” has no role/)).toHaveCount(0);
    await page
      .getByRole('list', { name: 'Roles' })
      .getByRole('listitem')
      .filter({ hasText: 'Lantern glow' })
      .getByRole('button', { name: 'Keep as a rule' })
      .click();
    await expect(page.getByText('From now on “Lantern glow” prints in its own colour.')).toBeVisible();
    await page.getByLabel('Role of Cutt line').selectOption('guide');
    await expect(check(page, /cutting is off/)).toHaveCount(0);
    await saved(page);
  });

  await test.step('bleed is made, and the cut line drawn around the page, rounded, 1 mm inside', async () => {
    await check(page, /of bleed; with less than 2 mm/)
      .getByRole('button', { name: 'Make 2 mm by mirroring' })
      .click();
    await page.getByRole('textbox', { name: 'Bleed', exact: true }).fill('4');
    await page.getByRole('button', { name: 'Add a cut line' }).click();
    await page.getByLabel('Line 1 around').selectOption('page/rounded');
    await page.getByLabel('Corner radius').fill('6');
    await page.getByLabel('Offset of line 1').fill('-1');
    await page.getByRole('button', { name: 'Add a cut line' }).click();
    await page.getByLabel('Line 2 around').selectOption('page/ellipse');
    await page.getByLabel('Tool of line 2').selectOption('through cut');
    await page.getByLabel('Tabs', { exact: true }).fill('4');
    await saved(page);
    // A node is moved by the keyboard, told apart from the rest, and taken back.
    await page.getByRole('button', { name: 'Edit nodes' }).first().click();
    await page.getByRole('button', { name: 'Node 1 of line 1, the start' }).focus();
    await page.keyboard.press('Shift+ArrowDown');
    await expect(page.getByLabel('Line 1 around')).toHaveValue('drawn');
    await saved(page);
    await page.getByRole('button', { name: 'Take back the last change' }).click();
    await expect(page.getByLabel('Line 1 around')).toHaveValue('page/rounded');
    await page.keyboard.press('Escape');
  });

  await test.step('a step back stays when the box that was typed in is left, and keys behind a dialog do nothing', async () => {
    const bleed = page.getByRole('textbox', { name: 'Bleed', exact: true });
    const tabs = page.getByLabel('Tabs', { exact: true });
    await bleed.fill('6');
    await saved(page);
    await bleed.press('Control+z');
    await expect(bleed).toHaveValue('4');
    await bleed.press('Tab');
    await saved(page);
    await expect(bleed).toHaveValue('4');
    // A thousand and no decimal: what is meant is asked, and nothing is kept of it.
    await bleed.fill('1,200');
    await expect(page.getByRole('alert').filter({ hasText: '1,200' })).toBeVisible();
    await bleed.press('Escape');
    await expect(bleed).toHaveValue('4');
    await bleed.blur();
    await page.keyboard.press('?');
    const shortcuts = page.getByRole('dialog', { name: 'Shortcuts' });
    await expect(shortcuts).toBeVisible();
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+Enter');
    await page.keyboard.press('Escape');
    await expect(shortcuts).toBeHidden();
    await expect(tabs).toHaveValue('4');
    await expect(page).toHaveURL(/\/dockets\/\d+/);
    // The same key with no dialog in the way.
    await page.keyboard.press('Control+z');
    await expect(tabs).not.toHaveValue('4');
    await page.keyboard.press('Control+Shift+z');
    await expect(tabs).toHaveValue('4');
    await saved(page);
  });

  await test.step('all of it is there after a reload, steps back too', async () => {
    await page.reload();
    await expect(page.getByLabel('Line 1 around')).toHaveValue('page/rounded');
    await expect(page.getByRole('button', { name: 'Make it again' })).toBeEnabled();
    await expect(page.getByRole('button', { name: 'Take back the last change' })).toBeEnabled();
    // Figures that only drawing can tell have come.
    await expect(page.getByText('Ink and colours are being measured…')).toHaveCount(0, { timeout: 120_000 });
    await page.getByText(/things are fine/).click();
    await expect(check(page, /At most \d+ % of ink/)).toBeVisible();
    await page.getByLabel('Map', { exact: true }).selectOption('ink');
    await expect(page.getByRole('note')).toContainText('above the limit');
    await page.getByLabel('Map', { exact: true }).selectOption('');
  });

  await test.step('an edit made while the server is away is kept, saved later, and can be taken back', async () => {
    await context.route('**/api/dockets/*', (route) => route.abort());
    await page.getByLabel('Customer', { exact: true }).fill('Lantern makers');
    await expect(page.getByText('The server does not answer. Is Zing Mast still running?')).toBeVisible();
    await expect(page.getByRole('status').filter({ hasText: 'Saving' })).toBeVisible();
    await context.unroute('**/api/dockets/*');
    await saved(page);
    await page.getByRole('button', { name: 'Take back the last change' }).click();
    await expect(page.getByLabel('Customer', { exact: true })).toHaveValue('Regatta committee');
  });

  await test.step('a second window is told what the first one changed, and keeps its own', async () => {
    const second = await context.newPage();
    await second.goto(page.url());
    await expect(second.getByLabel('Name of the docket')).toHaveValue('Lantern');
    await page.getByRole('spinbutton', { name: 'Copies', exact: true }).fill('3');
    await saved(page);
    const told = second.getByRole('alert', { name: 'Changed in another window' });
    await expect(told).toContainText('Copies: 1 → 3');
    await told.getByRole('button', { name: 'Seen' }).click();
    await expect(second.getByRole('spinbutton', { name: 'Copies', exact: true })).toHaveValue('3');
    // Both change the same figure before either hears of the other.
    await second.route('**/api/dockets/*', async (route) => {
      if (route.request().method() === 'PUT') await first;
      await route.continue();
    });
    let go: () => void = () => undefined;
    const first = new Promise<void>((resolve) => (go = resolve));
    await second.getByRole('spinbutton', { name: 'Copies', exact: true }).fill('9');
    await page.getByRole('spinbutton', { name: 'Copies', exact: true }).fill('5');
    await saved(page);
    go();
    await expect(told).toContainText('You changed copies too');
    await told.getByRole('button', { name: 'Use mine' }).click();
    await saved(second);
    await expect(page.getByRole('spinbutton', { name: 'Copies', exact: true })).toHaveValue('9');
    await page.getByRole('alert', { name: 'Changed in another window' }).getByRole('button', { name: 'Seen' }).click();
    await second.close();
  });

  await test.step('a newer version of the artwork takes the place, with everything kept, and is compared', async () => {
    await page.getByLabel('Newer version of the artwork').setInputFiles({
      name: 'Lantern 2.pdf',
      mimeType: 'application/pdf',
      buffer: customerFile('Lantern evening')
    });
    const changed = page.getByRole('region', { name: 'What the new artwork changed' });
    await expect(changed).toContainText('It took the place of Lantern.pdf');
    await expect(changed.getByText(/of the picture differs/)).toBeVisible();
    await expect(changed.getByAltText('What differs, marked')).toBeVisible();
    await expect(page.getByLabel('Line 1 around')).toHaveValue('page/rounded');
    await expect(page.getByRole('alert', { name: 'Changed in another window' })).toHaveCount(0);
    await changed.getByRole('button', { name: 'Seen' }).click();
    await expect(changed).toHaveCount(0);
  });

  await test.step('a box is cropped by the mouse, told in millimetres, and taken back', async () => {
    await page.getByRole('button', { name: 'Crop', exact: true }).click();
    const handle = page.getByRole('slider', { name: 'Crop, right', exact: true });
    const box = await handle.boundingBox();
    const left = await page.getByRole('slider', { name: 'Crop, left', exact: true }).boundingBox();
    const [x, y] = [(box?.x ?? 0) + 6, (box?.y ?? 0) + 6];
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x - 60, y, { steps: 4 });
    // The edge went along with the mouse; the picture stayed where it is.
    expect((await page.getByRole('slider', { name: 'Crop, left', exact: true }).boundingBox())?.x).toBeCloseTo(left?.x ?? 0, 0);
    await expect(page.getByText(/^\d+(\.\d+)? mm × 80 mm$/)).toBeVisible();
    await page.mouse.up();
    await expect(page.getByLabel('Width', { exact: true })).not.toHaveValue('100');
    await expect(page.getByLabel('Height', { exact: true })).toHaveValue('80');
    await saved(page);
    await page.getByRole('button', { name: 'Take back the last change' }).click();
    await expect(page.getByLabel('Width', { exact: true })).toHaveValue('100');
    await page.getByRole('button', { name: 'Done with cropping' }).click();
  });

  await test.step('it is RIPped, and plates and cut paths are what was chosen', async () => {
    await page.getByRole('spinbutton', { name: 'Copies', exact: true }).fill('1');
    await saved(page);
    await page.getByRole('button', { name: 'Lay it out' }).click();
    await page.getByRole('button', { name: 'RIP', exact: true }).click();
    await expect(page.getByRole('link', { name: 'Inspect' })).toBeVisible({ timeout: 150_000 });
    await page.getByRole('button', { name: 'Print', exact: true }).click();
    await expect(page.getByRole('region', { name: 'Print' }).getByText('Done')).toBeVisible({ timeout: 150_000 });
    const cut = (await (await request.get(`${server.url}/api/cuts/1`)).json()) as {
      lines: { tool: string; closed: boolean; points: { x: number; y: number }[] }[];
    };
    const kiss = cut.lines.filter((line) => line.tool === 'kiss cut');
    const through = cut.lines.filter((line) => line.tool === 'through cut');
    expect(kiss).toHaveLength(1);
    // Four tabs leave four open pieces, which come after everything else.
    expect(through).toHaveLength(4);
    expect(through.every((line) => !line.closed)).toBe(true);
    expect(cut.lines[0]?.tool).toBe('kiss cut');
    const span = (lines: typeof kiss, axis: 'x' | 'y') => {
      const values = lines.flatMap((line) => line.points.map((p) => p[axis]));
      return [Math.min(...values), Math.max(...values)] as const;
    };
    const [x0, x1] = span(kiss, 'x');
    const [y0, y1] = span(kiss, 'y');
    expect(x1 - x0).toBeCloseTo(98, 1);
    expect(y1 - y0).toBeCloseTo(78, 1);
    const [t0, t1] = span(through, 'x');
    expect((t0 + t1) / 2).toBeCloseTo((x0 + x1) / 2, 1);

    const png = await (await request.get(`${server.url}/api/prints/1/output`)).body();
    const { data, info } = await sharp(png).raw().toBuffer({ resolveWithObject: true });
    const at = (xMm: number, yMm: number) => {
      const i = (Math.round((yMm / 25.4) * 90) * info.width + Math.round((xMm / 25.4) * 90)) * 3;
      return [data[i] ?? 0, data[i + 1] ?? 0, data[i + 2] ?? 0];
    };
    const mean = (xMm: number, yMm: number) => {
      const sum = [0, 0, 0];
      for (let dy = -1; dy <= 1; dy += 0.28)
        for (let dx = -1; dx <= 1; dx += 0.28) at(xMm + dx, yMm + dy).forEach((v, k) => (sum[k] = (sum[k] ?? 0) + v / 64));
      return sum;
    };
    // The finished size begins 1 mm beyond the kiss cut.
    const [left, top] = [x0 - 1, y0 - 1];
    const inside = mean(left + 5, top + 40);
    const bleed = mean(left - 2.2, top + 40);
    // Between two marks.
    const beyond = mean(left - 9, top + 22);
    bleed.forEach((v, k) => expect(Math.abs(v - (inside[k] ?? 0))).toBeLessThan(14));
    expect(Math.min(...beyond)).toBeGreaterThan(225);
    // The unknown spot prints in its own colour; the guide does not print.
    const [r = 0, , b = 0] = mean(left + 50, top + 67);
    expect(r - b).toBeGreaterThan(90);
    const onGuide = mean(left + 10, top + 40);
    onGuide.forEach((v, k) => expect(Math.abs(v - (inside[k] ?? 0))).toBeLessThan(14));
  });
});
