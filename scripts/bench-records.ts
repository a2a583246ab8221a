import { spawnSync } from 'node:child_process';
import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { basename, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { seededRandom } from '$core/geometry/random';
import { fourInks } from '$core/inks/ink-set';
import type { CodeField, Field, TextField } from '$core/records/field';
import { keptTable } from '$core/records/kept-table';
import type { OverlayFiles } from '$core/layout/pieces';
import { newCode, newText } from '$core/records/new-field';
import { OverlayWriter } from '$core/records/overlay';
import { Filling, lookAt, sizesForAll } from '$core/records/records';
import { TextFace } from '$core/records/shaping';
import type { RipPlan } from '$core/rip/plan';
import { encoded } from '$core/records/codes';
import type { CodeKind } from '$core/records/code-kinds';
import { pieceRect } from '$core/rip/plan';
import { plateInks } from '$lib/server/production/plates';
import { readCodes } from '$protocol/code-reader';
import { folder, grid, MM, one, pdf, report, rip } from './bench-rip';

/** Passes of 90 × 50 mm with a name, a number and a code, 10,000 different ones. */

const [WIDTH, HEIGHT] = [90, 50];
const DPI = 360;
const FONT = 'Arimo';
const file = readFileSync(createRequire(import.meta.url).resolve('@expo-google-fonts/arimo/700Bold/Arimo_700Bold.ttf'));
const fonts = new Map([[FONT, { face: new TextFace(file), file }]]);
const faces = new Map([[FONT, fonts.get(FONT)!.face]]);

const name: TextField = {
  ...newText([], { x: 5, y: 6, width: 55, height: 16, turn: 0 }, '{name}', 'Name'),
  font: FONT,
  wrap: true,
  along: 'left'
};
const number: TextField = {
  ...newText([name], { x: 5, y: 32, width: 40, height: 10, turn: 0 }, 'No. {number, like 00001}', 'Number'),
  size: { is: 'one for all' },
  along: 'left'
};
const code = newCode([name, number], { x: 64, y: 22, width: 22, height: 22, turn: 0 }, 'PASS/{number}/{name}', 'Code');
const FIELDS: Field[] = [name, number, code];

const FIRST = ['Ada', 'Bartholomäus', 'Li', 'Zoë', 'Maximilian', 'Þóra', 'José', 'Anna-Lena', 'Ove', 'Gwendolyn'];
const LAST = ['Vik', 'von der See', 'Ærø', 'O’Neill', 'Lantern', 'Peña', 'Hafsteinsdóttir', 'Quay', 'Ng', 'Featherstonehaugh'];

function filled(count: number): Filling {
  const random = seededRandom(16);
  const pick = (list: readonly string[]) => list[Math.floor(random() * list.length)]!;
  const rows = Array.from({ length: count }, (_, i) => [`${pick(FIRST)} ${pick(LAST)}`, String(i + 1)]);
  return new Filling({ table: keptTable({ columns: ['name', 'number'], rows }), fields: FIELDS, chosen: {} });
}

/** As the server divides them. */
const EACH_FILE = 500;
const overlayName = (count: number, i: number) => join(folder, `overlays-${count}-${i}.pdf`);

/** Writes the overlays of so many records. */
function makeOverlays(count: number, into: string): void {
  const filling = filled(count);
  const sizes = sizesForAll(filling, FIELDS, faces);
  const numbers = Array.from(filling.numbers);
  for (let from = 0; from < count; from += EACH_FILE) {
    const writer = new OverlayWriter({ widthMm: WIDTH, heightMm: HEIGHT }, fonts, DPI);
    for (const record of numbers.slice(from, from + EACH_FILE)) writer.add(filling.texts(record), sizes);
    writeFileSync(join(into, basename(overlayName(count, from / EACH_FILE))), writer.finish());
  }
}

/** The same in a process of its own, so that its memory is not the RIP's. */
function overlays(count: number): OverlayFiles {
  const { status } = spawnSync(process.execPath, [fileURLToPath(import.meta.url), 'make', String(count), folder], {
    stdio: 'inherit'
  });
  if (status !== 0) throw new Error('The overlays were not made.');
  return { files: Array.from({ length: Math.ceil(count / EACH_FILE) }, (_, i) => overlayName(count, i)), each: EACH_FILE };
}

/** The most memory that a RIP of so many takes, MB: each in a process of its own, so that none begins with what another left. */
function peakOf(count: number): number {
  const { stdout, status } = spawnSync(process.execPath, [fileURLToPath(import.meta.url), 'peak', String(count)], {
    stdio: ['ignore', 'pipe', 'inherit'],
    encoding: 'utf8'
  });
  if (status !== 0) throw new Error('The run was not RIPped.');
  return Number(stdout);
}

const base = () =>
  pdf('pass.pdf', WIDTH, HEIGHT, (doc) => {
    doc.rect(0, 0, WIDTH * MM, HEIGHT * MM).fill([10, 0, 5, 0]);
    doc.circle(70 * MM, 12 * MM, 9 * MM).fill([80, 30, 0, 0]);
    doc.rect(0, 46 * MM, WIDTH * MM, 4 * MM).fill([0, 40, 90, 0]);
  });

const ACROSS = 13;
async function plan(count: number, overlay?: OverlayFiles): Promise<RipPlan> {
  const pieces = grid(count, ACROSS, 93).map((piece, i) => ({
    ...piece,
    y: 5 + Math.floor(i / ACROSS) * (HEIGHT + 2),
    ...(overlay !== undefined && { overlay: i })
  }));
  return {
    widthMm: 1300,
    lengthMm: Math.ceil(count / ACROSS) * (HEIGHT + 2) + 10,
    dpi: { x: DPI, y: DPI },
    sources: [{ ...one(await base(), WIDTH, HEIGHT), ...(overlay !== undefined && { overlays: overlay }) }],
    pieces,
    inks: fourInks([6, 13, 21]),
    totalInk: 2.6,
    marks: []
  };
}

/** What each kind of code is asked to say of a record. */
const CODES: [CodeKind, (record: number) => string][] = [
  ['QR', (n) => `https://example.org/pass/${n}?boat=Ærø`],
  ['Data Matrix', (n) => `LR27/${n}`],
  ['Aztec', (n) => `Gate ${n}`],
  ['PDF417', (n) => `Skipper of boat ${n}`],
  ['Code 128', (n) => `AB-${n}`],
  ['Code 39', (n) => `AB ${n}`],
  ['EAN-13', (n) => String(590_000_000_000 + n * 7919)],
  ['EAN-8', (n) => String(9_000_000 + n * 97)],
  ['UPC-A', (n) => String(36_000_000_000 + n * 7919).padStart(11, '0')],
  ['ITF-14', (n) => String(1_540_000_000_000 + n * 7919)],
  ['GS1-128', (n) => `(01)09521234543213(10)AB${n}`],
  ['GS1 Data Matrix', (n) => `(01)09521234543213(21)${n}`]
];
const EACH = 167;
/** As large as a reader’s standard asks of the smallest modules. */
const [CODE_WIDTH, CODE_HEIGHT] = [46, 16];

/** Prints codes of every kind, as the halftone makes them, and has another program read each from its black plate. */
async function codesRead(): Promise<{ read: number; all: number }> {
  const blank = await pdf('blank.pdf', CODE_WIDTH, CODE_HEIGHT, (doc) => doc.rect(0, 0, 1, 1).fill([0, 0, 0, 0]));
  const across = 20;
  const sources = CODES.map(([kind, text]) => {
    const field: CodeField = {
      ...code,
      kind,
      content: '{text}',
      place: { x: 0, y: 0, width: CODE_WIDTH, height: CODE_HEIGHT, turn: 0 }
    };
    const table = keptTable({ columns: ['text'], rows: Array.from({ length: EACH }, (_, i) => [text(i + 1)]) });
    const filling = new Filling({ table, fields: [field], chosen: {} });
    const writer = new OverlayWriter({ widthMm: CODE_WIDTH, heightMm: CODE_HEIGHT }, fonts, DPI);
    for (const record of filling.numbers) writer.add(filling.texts(record));
    const path = join(folder, `codes-${kind}.pdf`);
    writeFileSync(path, writer.finish());
    return { ...one(blank, CODE_WIDTH, CODE_HEIGHT), overlays: { files: [path], each: EACH } };
  });
  const pieces = CODES.flatMap((_, source) => Array.from({ length: EACH }, (__, overlay) => ({ source, overlay, turn: 0 }))).map(
    (piece, i) => ({ ...piece, x: 10 + (i % across) * (CODE_WIDTH + 4), y: 10 + Math.floor(i / across) * (CODE_HEIGHT + 4) })
  );
  const plan: RipPlan = {
    widthMm: across * (CODE_WIDTH + 4) + 20,
    lengthMm: Math.ceil(pieces.length / across) * (CODE_HEIGHT + 4) + 20,
    dpi: { x: DPI, y: DPI },
    sources,
    pieces,
    inks: fourInks([6, 13, 21]),
    totalInk: 2.6,
    marks: []
  };
  await rip(plan);
  const black = plan.inks.findIndex(({ name: ink }) => ink === 'Black');
  const count = plan.inks.length;
  const wide = Math.floor((plan.widthMm / 25.4) * DPI);
  const bare = (said: string) => said.replace(/[()]|\p{Cc}/gu, '').replace(/^0(?=\d{12}$)/, '');
  let read = 0;
  // A row of pieces at once: each of its strips is unpacked one time.
  for (let from = 0; from < pieces.length; from += across) {
    const row = pieces.slice(from, from + across);
    const rects = row.map((piece) => pieceRect(plan, piece));
    const [{ y, height }] = rects as [(typeof rects)[0]];
    const amounts = await plateInks(join(folder, 'run.tif'), 1, { x: 0, y, width: wide, height }, plan.inks);
    for (const [i, piece] of row.entries()) {
      const { x, width } = rects[i]!;
      const grey = new Uint8Array(width * height);
      for (let at = 0; at < grey.length; at++)
        grey[at] = 255 - amounts[(Math.floor(at / width) * wide + x + (at % width)) * count + black]!;
      const [kind, text] = CODES[piece.source]!;
      const found = await readCodes(grey, width, height);
      if (found.some((one) => bare(one.text) === bare(encoded(kind, text(piece.overlay + 1))))) read++;
      else process.stderr.write(`${kind} ${piece.overlay + 1} is not read: ${JSON.stringify(found)}\n`);
    }
  }
  return { read, all: pieces.length };
}

const benches: Record<string, () => Promise<void>> = {
  'records-check': async () => {
    const filling = filled(10_000);
    const start = performance.now();
    const looking = lookAt(filling, { faces, leastPt: 8, dpi: DPI });
    let step = looking.next();
    while (!step.done) step = looking.next();
    report('records-check', (performance.now() - start) / 1000, 's');
    process.stderr.write(`${JSON.stringify(step.value.counts)}\n`);
    await Promise.resolve();
  },
  'records-rip': async () => {
    const overlay = overlays(10_000);
    const plain = await rip(await plan(10_000));
    const records = await rip(await plan(10_000, overlay));
    report('records-rip', plain.seconds / records.seconds, 'ratio');
  },
  'codes-read': async () => {
    const { read, all } = await codesRead();
    report('codes-read', (100 * read) / all, '%');
  },
  'records-memory': async () => {
    const [few, many] = [peakOf(1000), peakOf(10_000)];
    process.stderr.write(`${few.toFixed(0)} MB, ${many.toFixed(0)} MB\n`);
    report('records-memory', many / few, 'ratio');
    await Promise.resolve();
  }
};

const [first, count, path] = process.argv.slice(2);
if (first === 'peak') process.stdout.write(String((await rip(await plan(Number(count), overlays(Number(count))))).peakMb));
else if (first === 'make') makeOverlays(Number(count), path!);
else for (const wanted of process.argv.slice(2)) await benches[wanted]?.();
rmSync(folder, { recursive: true, force: true });
