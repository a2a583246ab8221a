import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { expect, test, type Locator, type Page } from '@playwright/test';
import { startServer } from '../../scripts/stack.mjs';
import { startStandIn, temporaryFolder, type StandIn } from '../harness';
import { call } from './api';
import { openPage } from './open';

/** A shop of a year: ten thousand dockets of five thousand artworks, sorted, filtered, ticked and put away. */

const folder = temporaryFolder();
let printer: StandIn;
let server: Awaited<ReturnType<typeof startServer>>;
let url = '';

test.beforeAll(async () => {
  const film = { name: 'Film', surface: 'gloss', widthMm: 300, lengthMm: 90_000 };
  printer = await startStandIn('printer', { FOLDER: join(folder.path, 'printer'), MEDIA: JSON.stringify(film) });
  execFileSync(process.execPath, ['dist-node/full-shop.js', join(folder.path, 'shop'), '--printer', printer.url]);
  server = await startServer({ ZING_DATA: join(folder.path, 'shop') });
  ({ url } = server);
});
test.afterAll(() => {
  server.child.kill();
  printer.stop();
  folder.remove();
});

const grid = (page: Page, name: string) => page.getByRole('grid', { name });
/** Rows that are drawn, without the head. */
const rowsOf = (table: Locator) => table.locator('tbody').getByRole('row');
const says = (page: Page) => page.getByRole('status').filter({ hasText: ' of ' });

const open = (page: Page, path: string) => openPage(page, url + path);

/** Moves what is held over a lane until the lane says what would become of it: a hand is never quite still. */
async function dragOver(page: Page, lane: Locator, says: RegExp): Promise<void> {
  await expect(async () => {
    const { x, y } = (await lane.boundingBox())!;
    await page.mouse.move(x + 60, y + 8, { steps: 3 });
    await page.mouse.move(x + 70, y + 12, { steps: 3 });
    await expect(lane.getByRole('status')).toContainText(says, { timeout: 3000 });
  }).toPass();
}

