import { expect, test } from '@playwright/test';
import { spawnSync } from 'node:child_process';
import { readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { startMachine, startServer } from '../../scripts/stack.mjs';
import { deltaE00, labOfRgb } from '../../core/colour/lab';
import type { Placement } from '../../core/layout/placement';
import { finishedToCopy, type RunPiece } from '../../core/layout/run-piece';
import { temporaryFolder } from '../harness';
import { colourAt, colourOn, middleOfDark, pictureFrom, type HungPanel } from '../made/hung-wall';
import { cmykBox, madePdf } from '../made/pdf';
import { call } from './api';
import { openPage } from './open';

/** A hoarding of 9 × 2.6 m, from a page at a tenth: divided, printed, and hung again from what came out. */

type Started = Awaited<ReturnType<typeof startServer>>;
let started: Record<'printer' | 'server', Started>;
const folder = temporaryFolder();
const WALL = { widthMm: 9000, heightMm: 2600 };

test.beforeAll(async () => {
  const media = { name: 'Film', surface: 'gloss', widthMm: 1370, lengthMm: 90_000 };
  const printer = await startMachine('printer', { SPEED: 'full', MEDIA: JSON.stringify(media) });
  started = { printer, server: await startServer({ ZING_DATA: folder.path }) };
});
test.afterAll(() => {
  for (const { child } of Object.values(started)) child.kill();
  folder.remove();
});

/** Black rounds of 60 mm on the wall, away from where seams may come to lie one by one. */
const DISCS = Array.from({ length: 34 }, (_, i) => ({ x: 250 + i * 255, y: i % 2 === 0 ? 500 : 2000 }));
const disc = ({ x, y }: { x: number; y: number }): string => {
  const [cx, cy, r, k] = [x / 10, (WALL.heightMm - y) / 10, 3, 3 * 0.5523];
  return `0 0 0 1 k ${cx - r} ${cy} m ${cx - r} ${cy + k} ${cx - k} ${cy + r} ${cx} ${cy + r} c ${cx + k} ${cy + r} ${cx + r} ${cy + k} ${cx + r} ${cy} c ${cx + r} ${cy - k} ${cx + k} ${cy - r} ${cx} ${cy - r} c ${cx - k} ${cy - r} ${cx - r} ${cy - k} ${cx - r} ${cy} c f`;
};
const content = [
  cmykBox('0.12 0.05 0 0', 0, 0, 900, 260),
  ...Array.from({ length: 9 }, (_, i) => cmykBox(`${0.1 * i} 0.2 ${0.8 - 0.08 * i} 0`, i * 100, 100, 100, 60)),
  ...DISCS.map(disc)
].join(' ');

test('a hoarding is divided on the film that wastes least, a door left out, and hangs together as the artwork is', async ({
  page,
  request
}) => {
  // A RIP of eighteen metres, beside whatever else is tested.
  test.setTimeout(1_200_000);
  const { server, printer } = started;
  const api = <T>(method: 'GET' | 'POST' | 'PUT', path: string, data?: object) =>
    call<T>(request, server.url, method, path, data);
  await api('POST', '/machines', { kind: 'printer', name: 'Petrel 13', url: printer.url });
  const [{ id: machineId }] = await api<[{ id: number }]>('GET', '/machines');
  const rolls = [{ widthMm: 1220, lengthMm: 50_000 }, { widthMm: 760, lengthMm: 50_000 }]; // prettier-ignore
  const media = await api<{ id: number }>('POST', '/media', { name: 'Film', family: 'cast', widthMm: 1370, rolls, costPerM2: 9 });
  const condition = await api<{ id: number }>('POST', '/conditions', {
    machineId,
    mediaId: media.id,
    mode: 'Petrel 13/Harbour/cast/360/4/both ways/draft'
  });
  const taken = await request.post(`${server.url}/api/artworks?name=Hoarding.pdf`, {
    data: madePdf({ width: 900, height: 260, content }),
    headers: { origin: server.url, 'content-type': 'application/pdf' }
  });
  const { id: artworkId } = (await taken.json()) as { id: number };
  await expect.poll(async () => (await api<{ state: string }>('GET', `/artworks/${artworkId}`)).state).toBe('ready');
  const { ids } = await api<{ ids: [number] }>('POST', '/dockets', { pages: [{ artworkId, page: 0 }] });
  const [id] = ids;
  const docket = await api<{ version: number; choices: object }>('GET', `/dockets/${id}`);
  await api('PUT', `/dockets/${id}`, {
    version: docket.version,
    choices: { ...docket.choices, conditionId: condition.id, ...WALL, cut: false }
  });
  const say = async (label: string, text: string) => {
    await page.getByLabel(label, { exact: true }).fill(text);
    await page.getByLabel(label, { exact: true }).press('Enter');
  };
  const saved = () => expect(page.getByRole('status').filter({ hasText: /^Saved$/ })).toBeVisible();

  await test.step('it becomes a wall, on the film that wastes least', async () => {
    await openPage(page, `${server.url}/dockets/${id}`);
    await expect(page.getByText('It is wider than the film')).toBeVisible();
    await page.getByRole('link', { name: 'Make it a wall' }).click();
    await page.getByRole('button', { name: 'Make it a wall' }).click();
    await expect(page.getByLabel('Bleed around the wall')).toHaveValue('20');
    const table = page.getByRole('table', { name: 'Films compared' });
    const rows = table.getByRole('row').filter({ hasText: 'upright' });
    await expect(rows).toHaveCount(3);
    const wastes = (await rows.allInnerTexts()).map((text) => Number(/([\d.]+) m²/.exec(text)![1]));
    const least = wastes.indexOf(Math.min(...wastes));
    const take = rows.nth(least).getByRole('button', { name: /^Take/ });
    if ((await take.count()) > 0) await take.click();
    await expect(table.getByRole('row', { name: /upright/ }).and(page.locator('[aria-current="true"]'))).toContainText('taken');
    expect(wastes[least]).toBeLessThan(6);
    await saved();
  });

  await test.step('seams look for calm places; one is moved by hand, a door is left out, and a step is taken back', async () => {
    await page.getByRole('button', { name: 'Move them to calm places' }).click();
    await expect(page.getByText(/Under the seams the artwork is busy .* before/)).toBeVisible();
    const seam = page.getByRole('slider', { name: 'Seam 3', exact: true });
    const was = Number(await seam.getAttribute('aria-valuenow'));
    await seam.focus();
    await page.keyboard.press('Shift+ArrowLeft');
    await page.keyboard.press('Shift+ArrowLeft');
    await expect(seam).toHaveAttribute('aria-valuenow', String(was - 2));
    // Key by key, as a person types: it stays where it is until the figure is whole.
    const place = page.getByLabel('Seam 3 from the left', { exact: true });
    await place.click();
    await place.pressSequentially(String(was - 5));
    await expect(place).toHaveValue(String(was - 5));
    await expect(seam).toHaveAttribute('aria-valuenow', String(was - 2));
    await place.press('Enter');
    await expect(seam).toHaveAttribute('aria-valuenow', String(was - 5));
    // All seams that lie beyond a wall are told, each for itself.
    await say('Width of the wall', '2m');
    await expect(page.getByText(/Seam \d lies .* from the left; the wall ends at 2 m/)).not.toHaveCount(1);
    await expect(page.getByText(/Seam \d lies .* from the left; the wall ends at 2 m/).last()).toBeVisible();
    await say('Width of the wall', '9m');
    await expect(seam).toHaveAttribute('aria-valuenow', String(was - 5));
    await page.getByRole('button', { name: 'By figures' }).click();
    await page.getByLabel('Name of opening 1').fill('Door');
    await say('Width of opening 1', '900');
    await say('Height of opening 1', '2100');
    await say('Opening 1 from the left', '8050');
    await say('Opening 1 from the top', '500');
    await expect(page.getByRole('button', { name: 'Door, 8050 mm from the left, 500 mm from the top' })).toBeVisible();
    await say('Opening 1 from the left', '9500');
    await expect(page.getByText(/Door lies outside of the wall: it begins 9\.5 m from the left/)).toBeVisible();
    await say('Opening 1 from the left', '8050');
    await expect(page.getByText(/lies outside of the wall/)).toBeHidden();
    await saved();
  });

  await test.step('its map is opened by another reader of PDFs', async () => {
    const map = await request.get(`${server.url}/api/dockets/${id}/panel-map`);
    expect(map.headers()['content-type']).toBe('application/pdf');
    const path = join(folder.path, 'map.pdf');
    writeFileSync(path, await map.body());
    const out = join(folder.path, 'map-%d.png');
    const read = spawnSync('gs', [
      '-q',
      '-dNOPAUSE',
      '-dBATCH',
      '-dSAFER',
      '-sDEVICE=png16m',
      '-r30',
      `-sOutputFile=${out}`,
      path
    ]);
    expect([read.status, String(read.stderr)]).toEqual([0, '']);
    expect(readdirSync(folder.path).filter((name) => /^map-\d\.png$/.test(name))).toHaveLength(2);
  });

  await test.step('it is laid out, RIPped and printed, and its panels together are the artwork', async () => {
    await page.getByRole('link', { name: 'Back to the docket' }).click();
    await page.getByRole('button', { name: 'Lay it out' }).click();
    await expect(page).toHaveURL(/\/runs\/\d+$/);
    const runId = Number(page.url().split('/').at(-1));
    await page.getByRole('button', { name: 'Release', exact: true }).click();
    const stateOf = async () => (await api<{ state: string }>('GET', `/runs/${runId}`)).state;
    await expect.poll(stateOf, { timeout: 900_000 }).toBe('printed');
    const run = await api<{ layout: Placement; laid: RunPiece[] }>('GET', `/runs/${runId}`);
    const jobs = (await (await request.get(`${printer.url}/jobs`)).json()) as { id: number; name: string }[];
    const job = jobs.find(({ name }) => name === `Run ${runId}`)!.id;
    const picture = await pictureFrom(await (await request.get(`${printer.url}/output/${job}.png`)).body(), 360);
    const pieces = new Map(run.laid.map((piece) => [piece.id, piece]));
    const panels = run.layout.parts[0]!.copies.map((copy): HungPanel => {
      const piece = pieces.get(copy.id)!;
      return { part: piece.panel!.part, toRun: finishedToCopy(piece, copy) };
    });
    expect(panels.length).toBeGreaterThan(6);

    let seen = 0;
    for (const at of DISCS) {
      if (at.x > 7950 && at.x < 9050 && at.y > 450) continue;
      for (const panel of panels.filter(({ part }) => at.x > part.x + 45 && at.x < part.x + part.width - 45)) {
        const middle = middleOfDark(picture, panel, at, 40);
        expect(Math.hypot(middle.x - at.x, middle.y - at.y)).toBeLessThan(0.3);
        seen++;
      }
    }
    expect(seen).toBeGreaterThan(22);
    // A connection that was kept open meanwhile may be gone.
    const proof = await request.get(`${server.url}/api/dockets/${id}/map?kind=proof`, { maxRetries: 3 });
    const wanted = await pictureFrom(await proof.body(), 72);
    const { choices } = await api<{ choices: { bleedMm: number } }>('GET', `/dockets/${id}`);
    const perMm = wanted.width / (WALL.widthMm + 2 * choices.bleedMm);
    const differences = panels.flatMap((panel) =>
      [0.2, 0.5, 0.8].flatMap((share) => {
        const x = panel.part.x + share * panel.part.width;
        const isEdge = x % 1000 < 40 || x % 1000 > 960;
        if (isEdge || (x > 8000 && x < 9000)) return [];
        const came = colourOn(picture, panel, { x, y: 1300 });
        const asked = colourAt(wanted, (x + choices.bleedMm) * perMm, (1300 + choices.bleedMm) * perMm);
        return deltaE00(labOfRgb(came[0]!, came[1]!, came[2]!), labOfRgb(asked[0]!, asked[1]!, asked[2]!));
      })
    );
    expect(differences.length).toBeGreaterThan(10);
    expect(differences.reduce((sum, one) => sum + one, 0) / differences.length).toBeLessThan(4);
    // Through the door the wall is bare.
    const door = panels.find(({ part }) => 8500 > part.x && 8500 < part.x + part.width)!;
    expect(Math.min(...colourOn(picture, door, { x: 8500, y: 1500 }))).toBeGreaterThan(225);
  });
});
