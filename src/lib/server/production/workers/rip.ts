import { setImmediate } from 'node:timers/promises';
import { closeSync, openSync, readFileSync, readSync, writeSync } from 'node:fs';
import type { Drawing } from '$core/artwork/drawing';
import type { ExtraInk } from '$core/inks/stack';
import type { InkSpace } from '$core/artwork/resolver/resolver';
import { makeDrawing } from '$core/artwork/drawing';
import { makeMarkedDrawing } from '$core/artwork/marked';
import { drawingChoices } from '$core/artwork/piece';
import * as mupdf from '$core/interpreter/interpreter';
import { neutralBlack } from '$core/colour/icc-read';
import { overlayAt } from '$core/layout/pieces';
import { drawnAlike, marksInNeutral, plateLayout, type RipPlan } from '$core/rip/plan';
import type { Needed } from '$core/rip/parts';
import { CELL } from '$core/rip/record';
import { inkOfPieces } from '$core/rip/ink-of-pieces';
import { BandRipper } from '$core/rip/rip-band';
import type { Kernels } from '$core/kernels/kernels';
import { endingOnTraps } from '../../platform/workers/ending-on-traps';
import {
  ownJob,
  type BandReport,
  type BandRequest,
  type InkRequest,
  type RipJob,
  type SharedJob,
  type SpriteRequest
} from '../rip-job';
import { openInkSpace, type InkSpaceFiles } from '../../conditions/workers/ink-space';
import { openKernels } from '../../platform/workers/kernels-file';
import { openPdfFile, type OpenedPdf } from '../../platform/workers/open-pdf';

interface Bench {
  job: RipJob;
  kernels: Kernels;
  ripper: BandRipper | undefined;
  drawings: Map<string, { drawing: Drawing; opened: OpenedPdf | undefined }>;
  /** By source the one whose drawings serve it. */
  alike: number[];
  /** Files of overlays, and how many pages each gave; the last used last. */
  overlays: Map<string, { opened: OpenedPdf; pages: number }>;
}

let bench: Bench | undefined;

/** What the thread keeps open between the bands of one job. */
function benchFor(shared: SharedJob): Bench {
  if (bench?.job.id === shared.id) return bench;
  if (bench) letGo(bench, 'all');
  const job = ownJob(shared);
  bench = {
    job,
    kernels: openKernels(job.kernels),
    ripper: undefined,
    drawings: new Map(),
    alike: drawnAlike(job.plan),
    overlays: new Map()
  };
  return bench;
}

/** Conditions' inks from one job to the next: files are named by what is in them, and small jobs are quick then. */
const opened = new Map<string, InkSpace>();
const MOST_OPENED = 4;

async function inksOf(files: InkSpaceFiles, kernels: Kernels): Promise<InkSpace> {
  const key = JSON.stringify(files);
  const known = opened.get(key) ?? (await openInkSpace(files, kernels));
  // The one that was not asked for the longest goes.
  opened.delete(key);
  opened.set(key, known);
  if (opened.size > MOST_OPENED) opened.delete(opened.keys().next().value as string);
  return known;
}

const keyOf = ({ alike }: Bench, { source, overlay, marked, layer }: Needed) =>
  `${alike[source]}/${marked ?? ''}/${layer ?? ''}/${overlay ?? ''}`;

/** A drawing of the run, made when it is first needed: of an artwork, of what it marks, or of what lies over it, in its inks. */
async function drawingOf(at: Bench, needed: Needed): Promise<Drawing> {
  const { job } = at;
  const known = at.drawings.get(keyOf(at, needed));
  if (known) return known.drawing;
  const source = job.plan.sources[needed.source];
  if (!source) throw new RangeError(`There is no artwork ${needed.source} in this run.`);
  // Without its record a piece would be printed bare.
  if (needed.overlay !== undefined && !source.overlays)
    throw new RangeError(`Artwork ${needed.source} has no overlays, and page ${needed.overlay} of them is asked for.`);
  const over = needed.overlay === undefined ? undefined : overlayAt(source.overlays!, needed.overlay);
  const { intent, sources, stack } = source;
  const marks = needed.marked && stack?.marks[needed.marked];
  const inks = {
    ...(await inksOf(
      { profile: job.profile, intent, sources, limits: job.limits, adjustment: source.prepare.adjustment },
      at.kernels
    )),
    kernels: at.kernels
  };
  const opened = over === undefined ? openPdfFile(source.file) : overlayFile(at, over.file, needed.marked);
  const own = stack?.layers.find(({ id }) => id === needed.layer)?.own;
  const drawing = marks
    ? makeMarkedDrawing(opened.document, over?.page ?? source.page, marks, source.prepare.leftOut)
    : makeDrawing(opened.document, over?.page ?? own?.page ?? source.page, drawingChoices({ ...source, ...own }), inks);
  at.drawings.set(keyOf(at, needed), { drawing, opened: over === undefined ? opened : undefined });
  return drawing;
}

/** The interpreter keeps what it reads of a file: one that gave so many pages is opened anew. */
const PAGES_A_FILE = 500;
/** Files of overlays that stay open from band to band. */
const OPEN_FILES = 3;

