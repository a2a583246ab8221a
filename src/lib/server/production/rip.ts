import { setMaxListeners } from 'node:events';
import { open, rename, rm, truncate, writeFile } from 'node:fs/promises';
import type { Piscina } from 'piscina';
import { ArtworkError } from '$core/artwork/facts';
import { inkMl, type DropCounts } from '$core/inks/drops';
import { bandsOf, planesOf, plateLayout, spriteBytes, spritesOf, type RipPlan } from '$core/rip/plan';
import { CELL } from '$core/rip/record';
import { diffuses, errorCount } from '$core/screening/screener';
import { PLATE_HEADER_BYTES, plateDirectory, stripsPerPlate, type Strip } from '$core/rip/plate-file';
import { threadBroke } from '../platform/tasks/pool';
import { shareJob, type BandReport, type BandRequest, type RipJob, type SharedSprite } from './rip-job';

/** The plates, and their mean ink in cells of 8 × 8 and of 64 × 64 pixels. */
export interface RipFiles {
  plates: string;
  overview: string;
  coarse: string;
}

export interface RipResult {
  widthPx: number;
  heightPx: number;
  bytes: number;
  /** By plate. */
  drops: DropCounts[];
  /** By ink of the machine. */
  inkMl: number[];
}

/**
 * RIPs a run to a plate file and its overviews. They appear under their names only when they are whole. Where a thread breaks,
 * all of it begins once more, in fresh threads.
 *
 * @param onProgress told the share of rows that is done
 * @throws ArtworkError when threads break twice
 */
export async function ripToFile(...request: Parameters<typeof ripOnce>): Promise<RipResult> {
  const [, , , signal] = request;
  for (let last = false; ; last = true) {
    try {
      return await ripOnce(...request);
    } catch (error) {
      if (signal.aborted || !threadBroke(error)) throw error;
      if (last)
        throw new ArtworkError(
          'An artwork of this run breaks the program that draws it. RIP the dockets apart to find it, and ask for its file anew.'
        );
    }
  }
}

/** Ink of a run by ink of the machine: one may have plates in several layers. */
function mlByInk(plan: RipPlan, drops: readonly DropCounts[]): number[] {
  const planes = planesOf(plan);
  return plan.inks.map((ink, i) =>
    planes.reduce((sum, plane, plate) => sum + (plane.ink === i ? inkMl(drops[plate]!, ink.drops) : 0), 0)
  );
}

async function ripOnce(
  pool: Piscina,
  job: RipJob,
  output: RipFiles,
  signal: AbortSignal,
  onProgress: (share: number) => void
): Promise<RipResult> {
  const layout = plateLayout(job.plan);
  const bands = bandsOf(layout);
  const plates = `${output.plates}.part`;
  const overview = `${output.overview}.part`;
  const coarse = `${output.coarse}.part`;
  const shared = shareJob(job);
  const stop = new AbortController();
  const cancelled = AbortSignal.any([signal, stop.signal]);
  // Every band that waits listens to it.
  setMaxListeners(0, cancelled);
  try {
    await writeFile(plates, '');
    await writeFile(overview, '');
    await writeFile(coarse, '');
    await truncate(overview, Math.ceil(layout.heightPx / CELL) * (layout.widthPx / CELL) * layout.inks.length);

    const sprites: SharedSprite[] = spritesOf(job.plan).map((key) => ({
      key,
      buffer: new SharedArrayBuffer(spriteBytes(job.plan, key))
    }));
    await Promise.all(sprites.map((sprite) => pool.run({ job: shared, sprite }, { name: 'sprite', signal: cancelled })));

    const end = new SharedArrayBuffer(8);
    new BigInt64Array(end)[0] = BigInt(PLATE_HEADER_BYTES);
    const errors = diffuses(job.method)
      ? new SharedArrayBuffer(4 + errorCount(layout.widthPx, layout.inks.length) * 4)
      : undefined;
    let rows = 0;
    let next = 0;
    const reports: BandReport[] = [];
    // A band of error diffusion waits in its thread for the one before it, and the pool keeps no order: never are more asked
    // for than there are threads, so that none waits for one that cannot begin.
    const oneAfterAnother = async () => {
      for (let band = bands[next++]; band; band = bands[next++]) {
        const request: BandRequest = { job: shared, band, sprites, plates, overview, coarse, end, ...(errors && { errors }) };
        reports.push((await pool.run(request, { name: 'band', signal: cancelled })) as BandReport);
        rows += band.rows;
        onProgress(rows / layout.heightPx);
      }
    };
    await Promise.all(Array.from({ length: pool.options.maxThreads }, oneAfterAnother));

    const perPlate = stripsPerPlate(layout);
    const strips = new Array<Strip>(perPlate * layout.inks.length);
    for (const report of reports) {
      const band = bands[report.index];
      const count = report.sizes.length / layout.inks.length;
      const first = (band?.y ?? 0) / layout.rowsPerStrip;
      let offset = report.offset;
      for (let plate = 0; plate < layout.inks.length; plate++) {
        for (let i = 0; i < count; i++) {
          const bytes = report.sizes[plate * count + i] ?? 0;
          strips[plate * perPlate + first + i] = { offset, bytes };
          offset += bytes;
        }
      }
    }
    const dataEnd = Number(new BigInt64Array(end)[0]);
    const { header, directory } = plateDirectory(layout, strips, dataEnd);
    const file = await open(plates, 'r+');
    try {
      await file.write(directory, 0, directory.length, dataEnd);
      await file.write(header, 0, header.length, 0);
      await file.sync();
    } finally {
      await file.close();
    }
    signal.throwIfAborted();
    await rename(overview, output.overview);
    await rename(coarse, output.coarse);
    await rename(plates, output.plates);
    const drops = layout.inks.map((_, plate): DropCounts => {
      const sum: [number, number, number] = [0, 0, 0];
      for (const report of reports) report.drops[plate]?.forEach((count, size) => (sum[size as 0 | 1 | 2] += count));
      return sum;
    });
    return {
      widthPx: layout.widthPx,
      heightPx: layout.heightPx,
      bytes: dataEnd + directory.length,
      drops,
      inkMl: mlByInk(job.plan, drops)
    };
  } catch (error) {
    // One band that fails ends the others too.
    stop.abort();
    await Promise.all([plates, overview, coarse].map((path) => rm(path, { force: true })));
    throw error;
  }
}
