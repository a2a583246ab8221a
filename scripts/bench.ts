import { spawnSync } from 'node:child_process';
import { closeSync, openSync, readFileSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import PDFDocument from 'pdfkit';
import sharp from 'sharp';
import { wholePage } from '$core/artwork/preparation';
import { makeDrawing } from '$core/artwork/drawing';
import { drawingChoices } from '$core/artwork/piece';
import { bandsOf, plateLayout, type RipPlan } from '$core/rip/plan';
import { BandRipper } from '$core/rip/rip-band';
import { newLayer } from '$core/inks/stack';
import { xyzToLab } from '$core/colour/lab';
import { grain } from '$core/screening/grain';
import { Physics } from '$standins/printer/physics';
import { FULL, Press } from '$standins/printer/press';
import { fourInks, PROCESS_CHANNELS, shiftOf, type Ink, type InkSet } from '$core/inks/ink-set';
import { mixtureThrough } from '$core/inks/mixture';
import { straightCurve } from '$core/screening/thresholds';
import { colours, folder, grid, MM, one, pdf, report, rip } from './bench-rip';
import { seededRandom } from '$core/geometry/random';
import { DEFAULT_RULES } from '$core/artwork/roles';
import { pageLine } from '$core/checks/cut-lines';
import { madeOutline } from '$core/cutting/docket-lines';
import type { MadeLine } from '$core/artwork/cut-choices';
import { distanceTo, flatten, parsePathData, pathData, type Path, type Polyline } from '$core/geometry/path';
import type { FactsAnswer, FactsRequest } from '$lib/server/artwork/workers/facts';
import type { TraceAnswer, TraceRequest } from '$lib/server/dockets/workers/trace';
import { DRAWING_PROCESS, INTAKE_PROCESS, KERNELS_FILE, MASK_FILE } from '$lib/server/platform/tasks/pool';
import { openInkSpace } from '$lib/server/conditions/workers/ink-space';
import { openKernels } from '$lib/server/platform/workers/kernels-file';
import { openPdfFile } from '$lib/server/platform/workers/open-pdf';
import { ProcessPool } from '$lib/server/platform/tasks/process-pool';

const AMPLE = { seconds: 600, megabytes: 8000 };

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

/** Cyan to black and three light inks, so that a page works on all seven planes. */
const SEVEN: InkSet = [
  ...fourInks([6, 13, 21]),
  ...(
    [
      ['Light cyan', 'light', 'Cyan'],
      ['Light magenta', 'light', 'Magenta'],
      ['Light black', 'light', 'Black']
    ] as const
  ).map(([name, role, channel], i): Ink => ({
    name,
    role,
    channel,
    colour: '#c0c0c0',
    drops: [6, 13, 21],
    shift: shiftOf(4 + i)
  }))
];

/** `times` pages below each other: memory must not grow with the length. */
const pagePlan = (file: string, times: number): RipPlan => ({
  widthMm: 1000,
  lengthMm: 600 * times,
  dpi: { x: 720, y: 720 },
  sources: [one(file, 1000, 600)],
  pieces: Array.from({ length: times }, (_, i) => ({ source: 0, x: 0, y: i * 600, turn: 0 })),
  inks: fourInks([6, 13, 21]),
  totalInk: 2.6,
  marks: []
});

/** The page with white under all that prints, a fifth of a millimetre inside. */
const whitePlan = (file: string): RipPlan => {
  const plan = pagePlan(file, 1);
  const layers = [
    { ...newLayer(2, 'white', { chokeMm: 0.2 }), place: 0 },
    { ...newLayer(1, 'colour'), place: 1 }
  ];
  const white: Ink = { ...plan.inks[0]!, name: 'White', role: 'white', channel: 'White', drops: [12, 24, 36], shift: shiftOf(4) };
  return {
    ...plan,
    inks: [...plan.inks, white],
    layers: [{ ink: 'white' }, { ink: 'colour' }],
    sources: plan.sources.map((source) => ({ ...source, stack: { layers, marks: {} } }))
  };
};

/** Grain of what the stand-in prints of 25 % cyan. */
async function grainAt(inks: InkSet): Promise<number> {
  const physics = new Physics('gloss');
  const amount = physics.start().curves[0]![64]!;
  const side = 60;
  const flats = [{ x: 0, y: 0, width: side, height: side, inks: [amount, 0, 0, 0] }];
  const layers = [{ ink: 'colour' as const }];
  await rip({ ...pagePlan('', 0), widthMm: side, lengthMm: side, inks, layers, flats });
  const drops = inks.map((ink) => ink.drops);
  const press = await Press.open(join(folder, 'run.tif'), openKernels(KERNELS_FILE), () => physics, inks, drops);
  const lightness: number[] = [];
  for (let row = 0; row < press.rows; row++) {
    const { cells } = await press.outputRow(row);
    for (let x = 0; x < press.columns; x++)
      lightness.push(xyzToLab(physics.xyz([0, 1, 2, 3].map((i) => cells[x * press.figures + i]! / FULL)))[0]);
  }
  await press.close();
  // The last cells hang over the edge of the tone.
  const inside = press.columns - 4;
  const flat = lightness.filter((_, i) => i % press.columns < inside);
  return grain(flat, inside, (press.cell / press.plates.dpi.x) * 25.4);
}

let pageMb = 0;

const OTHERS_DPI = 360;

/** How many times as fast as another program on the same page at the same resolution; nothing where it is not installed. */
async function against(program: string, name: string, args: string[]): Promise<void> {
  const file = await page();
  const start = performance.now();
  const { error, status } = spawnSync(program, [...args, file], { stdio: 'ignore' });
  if (error) return;
  if (status !== 0) throw new Error(`${program} ended with ${status}.`);
  const theirs = (performance.now() - start) / 1000;
  const ours = await rip({ ...pagePlan(file, 1), dpi: { x: OTHERS_DPI, y: OTHERS_DPI } });
  report(name, theirs / ours.seconds, 'ratio');
}

/** Where the time of a RIP goes, in one thread: shares of the whole by step. */
async function shares(plan: RipPlan): Promise<Record<string, number>> {
  const spent: Record<string, number> = { drawing: 0, composing: 0, limiting: 0, screening: 0, recording: 0, writing: 0 };
  const timed = <A extends unknown[], R>(step: string, work: (...args: A) => R) => {
    return (...args: A): R => {
      const from = performance.now();
      const result = work(...args);
      spent[step] = (spent[step] ?? 0) + performance.now() - from;
      return result;
    };
  };
  const kernels = openKernels(KERNELS_FILE);
  const { run } = kernels;
  const steps = { limitRow: 'limiting', splitRow: 'screening', mapRow: 'screening', screenPlane: 'screening' } as const;
  const kept = { packBits: 'recording', countDrops: 'recording', addCells: 'recording' } as const;
  const loops = Object.entries({ ...steps, ...kept }).map(([name, step]) => {
    return [name, timed(step, run[name as keyof typeof steps] as (...args: number[]) => number)];
  });
  Object.assign(kernels, { run: { ...run, ...Object.fromEntries(loops) } });
  const bytes = readFileSync(MASK_FILE);
  const ranks = new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2);
  const curves = PROCESS_CHANNELS.map(() => straightCurve());
  const ripper = new BandRipper(kernels, plan, { size: Math.sqrt(ranks.length), ranks }, { method: 'blue-noise', curves });
  const source = plan.sources[0] as RipPlan['sources'][number];
  const start = performance.now();
  const inks = await openInkSpace(
    { profile: colours.profile, intent: source.intent, sources: source.sources, limits: { total: 4 } },
    kernels
  );
  const { document } = openPdfFile(source.file);
  const drawing = timed('drawing', () => makeDrawing(document, 0, drawingChoices(source), { ...inks, kernels }))();
  const out = openSync(join(folder, 'shares.bin'), 'w');
  const write = timed('writing', (part: Uint8Array) => writeSync(out, part));
  for (const band of bandsOf(plateLayout(plan))) {
    const parts = timed('drawing', () => ripper.draw(band, [], () => drawing))();
    write(ripper.screen(band, parts).packed);
  }
  closeSync(out);
  const all = performance.now() - start;
  spent['composing'] = all - Object.values(spent).reduce((sum, ms) => sum + ms, 0);
  return Object.fromEntries(Object.entries(spent).map(([step, ms]) => [step, ms / all]));
}