test('dockets are sorted, filtered, ticked by keyboard, changed, put away, deleted and brought back', async ({ page }) => {
  const table = grid(page, 'dockets');

  await test.step('the newest are first, and only what is in sight is drawn', async () => {
    await open(page, '/dockets');
    // Four of each of the 300 printed runs are done, and so put away.
    await expect(says(page)).toHaveText('8,802 of 10,002');
    await expect(rowsOf(table).first()).toContainText('Docket 10002');
    expect(await rowsOf(table).count()).toBeLessThan(60);
    await expect(table).toHaveAttribute('aria-rowcount', '8803');
  });

  await test.step('the end of the list is a key away', async () => {
    await table.focus();
    await page.keyboard.press('End');
    await expect(table.getByText('Docket 1', { exact: true })).toBeVisible();
    await page.keyboard.press('Home');
    await expect(rowsOf(table).filter({ hasText: 'Docket 10002' })).toBeVisible();
  });

  await test.step('rows that rush by are told by their names alone, and are whole once it rests', async () => {
    const byNames = await table.evaluate(async (grid) => {
      let seen = 0;
      for (let i = 0; i < 30; i++) {
        grid.parentElement!.scrollTop += 260;
        await new Promise(requestAnimationFrame);
        const rows = [...grid.querySelectorAll('[aria-rowindex]:not([aria-rowindex="1"])')];
        if (rows.some((row) => row.textContent.trim() !== '' && !row.querySelector('input'))) seen++;
      }
      return seen;
    });
    expect(byNames).toBeGreaterThan(0);
    await expect(
      rowsOf(table)
        .filter({ hasNot: page.getByRole('checkbox') })
        .filter({ hasText: /\w/ })
    ).toHaveCount(0);
    await expect(rowsOf(table).nth(8)).toContainText('Docket 98');
    await table.focus();
    await page.keyboard.press('Home');
    await expect(rowsOf(table).first()).toContainText('Docket 10002');
  });

  await test.step('it is sorted by a column, and the address holds it', async () => {
    await page.getByRole('button', { name: 'Customer', exact: true }).click();
    await expect(page).toHaveURL(/sort=customer/);
    await expect(page.getByRole('columnheader', { name: 'Customer' })).toHaveAttribute('aria-sort', 'ascending');
    await expect(rowsOf(table).first()).toContainText('Bakery & Daughters');
    await page.getByRole('button', { name: 'Customer', exact: true }).click();
    await expect(rowsOf(table).first()).toContainText('港の店');
    const { pathname, search } = new URL(page.url());
    await open(page, pathname + search);
    await expect(rowsOf(table).first()).toContainText('港の店');
  });

  await test.step('words and facets narrow it down, counts are those of what is left', async () => {
    await page.getByLabel('Show dockets with').fill('LODZ zagle');
    // Accents and capitals do not matter.
    await expect(rowsOf(table).first()).toContainText('Łódź Żagle');
    await page.getByLabel('Show dockets with').fill('');
    const narrow = page.getByRole('form', { name: 'Narrow down' });
    await narrow.getByRole('button', { name: /^Quay Trading/ }).click();
    await expect(page).toHaveURL(/customer=Quay/);
    const text = await narrow.getByRole('button', { name: /^Quay Trading/ }).textContent();
    const count = /[\d,]+$/.exec(text!.trim())![0];
    await expect(says(page)).toHaveText(`${count} of 10,002`);
    for (const row of (await rowsOf(table).all()).slice(0, 10)) await expect(row).toContainText('Quay Trading');
    await page.getByRole('button', { name: 'Show all again' }).click();
    await expect(says(page)).toHaveText('8,802 of 10,002');
    await page.getByLabel('Show dockets with').fill('nobody is called this');
    await expect(page.getByText('Nothing here fits all of this.')).toBeVisible();
    await page.getByLabel('Show dockets with').fill('');
  });

  await test.step('200 are ticked by keyboard and changed together', async () => {
    await open(page, '/dockets?sort=number');
    await table.focus();
    await page.keyboard.press(' ');
    const ticked = async () => Number(/(\d+) ticked/.exec((await says(page).textContent()) ?? '')?.[1] ?? 0);
    /** What is not at hand is asked for: a key is pressed again when its rows are ticked. */
    const tickUntil = async (count: number, key: string) => {
      for (let before = await ticked(); before < count; before = await ticked()) {
        await page.keyboard.press(key);
        await expect.poll(ticked).toBeGreaterThan(before);
      }
    };
    await expect.poll(ticked).toBe(1);
    await tickUntil(180, 'Shift+PageDown');
    await tickUntil(200, 'Shift+ArrowDown');
    await expect(says(page)).toHaveText('8,802 of 10,002, 200 ticked');
    await page.getByRole('button', { name: 'Edit together' }).click();
    const together = page.getByRole('complementary', { name: 'Edit together' });
    await expect(together.getByRole('heading')).toHaveText('200 dockets together');
    await together.getByLabel('Copies of all').fill('7');
    await page.keyboard.press('Enter');
    await together.getByLabel('Note').fill('for the quay');
    await together.getByRole('heading').click();
    await expect(rowsOf(table).nth(3)).toContainText('for the quay');
    await expect(rowsOf(table).nth(3)).toContainText('7');
    await page.getByLabel('Show dockets with').fill('for the quay');
    await expect(says(page)).toHaveText('200 of 10,002, 200 ticked');
  });

  await test.step('they are put away, found by search, and brought back', async () => {
    await page.getByRole('button', { name: 'Put away' }).click();
    await expect(page.getByText('200 dockets put away.')).toBeVisible();
    await page.getByLabel('Show dockets with').fill('');
    await expect(says(page)).toHaveText('8,602 of 10,002');
    await page.getByLabel('Show dockets with').fill('for the quay');
    await expect(rowsOf(table).first()).toContainText('put away');
    await page.getByRole('checkbox', { name: 'Tick all dockets that are shown' }).check();
    await page.getByRole('button', { name: 'Bring back' }).click();
    await expect(page.getByText('200 dockets brought back.')).toBeVisible();
    await expect(rowsOf(table).first()).not.toContainText('put away');
  });

  await test.step('they are deleted, but for what is in a run, and that is taken back by a click', async () => {
    await page.getByRole('checkbox', { name: 'Tick all dockets that are shown' }).check();
    await page.getByRole('button', { name: 'Delete 200 dockets' }).click();
    const told = page.getByText(/\d+ dockets deleted/);
    await expect(told).toBeVisible();
    await expect(says(page)).toHaveText(/^(0|\d) of/);
    await page.getByRole('listitem').filter({ has: told }).getByRole('button', { name: 'Take back' }).click();
    await expect(page.getByText(/Taken back/)).toBeVisible();
    await expect(says(page)).toHaveText('200 of 10,002');
    await expect(rowsOf(table).nth(3)).toContainText('7');
  });

  await test.step('ticks on rows that somebody else deletes go', async () => {
    await open(page, '/dockets?sort=number');
    await rowsOf(table).nth(1).getByRole('checkbox').check();
    await rowsOf(table).nth(2).getByRole('checkbox').check();
    await expect(says(page)).toContainText('2 ticked');
    // A tick that is made while it is asked which of them are still there stays.
    let asked = 0;
    await page.route('**/api/lists/dockets/ids?**', async (route) => {
      if (route.request().method() === 'POST' && asked++ === 0) await rowsOf(table).nth(5).getByRole('checkbox').check();
      await route.continue();
    });
    const answered = page.waitForResponse((reply) => reply.url().includes('/ids?') && reply.request().method() === 'POST');
    const row = (await rowsOf(table).nth(2).textContent())!;
    const id = Number(/Docket (\d+)/.exec(row)![1]);
    const reply = await page.request.delete(`${url}/api/dockets/many`, {
      data: { ids: [id] },
      headers: { origin: url }
    });
    expect(await reply.json()).toMatchObject({ removed: [id] });
    await answered;
    await page.unrouteAll({ behavior: 'wait' });
    await expect(says(page)).toHaveText('8,801 of 10,001, 2 ticked');
    await expect(page.getByRole('row', { selected: true })).toHaveCount(2);
  });

  await test.step('an address that is wrong shows the list as it is', async () => {
    await open(page, '/dockets?sort=;drop&list=nowhere&stage=%00&from=-3&q=');
    await expect(page.getByText('Nothing here fits all of this.')).toBeVisible();
    await page.getByRole('button', { name: 'Show all again' }).click();
    await expect(rowsOf(table).first()).toContainText('Docket');
  });
});