/** What is drawn for an ink has the file opened for itself: drawing changes what is open. */
function overlayFile(at: Bench, file: string, marked: ExtraInk | undefined): OpenedPdf {
  const key = `${file}/${marked ?? ''}`;
  const known = at.overlays.get(key) ?? { opened: openPdfFile(file), pages: 0 };
  at.overlays.delete(key);
  at.overlays.set(key, known);
  known.pages++;
  return known.opened;
}

/** Lets go of drawings: of the overlays, of which there may be thousands, or of all. */
function letGo(at: Bench, which: 'overlays' | 'all'): void {
  for (const [key, { drawing, opened }] of at.drawings) {
    if (which === 'overlays' && key.endsWith('/')) continue;
    drawing.list.destroy();
    opened?.close();
    at.drawings.delete(key);
  }
  const kept = [...at.overlays.keys()].slice(-OPEN_FILES);
  for (const [key, { opened, pages }] of at.overlays) {
    if (which === 'overlays' && pages < PAGES_A_FILE && kept.includes(key)) continue;
    opened.close();
    at.overlays.delete(key);
    // It keeps what it has read and drawn of a file that is closed until there are 256 MB of it.
    mupdf.emptyStore();
  }
}

/** What is printed in all inks takes the condition's own black, where its profile tells one; a chart has no profile. */
function withNeutralMarks({ plan, profile }: RipJob): RipPlan {
  const neutral = profile ? neutralBlack(readFileSync(profile)) : undefined;
  return neutral ? marksInNeutral(plan, neutral) : plan;
}

function ripperOf(at: Bench): BandRipper {
  const { job } = at;
  if (!at.ripper) {
    const bytes = readFileSync(job.mask);
    const ranks = new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2);
    at.ripper = new BandRipper(
      at.kernels,
      withNeutralMarks(job),
      { size: Math.sqrt(ranks.length), ranks },
      { method: job.method, curves: job.curves, mixture: job.mixture }
    );
  }
  return at.ripper;
}

/** Draws one artwork that is placed many times into shared memory. */
export const sprite = endingOnTraps(async ({ job, sprite: { key, buffer } }: SpriteRequest): Promise<void> => {
  const at = benchFor(job);
  const ripper = ripperOf(at);
  for (const needed of ripper.neededFor(key.source)) await drawingOf(at, needed);
  ripper.drawSprite(key, (needed) => at.drawings.get(keyOf(at, needed))!.drawing, new Uint8Array(buffer));
});

/** What groups of pieces have of each ink, ml, by the coarse means of a run. */
export const inkOf = ({ plan, groupOf, groups, coarse }: InkRequest): number[][] => {
  const file = openSync(coarse, 'r');
  try {
    const { widthPx, inks } = plateLayout(plan);
    const row = (widthPx / CELL ** 2) * inks.length;
    return inkOfPieces(plan, groupOf, groups, (from, count) => {
      const bytes = new Uint8Array(count * row);
      readSync(file, bytes, 0, bytes.length, from * row);
      return bytes;
    });
  } finally {
    closeSync(file);
  }
};

/** Draws, screens and writes one band. */
export const band = endingOnTraps(async (request: BandRequest): Promise<BandReport> => {
  const at = benchFor(request.job);
  const ripper = ripperOf(at);
  const sprites = request.sprites.map(({ key, buffer }) => ({ key, pixels: new Uint8Array(buffer) }));
  for (const needed of ripper.needed(request.band, sprites)) await drawingOf(at, needed);
  const parts = ripper.draw(request.band, sprites, (needed) => at.drawings.get(keyOf(at, needed))?.drawing as Drawing);
  letGo(at, 'overlays');
  // A turn of the loop: only then is the memory of what nothing holds any more given back. Between bands the pool waits without.
  await setImmediate();

  const turn = request.errors && new Int32Array(request.errors, 0, 1);
  const errors = request.errors && new Int32Array(request.errors, 4);
  if (turn) {
    for (let now = Atomics.load(turn, 0); now !== request.band.index; now = Atomics.load(turn, 0)) Atomics.wait(turn, 0, now);
  }
  const ripped = ripper.screen(request.band, parts, errors);
  if (turn && errors && ripped.errors) {
    errors.set(ripped.errors);
    Atomics.store(turn, 0, request.band.index + 1);
    Atomics.notify(turn, 0);
  }
  const offset = Number(Atomics.add(new BigInt64Array(request.end), 0, BigInt(ripped.packed.length)));
  writeAll(request.plates, ripped.packed, offset);
  const { widthPx, inks } = plateLayout(at.job.plan);
  const cells = widthPx / CELL;
  writeAll(request.overview, ripped.overview, (request.band.y / CELL) * cells * inks.length);
  writeAll(request.coarse, ripped.coarse, (request.band.y / CELL ** 2) * (cells / CELL) * inks.length);
  return { index: request.band.index, offset, sizes: ripped.sizes, drops: ripped.drops };
});

function writeAll(path: string, bytes: Uint8Array, position: number): void {
  const file = openSync(path, 'r+');
  try {
    for (let done = 0; done < bytes.length;) done += writeSync(file, bytes, done, bytes.length - done, position + done);
  } finally {
    closeSync(file);
  }
}
