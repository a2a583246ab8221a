import { evenSides } from '$core/geometry/box';
import { execFile } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  createReadStream,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  statSync,
  writeFileSync
} from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, dirname, extname, join, resolve } from 'node:path';
import { parseArgs, promisify } from 'node:util';
import { gunzipSync } from 'node:zlib';
import { chromium, type Browser } from '@playwright/test';
import sharp from 'sharp';
import { wholePage } from '$core/artwork/preparation';
import { DEFAULT_SEPARATION } from '$core/colour/black';
import { offsetCoated } from '$core/colour/conditions';
import { buildProfile, modelPress } from '$core/colour/profile-build';
import { fourInks, PROCESS_CHANNELS } from '$core/inks/ink-set';
import { straightCurve } from '$core/screening/thresholds';
import { Shop } from '$lib/server/app/shop';
import { KERNELS_FILE, MASK_FILE, THREADS } from '$lib/server/platform/tasks/pool';
import { ripToFile } from '$lib/server/production/rip';

/**
 * Artwork that nobody here made, taken as a customer's would be: what is refused, what stops, and what looks otherwise than
 * another renderer shows it. Pictures are compared at several times their size and shrunk, so that the way in which edges and
 * hairlines meet pixels does not count.
 */

const run = promisify(execFile);
const KINDS: Record<string, string> = {
  '.svg': 'svg',
  '.svgz': 'svg',
  '.pdf': 'pdf',
  '.eps': 'eps',
  '.png': 'picture',
  '.jpg': 'picture',
  '.jpeg': 'picture',
  '.tif': 'picture',
  '.tiff': 'picture',
  '.webp': 'picture',
  '.gif': 'picture'
};

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: {
    most: { type: 'string', default: '100000' },
    kind: { type: 'string', default: 'svg,pdf,eps,picture' },
    size: { type: 'string', default: '300' },
    worst: { type: 'string', default: '12' },
    limit: { type: 'string', default: '1' },
    out: { type: 'string', default: '' },
    norip: { type: 'boolean', default: false }
  }
});
if (positionals.length === 0) {
  console.error('Which folder? npm run outside -- FOLDER … [--most 500] [--kind svg,pdf] [--out REPORT]');
  process.exit(2);
}
const px = Number(values.size);
/** Pages have finer lines than drawings. */
const timesOf = (path: string) => (KINDS[extname(path).toLowerCase()] === 'svg' ? 3 : 6);
const kinds = new Set(values.kind.split(','));
const out = resolve(values.out || mkdtempSync(join(tmpdir(), 'zing-outside-report-')));
mkdirSync(out, { recursive: true });

/** The files of the folders, links not followed, in an order that mixes them and is the same each time. */
function choose(): string[] {
  const found = positionals.flatMap((folder) =>
    statSync(folder).isFile()
      ? [resolve(folder)]
      : readdirSync(folder, { recursive: true, withFileTypes: true })
          .filter((entry) => entry.isFile() && kinds.has(KINDS[extname(entry.name).toLowerCase()] ?? ''))
          .map((entry) => join(entry.parentPath, entry.name))
  );
  const mixed = (path: string) => createHash('md5').update(path).digest('hex');
  return found
    .map((path) => ({ path, key: mixed(path) }))
    .sort((a, b) => (a.key < b.key ? -1 : 1))
    .slice(0, Number(values.most))
    .map(({ path }) => path);
}

interface Result {
  path: string;
  state: 'taken' | 'refused' | 'stopped';
  reason: string;
  /** Mean difference of the first page, grey levels 0…255; nothing where no other renderer drew it. */
  difference: number | undefined;
  findings: string;
}

const folder = mkdtempSync(join(tmpdir(), 'zing-outside-'));
const shop = new Shop(folder);
shop.start();
const profile = join(folder, 'inks.icc');
writeFileSync(
  profile,
  buildProfile(modelPress(offsetCoated()), {
    name: 'Outside',
    version: 2,
    made: { year: 2026, month: 1, day: 1 },
    separation: DEFAULT_SEPARATION,
    forwardGrid: 9,
    backwardGrid: 13
  })
);

