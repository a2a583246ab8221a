import { expect, test, type Locator } from '@playwright/test';
import { startMachine, startServer } from '../../scripts/stack.mjs';
import { temporaryFolder, USUAL_MODE } from '../harness';
import { smallPage } from '../made/small-page';
import { call } from './api';
import { openPage } from './open';

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

/** Two spot colours, one of which the file shows as a green; and a flat red. */
const artwork = smallPage(
  '/F cs 1 scn 0 10 20 10 re f /P cs 1 scn 0 0 10 10 re f 0.8 0.1 0.1 rg 10 0 10 10 re f',
  ['/ColorSpace<<', spot('F', 'Ferry#20Red', '0.8 0 1 0'), spot('P', 'Skipper#20Plum', '0.5 0.8 0.2 0.1'), '>>'].join('')
);
function spot(key: string, name: string, cmyk: string): string {
  return `/${key} [/Separation /${name} /DeviceCMYK <</FunctionType 2/Domain[0 1]/C0[0 0 0 0]/C1[${cmyk}]/N 1>>]`;
}

test.describe.configure({ mode: 'serial' });

test('a spot colour of a file is given its L*a*b*, and corrected by measuring what was printed', async ({ page, request }) => {
  const { server, printer, instrument } = started;
  const api = <T>(method: 'GET' | 'POST' | 'PUT', path: string, data?: object) =>
    call<T>(request, server.url, method, path, data);
  for (const [kind, name, url] of [
    ['printer', 'Petrel 13', printer.url],
    ['instrument', 'Plover S2', instrument.url]
  ])
    await api('POST', '/machines', { kind, name, url });
  const machines = await api<{ id: number; kind: string }[]>('GET', '/machines');
  const media = await api<{ id: number }>('POST', '/media', { name: 'Gloss white film', thicknessMm: 0.08 });
  const condition = await api<{ id: number }>('POST', '/conditions', {
    machineId: machines.find(({ kind }) => kind === 'printer')!.id,
    mediaId: media.id,
    mode: USUAL_MODE.code
  });
  await expect
    .poll(async () => (await api<{ id: number; hasProfile: boolean }[]>('GET', '/conditions'))[0]?.hasProfile)
    .toBe(true);
  // The machine is not what it says of itself.
  await request.post(`${printer.url}/unit`, { data: { gain: [1.08, 0.92, 1.1, 1], strength: [1, 0.96, 1, 1] } });
  const taken = await request.post(`${server.url}/api/artworks?name=Flags.pdf`, {
    data: artwork,
    headers: { origin: server.url, 'content-type': 'application/pdf' }
  });
  const { id: artworkId } = (await taken.json()) as { id: number };
  await expect.poll(async () => (await api<{ state: string }>('GET', `/artworks/${artworkId}`)).state).toBe('ready');
  const { ids } = await api<{ ids: number[] }>('POST', '/dockets', { pages: [{ artworkId, page: 0 }] });
  const docket = await api<{ version: number; choices: object }>('GET', `/dockets/${ids[0]}`);
  await api('PUT', `/dockets/${ids[0]}`, {
    version: docket.version,
    choices: { ...docket.choices, conditionId: condition.id, cut: false }
  });

  await test.step('the docket says that the shop does not know the names, and takes one as the file means it', async () => {
    await openPage(page, `${server.url}/dockets/${ids[0]}`);
    const names = page.getByRole('region', { name: 'Colours by name' });
    await expect(names.getByLabel('Skipper Plum prints')).toHaveValue('name');
    await names
      .getByRole('listitem')
      .filter({ hasText: 'Skipper Plum' })
      .getByRole('button', { name: 'Add it to the shop’s colours' })
      .click();
    await expect(names.getByLabel('Skipper Plum prints')).toContainText('Skipper Plum of the shop');
    await expect(names.getByRole('listitem').filter({ hasText: 'Skipper Plum' })).toContainText('ΔE00');
  });

  await test.step('the other is given its L*a*b*, and counts at once', async () => {
    await openPage(page, `${server.url}/colour/named`);
    await page.getByRole('button', { name: 'Add a colour' }).click();
    const form = page.getByRole('complementary', { name: 'New colour' });
    await form.getByLabel('Name', { exact: true }).fill('ferry-red');
    await form.getByLabel('L*, a*, b* under D50').fill('52; 38');
    await expect(form.getByText('L*, a*, b* are three figures')).toBeVisible();
    await form.getByLabel('L*, a*, b* under D50').fill('52; 38; 18');
    await form.getByLabel('Collection').fill('Port colours');
    await form.getByRole('button', { name: 'Add the colour' }).click();
    await expect(page.getByRole('heading', { level: 1, name: 'ferry-red' })).toBeVisible();
    const { spots } = await api<{ spots: { name: string; prints: { name: string } | null }[] }>(
      'GET',
      `/dockets/${ids[0]}/colours`
    );
    expect(spots.find(({ name }) => name === 'Ferry Red')?.prints?.name).toBe('ferry-red');
  });

  await test.step('the same name again is told which colour has it', async () => {
    const again = await request.post(`${server.url}/api/colours`, {
      data: { name: 'Ferry Red', lab: [1, 2, 3] },
      headers: { origin: server.url }
    });
    expect(again.status()).toBe(409);
    expect(((await again.json()) as { error: string }).error).toContain('has ferry-red already');
  });

  await test.step('it is printed and read, and its inks are corrected; again, until it is right', async () => {
    const measure = page.getByRole('region', { name: 'Measure it' });
    const rounds = measure.getByRole('table', { name: 'Rounds' });
    for (let round = 1; round <= 2; round++) {
      await measure.getByRole('button', { name: round === 1 ? 'Make the chart' : 'Make a new chart' }).click();
      await measure.getByRole('button', { name: 'Print the chart' }).click();
      await measure.getByRole('button', { name: 'Read all that is left' }).click();
      await expect(measure.getByText('all read')).toBeVisible();
      await measure.getByRole('button', { name: 'Correct its inks by this reading' }).click();
      await expect(rounds.getByRole('row')).toHaveCount(round + 1);
    }
    const left = async (row: number) => Number(await rounds.getByRole('row').nth(row).getByRole('cell').last().textContent());
    expect(await left(1)).toBeGreaterThan(1);
    expect(await left(2)).toBeLessThan(0.6);
    await expect(page.getByText('Its inks here are its own, found by measuring.')).toBeVisible();
  });

  await test.step('inks by hand show what they come to before they are kept, and are let go again', async () => {
    const on = page.getByRole('region', { name: 'On one condition' });
    await on.getByLabel('cyan, per cent').fill('60');
    await on.getByLabel('cyan, per cent').press('Tab');
    await expect(on.getByText('with these inks')).toBeVisible();
    await on.getByRole('button', { name: 'Leave it as it was' }).click();
    await expect(on.getByText('with these inks')).toBeHidden();
    await on.getByRole('button', { name: 'Print as the profile gives it' }).click();
    await expect(on.getByText('Its inks here are its own')).toBeHidden();
  });

  await test.step('a flat colour picked on the artwork prints in it', async () => {
    await openPage(page, `${server.url}/dockets/${ids[0]}`);
    const names = page.getByRole('region', { name: 'Colours by name' });
    await names.getByRole('button', { name: 'Print a flat colour as a named one' }).click();
    const area = page.getByRole('button', { name: 'Click a colour of the artwork' });
    const box = (await area.boundingBox())!;
    await page.mouse.click(box.x + box.width * 0.75, box.y + box.height * 0.75);
    await names.getByRole('button', { name: 'as they are: choose a colour' }).click();
    await names.getByLabel('Colour for it').fill('ferry');
    await names.getByRole('list', { name: 'Named colours found' }).getByRole('button', { name: 'ferry-red' }).click();
    await expect(names.getByRole('button', { name: 'as ferry-red' })).toBeVisible();
  });
});

