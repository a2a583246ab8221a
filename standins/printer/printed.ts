import { readFile } from 'node:fs/promises';
import { setImmediate } from 'node:timers/promises';
import { xyzToSrgb, type Triple } from '$core/colour/lab';
import { stackXyz, type Ground, type View } from '$core/colour/stack-look';
import { PROCESS_CHANNELS } from '$core/inks/ink-set';
import type { LaidLayer } from '$core/inks/stack';
import type { Surface } from '$core/media/card';
import { outlineOn, printsOn, type OnThing } from './bed';
import type { PrinterJob } from './job';
import { Physics } from './physics';
import { FULL } from './press';
import { glossOf, groundOf, seenLayers, type CellLayer } from './stack-look';

/** What came out of the machine, as an eye, a camera and an instrument see it. */

const WHITE_MEDIA = '#ffffff';
/** Colours that are remembered while a picture is made. */
const MOST_COLOURS = 1 << 20;
const MEDIA_GLOSS: Record<Surface, number> = { gloss: 0.75, satin: 0.45, matt: 0.15, paper: 0.1, fabric: 0.05 };

/**
 * The colour at places of what was printed, as an aperture sees it: the mean of the cells in its square.
 *
 * @param places mm from the left edge and the start of the print
 * @returns XYZ of each, Y = 1 for the perfect reflector
 */
export async function look(job: PrinterJob, places: readonly { x: number; y: number }[], apertureMm: number): Promise<Triple[]> {
  const lies = await lieOf(job);
  const view: View = { from: 'front', backing: lies.physics.white };
  return places.map(({ x, y }) => {
    const from = (v: number, cell: number) => Math.max(0, Math.round((v - apertureMm / 2) / cell));
    const to = (v: number, cell: number, most: number) => Math.min(most, Math.round((v + apertureMm / 2) / cell));
    const sums = new Array<number>(lies.figures).fill(0);
    let count = 0;
    for (let row = from(y, job.cellMm.y); row < to(y, job.cellMm.y, lies.rows); row++) {
      for (let column = from(x, job.cellMm.x); column < to(x, job.cellMm.x, job.columns); column++, count++) {
        const at = (row * job.columns + column) * lies.figures;
        for (let i = 0; i < lies.figures; i++) sums[i] = sums[i]! + lies.cells[at + i]!;
      }
    }
    // Beside the print is bare media.
    const cell = lies.cellOf(sums.map((sum) => (count > 0 ? sum / count : 0)));
    return stackXyz(seenLayers(lies.layers, cell, lies.physics), lies.ground, view);
  });
}

/**
 * A picture of what was printed, from the front or from behind, over something, or of how it shines.
 *
 * @returns RGB of every cell
 */
export async function picture(
  job: PrinterJob,
  view: View | 'gloss'
): Promise<{ rgb: Uint8Array; columns: number; rows: number }> {
  const { cells, figures, rows, layers, physics, ground, cellOf } = await lieOf(job);
  const rgb = new Uint8Array(job.columns * rows * 3);
  const known = new Map<string, Triple>();
  const values = new Array<number>(figures);
  for (let i = 0; i < job.columns * rows; i++) {
    let key = '';
    for (let k = 0; k < figures; k++) {
      // As finely as an eye sees.
      const value = Math.round((cells[i * figures + k]! * 255) / FULL);
      values[k] = (value * FULL) / 255;
      key += String.fromCharCode(value);
    }
    let colour = known.get(key);
    if (!colour) {
      const cell = cellOf(values);
      if (view === 'gloss') {
        const shine = glossOf(layers, cell, MEDIA_GLOSS[job.surface]);
        colour = [shine, shine, shine];
      } else colour = xyzToSrgb(stackXyz(seenLayers(layers, cell, physics), ground, view));
      if (known.size < MOST_COLOURS) known.set(key, colour);
    }
    // Left and right change places for who looks from behind.
    const to = view !== 'gloss' && view.from === 'behind' ? i - (i % job.columns) + job.columns - 1 - (i % job.columns) : i;
    for (let k = 0; k < 3; k++) rgb[to * 3 + k] = Math.round(colour[k]! * 255);
    if (i % 1e6 === 0) await setImmediate();
  }
  return { rgb, columns: job.columns, rows };
}

/** What lies on the media, cell by cell. */
async function lieOf(job: PrinterJob): Promise<{
  cells: Uint16Array;
  figures: number;
  rows: number;
  layers: LaidLayer[];
  physics: Physics;
  ground: Ground;
  cellOf: (figures: readonly number[]) => CellLayer[];
}> {
  const bytes = await readFile(job.amounts);
  const cells = new Uint16Array(bytes.buffer, bytes.byteOffset, Math.floor(bytes.length / 2));
  const layers = job.layers ?? [{ ink: 'colour' as const }];
  const sizes = layers.map(({ ink }) => (ink === 'colour' ? PROCESS_CHANNELS.length : 1));
  const figures = sizes.reduce((sum, size) => sum + size, 0);
  const physics = new Physics(job.surface, job.load, job.unit, job.black);
  const { body = 'opaque', colour = WHITE_MEDIA } = job;
  // What an earlier version wrote has a full drop at the most.
  const full = job.layers ? FULL : 65_535;
  return {
    cells,
    figures,
    rows: Math.floor(cells.length / figures / job.columns),
    layers,
    physics,
    ground: colour === WHITE_MEDIA && body === 'opaque' ? { body, colour: physics.white } : groundOf(body, colour),
    cellOf: (values) => {
      let at = 0;
      return sizes.map((size) => values.slice(at, (at += size)).map((value) => value / full));
    }
  };
}

/** Where on the things that lay on the bed a job's print lies. */
export async function onThings(job: PrinterJob): Promise<OnThing[]> {
  const { cells, figures, rows } = await lieOf(job);
  const inked = (cell: number) => {
    let sum = 0;
    for (let i = 0; i < figures; i++) sum += cells[cell * figures + i]!;
    return sum;
  };
  return printsOn(job.things ?? [], { columns: job.columns, rows, cellMm: job.cellMm, inked });
}

/** Colour alone on white media, from the front, is drawn as it is printed. */
export const isPlainLook = ({ layers, body = 'opaque', colour = WHITE_MEDIA }: PrinterJob, from: string): boolean =>
  from === 'front' && (layers?.length ?? 1) === 1 && layers?.[0]?.ink !== 'white' && body === 'opaque' && colour === WHITE_MEDIA;

/** Outlines of what lay on the bed, over what was printed on it. */
export function drawnThings({ things = [], cellMm }: PrinterJob, width: number, height: number): Buffer | undefined {
  if (things.length === 0) return undefined;
  const path = (ring: { x: number; y: number }[]) =>
    `M${ring.map(({ x, y }) => `${(x / cellMm.x).toFixed(2)} ${(y / cellMm.y).toFixed(2)}`).join('L')}Z`;
  const paths = things.map((thing) => `<path d="${outlineOn(thing).map(path).join('')}"/>`);
  return Buffer.from(
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><g fill="none" stroke="#c00" stroke-width="1">${paths.join('')}</g></svg>`
  );
}
