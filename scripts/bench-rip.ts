import { mkdtempSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import PDFDocument from 'pdfkit';
import { wholePage } from '$core/artwork/preparation';
import { DEFAULT_SEPARATION } from '$core/colour/black';
import { offsetCoated } from '$core/colour/conditions';
import { greyProfile, srgbProfile } from '$core/colour/icc-write';
import { buildProfile, modelPress } from '$core/colour/profile-build';
import { evenSides } from '$core/geometry/box';
import { PROCESS_CHANNELS } from '$core/inks/ink-set';
import type { Mixture } from '$core/inks/mixture';
import type { PlacedPiece } from '$core/layout/pieces';
import type { RipPlan } from '$core/rip/plan';
import { straightCurve } from '$core/screening/thresholds';
import { KERNELS_FILE, makePool, MASK_FILE } from '$lib/server/platform/tasks/pool';
import { ripToFile } from '$lib/server/production/rip';
import type { RipJob } from '$lib/server/production/rip-job';

/** What figures of the RIP share: made pages, profiles, and a run that is timed. */

export const folder = mkdtempSync(join(tmpdir(), 'zing-bench-'));
export const report = (name: string, value: number, unit: string) =>
  process.stdout.write(`${name}\t${value.toFixed(2)}\t${unit}\n`);
export const MM = 72 / 25.4;
/** Writes a PDF drawn by `draw` at a size in mm. */
export async function pdf(name: string, width: number, height: number, draw: (doc: PDFKit.PDFDocument) => void): Promise<string> {
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

function profiles(): { profile: string; sources: { rgb: string; cmyk: string; grey: string } } {
  const put = (name: string, bytes: Uint8Array) => {
    writeFileSync(join(folder, name), bytes);
    return join(folder, name);
  };
  const cmyk = put(
    'cmyk.icc',
    buildProfile(modelPress(offsetCoated()), {
      name: 'Bench',
      version: 2,
      made: { year: 2026, month: 1, day: 1 },
      separation: DEFAULT_SEPARATION,
      forwardGrid: 13,
      backwardGrid: 17
    })
  );
  return { profile: cmyk, sources: { rgb: put('rgb.icc', srgbProfile()), cmyk, grey: put('grey.icc', greyProfile()) } };
}

export const colours = profiles();

export async function rip(
  plan: RipPlan,
  threads?: number,
  mixture?: Mixture
): Promise<{ seconds: number; megapixels: number; peakMb: number }> {
  const pool = makePool('rip-worker', threads);
  const output = { plates: join(folder, 'run.tif'), overview: join(folder, 'run.overview'), coarse: join(folder, 'run.coarse') };
  const job: RipJob = {
    id: String(Math.random()),
    plan,
    profile: colours.profile,
    curves: PROCESS_CHANNELS.map(() => [...straightCurve()]),
    mixture,
    limits: { total: 4 },
    kernels: KERNELS_FILE,
    mask: MASK_FILE,
    method: 'blue-noise'
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

export const one = (file: string, widthMm: number, heightMm: number) => ({
  prepare: wholePage({ widthMm, heightMm }),
  file,
  page: 0,
  widthMm,
  heightMm,
  bleed: evenSides(0),
  intent: 'relative' as const,
  sources: colours.sources
});

export function grid(count: number, perRow: number, pitch: number): PlacedPiece[] {
  return Array.from({ length: count }, (_, i) => ({
    source: 0,
    x: 10 + (i % perRow) * pitch,
    y: 5 + Math.floor(i / perRow) * pitch,
    turn: 0
  }));
}
