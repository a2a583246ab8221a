import { expect, test } from '@playwright/test';
import { startMachine, startServer } from '../../scripts/stack.mjs';
import { readyStacks, withStack } from '../../core/artwork/docket-stack';
import { Jig, NEW_JIG, outlineOf, pocketsOf } from '../../core/layout/jig';
import type { Placement } from '../../core/layout/placement';
import { NO_RECORDS } from '../../core/records/choices';
import type { FieldPlace } from '../../core/records/field';
import { newText } from '../../core/records/new-field';
import { temporaryFolder } from '../harness';
import { smallPage } from '../made/small-page';
import { call } from './api';
import { openPage } from './open';

type Started = Awaited<ReturnType<typeof startServer>>;
let started: Record<'printer' | 'server', Started>;
const folder = temporaryFolder();

test.beforeAll(async () => {
  const media = { name: 'Board', surface: 'matt', widthMm: 400, lengthMm: 0, sheetMm: 300, sheets: 30 };
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
    await expect(page.getByText(/^Pocket 13 reaches 24 mm beyond the bed/)).toBeVisible();
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
    await page.keyboard.press('.');
    await page.keyboard.press('>');
    await expect(page.getByLabel('Turned by')).toHaveValue('1.1');
    // By its ring, a quarter to the right; and back into line.
    const ring = (await page.getByTestId('turn-grip').boundingBox())!;
    const [x, y] = [ring.x + ring.width / 2, ring.y + ring.height / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + 60, y + 20, { steps: 4 });
    await page.mouse.up();
    expect(Number(await page.getByLabel('Turned by').inputValue())).toBeGreaterThan(20);
    await page.getByLabel('Turned by').fill('0');
    await page.getByLabel('Turned by').press('Enter');
    await page.getByLabel('Moved along').fill('-0.5');
    await page.getByLabel('Moved along').press('Enter');
    await picture.focus();
    await page.keyboard.press(']');
    await page.getByRole('button', { name: 'Switch it off' }).click();
    await expect(page.getByText('9 pockets, 5 across and 2 along, 1 switched off.')).toBeVisible();
    await page.getByRole('link', { name: 'All jigs' }).click();
    await expect(page.getByRole('row', { name: /^Round tags 9 20 × 20 mm 400 × 300 mm/ })).toBeVisible();
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
    await page.getByRole('button', { name: 'Release', exact: true }).click();
    await expect(page.getByText('its things are laid into Round tags by hand. Print it here once they are.')).toBeVisible();
    await page.getByRole('button', { name: 'Print', exact: true }).click();
    await expect.poll(async () => (await api<{ state: string }>('GET', `/runs/${runId}`)).state).toBe('printed');
    // The next is offered.
    await page.getByRole('link', { name: `run ${runId + 1}` }).click();
    await expect(page.getByText('Lay its things in before you print.')).toBeVisible();
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

  await test.step('a docket says on its ticket that it lies there, and a run on the sheet is left for it', async () => {
    const third = await docket('Yellow', '0 0 1 0', 12);
    await api('POST', '/runs', { docketIds: [third] });
    await openPage(page, `${server.url}/dockets/${third}`);
    const jig = page.getByRole('region', { name: 'Jig' });
    await jig.getByLabel('Printed on').selectOption('what lies in Round tags');
    await expect(jig.getByRole('status')).toContainText('places it on the sheet');
    await jig.getByLabel('Turned in its pocket').selectOption('turned right');
    await jig.getByRole('button', { name: 'Lay it out as said here' }).click();
    await expect(jig.getByRole('status')).toBeHidden();
    await expect(page.getByRole('region', { name: 'Media and mode' })).toContainText('100 % of its 2 loads');
    await page.getByRole('button', { name: /^Go to run/ }).click();
    const ofRun = page.getByRole('region', { name: 'Jig' });
    await expect(ofRun.getByLabel('Placed on').locator('option:checked')).toHaveText('Round tags');
    await expect(ofRun.getByLabel('Turned in its pocket')).toHaveValue('90');
    await expect(ofRun.getByText('2 loads: 9, then 3')).toBeVisible();
    // The run says otherwise than the ticket: it is told.
    await ofRun.getByLabel('Placed on').selectOption('the sheet');
    await expect(ofRun.getByText('The ticket of Yellow says that it lies otherwise.')).toBeVisible();
    await page.getByRole('button', { name: 'Delete run' }).click();
    await expect(page).toHaveURL(/\/runs$/);
  });
});