const benches: Record<string, () => Promise<void>> = {
  'rip-page': async () => {
    const { seconds, megapixels, peakMb } = await rip(pagePlan(await page(), 1));
    pageMb = peakMb;
    report('rip-page', megapixels / seconds, 'Mpx/s');
  },
  'rip-seven': async () => {
    const plan = { ...pagePlan(await page(), 1), inks: SEVEN };
    const { seconds, megapixels } = await rip(plan);
    report('rip-seven', megapixels / seconds, 'Mpx/s');
  },
  'rip-white': async () => {
    const file = await page();
    const plain = await rip(pagePlan(file, 1));
    const white = await rip(whitePlan(file));
    report('rip-white', plain.seconds / white.seconds, 'ratio');
  },
  'rip-mixed': async () => {
    const plan = pagePlan(await page(), 1);
    const plain = await rip(plan);
    const inTheirPlace = mixtureThrough(([c = 0, m = 0, y = 0, k = 0]) => [c * (1 - 0.1 * m), m * (1 - 0.1 * y), y, k]);
    const mixed = await rip(plan, undefined, inTheirPlace);
    report('rip-mixed', plain.seconds / mixed.seconds, 'ratio');
  },
  'grain-light': async () => {
    const dark = await grainAt(fourInks([6, 13, 21]));
    const light = await grainAt(SEVEN);
    process.stderr.write(`grain at 25 % cyan: ${dark.toFixed(3)} in dark ink, ${light.toFixed(3)} with a light one\n`);
    report('grain-light', light / dark, 'ratio');
  },
  'rip-scaling': async () => {
    const plan = pagePlan(await page(), 1);
    const alone = await rip(plan, 1);
    const two = await rip(plan, 2);
    report('rip-scaling', alone.seconds / two.seconds, 'ratio');
  },
  'rip-shares': async () => {
    for (const [step, share] of Object.entries(await shares(pagePlan(await page(), 1))))
      report(`rip-shares ${step}`, share * 100, '%');
  },
  'rip-page-vs-gs': () =>
    against('gs', 'rip-page-vs-gs', [
      ...['-dSAFER', '-dBATCH', '-dNOPAUSE', '-dQUIET', '-sDEVICE=tiffsep1', `-r${OTHERS_DPI}`],
      `-sOutputFile=${join(folder, 'gs.tif')}`
    ]),
  'rip-page-vs-mutool': () =>
    against('mutool', 'rip-page-vs-mutool', [
      'draw',
      '-q',
      '-c',
      'cmyk',
      '-F',
      'pam',
      '-r',
      String(OTHERS_DPI),
      '-o',
      join(folder, 'mu.pam')
    ]),
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
      inks: fourInks([6, 13, 21]),
      totalInk: 2.6,
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

/** A PDF of many small pages: shapes, lettering, a spot colour. */
const manyPages = async () => {
  const path = join(folder, 'pages.pdf');
  const doc = new PDFDocument({ autoFirstPage: false });
  const chunks: Buffer[] = [];
  doc.on('data', (chunk: Buffer) => chunks.push(chunk));
  const done = new Promise((resolve) => doc.on('end', resolve));
  const random = seededRandom(100);
  doc.addSpotColor('Cut line', 0, 100, 0, 0);
  for (let page = 0; page < 100; page++) {
    doc.addPage({ size: [300, 200], margin: 0 });
    for (let i = 0; i < 150; i++) doc.rect(random() * 280, random() * 180, 12, 9).fill([random() * 100, 30, 10, 0]);
    doc
      .fontSize(18)
      .fillColor([0, 0, 0, 100])
      .text(`Berth ${page + 1}`, 20, 20);
    doc
      .circle(150, 100, 80)
      .lineWidth(0.3)
      .stroke('Cut line' as unknown as PDFKit.Mixins.ColorValue);
  }
  doc.end();
  await done;
  writeFileSync(path, Buffer.concat(chunks));
  return path;
};

const manyPaths = () =>
  pdf('paths.pdf', 1000, 700, (doc) => {
    const random = seededRandom(50);
    for (let i = 0; i < 50_000; i++) {
      const [x, y, r] = [random() * 990 * MM, random() * 690 * MM, (1 + random() * 4) * MM];
      doc
        .moveTo(x, y)
        .bezierCurveTo(x + r, y - r, x + 2 * r, y + r, x, y + r)
        .closePath();
      doc.fill([random() * 100, random() * 100, 0, 0]);
    }
  });

async function factsSeconds(path: string): Promise<number> {
  const pool = new ProcessPool(INTAKE_PROCESS, { lanes: 1 });
  const request: FactsRequest = {
    path,
    name: 'bench',
    rules: DEFAULT_RULES,
    fonts: [],
    ghostscript: 'gs',
    limits: { seconds: 20, megabytes: 1000 },
    pdf: join(folder, 'made.pdf'),
    profile: join(folder, 'intent.icc')
  };
  // The thread and the interpreter are there already in the shop.
  await pool.run('facts', { ...request, path: await sticker() }, AMPLE);
  const start = performance.now();
  await pool.run<FactsAnswer>('facts', request, AMPLE);
  const seconds = (performance.now() - start) / 1000;
  await pool.destroy();
  return seconds;
}

const traceRequest = (file: string, area: TraceRequest['area'], px: number): TraceRequest => ({
  pdf: file,
  page: 0,
  leftOut: { spots: [], layers: [] },
  sources: colours.sources,
  kernels: KERNELS_FILE,
  how: 'opaque',
  threshold: 0.5,
  background: null,
  area,
  px
});

async function traced(request: TraceRequest): Promise<{ outline: Path; seconds: number }> {
  const pool = new ProcessPool(DRAWING_PROCESS, { lanes: 1 });
  const warm = { ...request, px: 300 };
  await pool.run('trace', warm, AMPLE);
  const start = performance.now();
  const answer = await pool.run<TraceAnswer>('trace', request, AMPLE);
  const seconds = (performance.now() - start) / 1000;
  await pool.destroy();
  if (!answer.ok) throw new Error(answer.reason);
  return { outline: parsePathData(answer.outline), seconds };
}

/** 6000 × 4000 pixels with a soft-edged, lobed shape and 150 drops around it. */
async function seeThroughPicture(): Promise<string> {
  const [w, h] = [6000, 4000];
  const random = seededRandom(7);
  const drops = Array.from({ length: 150 }, () => ({ x: random() * w, y: random() * h, r: 20 + random() * 60 }));
  const raw = Buffer.alloc(w * h * 4, 90);
  const near = Array.from({ length: 60 * 40 }, (_, i) => {
    const [cx, cy] = [(i % 60) * 100 + 50, Math.floor(i / 60) * 100 + 50];
    return drops.filter((drop) => Math.hypot(drop.x - cx, drop.y - cy) < drop.r + 75);
  });
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      const angle = Math.atan2(y - h / 2, x - w / 2);
      let inside = 1500 + 250 * Math.sin(angle * 23) - Math.hypot(x - w / 2, y - h / 2);
      for (const drop of near[Math.floor(y / 100) * 60 + Math.floor(x / 100)] ?? [])
        inside = Math.max(inside, drop.r - Math.hypot(x - drop.x, y - drop.y));
      raw[(y * w + x) * 4 + 3] = Math.max(0, Math.min(255, 127 + inside * 100));
    }
  }
  const png = join(folder, 'clear.png');
  await sharp(raw, { raw: { width: w, height: h, channels: 4 } })
    .withMetadata({ density: 150 })
    .png({ compressionLevel: 1 })
    .toFile(png);
  const out = join(folder, 'clear.pdf');
  const pool = new ProcessPool(INTAKE_PROCESS, { lanes: 1 });
  await pool.run(
    'facts',
    { path: png, name: 'clear.png', rules: [], fonts: [], ghostscript: 'gs', limits: { seconds: 20, megabytes: 1000 }, pdf: out },
    AMPLE
  );
  await pool.destroy();
  return out;
}