test('the tone of a docket is seen before it is printed, moved by mouse and by keyboard, kept and taken back', async ({
  page,
  request
}) => {
  const { server } = started;
  const api = <T>(method: 'GET' | 'POST' | 'PUT', path: string, data?: object) =>
    call<T>(request, server.url, method, path, data);
  // On the left a named colour, on the right a grey and a blue of the screen.
  const plain = smallPage(
    '/F cs 1 scn 0 0 10 20 re f 0.5 g 10 0 10 10 re f 0.3 0.5 0.7 rg 10 10 10 10 re f',
    `/ColorSpace<<${spot('F', 'Ferry#20Red', '0.8 0 1 0')}>>`
  );
  const taken = await request.post(`${server.url}/api/artworks?name=Halves.pdf`, {
    data: plain,
    headers: { origin: server.url, 'content-type': 'application/pdf' }
  });
  const { id: artworkId } = (await taken.json()) as { id: number };
  await expect.poll(async () => (await api<{ state: string }>('GET', `/artworks/${artworkId}`)).state).toBe('ready');
  const { ids } = await api<{ ids: number[] }>('POST', '/dockets', { pages: [{ artworkId, page: 0 }] });
  const made = await api<{ version: number; choices: object }>('GET', `/dockets/${ids[0]}`);
  await api('PUT', `/dockets/${ids[0]}`, { version: made.version, choices: { ...made.choices, conditionId: 1, cut: false } });
  const saved = async () =>
    (await api<{ choices: { tone: object; adjustment: { brightness: number } } }>('GET', `/dockets/${ids[0]}`)).choices;
  await openPage(page, `${server.url}/dockets/${ids[0]}`);
  await page.getByRole('link', { name: 'as it was sent' }).click();
  const canvas = page.getByLabel('Before and after', { exact: true });
  await expect(canvas).toBeVisible();
  /** The green of a pixel of the picture: lighter is more. */
  const green = (across: number) =>
    canvas.evaluate((node, share) => {
      const { width, height } = node as HTMLCanvasElement;
      return (node as HTMLCanvasElement).getContext('2d')!.getImageData(width * share, height * 0.75, 1, 1).data[1]!;
    }, across);
  const light = () => green(0.75);
  const before = await light();
  expect(before).toBeGreaterThan(0);

  await test.step('a point of the curve is added by a click and moved by keys and figures', async () => {
    const curves = page.getByRole('region', { name: 'Curves of the inks' });
    await curves.getByRole('group', { name: /^Curve of all inks/ }).click();
    await curves.getByLabel('Printed, %').fill('30');
    await curves.getByLabel('Printed, %').press('Enter');
    await expect.poll(light).toBeGreaterThan(before + 2);
    const point = curves.getByRole('button', { name: /^Point at 50/ });
    await point.focus();
    await page.keyboard.press('ArrowUp');
    await expect(curves.getByRole('button', { name: /^Point at 50.* printed 31/ })).toBeVisible();
    await expect.poll(async () => Object.keys((await saved()).tone)).toEqual(['all']);
    // The named colour stays once it is drawn as it will print: with the line at the left end all is what comes after.
    const line = page.getByRole('slider', { name: 'Line between before and after' });
    await line.focus();
    await page.keyboard.press('End');
    const asSent = await green(0.25);
    await page.keyboard.press('Home');
    await expect.poll(async () => Math.abs((await green(0.25)) - asSent)).toBeLessThan(4);
    // What is typed for a name is taken back by itself, and not a step of the docket with it.
    const name = curves.getByLabel('Keep these curves as');
    await name.fill('Pale');
    await name.press('Control+z');
    await name.fill('Paler for cloth');
    await curves.getByRole('button', { name: 'Keep', exact: true }).click();
    await expect(curves.getByRole('button', { name: 'Paler for cloth', exact: true })).toBeVisible();
    await expect(curves.getByRole('button', { name: /^Point at 50.* printed 31/ })).toBeVisible();
    await expect(page.getByRole('button', { name: 'Make it again' })).toBeDisabled();
    await curves.getByRole('button', { name: /^Point at 50/ }).focus();
    await page.keyboard.press('Delete');
    await curves.getByRole('button', { name: 'Straighten it' }).click();
    await expect.poll(light).toBeLessThan(before + 1);
    await curves.getByRole('button', { name: 'Paler for cloth', exact: true }).click();
    await expect.poll(light).toBeGreaterThan(before + 2);
  });

  await test.step('a slider is seen at once, and what it changes is told', async () => {
    const bright = page.getByRole('spinbutton', { name: 'Brightness' });
    await bright.fill('40');
    await bright.press('Enter');
    await expect.poll(async () => (await saved()).adjustment.brightness).toBe(0.4);
    await page.getByLabel('Over it').selectOption('difference');
    await expect(page.getByRole('status').filter({ hasText: 'changes by ΔE00' })).toBeVisible();
    await expect(page.getByLabel('Difference')).toBeVisible();
  });

  await test.step('the line between is moved by keys', async () => {
    const line = page.getByRole('slider', { name: 'Line between before and after' });
    await line.focus();
    await page.keyboard.press('End');
    await expect(line).toHaveAttribute('aria-valuenow', '100');
    await page.keyboard.press('Home');
    await expect(line).toHaveAttribute('aria-valuenow', '0');
  });

  await test.step('a strip of variants of a part of it is printed, and the one that is best is kept', async () => {
    await page.getByLabel('Over it').selectOption('');
    const strip = page.getByRole('region', { name: 'Variants on film' });
    await strip.getByLabel('Variants', { exact: true }).selectOption('saturation');
    await strip.getByRole('button', { name: 'Choose it on the picture' }).click();
    const box = (await canvas.boundingBox())!;
    await page.mouse.move(box.x + box.width * 0.55, box.y + box.height * 0.2);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * 0.95, box.y + box.height * 0.8, { steps: 3 });
    await page.mouse.up();
    await expect(strip.getByLabel('Part wide')).toHaveValue('8');
    await strip.getByRole('button', { name: 'Make the strip' }).click();
    await strip.getByRole('button', { name: 'Print the strip' }).click();
    await expect(strip.getByText('printed', { exact: true })).toBeVisible();
    await expect(strip.getByRole('button', { name: 'Keep it' })).toBeDisabled();
    await strip.getByLabel('The best is').fill('d');
    await strip.getByRole('button', { name: 'Keep D' }).click();
    const kept = async () =>
      (await api<{ choices: { adjustment: { saturation: number } } }>('GET', `/dockets/${ids[0]}`)).choices.adjustment.saturation;
    await expect.poll(kept).toBeCloseTo(0.175, 3);
    await page.getByRole('button', { name: 'Take back the last change' }).click();
    await expect.poll(kept).toBe(0);
  });

  await test.step('all of it is taken back, step by step, or at once', async () => {
    await page.getByRole('button', { name: 'Take back the last change' }).click();
    await expect.poll(async () => (await saved()).adjustment.brightness).toBe(0);
    await page.getByRole('button', { name: 'Leave it as it was sent' }).click();
    await expect.poll(async () => Object.keys((await saved()).tone)).toEqual([]);
    await page.getByRole('link', { name: `Docket ${ids[0]}` }).click();
    await expect(page.getByRole('link', { name: 'as it was sent' })).toBeVisible();
  });
});