/** Fonts for the other renderer: just those that ship, so that lettering is compared and not fonts. */
const fontsFile = join(folder, 'fonts.conf');
const alias = (family: string, to: string) =>
  `<alias binding="same"><family>${family}</family><prefer><family>${to}</family></prefer></alias>`;
writeFileSync(
  fontsFile,
  `<?xml version="1.0"?><!DOCTYPE fontconfig SYSTEM "fonts.dtd"><fontconfig>${['arimo', 'tinos', 'cousine']
    .map((name) => `<dir>${resolve('node_modules/@expo-google-fonts', name)}</dir>`)
    .join(
      ''
    )}<dir>${resolve('node_modules/dejavu-fonts-ttf/ttf')}</dir><dir>/usr/share/fonts/opentype/urw-base35</dir><cachedir>${join(folder, 'fonts')}</cachedir><match target="pattern"><edit name="family" mode="append" binding="weak"><string>Arimo</string></edit></match>${[
    ['Arial', 'Arimo'],
    ['Helvetica', 'Arimo'],
    ['sans-serif', 'Arimo'],
    ['Times New Roman', 'Tinos'],
    ['Times', 'Tinos'],
    ['serif', 'Tinos'],
    ['Courier New', 'Cousine'],
    ['monospace', 'Cousine']
  ]
    .map(([family, to]) => alias(family as string, to as string))
    .join('')}</fontconfig>`
);
const env = { ...process.env, FONTCONFIG_FILE: fontsFile };

/** The first page as another renderer draws it, at a size in pixels; `second` is asked where the first draws otherwise. */
async function other(path: string, kind: string, width: number, height: number, second: boolean): Promise<Buffer | undefined> {
  if (kind === 'svg' && second) return inBrowser(path, width, height);
  const png = join(folder, `other-${createHash('md5').update(path).digest('hex')}.png`);
  const [w, h] = [String(width), String(height)];
  const limits = { timeout: 60_000, env };
  const alpha = ['-dTextAlphaBits=4', '-dGraphicsAlphaBits=4'];
  // Borders of links and notes are not artwork.
  const page = ['-dFirstPage=1', '-dLastPage=1', '-dUseTrimBox', '-dEPSCrop', '-dFitPage', '-dShowAnnots=false'];
  try {
    if (kind === 'svg' && existsSync('/usr/bin/rsvg-convert'))
      await run('rsvg-convert', ['-w', w, '-h', h, '-b', 'white', '-o', png, path], limits);
    else if (kind === 'pdf' && !second && existsSync('/usr/bin/pdftocairo')) {
      const size = ['-scale-to-x', w, '-scale-to-y', h];
      await run('pdftocairo', ['-png', '-singlefile', '-cropbox', '-f', '1', '-l', '1', ...size, path, png.slice(0, -4)], limits);
    } else if ((kind === 'pdf' || (kind === 'eps' && !second)) && existsSync('/usr/bin/gs')) {
      const quiet = ['-dSAFER', '-dBATCH', '-dNOPAUSE', '-dQUIET', '-sDEVICE=png16m'];
      await run('gs', [...quiet, ...alpha, ...page, `-g${w}x${h}`, `-sOutputFile=${png}`, path], limits);
    } else return undefined;
    return await shrunk(readFileSync(png), timesOf(path));
  } catch {
    return undefined;
  } finally {
    rmSync(png, { force: true });
  }
}

/** Mean difference, grey levels. */
function apart(a: Buffer, b: Buffer): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += Math.abs((a[i] as number) - (b[i] as number));
  return sum / a.length;
}

let browser: Promise<Browser | undefined> | undefined;

