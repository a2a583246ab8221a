import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { expect, test } from '@playwright/test';
import { freePort, startMachines, startServer, seed } from '../../scripts/stack.mjs';
import { temporaryFolder } from '../harness';

type Started = Awaited<ReturnType<typeof startServer>>;
let started: Started[] = [];
let url = '';
const folder = temporaryFolder();

test.beforeAll(async () => {
  test.setTimeout(900_000);
  const machines = await startMachines(join(folder.path, 'printer'), 'full');
  await seed(folder.path, machines);
  const server = await startServer({ ZING_DATA: folder.path });
  started = [server, ...Object.values(machines)];
  ({ url } = server);
});
test.afterAll(() => {
  for (const { child } of started) child.kill();
  folder.remove();
});

/** @param runs a printed one, a RIPped one, and one that is laid out */
const paths = ([printed, ripped, open]: readonly number[]) => [
  '/',
  '/artwork',
  '/dockets',
  '/dockets/3',
  '/dockets/19/wall',
  '/runs',
  `/runs/${printed}`,
  `/runs/${printed}/inspect`,
  '/cutting',
  '/cutting/1',
  '/media',
  '/media/1',
  '/media/6',
  '/media/library',
  '/colour',
  '/colour/modes',
  '/colour/1',
  '/colour/1?step=linear',
  '/colour/1?step=total',
  '/colour/1?step=profile',
  '/colour/1?step=verify',
  '/colour/1?step=watch',
  '/colour/1?step=tone',
  `/runs/${ripped}`,
  `/runs/${open}`,
  '/shop',
  '/shop/costs',
  '/shop/recipes',
  '/shop/recipes/1',
  '/artwork/in-tray',
  '/shop/jigs',
  '/shop/jigs/1'
];

test('every screen, light and dark, can be used by everyone (WCAG 2.2 AA, as far as a program can tell)', async ({ page }) => {
  test.setTimeout(900_000);
  const broken: string[] = [];
  page.on('pageerror', (error) => broken.push(error.message));
  page.on('console', (message) => {
    if (/Content Security Policy/i.test(message.text())) broken.push(message.text());
  });
  const look = async (axe: AxeBuilder, what: string) => {
    const { violations } = await axe.analyze();
    const found = violations.flatMap(({ id, nodes }) => nodes.slice(0, 3).map((node) => `${id}: ${node.html.slice(0, 200)}`));
    expect.soft(found, what).toEqual([]);
  };
  const { rows } = (await (await page.request.get(`${url}/api/lists/runs`)).json()) as { rows: { id: number; state: string }[] };
  const runs = ['printed', 'ripped', 'laying out'].map((state) => rows.find((run) => run.state === state)!.id);
  for (const path of paths(runs)) {
    await page.goto(`${url}${path}`);
    await expect(page.getByRole('contentinfo', { name: 'Machines' })).toContainText('Petrel 13');
    // The machine strip stays where it is: parts of the screen scroll, and the whole never does.
    const beyond = await page.evaluate(() => {
      const { scrollHeight, scrollWidth } = document.documentElement;
      return [scrollHeight - innerHeight, scrollWidth - innerWidth];
    });
    expect.soft(beyond, path).toEqual([0, 0]);
    await look(new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']), path);
    // In the other theme it is the same but for its colours; the next screen begins in this one.
    const theme = page.getByRole('button', { name: /^Change to (light|dark)$/ });
    const before = (await theme.getAttribute('aria-label'))!;
    await theme.click();
    await expect(theme).not.toHaveAccessibleName(before);
    await look(new AxeBuilder({ page }).withRules(['color-contrast', 'link-in-text-block']), `${path}, the other theme`);
  }
  expect(broken).toEqual([]);
});

test('the server with live reload opens the same shop, and its pages work', async ({ page }) => {
  for (const { child } of started.splice(0)) {
    const gone = once(child, 'exit');
    child.kill();
    await gone;
  }
  const port = await freePort();
  const dev = spawn(process.execPath, ['scripts/dev.mjs'], {
    env: { ...process.env, ZING_DATA: folder.path, PORT: String(port) },
    stdio: ['ignore', 'ignore', 'inherit']
  });
  started = [{ url: '', child: dev }];
  await expect
    .poll(
      () =>
        fetch(`http://127.0.0.1:${port}/api/settings`).then(
          ({ ok }) => ok,
          () => false
        ),
      { timeout: 120_000 }
    )
    .toBe(true);
  await page.goto(`http://127.0.0.1:${port}/`);
  await expect(page.getByRole('contentinfo', { name: 'Machines' })).toContainText('Petrel 13');
  // It is alive, and not just drawn.
  await page.getByRole('link', { name: 'Dockets' }).click();
  await expect(page).toHaveURL(/\/dockets$/);
});