test('a docket that is open shows what others change of it, and is left alone by what they change of others', async ({
  page
}) => {
  const dockets = async () =>
    (
      (await (await page.request.get(`${url}/api/lists/dockets?stage=not%20laid%20out`)).json()) as {
        rows: { id: number; worst: number | null }[];
      }
    ).rows;
  const [mine, other] = (await dockets()).map(({ id }) => id);
  /** Dockets that were changed are looked at in the background, which is told too. */
  const lookedAt = () =>
    expect
      .poll(async () => (await dockets()).filter(({ id, worst }) => (id === mine || id === other) && worst === null))
      .toEqual([]);
  const note = async (id: number, text: string) => {
    const { version } = (await (await page.request.get(`${url}/api/dockets/${id}`)).json()) as { version: number };
    const reply = await page.request.put(`${url}/api/dockets/${id}`, {
      data: { version, note: text },
      headers: { origin: url }
    });
    expect(reply.status()).toBe(200);
  };
  await lookedAt();
  await open(page, `/dockets/${mine!}`);
  let loads = 0;
  page.on('request', (request) => {
    // Of the page itself: what machines say of themselves meanwhile loads its frame alone.
    if (request.url().includes('__data.json') && /x-sveltekit-invalidated=[01]*1(&|$)/.test(request.url())) loads++;
  });
  await note(other!, 'of another');
  await lookedAt();
  await note(mine!, 'this one hangs by the door');
  await expect(page.getByRole('textbox', { name: 'Note' })).toHaveValue('this one hangs by the door');
  // News come in their order: the other's was heard before. Its own may have been looked at meanwhile, which is one more; and on
  // a busy machine the line for news comes up after something has happened, so that all is loaded once.
  expect(loads).toBeGreaterThanOrEqual(1);
  expect(loads).toBeLessThanOrEqual(3);
});

test('artwork and runs are lists of the same kind, and anything is found from the keyboard', async ({ page }) => {
  await open(page, '/artwork');
  await expect(says(page)).toHaveText('5,001 of 5,001');
  await page.getByRole('button', { name: 'File', exact: true }).click();
  await expect(rowsOf(grid(page, 'artwork')).first()).toContainText('Bakery banner');
  await page.getByLabel('Show artwork with').fill('berth tag');
  await expect(says(page)).toHaveText('1 of 5,001');

  await open(page, '/runs');
  await expect(says(page)).toHaveText('301 of 301');
  // The oldest printed run is still there.
  await page.getByLabel('Show runs with').fill('run 2 ');
  await expect(rowsOf(grid(page, 'runs')).first()).toBeVisible();
  await page.getByRole('button', { name: 'Show all again' }).click();
  await expect(says(page)).toHaveText('301 of 301');
  await grid(page, 'runs').focus();
  await page.keyboard.press('End');
  await expect(grid(page, 'runs').getByRole('link', { name: 'Run 1', exact: true })).toBeVisible();

  await page.keyboard.press('Control+k');
  await page.getByRole('combobox').fill('machine petrel');
  await expect(page.getByRole('option', { name: /Machine Petrel 13/ })).toBeVisible();
  await page.getByRole('combobox').fill('lane cloth');
  await expect(page.getByRole('option', { name: /Lane Cloth/ })).toBeVisible();
  await page.getByRole('combobox').fill('regatta banner');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/\/dockets\/\d+$/);
});