/** Where two renderers differ, a browser is asked too: what agrees with either is not counted. */
async function inBrowser(path: string, width: number, height: number): Promise<Buffer | undefined> {
  const program = process.env.CHROMIUM ?? '/usr/bin/chromium';
  browser ??= existsSync(program)
    ? chromium.launch({
        executablePath: program,
        args: ['--no-sandbox', '--disable-gpu', '--disable-background-networking'],
        env
      })
    : Promise.resolve(undefined);
  const page = await (await browser)?.newPage({ viewport: { width, height } });
  if (!page) return undefined;
  try {
    const bytes = readFileSync(path);
    const svg = bytes[0] === 0x1f ? gunzipSync(bytes) : bytes;
    const source = `data:image/svg+xml;base64,${svg.toString('base64')}`;
    await page.setContent(`<body style="margin:0"><img style="width:${width}px;height:${height}px" src="${source}">`);
    await page.locator('img').evaluate((image: HTMLImageElement) => image.decode());
    return await shrunk(await page.screenshot(), timesOf(path));
  } catch {
    return undefined;
  } finally {
    await page.close();
  }
}

const shrunk = async (png: Buffer, times: number): Promise<Buffer> => {
  const { width, height } = await sharp(png).metadata();
  return sharp(png)
    .flatten({ background: 'white' })
    .toColourspace('srgb')
    .resize(Math.max(1, Math.round(width / times)), Math.max(1, Math.round(height / times)), { kernel: 'linear', fit: 'fill' })
    .removeAlpha()
    .raw()
    .toBuffer();
};

async function preview(id: number, times: number): Promise<{ png: Buffer; width: number; height: number }> {
  const png = readFileSync(await shop.pictures.page(id, 0, px * times));
  const { width, height } = await sharp(png).metadata();
  return { png, width, height };
}

/** RIPs the first page, 50 mm on its longer side. */
async function smallRip(id: number): Promise<void> {
  const { artwork, page } = shop.artworks.page(id, 0);
  const scale = 50 / Math.max(page.widthMm, page.heightMm);
  const [widthMm, heightMm] = [page.widthMm * scale, page.heightMm * scale].map((side) => Math.max(0.5, side)) as [
    number,
    number
  ];
  const files = {
    plates: join(folder, `rip-${id}.tif`),
    overview: join(folder, `rip-${id}.o`),
    coarse: join(folder, `rip-${id}.c`)
  };
  const piece = {
    prepare: { ...wholePage(page) },
    file: shop.files.path(artwork.pdfHash ?? ''),
    page: 0,
    widthMm,
    heightMm,
    bleed: evenSides(0),
    intent: 'relative' as const,
    sources: await shop.sources.paths()
  };
  await ripToFile(
    shop.ripPool,
    {
      id: `outside-${id}`,
      plan: {
        widthMm: 60,
        lengthMm: heightMm + 4,
        dpi: { x: 360, y: 360 },
        sources: [piece],
        pieces: [{ source: 0, x: 2, y: 2, turn: 0 }],
        inks: fourInks([6, 13, 21]),
        totalInk: 2.6,
        marks: []
      },
      profile,
      curves: PROCESS_CHANNELS.map(() => [...straightCurve()]),
      limits: { total: 4 },
      kernels: KERNELS_FILE,
      mask: MASK_FILE,
      method: 'blue-noise'
    },
    files,
    AbortSignal.timeout(120_000),
    () => undefined
  );
  for (const file of Object.values(files)) rmSync(file, { force: true });
}

/** One RIP at a time, with all threads. */
let ripping: Promise<void> = Promise.resolve();
const inTurn = (id: number): Promise<void> => (ripping = ripping.catch(() => undefined).then(() => smallRip(id)));

async function judge(path: string, id: number): Promise<Result> {
  const artwork = shop.artworks.get(id);
  const findings = (artwork.facts?.findings ?? []).map(({ kind, what }) => `${kind} ${what}`).join('; ');
  if (artwork.state !== 'ready') return { path, state: 'refused', reason: artwork.reason ?? '', difference: undefined, findings };
  try {
    const { png, width, height } = await preview(id, timesOf(path));
    if (!values.norip) await inTurn(id);
    const kind = KINDS[extname(path).toLowerCase()] ?? '';
    const ours = await shrunk(png, timesOf(path));
    const theirs = await other(path, kind, width, height, false);
    if (theirs?.length !== ours.length) return { path, state: 'taken', reason: '', difference: undefined, findings };
    let difference = apart(ours, theirs);
    if (difference > Number(values.limit)) {
      const third = await other(path, kind, width, height, true);
      if (third?.length === ours.length) difference = Math.min(difference, apart(ours, third));
    }
    if (difference > Number(values.limit)) {
      const size = {
        width: Math.max(1, Math.round(width / timesOf(path))),
        height: Math.max(1, Math.round(height / timesOf(path))),
        channels: 3 as const
      };
      pairs.set(path, { ours, theirs, ...size });
    }
    return { path, state: 'taken', reason: '', difference, findings };
  } catch (error) {
    return {
      path,
      state: 'stopped',
      reason: error instanceof Error ? error.message : String(error),
      difference: undefined,
      findings
    };
  }
}

