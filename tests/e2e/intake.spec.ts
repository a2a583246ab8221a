import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { startServer } from '../../scripts/stack.mjs';
import { temporaryFolder } from '../harness';
import { cmykBox, madePdf } from '../made/pdf';

let server: Awaited<ReturnType<typeof startServer>>;
const folder = temporaryFolder();

test.beforeAll(async () => {
  server = await startServer({ ZING_DATA: folder.path });
});
test.afterAll(() => {
  server.child.kill();
  folder.remove();
});

const svg = (body: string) => Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="200" height="80">${body}</svg>`);
const check = (page: Page, text: RegExp) =>
  page.getByRole('complementary', { name: 'Ticket' }).getByRole('listitem').filter({ hasText: text });

test('what came in otherwise than it was meant is told, and can be mended', async ({ page }) => {
  await test.step('a drawing without its font, one that is none, and a page with a stamp come in', async () => {
    await page.goto(`${server.url}/artwork`);
    await page.getByLabel('Artwork files').setInputFiles([
      {
        name: 'Pier.svg',
        mimeType: 'image/svg+xml',
        buffer: svg('<text x="5" y="50" font-size="40" font-family="Cousin">Pier</text>')
      },
      { name: 'Layers.psd', mimeType: '', buffer: Buffer.concat([Buffer.from('8BPS'), Buffer.alloc(300)]) },
      {
        name: 'Stamped.pdf',
        mimeType: 'application/pdf',
        buffer: madePdf({ width: 60, height: 40, content: cmykBox('0 0 0 1', 5, 20, 20, 10), stamp: true })
      }
    ]);
    await expect(page.getByRole('row', { name: /Pier\.svg/ })).toContainText('Look: Arimo stands in for Cousin');
    await expect(page.getByRole('row', { name: /Layers\.psd/ })).toContainText(
      /Refused: This is a layered picture.*Save it as TIFF or PDF/
    );
  });

  await test.step('a limit that cannot be is said; a file that is no font is refused; the font is added', async () => {
    // A page whose script is long in coming: what is chosen, ticked, typed and pressed meanwhile counts.
    let come = (): void => undefined;
    const held = new Promise<void>((go) => (come = go));
    await page.route('**/_app/**/*.js', async (route) => {
      await held;
      await route.continue();
    });
    await page.goto(`${server.url}/shop`, { waitUntil: 'commit' });
    const seconds = page.getByLabel('Seconds for a file');
    const unit = page.getByLabel('Unit for lengths');
    const afterService = page.getByRole('checkbox', { name: /after a service/ });
    await unit.selectOption('in');
    const isRead = await afterService.isChecked();
    await afterService.setChecked(!isRead);
    await page.getByLabel('Name of a new list').fill('Pier duties');
    await page.getByRole('button', { name: 'Change to dark' }).click();
    await seconds.fill('40');
    await seconds.blur();
    come();
    await expect(page.getByRole('button', { name: 'Change to light' })).toBeVisible();
    await expect(unit).toHaveValue('in');
    await expect(afterService).toBeChecked({ checked: !isRead });
    await expect(page.getByLabel('Name of a new list')).toHaveValue('Pier duties');
    await expect(seconds).toHaveValue('40');
    await seconds.fill('1');
    await seconds.blur();
    await expect(page.getByRole('alert').filter({ hasText: 'Seconds for a file: between 5 s and 600 s.' })).toBeVisible();
    await expect(seconds).toHaveValue('1');
    await seconds.press('Escape');
    await expect(seconds).toHaveValue('40');
    // As people write it: key by key, as a sum, and counted on by the arrows.
    await seconds.blur();
    await seconds.click();
    await seconds.pressSequentially('2*15 s');
    await expect(page.getByText('= 30 s')).toBeVisible();
    await seconds.press('ArrowUp');
    await expect(seconds).toHaveValue('35');
    await seconds.press('ArrowDown');
    await seconds.blur();
    await expect(seconds).toHaveValue('30');
    await expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();
    await page.reload();
    await expect(unit).toHaveValue('in');
    await expect(afterService).toBeChecked({ checked: !isRead });
    await expect(page.getByLabel('Name of a new list')).toHaveValue('');
    const fonts = page.getByRole('region', { name: 'Fonts' });
    await fonts.getByLabel('Add fonts').setInputFiles([{ name: 'note.ttf', mimeType: '', buffer: Buffer.from('hello') }]);
    await expect(page.getByText('This is no font that can be used.')).toBeVisible();
    const cousine = readFileSync('node_modules/@expo-google-fonts/cousine/400Regular/Cousine_400Regular.ttf');
    const named = Buffer.from(cousine.toString('latin1').replaceAll('C\0o\0u\0s\0i\0n\0e', 'C\0o\0u\0s\0i\0n\0 '), 'latin1');
    await fonts.getByLabel('Add fonts').setInputFiles([{ name: 'Cousin.ttf', mimeType: '', buffer: named }]);
    await expect(fonts.getByRole('listitem')).toHaveCount(1);
  });

  await test.step('a stamp is told on its docket, and left out with a click', async () => {
    await page.goto(`${server.url}/artwork`);
    await page
      .getByRole('row', { name: /Stamped\.pdf/ })
      .getByRole('button', { name: 'Make a docket' })
      .click();
    await expect(check(page, /1 filled-in form field or stamp on the page: drawn/)).toBeVisible();
    await expect(page.getByLabel('Forms and stamps')).toHaveValue('on');
    await check(page, /stamp on the page/)
      .getByRole('button', { name: 'Leave them out' })
      .click();
    await expect(page.getByLabel('Forms and stamps')).toHaveValue('off');
    await page.getByLabel('Enlarged pictures').selectOption('crisp');
    await expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();
    await page.reload();
    await expect(page.getByLabel('Forms and stamps')).toHaveValue('off');
    await expect(page.getByLabel('Enlarged pictures')).toHaveValue('crisp');
  });
});