/** Each list by its address and what its table is called. */
const LISTS = {
  '/artwork': 'artwork',
  '/dockets': 'dockets',
  '/runs': 'runs',
  '/cutting': 'cut tasks',
  '/colour': 'conditions',
  '/colour/modes': 'print modes',
  '/colour/named': 'named colours',
  '/media': 'media'
};

test('lists are read in a small window too: no column lies on another, and what narrows down is asked for', async ({ page }) => {
  /** Of each column that has one its name, how wide it is, and how wide what stands in it is, px. */
  const heads = (table: Locator) =>
    table
      .getByRole('columnheader')
      .evaluateAll((all) => all.map((th) => ({ name: th.textContent.trim(), has: th.clientWidth, needs: th.scrollWidth })));
  for (const [path, name] of Object.entries(LISTS)) {
    await page.setViewportSize({ width: 820, height: 800 });
    await open(page, path);
    const table = grid(page, name);
    await expect(table).toBeVisible();
    for (const { name: column, has, needs } of await heads(table))
      expect([path, column, needs <= has]).toEqual([path, column, true]);
    await page.setViewportSize({ width: 1280, height: 800 });
    // What the usual window has room for is not moved sideways.
    expect([path, await table.evaluate((grid) => grid.parentElement!.scrollWidth <= grid.parentElement!.clientWidth)]).toEqual([path, true]); // prettier-ignore
  }
  await page.setViewportSize({ width: 820, height: 800 });
  await open(page, '/dockets');
  const all = (await says(page).textContent())!;
  const narrow = page.getByRole('form', { name: 'Narrow down' });
  await expect(narrow).toBeHidden();
  await page.getByRole('button', { name: 'Narrow down' }).click();
  await expect(page.getByRole('button', { name: 'Narrow down', expanded: true })).toBeVisible();
  await narrow.getByRole('button', { name: /^put away/ }).click();
  await expect(says(page)).not.toHaveText(all);
  await page.getByRole('button', { name: 'Show all again' }).click();
  await expect(says(page)).toHaveText(all);
});

test('dockets are dragged to a lane and on to another, together, and what would change is said before', async ({ page }) => {
  await open(page, '/');
  const tray = page.getByRole('complementary', { name: 'Dockets not laid out yet' });
  const items = tray.getByRole('listitem');
  const lane = (media: string) => page.getByRole('group', { name: `Lane of ${media}` });
  for (const i of [0, 1, 2]) await items.nth(i).getByRole('checkbox').check();
  await expect(tray.getByText('3 ticked')).toBeVisible();
  const waits = tray.getByRole('heading', { name: /not laid out yet/ });
  const before = (await waits.textContent())!;

  await test.step('three from the tray', async () => {
    await items.nth(1).hover();
    await page.mouse.down();
    await dragOver(page, lane('Film'), /No other mode, \d\.\d+ m/);
    await page.mouse.up();
    await expect(page.getByText('3 dockets: laid out on Film.')).toBeVisible();
    await expect(tray.getByText('3 ticked')).toBeHidden();
    // What is dragged next is the run as the Floor has it: with them in it.
    await expect(waits).not.toHaveText(before);
  });

  await test.step('their run to another lane', async () => {
    const run = lane('Film').getByRole('link', { name: 'Run 1, changed since it was RIPped' });
    await run.hover();
    await page.mouse.down();
    await dragOver(page, lane('Cloth'), /To 720 × 720.*m, /);
    await page.mouse.up();
    await expect(lane('Cloth').getByRole('link', { name: /laying out/ })).toBeVisible();
  });

  await test.step('and back by keyboard', async () => {
    await lane('Cloth')
      .getByRole('link', { name: /laying out/ })
      .focus();
    await page.keyboard.press('m');
    const dialog = page.getByRole('dialog', { name: 'Move to another lane' });
    await dialog.getByRole('row', { name: /Film/ }).getByRole('button', { name: 'Move here' }).press('Enter');
    await expect(lane('Film').getByRole('link', { name: /laying out/ })).toBeVisible();
    // The run that all had left is gone.
    await expect(lane('Cloth').getByRole('link')).toHaveCount(0);
  });
});