/** The farthest that a traced and offset outline lies from the true one, and the true one from it, mm. */
async function traceError(): Promise<number> {
  const size = { width: 90, height: 70 };
  const middle = { x: 45.13, y: 35.3 };
  const circle = (r: number): Polyline => ({
    closed: true,
    points: Array.from({ length: 3000 }, (_, i) => ({
      x: middle.x + r * Math.cos((i * Math.PI) / 1500),
      y: middle.y + r * Math.sin((i * Math.PI) / 1500)
    }))
  });
  const box = (grown: number): Polyline => {
    const [w, h] = [30 + grown, 20 + grown];
    const corners = [
      [-w, -h],
      [w, -h],
      [w, h],
      [-w, h]
    ] as const;
    const points = corners.flatMap(([x, y], i) => {
      const [nx, ny] = corners[(i + 1) % 4] ?? [0, 0];
      return Array.from({ length: 300 }, (_, k) => ({
        x: middle.x + x + ((nx - x) * k) / 300,
        y: middle.y + y + ((ny - y) * k) / 300
      }));
    });
    return { closed: true, points };
  };
  const shapes: [string, (doc: PDFKit.PDFDocument) => unknown, (offset: number) => Polyline][] = [
    ['circle.pdf', (doc) => doc.circle(middle.x * MM, middle.y * MM, 30 * MM), (offset) => circle(30 + offset)],
    ['box.pdf', (doc) => doc.rect((middle.x - 30) * MM, (middle.y - 20) * MM, 60 * MM, 40 * MM), box]
  ];
  let worst = 0;
  for (const [name, draw, truth] of shapes) {
    const file = await pdf(name, size.width, size.height, (doc) => {
      draw(doc);
      doc.fill([80, 40, 0, 20]);
    });
    for (const how of ['opaque', 'background'] as const) {
      const request = {
        ...traceRequest(file, { x: 0, y: 0, ...size }, (90 / 25.4) * 150),
        how,
        threshold: how === 'opaque' ? 0.5 : 12
      };
      const { outline } = await traced(request);
      for (const offsetMm of [0, 3, -3]) {
        const line: MadeLine = {
          ...pageLine(),
          from: { kind: 'found', how, threshold: 0.5, background: null, outline: pathData(outline, 4) },
          offsetMm,
          corners: 'sharp',
          smoothMm: 0.02
        };
        const made = flatten(
          madeOutline(line, wholePage({ widthMm: size.width, heightMm: size.height }), {
            widthMm: size.width,
            heightMm: size.height
          }),
          0.002
        );
        const wanted = truth(offsetMm);
        const [first] = made;
        if (made.length !== 1 || !first) throw new Error(`${name} gave ${made.length} lines.`);
        const off = Math.max(
          ...first.points.map((p) => distanceTo(wanted, p)),
          ...wanted.points.map((p) => distanceTo(first, p))
        );
        process.stderr.write(`${name} ${how} ${offsetMm}: ${off.toFixed(4)} mm\n`);
        worst = Math.max(worst, off);
      }
    }
  }
  return worst;
}

Object.assign(benches, {
  'facts-100-pages': async () => report('facts-100-pages', await factsSeconds(await manyPages()), 's'),
  'facts-50k-paths': async () => report('facts-50k-paths', await factsSeconds(await manyPaths()), 's'),
  'trace-24mpx': async () => {
    const area = { x: 0, y: 0, width: (6000 / 150) * 25.4, height: (4000 / 150) * 25.4 };
    const { outline, seconds } = await traced(traceRequest(await seeThroughPicture(), area, 6000));
    process.stderr.write(`${outline.length} pieces of outline\n`);
    report('trace-24mpx', seconds, 's');
  },
  'trace-error': async () => report('trace-error', await traceError(), 'mm')
});

const chosen = process.argv.slice(2);
const unknown = chosen.filter((name) => !benches[name]);
if (unknown.length > 0) {
  process.stderr.write(`There is no figure named ${unknown.join(', ')}. There are: ${Object.keys(benches).join(', ')}.\n`);
  process.exitCode = 2;
} else {
  for (const [name, run] of Object.entries(benches)) if (chosen.length === 0 || chosen.includes(name)) await run();
}
rmSync(folder, { recursive: true, force: true });