test('a condition is held against its baseline after a service, and brought back', async ({ page, request }) => {
  test.setTimeout(400_000);
  const { server, printer } = started;
  const unit = (gain: number[]) => request.post(`${printer.url}/unit`, { data: { gain, strength: [1, 1, 1, 1] } });
  await unit([1, 1, 1, 1]);
  await openPage(page, `${server.url}/colour/1?step=watch`);
  const read = async (region: Locator, make: string) => {
    await region.getByRole('button', { name: make }).click();
    await region.getByRole('button', { name: 'Print the chart' }).click();
    await region.getByRole('button', { name: 'Read all that is left' }).click();
    await expect(region.getByText('all read')).toBeVisible();
  };
  const baseline = page.getByRole('region', { name: 'Baseline' });
  await read(baseline, 'Make the chart');
  await baseline.getByRole('button', { name: 'Keep it as the baseline' }).click();
  await expect(baseline.getByText(/^241 patches of Petrel 13 on Gloss white film/)).toBeVisible();

  await test.step('after a service it prints otherwise, and each ink is told of', async () => {
    await unit([1.12, 0.88, 1.1, 1]);
    const isDue = page.getByText('It is time to compare it with its baseline: service since it was last read.');
    await page.getByRole('button', { name: 'Note it today' }).click();
    await expect(isDue).toBeVisible();
    await page.getByRole('button', { name: /^Take out: service/ }).click();
    await expect(isDue).toBeHidden();
    await page.getByRole('button', { name: 'Note it today' }).click();
    await expect(isDue).toBeVisible();
    await expect(page.getByRole('navigation').getByRole('link', { name: /Colour.*1 due/ })).toBeVisible();
    const compare = page.getByRole('region', { name: 'Compare', exact: true });
    await read(compare, 'Make the chart');
    await compare.getByRole('button', { name: 'Compare them' }).click();
    const inks = compare.getByRole('table', { name: 'By ink' });
    await expect(inks.getByRole('row', { name: /cyan/i })).toContainText('stronger than it was');
    await expect(inks.getByRole('row', { name: /magenta/i })).toContainText('weaker than it was');
    await expect(page.getByText('It is time to compare it')).toBeHidden();
    await expect(compare.getByText(/^Then about ΔE00 0\.\d\d in the mean/)).toBeVisible();
    const docket = await page.context().newPage();
    await openPage(docket, `${server.url}/dockets/1`);
    await expect(docket.getByText(/^The condition has drifted: ΔE00 \d/)).toBeVisible();
    await docket.close();
    await compare.getByRole('button', { name: 'Bring it back', exact: true }).click();
    await expect(compare.getByText('It prints through its correction, and nothing was read of that yet')).toBeVisible();
    await expect(page.getByRole('region', { name: 'History' })).toContainText('Brought back to its baseline');
    await read(compare, 'Make a new chart, to do the step again');
    await compare.getByRole('button', { name: 'Compare them' }).click();
    await expect(compare.getByText('✓ It prints as it did')).toBeVisible();
  });
});

test('a condition has curves of its own, which dockets are told of', async ({ page }) => {
  const { server } = started;
  await openPage(page, `${server.url}/colour/1?step=tone`);
  const curves = page.getByRole('region', { name: 'Curves', exact: true });
  await expect(curves.getByRole('button', { name: 'Print dockets through them' })).toBeDisabled();
  await curves.getByRole('group', { name: /^Curve of all inks/ }).click();
  await curves.getByLabel('Printed, %').fill('42');
  await curves.getByLabel('Printed, %').press('Enter');
  await expect(curves.getByRole('status')).toContainText('Not kept yet');
  await curves.getByRole('button', { name: 'Print dockets through them' }).click();
  await expect(page.getByRole('region', { name: 'History' })).toContainText('Tone curves set');
  await page.reload();
  await expect(curves.getByRole('button', { name: /^Point at 50.* printed 42/ })).toBeVisible();
  await curves.getByRole('button', { name: 'Straight', exact: true }).click();
  await curves.getByRole('button', { name: 'Print dockets through them' }).click();
  await expect(page.getByRole('region', { name: 'History' })).toContainText('Tone curves taken away');
});
