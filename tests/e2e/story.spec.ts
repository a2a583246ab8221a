import { expect, test } from '@playwright/test';
import PDFDocument from 'pdfkit';
import sharp from 'sharp';
import { offsetCoated } from '../../core/colour/conditions';
import { D50, deltaE00, srgbToXyz, xyzToLab, type Triple } from '../../core/colour/lab';
import { openEngine } from '../../core/colour/lcms';
import { buildProfile, modelPress } from '../../core/colour/profile-build';
import { DEFAULT_SEPARATION } from '../../core/colour/black';
import { contains, distanceTo } from '../../core/geometry/path';
import { startMachine, startServer } from '../../scripts/stack.mjs';
import { temporaryFolder } from '../harness';

type Started = Awaited<ReturnType<typeof startServer>>;
let printer: Started;
let cutter: Started;
let server: Started;
const folder = temporaryFolder();

test.beforeAll(async () => {
  [printer, cutter] = await Promise.all([startMachine('printer', { SPEED: 'full' }), startMachine('cutter', { SEED: '11' })]);
  server = await startServer({ ZING_DATA: folder.path });
});
test.afterAll(() => {
  for (const { child } of [server, printer, cutter]) child.kill();
  folder.remove();
});

const PATCHES: [number, number, number, number][] = [
  [45, 10, 0, 0],
  [0, 80, 60, 0],
  [40, 10, 70, 10],
  [0, 0, 0, 100]
];
const MM = 72 / 25.4;

/** 100 × 80 mm: four patches of 20 × 30 mm from (10, 20), and a cut line 5 mm inside the edge. */
async function customerPdf(): Promise<Buffer> {
  const doc = new PDFDocument({ size: [100 * MM, 80 * MM], margin: 0 });
  const chunks: Buffer[] = [];
  doc.on('data', (chunk: Buffer) => chunks.push(chunk));
  const done = new Promise((resolve) => doc.on('end', resolve));
  PATCHES.forEach((colour, i) => doc.rect((10 + i * 20) * MM, 20 * MM, 20 * MM, 30 * MM).fill(colour));
  doc.addSpotColor('Cut-Line', 0, 100, 0, 0);
  doc
    .rect(5 * MM, 5 * MM, 90 * MM, 70 * MM)
    .lineWidth(0.3)
    .stroke('Cut-Line' as unknown as PDFKit.Mixins.ColorValue);
  doc.end();
  await done;
  return Buffer.concat(chunks);
}

