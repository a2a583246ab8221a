import { mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import PDFDocument from 'pdfkit';
import sharp from 'sharp';
import { greyProfile, srgbProfile } from '$core/colour/icc-write';
import { offsetCoated } from '$core/colour/conditions';
import { buildProfile, DEFAULT_SEPARATION } from '$core/colour/profile-build';
import { wholePage } from '$core/artwork/preparation';
import type { PlacedPiece, RipPlan } from '$core/rip/plan';
import { seededRandom } from '$core/screening/void-and-cluster';
import { KERNELS_FILE, makePool, MASK_FILE } from '$lib/server/tasks/pool';
import { ripToFile } from '$lib/server/tasks/rip';
import type { RipJob } from '$lib/server/tasks/rip-job';

const folder = mkdtempSync(join(tmpdir(), 'zing-bench-'));
const report = (name: string, value: number, unit: string) => process.stdout.write(`${name}\t${value.toFixed(2)}\t${unit}\n`);
const MM = 72 / 25.4;

/** Writes a PDF drawn by `draw` at a size in mm. */
async function pdf(name: string, width: number, height: number, draw: (doc: PDFKit.PDFDocument) => void): Promise<string> {
  const path = join(folder, name);
  const doc = new PDFDocument({ size: [width * MM, height * MM], margin: 0 });
  const chunks: Buffer[] = [];
  doc.on('data', (chunk: Buffer) => chunks.push(chunk));
  const done = new Promise((resolve) => doc.on('end', resolve));
  draw(doc);
  doc.end();
  await done;
  writeFileSync(path, Buffer.concat(chunks));
  return path;
}

/** 6000 × 4000 pixels that look like a photograph to a coder: soft shapes with grain. */
async function photo(): Promise<Buffer> {
  const random = seededRandom(24);
  const small = Buffer.from(Uint8Array.from({ length: 60 * 40 * 3 }, () => Math.floor(random() * 256)));
  const soft = await sharp(small, { raw: { width: 60, height: 40, channels: 3 } })
    .resize(6000, 4000, { kernel: 'cubic' })
    .raw()
    .toBuffer();
  for (let i = 0; i < soft.length; i++) soft[i] = Math.min(255, Math.max(0, (soft[i] ?? 0) + Math.floor(random() * 17) - 8));
  return sharp(soft, { raw: { width: 6000, height: 4000, channels: 3 } })
    .jpeg({ quality: 90 })
    .toBuffer();
}

async function page(): Promise<string> {
  const jpeg = await photo();
  return pdf('page.pdf', 1000, 600, (doc) => {
    doc.image(jpeg, 0, 0, { width: 1000 * MM, height: 600 * MM });
    const random = seededRandom(2000);
    for (let i = 0; i < 2000; i++) {
      const x = random() * 1000 * MM;
      const y = random() * 600 * MM;
      const r = (5 + random() * 20) * MM;
      const colour: [number, number, number, number] = [random() * 100, random() * 100, random() * 100, random() * 40];
      if (i % 3 === 0) doc.circle(x, y, r).fill(colour);
      else if (i % 3 === 1) doc.rect(x, y, r, r * 0.6).fill(colour);
      else
        doc
          .moveTo(x, y)
          .bezierCurveTo(x + r, y - r, x + 2 * r, y + r, x + r, y + 2 * r)
          .lineWidth(2 + random() * 8)
          .stroke(colour);
    }
  });
}

const sticker = () =>
  pdf('sticker.pdf', 90, 90, (doc) => {
    doc.circle(45 * MM, 45 * MM, 44 * MM).fill([80, 30, 0, 0]);
    doc.circle(45 * MM, 45 * MM, 36 * MM).fill([0, 20, 80, 0]);
    doc
      .fontSize(40)
      .fillColor([0, 0, 0, 100])
      .text('BERTH 9', 8 * MM, 38 * MM, { width: 74 * MM, align: 'center' });
  });

function profiles(): Pick<RipJob, 'profile' | 'sources'> {
  const put = (name: string, bytes: Uint8Array) => {
    writeFileSync(join(folder, name), bytes);
    return join(folder, name);
  };
  const cmyk = put(
    'cmyk.icc',
    buildProfile(offsetCoated(), {
      name: 'Bench',
      made: { year: 2026, month: 1, day: 1 },
      separation: DEFAULT_SEPARATION,
      forwardGrid: 13,
      backwardGrid: 17
    })
  );
  return { profile: cmyk, sources: { rgb: put('rgb.icc', srgbProfile()), cmyk, grey: put('grey.icc', greyProfile()) } };
}

const colours = profiles();

async function rip(plan: RipPlan): Promise<{ seconds: number; megapixels: number; peakMb: number }> {
  const pool = makePool('rip-worker');
  const output = { plates: join(folder, 'run.tif'), overview: join(folder, 'run.overview'), coarse: join(folder, 'run.coarse') };
  const job: RipJob = {
    id: String(Math.random()),
    plan,
    ...colours,
    kernels: KERNELS_FILE,
    mask: MASK_FILE,
    method: 'blue-noise',
    drops: [6, 13, 21]
  };
  let peak = 0;
  const watch = setInterval(() => (peak = Math.max(peak, process.memoryUsage.rss())), 20);
  const start = performance.now();
  const result = await ripToFile(pool, job, output, new AbortController().signal, () => undefined);
  const seconds = (performance.now() - start) / 1000;
  clearInterval(watch);
  await pool.destroy();
  process.stderr.write(
    `${result.widthPx} × ${result.heightPx}, ${(statSync(output.plates).size / 1e6).toFixed(0)} MB, ${seconds.toFixed(1)} s\n`
  );
  return { seconds, megapixels: (result.widthPx * result.heightPx) / 1e6, peakMb: peak / 1e6 };
}

const one = (file: string, widthMm: number, heightMm: number) => ({
  prepare: wholePage({ widthMm, heightMm }),
  file,
  page: 0,
  widthMm,
  heightMm,
  bleedMm: 0,
  intent: 'relative' as const
});

function grid(count: number, perRow: number, pitch: number): PlacedPiece[] {
  return Array.from({ length: count }, (_, i) => ({
    source: 0,
    x: 10 + (i % perRow) * pitch,
    y: 5 + Math.floor(i / perRow) * pitch,
    turned: false
  }));
}

/** `times` pages below each other: memory must not grow with the length. */
const pagePlan = (file: string, times: number): RipPlan => ({
  widthMm: 1000,
  lengthMm: 600 * times,
  dpi: { x: 720, y: 720 },
  sources: [one(file, 1000, 600)],
  pieces: Array.from({ length: times }, (_, i) => ({ source: 0, x: 0, y: i * 600, turned: false })),
  marks: []
});

let pageMb = 0;

const benches: Record<string, () => Promise<void>> = {
  'rip-page': async () => {
    const { seconds, megapixels, peakMb } = await rip(pagePlan(await page(), 1));
    pageMb = peakMb;
    report('rip-page', megapixels / seconds, 'Mpx/s');
  },
  'rip-peak-memory': async () => {
    if (!pageMb) pageMb = (await rip(pagePlan(await page(), 1))).peakMb;
    report('rip-peak-memory', pageMb, 'MB');
  },
  'rip-stickers': async () => {
    const plan: RipPlan = {
      widthMm: 1300,
      lengthMm: 4 * 93 + 10,
      dpi: { x: 720, y: 720 },
      sources: [one(await sticker(), 90, 90)],
      pieces: grid(50, 13, 93),
      marks: []
    };
    const { seconds, megapixels } = await rip(plan);
    report('rip-stickers', megapixels / seconds, 'Mpx/s');
  },
  'rip-memory-growth': async () => {
    const file = await page();
    if (!pageMb) pageMb = (await rip(pagePlan(file, 1))).peakMb;
    const long = await rip(pagePlan(file, 4));
    report('rip-memory-growth', long.peakMb / pageMb, 'ratio');
  }
};

const chosen = process.argv.slice(2);
const unknown = chosen.filter((name) => !benches[name]);
if (unknown.length > 0) {
  process.stderr.write(`There is no figure named ${unknown.join(', ')}. There are: ${Object.keys(benches).join(', ')}.\n`);
  process.exitCode = 2;
} else {
  for (const [name, run] of Object.entries(benches)) if (chosen.length === 0 || chosen.includes(name)) await run();
}
rmSync(folder, { recursive: true, force: true });