const pairs = new Map<string, { ours: Buffer; theirs: Buffer; width: number; height: number; channels: 3 }>();

async function sideBySide(path: string, name: string): Promise<void> {
  const pair = pairs.get(path);
  if (!pair) return;
  const { ours, theirs, width, height, channels } = pair;
  const raw = { width, height, channels };
  const apart = Buffer.from(ours.map((v, i) => 255 - Math.min(255, 3 * Math.abs(v - (theirs[i] as number)))));
  await sharp({ create: { width: width * 3 + 20, height, channels: 3, background: '#888' } })
    .composite([ours, theirs, apart].map((input, i) => ({ input, raw, left: i * (width + 10), top: 0 })))
    .png()
    .toFile(join(out, `${name}.png`));
}

const chosen = choose();
console.log(`${chosen.length} files.`);
const started = performance.now();
const ids = await Promise.all(chosen.map(async (path) => (await shop.artworks.take(basename(path), createReadStream(path))).id));
while (ids.some((id) => shop.artworks.get(id).state === 'reading')) await new Promise((done) => setTimeout(done, 100));
const intake = (performance.now() - started) / 1000;
console.log(`Looked at in ${intake.toFixed(1)} s.`);
const results: Result[] = [];
let next = 0;
await Promise.all(
  Array.from({ length: THREADS + 1 }, async () => {
    while (next < chosen.length) {
      const i = next++;
      results[i] = await judge(chosen[i] as string, ids[i] as number);
    }
  })
);
await shop.close();
await (await browser)?.close();

const by = (state: Result['state']) => results.filter((result) => result.state === state);
const compared = results.filter((result) => result.difference !== undefined);
const above = compared
  .filter((result) => (result.difference ?? 0) > Number(values.limit))
  .sort((a, b) => (b.difference ?? 0) - (a.difference ?? 0));
const short = (path: string) => join(basename(dirname(path)), basename(path));
for (const { path, reason } of by('refused')) console.log(`refused\t${short(path)}\t${reason}`);
for (const { path, reason } of by('stopped')) console.log(`stopped\t${short(path)}\t${reason}`);
for (const { path, difference, findings } of above) console.log(`${(difference ?? 0).toFixed(2)}\t${short(path)}\t${findings}`);
for (const [i, { path, difference }] of above.slice(0, Number(values.worst)).entries())
  await sideBySide(path, `${String(i + 1).padStart(2, '0')}-${(difference ?? 0).toFixed(1)}-${basename(path)}`);
const sum = (list: Result[]) => list.reduce((total, { difference }) => total + (difference ?? 0), 0);
const share = compared.length > 0 ? (100 * above.length) / compared.length : 0;
const lines = [
  `taken\t${by('taken').length} of ${results.length}`,
  `refused\t${by('refused').length}`,
  `stopped\t${by('stopped').length}`,
  `compared\t${compared.length}, mean ${(sum(compared) / Math.max(1, compared.length)).toFixed(3)} grey levels`,
  `above ${values.limit}\t${above.length} (${share.toFixed(2)} %)`,
  `seconds\t${intake.toFixed(1)} intake, ${((performance.now() - started) / 1000).toFixed(1)} in all`
];
console.log(lines.join('\n'));
console.log(`Pictures of the worst, ours, theirs and the difference: ${out}`);
writeFileSync(
  join(out, 'results.tsv'),
  results.map(({ path, state, difference, reason }) => [path, state, difference?.toFixed(3) ?? '', reason].join('\t')).join('\n')
);
rmSync(folder, { recursive: true, force: true });