test('an operator takes a customer’s file to a printed and cut roll', async ({ page, request }) => {
  await test.step('an empty shop teaches its first steps', async () => {
    await page.goto(server.url);
    await page.getByRole('link', { name: 'Add a machine' }).click();
    const form = page.getByRole('form', { name: 'Add a machine' });
    await form.getByLabel('Name').fill('Petrel 13');
    await form.getByLabel('Address').fill(printer.url);
    await form.getByRole('button', { name: 'Add machine' }).click();
    await expect(page.getByText('Petrel 13, printer')).toBeVisible();
    await form.getByLabel('Kind').selectOption('cutter');
    await form.getByLabel('Name').fill('Tern 13');
    await form.getByLabel('Address').fill('http://127.0.0.1:1');
    await form.getByRole('button', { name: 'Add machine' }).click();
    // A slip of the keys is mended, or taken away again.
    await page.getByRole('button', { name: 'Change Tern 13' }).click();
    const change = page.getByRole('form', { name: 'Change Tern 13' });
    await change.getByLabel('Address').fill(printer.url);
    await change.getByRole('button', { name: 'Keep' }).click();
    await expect(page.getByText(/^Petrel 13 is at http/)).toBeVisible();
    await page.getByRole('button', { name: 'Remove Tern 13' }).click();
    await expect(page.getByText('Tern 13, cutter')).toHaveCount(0);
    await page.getByRole('button', { name: 'Take back', exact: true }).click();
    await page.getByRole('button', { name: 'Change Tern 13' }).click();
    await change.getByLabel('Address').fill(cutter.url);
    await change.getByLabel('Name').fill('Tern 130');
    await change.getByLabel('Name').press('Enter');
    await expect(page.getByText('Tern 130, cutter')).toBeVisible();
    await expect(page.getByText('not reachable')).toHaveCount(0);
    await page.getByRole('link', { name: 'Media' }).click();
    await page.getByRole('button', { name: 'New card' }).click();
    await page.getByLabel('Name', { exact: true }).fill('Gloss white film');
    await page.getByLabel('Name', { exact: true }).press('Tab');
    await expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();
    await page.getByRole('link', { name: 'Find a print mode for it' }).click();
    await page.getByRole('button', { name: '720 × 720, 8 passes', exact: true }).click();
    await page.getByRole('button', { name: 'Make this a condition' }).click();
    await page.getByRole('link', { name: 'All conditions' }).click();
    await expect(page.getByRole('gridcell', { name: 'as the machine says' })).toBeVisible({ timeout: 150_000 });
  });

  await test.step('a bad file is refused with its reason', async () => {
    await page.getByRole('link', { name: 'Artwork' }).click();
    await page
      .getByLabel('Artwork files')
      .setInputFiles({ name: 'letter.txt', mimeType: 'text/plain', buffer: Buffer.from('Dear printer') });
    await expect(page.getByText('Refused: This format is not known.')).toBeVisible();
  });

  await test.step('the PDF is dropped, sized and counted', async () => {
    const bytes = (await customerPdf()).toString('base64');
    const transfer = await page.evaluateHandle((base64) => {
      const data = new DataTransfer();
      const binary = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
      data.items.add(new File([binary], 'Patches.pdf'));
      return data;
    }, bytes);
    await page.getByRole('region', { name: 'Artwork' }).dispatchEvent('drop', { dataTransfer: transfer });
    const row = page.getByRole('row', { name: /Patches\.pdf/ });
    await expect(row).toContainText('100 × 80');
    await expect(row).toContainText('1, Cut-Line');
    await row.getByRole('button', { name: 'Make a docket' }).click();

    await expect(page.getByLabel('Name of the docket')).toHaveValue('Patches');
    // Too wide is told, with a size that fits as a button.
    await page.getByLabel('Width', { exact: true }).fill('2m');
    await expect(page.getByText(/It would be cut off at the edge/)).toBeVisible();
    await expect(page.getByRole('button', { name: 'Lay it out' })).toBeDisabled();
    // Its height, which follows, is 1 mm at the least.
    await page.getByLabel('Width', { exact: true }).fill('0');
    await expect(page.getByRole('alert').filter({ hasText: 'Width: between 1.25 mm and 100000 mm' })).toBeVisible();
    await page.getByLabel('Width', { exact: true }).fill('2*60');
    await expect(page.getByText('= 120 mm')).toBeVisible();
    await page.getByRole('spinbutton', { name: 'Copies', exact: true }).fill('5');
    await expect(page.getByLabel('Height', { exact: true })).toHaveValue('96');
    await expect(page.getByRole('option', { name: 'on the customer’s line', exact: true })).toBeAttached();
    await expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();

    // Taken back and made again; a reload loses nothing.
    await page.getByRole('button', { name: 'Take back the last change' }).click();
    await expect(page.getByRole('spinbutton', { name: 'Copies', exact: true })).toHaveValue('1');
    await page.getByRole('button', { name: 'Make it again' }).click();
    await expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();
    await page.reload();
    await expect(page.getByRole('spinbutton', { name: 'Copies', exact: true })).toHaveValue('5');
    await expect(page.getByLabel('Width', { exact: true })).toHaveValue('120');
  });

  await test.step('it is laid out on the loaded roll, and a spare is claimed', async () => {
    await page.getByRole('button', { name: 'Lay it out' }).click();
    await expect(page.getByRole('heading', { name: 'Run 1' })).toBeVisible();
    const length = await page.getByTestId('length').textContent();
    await page
      .getByRole('button', { name: /Claim a spare copy of Patches/ })
      .first()
      .click();
    await expect(page.getByLabel('Copies of Patches')).toHaveValue('6');
    await expect(page.getByTestId('length')).toHaveText(length ?? '');
    await page.getByLabel('Gap along the roll', { exact: true }).fill('6');
  });

  await test.step('it is RIPped and inspected', async () => {
    await page.getByRole('button', { name: 'RIP', exact: true }).click();
    await page.getByRole('link', { name: 'Inspect' }).click();
    await expect(page.getByRole('heading', { name: 'Plates of run 1' })).toBeVisible();
    await page.getByRole('button', { name: 'Single drops' }).click();
    await expect(page.getByText(/a drop is 12 pixels/)).toBeVisible();
    // What is then in the middle has ink, though copies stand apart.
    const together = page
      .getByRole('row', { name: /^Together/ })
      .getByRole('cell')
      .nth(1);
    await expect(async () => {
      for (const x of [0.49, 0.5]) {
        const { width, height } = (await page.getByRole('application').boundingBox())!;
        await page.getByRole('application').hover({ position: { x: width * x, y: height / 2 } });
      }
      await expect(together).toHaveText(/^[1-9]\d* %$/, { timeout: 3000 });
    }).toPass();
    // The plates without it are asked for.
    await Promise.all([page.waitForRequest(/tiles\?.*inks=1011/), page.getByRole('checkbox', { name: 'Magenta' }).uncheck()]);
    // Several in quick succession end with the last.
    const last = page.waitForRequest(/tiles\?.*inks=0010/);
    for (const name of ['Cyan', 'Black']) await page.getByRole('checkbox', { name }).uncheck();
    await last;
    await page.getByRole('button', { name: 'Whole run' }).click();
    await page.getByRole('application').hover();
    await expect(page.getByText(/mm across/)).toBeVisible();
    await page.getByRole('link', { name: 'Back to the run' }).click();
  });

  const before = 38.2;
  await test.step('it is printed, and the roll is shorter by it', async () => {
    await page.getByRole('button', { name: 'Print', exact: true }).click();
    await expect(page.getByRole('region', { name: 'Print' }).getByText('Done')).toBeVisible({ timeout: 150_000 });
    const length = parseFloat((await page.getByTestId('length').textContent()) ?? '');
    await expect(page.getByRole('contentinfo', { name: 'Machines' })).toContainText(`${(before - length).toFixed(2)} m left`);
    await page.getByRole('button', { name: 'See what came out' }).click();
    await expect(page.getByAltText('What came out of the machine')).toBeVisible();
    await page.getByRole('button', { name: 'Close' }).click();
  });

  await test.step('it is carried to the cutter and cut out', async () => {
    await page.getByRole('link', { name: 'To the cutter' }).click();
    await page.getByRole('button', { name: 'Load the print' }).click();
    await page.getByRole('button', { name: 'Find the marks' }).click();
    await expect(page.getByText(/10 of 10 found/)).toBeVisible();
    await page.getByRole('button', { name: 'Cut', exact: true }).click();
    await expect(page.getByText('6 lines were cut.')).toBeVisible();
  });

  await test.step('print and cut are where and what the artwork asked for', async () => {
    const png = await (await request.get(`${server.url}/api/prints/1/output`)).body();
    const { data, info } = await sharp(png).raw().toBuffer({ resolveWithObject: true });
    const light = (xMm: number, yMm: number, half = 10): Triple => {
      const sum: Triple = [0, 0, 0];
      const cx = Math.round((xMm / 25.4) * 90);
      const cy = Math.round((yMm / 25.4) * 90);
      for (let y = cy - half; y < cy + half; y++) {
        for (let x = cx - half; x < cx + half; x++) {
          const at = (y * info.width + x) * 3;
          const xyz = srgbToXyz([(data[at] ?? 0) / 255, (data[at + 1] ?? 0) / 255, (data[at + 2] ?? 0) / 255]);
          xyz.forEach((v, i) => (sum[i as 0 | 1 | 2] += v / (4 * half * half)));
        }
      }
      return sum;
    };
    const bare = light(1300 - 15, 10, 5);
    const colour = (xMm: number, yMm: number): Triple => {
      const seen = light(xMm, yMm);
      return xyzToLab([0, 1, 2].map((i) => ((seen[i] ?? 0) / (bare[i] ?? 1)) * (D50[i] ?? 0)) as Triple);
    };
    const engine = await openEngine();
    const profile = new Uint8Array(await (await request.get(`${server.url}/api/conditions/1/profile`)).body());
    const source = buildProfile(modelPress(offsetCoated()), {
      name: 'Source',
      version: 2,
      made: { year: 2026, month: 1, day: 1 },
      separation: { ...DEFAULT_SEPARATION, limits: { total: 3 } },
      forwardGrid: 17,
      backwardGrid: 17
    });
    const toInks = engine.deviceToCmyk(source, 'CMYK', profile);
    const toLab = engine.deviceToLab(profile, 'CMYK', 'relative');

    const cut = (await (await request.get(`${server.url}/api/cuts/1`)).json()) as {
      asCut: { x: number; y: number }[][];
      lines: { points: { x: number; y: number }[] }[];
    };
    // The first stroke turns the knife, in the waste.
    const [turning, ...asCut] = cut.asCut;
    expect(turning!.every((p) => cut.lines.every((line) => !contains(line.points, p)))).toBe(true);
    expect(asCut).toHaveLength(6);
    for (const line of asCut) {
      // Each cut is a rectangle of 108 × 84 mm; its corner tells where its print must be.
      const x = Math.min(...line.map((p) => p.x));
      const y = Math.min(...line.map((p) => p.y));
      const rectangle = {
        closed: true,
        points: [
          { x, y },
          { x: x + 108, y },
          { x: x + 108, y: y + 84 },
          { x, y: y + 84 }
        ]
      };
      expect(Math.max(...line.map((p) => distanceTo(rectangle, p)))).toBeLessThan(0.2);
      PATCHES.forEach((ink, i) => {
        const want = toLab(i === 3 ? [0, 0, 0, 1] : [...toInks(Float32Array.from(ink, (v) => v / 100))]);
        expect(deltaE00(colour(x + (5 + i * 20 + 10) * 1.2, y + (15 + 15) * 1.2), want)).toBeLessThan(3);
      });
      // The print's own edge: the left side of the first patch lies 6 mm inside the cut, found where half its ink begins.
      const yPx = Math.round(((y + 36) / 25.4) * 90);
      const profileOfEdge = Array.from({ length: 60 }, (_, i) => {
        const xPx = Math.round(((x + 6) / 25.4) * 90) - 30 + i;
        let sum = 0;
        for (let r = -15; r < 15; r++) sum += data[((yPx + r) * info.width + xPx) * 3] ?? 0;
        return { xPx, value: sum / 30 };
      });
      const white = profileOfEdge[0]?.value ?? 255;
      const full = profileOfEdge.at(-1)?.value ?? 0;
      const covered = profileOfEdge.reduce((sum, { value }) => sum + (white - value) / (white - full), 0);
      const edgeMm = (((profileOfEdge.at(-1)?.xPx ?? 0) + 1 - covered) / 90) * 25.4;
      expect(Math.abs(edgeMm - (x + 6))).toBeLessThan(0.2);
    }
  });

  await test.step('everything is found by the keyboard', async () => {
    await page.keyboard.press('Control+k');
    await page.getByRole('combobox', { name: 'Find or do' }).fill('patches');
    await expect(page.getByRole('option', { name: /Docket Patches/ })).toBeVisible();
    await page.keyboard.press('Enter');
    await expect(page.getByLabel('Name of the docket')).toHaveValue('Patches');
    await page.keyboard.press('Escape');
    await page.getByRole('group', { name: /Patches at/ }).focus();
    await page.keyboard.press('1');
    await expect(page.getByRole('link', { name: 'Floor' })).toHaveAttribute('aria-current', 'page');
    await expect(page.getByRole('heading', { name: /Petrel 13/ })).toBeVisible();
    await page.keyboard.press('?');
    await expect(page.getByRole('heading', { name: 'Shortcuts' })).toBeVisible();
  });

  await test.step('a shop that measures in inches reads inches, feet and square feet everywhere', async () => {
    const open = async (path: string) => {
      await page.goto(`${server.url}${path}`);
      await expect(page.getByRole('link', { name: 'Floor' })).toBeVisible();
    };
    const [docket, run] = [1, 1];
    await open(`/runs/${run}`);
    const length = page.getByTestId('length');
    await expect(length).toHaveText(/^\d+\.\d\d m$/);
    const metres = Number.parseFloat(await length.innerText());
    await open('/shop');
    await page.getByLabel('Unit for lengths').selectOption('in');
    await expect(page.getByRole('status').filter({ hasText: 'Saved' })).toBeVisible();
    await open(`/runs/${run}`);
    await expect(length).toHaveText(/^\d+\.\d\d ft$/);
    expect(Number.parseFloat(await length.innerText()) * 0.3048).toBeCloseTo(metres, 1);
    const paths = [
      '/',
      '/dockets',
      `/dockets/${docket}`,
      '/artwork',
      '/runs',
      `/runs/${run}`,
      `/runs/${run}/inspect`,
      '/cutting',
      '/media',
      '/shop',
      '/shop/costs',
      '/colour/modes'
    ];
    for (const path of paths) {
      await open(path);
      for (const part of ['main', 'contentinfo'] as const)
        await expect(page.getByRole(part), path).not.toContainText(/\d (mm|cm|m|m²)\b/);
    }
  });

  await test.step('the interface is listed as OpenAPI', async () => {
    const list = (await (await request.get(`${server.url}/api`)).json()) as {
      paths: Record<string, Record<string, { summary: string }>>;
    };
    expect(list.paths['/api/dockets/{id}']?.['put']?.summary).toBe('Keep choices, made from a version');
    expect(Object.keys(list.paths).length).toBeGreaterThan(20);
  });
});