test('brass-look tags: two artworks and a list of names, outlines to lay in by, white under colour, one pocket once more', async ({
  page,
  request
}) => {
  const { server, printer } = started;
  const api = <T>(method: 'GET' | 'POST' | 'PUT', path: string, data?: object) =>
    call<T>(request, server.url, method, path, data);
  const atPrinter = <T>(path: string, data?: object) =>
    fetch(`${printer.url}${path}`, { ...(data && { method: 'POST', body: JSON.stringify(data) }) }).then(
      (reply) => reply.json() as T
    );
  const [{ id: conditionId }] = await api<[{ id: number }]>('GET', '/conditions');
  const tags = Jig.parse({
    ...NEW_JIG,
    name: 'Brass tags',
    bed: { widthMm: 400, lengthMm: 300 },
    thing: { widthMm: 50, heightMm: 30, outline: { kind: 'rectangle', radiusMm: 3 } },
    columns: 6,
    rows: 4,
    gapX: 6,
    gapY: 6
  });
  const { id: jigId } = await api<{ id: number }>('POST', '/jigs', { jig: tags });
  const white = readyStacks({}).find(({ name }) => name === 'White under colour')!.stack;
  const docket = async (name: string, content: string, copies: number, records: object = {}) => {
    const taken = await request.post(`${server.url}/api/artworks?name=${name}.pdf`, {
      data: smallPage(content),
      headers: { origin: server.url, 'content-type': 'application/pdf' }
    });
    const { id: artworkId } = (await taken.json()) as { id: number };
    await expect.poll(async () => (await api<{ state: string }>('GET', `/artworks/${artworkId}`)).state).toBe('ready');
    const { ids } = await api<{ ids: number[] }>('POST', '/dockets', { pages: [{ artworkId, page: 0 }] });
    const [id] = ids;
    const { version, choices } = await api<{ version: number; choices: object }>('GET', `/dockets/${id}`);
    const changed = await api<{ version: number }>('PUT', `/dockets/${id}`, {
      version,
      choices: { ...choices, ...withStack(white), conditionId, copies, cut: false, bleedMm: 0, ...records }
    });
    return { id: id!, version: changed.version };
  };

  await test.step('one pocket is nudged, and the outlines are printed on the bare bed', async () => {
    await openPage(page, `${server.url}/shop/jigs/${jigId}`);
    const picture = page.getByRole('img', { name: /^The jig on its bed of 400 × 300 mm, 24 pockets/ });
    await picture.focus();
    await page.keyboard.press(']');
    await page.keyboard.press(']');
    await page.getByLabel('Moved across').fill('1.5');
    await page.getByLabel('Moved across').press('Enter');
    await page.getByLabel('Thickness of the thing').fill('4');
    await page.getByLabel('Thickness of the thing').press('Enter');
    await expect
      .poll(async () => (await api<{ jig: Jig }>('GET', `/jigs/${jigId}`)).jig)
      .toMatchObject({
        thicknessMm: 4,
        nudges: { '2.1': { dx: 1.5, dy: 0, turn: 0 } }
      });
    const lay = page.getByRole('region', { name: 'To lay in by' });
    await lay.getByLabel('Weight of the lines').fill('0.8');
    await lay.getByLabel('Weight of the lines').press('Enter');
    await lay.getByRole('button', { name: 'Make the run' }).click();
    await expect(page.getByRole('heading', { name: /^Run \d+/ })).toBeVisible();
    const run = Number(/\/runs\/(\d+)/.exec(page.url())![1]);
    await api('POST', `/runs/${run}/release`);
    await expect
      .poll(async () => (await api<{ state: string }>('GET', `/runs/${run}`)).state, { timeout: 120_000 })
      .toBe('printed');
  });

  // Things are laid in by these, a little askew.
  const { jig: kept } = await api<{ jig: Jig }>('GET', `/jigs/${jigId}`);
  const outline = outlineOf(kept.thing);
  await atPrinter('/bed', {
    things: pocketsOf(kept).map(({ x, y, turn }) => ({ x, y, turn, width: 50, height: 30, outline, thicknessMm: 4 })),
    off: { dx: 1, dy: 2, turn: 0.5 }
  });

  await test.step('its places are found in a photo of the loaded bed, and not by something that is none', async () => {
    await openPage(page, `${server.url}/shop/jigs/${jigId}`);
    await page.getByRole('button', { name: 'Find its places in a photo' }).click();
    const dialog = page.getByRole('dialog', { name: 'Find places in a photo' });
    await dialog
      .getByLabel('Take a photo')
      .setInputFiles({ name: 'no.png', mimeType: 'image/png', buffer: Buffer.from('nothing') });
    await expect(dialog.getByRole('alert')).toHaveText('This is no picture that can be read. Take a JPEG, PNG, TIFF or WebP.');
    const photo = Buffer.from(await (await fetch(`${printer.url}/bed/photo.png?px=2000&seed=6`)).arrayBuffer());
    await dialog.getByLabel('Another photo').setInputFiles({ name: 'bed.png', mimeType: 'image/png', buffer: photo });
    await expect(dialog.getByText('24 places found')).toBeVisible({ timeout: 60_000 });
    await expect(dialog.getByText(/in a grid of 6 × 4/)).toBeVisible();
    await expect(dialog.getByText(/9 marks agree within 0\.\d\d mm/)).toBeVisible();
    await dialog.getByRole('button', { name: 'Take these places' }).click();
    await expect(page.getByText('24 pockets, 6 across and 4 along.')).toBeVisible();
    // As it was: how it lies this time is the run's to say.
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await api<{ jig: Jig }>('GET', `/jigs/${jigId}`)).jig).toEqual(kept);
  });

  const runId = await test.step('three dockets share the pockets: two loads, squared up', async () => {
    const [dot, square] = [
      await docket('Dot', '0 0 0 1 k 8 8 4 4 re f', 14),
      await docket('Square', '0 1 1 0 k 6 6 8 8 re f', 10)
    ];
    const place = { x: 2, y: 6, width: 16, height: 8, turn: 0 } as FieldPlace;
    const names = await docket('Names', '1 0 0 0 k 9 1 2 2 re f', 1, {
      records: { ...NO_RECORDS, fields: [newText([], place, '{name}')] }
    });
    const table = ['name', 'Ada Vik', 'Zoë Ng', 'Li Quay', 'Ove Ærø', 'Una Voe'].join('\n');
    const sent = await request.put(`${server.url}/api/dockets/${names.id}/table?version=${names.version}&name=crew.csv`, {
      data: table,
      headers: { origin: server.url, 'content-type': 'application/octet-stream' }
    });
    expect(sent.ok()).toBe(true);
    await api('POST', '/runs', { docketIds: [dot.id, square.id, names.id] });
    await openPage(page, `${server.url}/runs`);
    await page.getByRole('link', { name: /^Run \d+/ }).first().click(); // prettier-ignore
    const jig = page.getByRole('region', { name: 'Jig' });
    await jig.getByLabel('Placed on').selectOption('Brass tags');
    await expect(jig.getByText('2 loads: 24, then 5')).toBeVisible();
    await jig.getByRole('button', { name: 'Square it up' }).click();
    // As it lies: turned by 0.5° about the corner, and moved.
    const [c, s] = [Math.cos(Math.PI / 360), Math.sin(Math.PI / 360)];
    const points = [[0, 0], [400, 0], [0, 300]].map(([x, y]) => [x! * c - y! * s + 1, x! * s + y! * c + 2]); // prettier-ignore
    for (const [i, point] of points.entries())
      for (const [k, way] of ['x', 'y'].entries()) {
        const box = jig.getByLabel(`Point ${i + 1}, ${way}`);
        await box.fill(point[k]!.toFixed(2));
        await box.press('Enter');
      }
    await expect(jig.getByText(/It lies turned by 0\.50° and moved by 1\.00 × 2\.00 mm/)).toBeVisible();
    await expect(jig.getByText('2 loads: 24, then 5')).toBeVisible();
    return Number(/\/runs\/(\d+)/.exec(page.url())![1]);
  });

  await test.step('a docket goes into another pocket, and what lay there into its own', async () => {
    const picture = page.getByRole('img', { name: /^The run on its sheet/ });
    await picture.focus();
    await page.keyboard.press(']');
    const tools = page.getByRole('toolbar', { name: 'Copies that are chosen' });
    await expect(tools.getByLabel('Lies in pocket')).toHaveValue('1');
    await tools.getByLabel('Lies in pocket').fill('20');
    await tools.getByLabel('Lies in pocket').press('Enter');
    await expect(page.getByRole('region', { name: 'Jig' }).getByLabel('Pockets are filled')).toHaveValue('by hand');
    await expect
      .poll(async () => {
        const { layout } = await api<{ layout: Placement }>('GET', `/runs/${runId}`);
        return layout.parts[0]!.copies.filter(({ pocket }) => pocket === 1 || pocket === 20).map(({ copy, pocket }) => [pocket, copy]);
      })
      .toEqual([[1, 5], [20, 0]]); // prettier-ignore
  });

  await test.step('two loads are printed with white under colour, each print on its thing', async () => {
    await page.getByRole('button', { name: 'Release', exact: true }).click();
    for (const run of [runId, runId + 1]) {
      await openPage(page, `${server.url}/runs/${run}`);
      const print = page.getByRole('button', { name: 'Print', exact: true });
      await expect(print).toBeEnabled({ timeout: 120_000 });
      await print.click();
      await expect
        .poll(async () => (await api<{ state: string }>('GET', `/runs/${run}`)).state, { timeout: 240_000 })
        .toBe('printed');
    }
    const jobs = (await atPrinter<{ id: number; name: string }[]>('/jobs')).filter(
      ({ name }) => name === `Run ${runId}` || name === `Run ${runId + 1}`
    );
    const prints = await Promise.all(
      jobs.map(({ id }) => atPrinter<{ print: { x: number; y: number } | null }[]>(`/output/${id}/things`))
    );
    expect(prints.map((all) => all.filter(({ print }) => print !== null).length)).toEqual([24, 5]);
    for (const { print } of prints[0]!) expect(Math.hypot(print!.x, print!.y)).toBeLessThan(0.2);
    const second = await api<{ layout: Placement }>('GET', `/runs/${runId + 1}`);
    expect(second.layout.parts[0]!.copies.map(({ pocket, record }) => [pocket, record])).toEqual(
      [1, 2, 3, 4, 5].map((n) => [n, n])
    );
  });

  await test.step('one pocket is printed once more, where it was', async () => {
    await openPage(page, `${server.url}/runs/${runId + 1}`);
    const picture = page.getByRole('img', { name: /^The run on its sheet/ });
    await picture.focus();
    for (let n = 0; n < 3; n++) await page.keyboard.press(']');
    await page.getByRole('button', { name: 'Print it again' }).click();
    await expect(page).not.toHaveURL(new RegExp(`/runs/${runId + 1}$`));
    const jig = page.getByRole('region', { name: 'Jig' });
    await expect(jig.getByText('1 load: 1. It fills 3; 23 pockets stay empty')).toBeVisible();
    const again = Number(/\/runs\/(\d+)/.exec(page.url())![1]);
    await api('POST', `/runs/${again}/release`);
    const stateOf = async () => (await api<{ state: string }>('GET', `/runs/${again}`)).state;
    await expect.poll(stateOf, { timeout: 120_000 }).toBe('ripped');
    await page.getByRole('button', { name: 'Print', exact: true }).click();
    await expect.poll(stateOf, { timeout: 120_000 }).toBe('printed');
    const job = (await atPrinter<{ id: number; name: string }[]>('/jobs')).find(({ name }) => name === `Run ${again}`)!;
    const all = await atPrinter<{ print: object | null }[]>(`/output/${job.id}/things`);
    expect(all.flatMap(({ print }, i) => (print ? [i + 1] : []))).toEqual([3]);
  });
});