test('a docket that is given another media where it lies stops its run, until it is laid out as it says', async ({ page }) => {
  const { rows } = await call<{ rows: { id: number }[] }>(
    page.request,
    url,
    'GET',
    '/lists/dockets?stage=not%20laid%20out&media=Film'
  );
  const { id } = rows.at(-1)!;
  const laid = await call<{ id: number }>(page.request, url, 'POST', '/runs', { docketIds: [id] });
  await open(page, `/dockets/${id}`);
  const media = page.getByRole('combobox', { name: 'Media and print mode' });
  const elsewhere = page.getByRole('status').filter({ hasText: `Run ${laid.id} prints on Film` });
  await expect(page.getByRole('link', { name: `run ${laid.id}`, exact: true })).toBeVisible();
  await expect(elsewhere).toBeHidden();
  await media.selectOption(await media.getByRole('option', { name: /^Cloth, / }).getAttribute('value'));
  await expect(elsewhere).toBeVisible();

  await open(page, `/runs/${laid.id}`);
  await expect(page.getByText(/^Stop: .+ is for Cloth on .+ by now, and this run prints on Film/)).toBeVisible();
  await expect(page.getByRole('button', { name: /^RIP/ })).toBeDisabled();
  await expect(page.getByRole('button', { name: 'Release' })).toBeDisabled();

  await open(page, `/dockets/${id}`);
  await elsewhere.getByRole('button', { name: 'Lay it out as said here' }).press('Enter');
  await expect(page.getByText(/^It lies in run \d+ now\.$/)).toBeVisible();
  await expect(elsewhere).toBeHidden();
  await open(page, `/runs/${laid.id}`);
  await expect(page.getByText(/^Stop: .+ is for Cloth/)).toBeHidden();
});

test('what is open stays while the server is away, and is what it is now when that is back', async ({ page }) => {
  const { port, origin } = new URL(url);
  const away = page.getByRole('status').filter({ hasText: 'does not answer' });
  const { rows } = (await (await page.request.get(`${url}/api/lists/dockets`)).json()) as { rows: { id: number }[] };
  const note = async (text: string) => {
    const id = rows[0]!.id;
    const { version } = (await (await page.request.get(`${url}/api/dockets/${id}`)).json()) as { version: number };
    const reply = await page.request.put(`${url}/api/dockets/${id}`, { data: { version, note: text }, headers: { origin } });
    expect(reply.status()).toBe(200);
  };
  const kill = async () => {
    server.child.kill('SIGKILL');
    await expect(away).toBeVisible();
  };
  const bringBack = async () => {
    server = await startServer({ ZING_DATA: join(folder.path, 'shop'), PORT: port });
    await expect(away).toBeHidden();
  };

  await open(page, '/dockets');
  const first = rowsOf(grid(page, 'dockets')).first();
  await note('seen before');
  await expect(first).toContainText('seen before');
  // Nobody answers what this has the page ask: it is under way when the server goes.
  let isGone!: () => void;
  const gone = new Promise<void>((resolve) => (isGone = resolve));
  await page.route(/__data\.json/, (route) => gone.then(() => route.continue()));
  const asked = page.waitForRequest(/__data\.json/);
  await note('told while nobody listens');
  await asked;
  await kill();
  isGone();
  await expect(says(page)).toHaveText(/of 10,/);
  await expect(first).toContainText('Docket');
  await bringBack();
  await expect(first).toContainText('told while nobody listens');
  await note('told after');
  await expect(first).toContainText('told after');

  await open(page, '/');
  await expect(page.getByRole('group', { name: 'Lane of Film' })).toBeVisible();
  const again = page.waitForRequest(/api\/floor$/);
  await note('once more');
  await again;
  await kill();
  await expect(page.getByRole('group', { name: 'Lane of Film' })).toBeVisible();
  await expect(page).toHaveURL(`${url}/`);
  await bringBack();
  await expect(page.getByRole('group', { name: 'Lane of Film' })).toBeVisible();
});
