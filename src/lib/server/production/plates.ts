import { open, type FileHandle } from 'node:fs/promises';
import sharp from 'sharp';
import type { Ink, InkSet } from '$core/inks/ink-set';
import type { Triple } from '$core/colour/lab';
import { unpackWindow } from '$core/rip/plate-window';
import {
  packedRowBytes,
  PLATE_HEADER_BYTES,
  plateDirectory,
  readPlateFile,
  stripsPerPlate,
  type PlateFile,
  type Strip
} from '$core/rip/plate-file';
import { MM_PER_INCH } from '$core/units/length';
import { Problem } from '../platform/problem';
import type { RipFiles } from './rip';

/** Looking into plate files: tiles for the screen, and amounts at a point. */

export const TILE = 512;
/** Pixels a side of the cells of the two files of means. */
export const CELL = 8;
export const COARSE = 64;

/** What an ink takes away of white light, by its colour on the screen; black is not quite so, that drops on it are seen. */
const takenBy = ({ colour }: Pick<Ink, 'colour'>): number[] =>
  [1, 3, 5].map((i) => Math.min(0.93, 1 - Number.parseInt(colour.slice(i, i + 2), 16) / 255));

/** White ink on screen: a little less than the white of paper. */
const WHITE_INK = 0.96;

/** Opens a file of a run's plates. @throws Problem where it is gone */
export function openPart(path: string): Promise<FileHandle> {
  return open(path, 'r').catch(() => {
    throw new Problem(404, 'The plates of this run are gone. RIP it again.');
  });
}

async function withPlates<T>(
  path: string,
  use: (plates: PlateFile, readAt: (offset: number, length: number) => Promise<Uint8Array>) => Promise<T>
): Promise<T> {
  const file = await openPart(path);
  try {
    const readAt = async (offset: number, length: number) => {
      const bytes = new Uint8Array(length);
      const { bytesRead } = await file.read(bytes, 0, length, offset);
      return bytes.subarray(0, bytesRead);
    };
    return await use(await readPlateFile(readAt, (await file.stat()).size), readAt);
  } finally {
    await file.close();
  }
}

export interface TileRequest {
  paths: RipFiles;
  size: { widthPx: number; heightPx: number };
  /** Device pixels to one of the tile: 1, 2, 4, … ; from 8 on the overview is used. */
  shrink: number;
  column: number;
  row: number;
  /** Of the plates. */
  inks: InkSet;
  /** Which of them are on. */
  shown: readonly boolean[];
  /**
   * The media as it is looked at, red, green and blue in 0…1, which white hides; without it plates lie on white, each in the
   * colour that its ink has on screens.
   */
  ground?: Readonly<Triple>;
}

/** One tile of the run as PNG. @throws Problem where there is none */
export async function plateTile({ paths, size, shrink, column, row, inks, shown, ground }: TileRequest): Promise<Buffer> {
  const width = Math.min(TILE, Math.ceil(size.widthPx / shrink) - column * TILE);
  const height = Math.min(TILE, Math.ceil(size.heightPx / shrink) - row * TILE);
  if (!(width > 0 && height > 0)) throw new Problem(404, 'There is no such tile.');
  const window = { x: column * TILE, y: row * TILE, width, height };
  const count = inks.length;
  const amounts =
    shrink >= COARSE
      ? await cellInks(paths.coarse, COARSE, size, shrink, window, count)
      : shrink >= CELL
        ? await cellInks(paths.overview, CELL, size, shrink, window, count)
        : await plateInks(paths.plates, shrink, window, inks);
  const seen = inks
    .map((ink, i) => ({ i, taken: takenBy(ink), hides: ground !== undefined && ink.role === 'white' }))
    .filter(({ i }) => shown[i]);
  const [r0, g0, b0] = ground ?? [1, 1, 1];
  const rgb = Buffer.alloc(width * height * 3);
  for (let i = 0; i < width * height; i++) {
    let r = r0;
    let g = g0;
    let b = b0;
    for (const { i: ink, taken, hides } of seen) {
      const amount = (amounts[i * count + ink] as number) / 255;
      if (amount === 0) continue;
      if (hides) {
        r += (WHITE_INK - r) * amount;
        g += (WHITE_INK - g) * amount;
        b += (WHITE_INK - b) * amount;
        continue;
      }
      r *= 1 - amount * (taken[0] as number);
      g *= 1 - amount * (taken[1] as number);
      b *= 1 - amount * (taken[2] as number);
    }
    rgb[i * 3] = Math.round(r * 255);
    rgb[i * 3 + 1] = Math.round(g * 255);
    rgb[i * 3 + 2] = Math.round(b * 255);
  }
  return sharp(rgb, { raw: { width, height, channels: 3 } })
    .png({ compressionLevel: 2 })
    .toBuffer();
}

/** Interleaved ink amounts 0…255 of an area, averaged from single drops. */
export function plateInks(
  path: string,
  shrink: number,
  { x: x0, y: y0, width, height }: Window,
  inks: InkSet
): Promise<Uint8Array> {
  return withPlates(path, async (plates, readAt) => {
    const bytes = packedRowBytes(plates);
    const count = inks.length;
    const sums = new Float32Array(width * height * count);
    const top = y0 * shrink;
    const bottom = Math.min(plates.heightPx, (y0 + height) * shrink);
    const right = Math.min(plates.widthPx, (x0 + width) * shrink);
    for (let strip = Math.floor(top / plates.rowsPerStrip); strip * plates.rowsPerStrip < bottom; strip++) {
      const first = strip * plates.rowsPerStrip;
      const rows = Math.min(plates.rowsPerStrip, plates.heightPx - first);
      for (let ink = 0; ink < count; ink++) {
        const { drops } = inks[ink] as Ink;
        const amount = [0, ...drops.map((volume) => (volume / drops[2]) * 255)];
        const amounts = Float64Array.from({ length: 256 }, (_, byte) =>
          [6, 4, 2, 0].reduce((sum, shift) => sum + amount[(byte >> shift) & 3]!, 0)
        );
        const place = plates.strips[ink * stripsPerPlate(plates) + strip];
        if (!place) continue;
        const from = Math.max(top, first);
        const to = Math.min(bottom, first + rows);
        const byte = (x0 * shrink) >> 2;
        const window = { row: from - first, rows: to - from, byte, bytes: Math.ceil(right / 4) - byte };
        const data = unpackWindow(await readAt(place.offset, place.bytes), bytes, window);
        for (let y = from; y < to; y++) {
          const line = (y - from) * window.bytes - byte;
          const out = Math.floor(y / shrink - y0) * width - x0;
          for (let four = byte; four < byte + window.bytes; four++) {
            const packed = data[line + four]!;
            if (packed === 0) continue;
            // The four pixels of a byte lie in one where that is so many of them or more.
            if (shrink % 4 === 0) {
              const at = (out + Math.floor((4 * four) / shrink)) * count + ink;
              sums[at] = sums[at]! + amounts[packed]!;
              continue;
            }
            for (let x = Math.max(4 * four, x0 * shrink); x < Math.min(4 * four + 4, right); x++) {
              const at = (out + Math.floor(x / shrink)) * count + ink;
              sums[at] = sums[at]! + amount[(packed >> (6 - 2 * (x & 3))) & 3]!;
            }
          }
        }
      }
    }
    const means = new Uint8Array(sums.length);
    for (let i = 0; i < means.length; i++) means[i] = sums[i]! / (shrink * shrink) + 0.5;
    return means;
  });
}

/** Of pixels that are shrunk so. */
export interface Window {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** The same from a file of means, each of `cell` × `cell` pixels; as many of them go into one pixel as `shrink` asks for. */
async function cellInks(
  path: string,
  cell: number,
  size: { widthPx: number; heightPx: number },
  shrink: number,
  window: Window,
  inks: number
): Promise<Uint8Array> {
  const columns = Math.ceil(size.widthPx / cell);
  const rows = Math.ceil(size.heightPx / cell);
  const step = shrink / cell;
  const file = await openPart(path);
  try {
    const out = new Uint8Array(window.width * window.height * inks);
    const right = Math.min(columns, (window.x + window.width) * step);
    const sums = new Uint32Array(window.width * inks);
    // Many rows in one reading, but never the whole of a long run.
    const atOnce = Math.max(step, Math.floor(4e6 / (columns * inks) / step) * step);
    const lines = new Uint8Array(atOnce * columns * inks);
    let held = -1;
    for (let y = 0; y < window.height; y++) {
      sums.fill(0);
      const top = (window.y + y) * step;
      const bottom = Math.min(rows, top + step);
      if (held < 0 || bottom > held + atOnce) {
        held = top;
        await file.read(lines, 0, lines.length, top * columns * inks);
      }
      for (let sy = top; sy < bottom; sy++) {
        const line = (sy - held) * columns * inks;
        for (let sx = window.x * step; sx < right; sx++) {
          const at = (Math.floor(sx / step) - window.x) * inks;
          const from = line + sx * inks;
          for (let ink = 0; ink < inks; ink++) sums[at + ink] = (sums[at + ink] as number) + (lines[from + ink] as number);
        }
      }
      const count = Math.max(1, (bottom - top) * step);
      for (let i = 0; i < window.width * inks; i++) out[y * window.width * inks + i] = Math.round((sums[i] as number) / count);
    }
    return out;
  } finally {
    await file.close();
  }
}

/** Mean of each ink (0…1) around a point: the cell of 8 × 8 pixels that it lies in. */
export async function inkAt(
  overview: string,
  size: { widthPx: number; heightPx: number },
  inks: number,
  x: number,
  y: number
): Promise<number[]> {
  const columns = size.widthPx / CELL;
  const cx = Math.floor(x / CELL);
  const cy = Math.floor(y / CELL);
  if (cx < 0 || cy < 0 || cx >= columns || cy >= Math.ceil(size.heightPx / CELL))
    throw new Problem(404, 'This point is outside the run.');
  const file = await openPart(overview);
  try {
    const cell = new Uint8Array(inks);
    await file.read(cell, 0, inks, (cy * columns + cx) * inks);
    return [...cell].map((value) => value / 255);
  } finally {
    await file.close();
  }
}

/** Writes the plates of a run from `fromMm` on as a plate file of their own; it begins on a strip at or before that place. */
export function writeRest(whole: string, rest: string, fromMm: number): Promise<void> {
  return withPlates(whole, async (plates, readAt) => {
    const perPlate = stripsPerPlate(plates);
    const first = Math.floor(((fromMm / MM_PER_INCH) * plates.dpi.y) / plates.rowsPerStrip);
    const layout = { ...plates, heightPx: plates.heightPx - first * plates.rowsPerStrip };
    const strips: Strip[] = [];
    const out = await open(rest, 'w');
    try {
      let at = PLATE_HEADER_BYTES;
      for (let plate = 0; plate < plates.inks.length; plate++) {
        for (const strip of plates.strips.slice(plate * perPlate + first, (plate + 1) * perPlate)) {
          await out.write(await readAt(strip.offset, strip.bytes), 0, strip.bytes, at);
          strips.push({ offset: at, bytes: strip.bytes });
          at += strip.bytes;
        }
      }
      const { header, directory } = plateDirectory(layout, strips, at);
      await out.write(directory, 0, directory.length, at);
      await out.write(header, 0, header.length, 0);
      await out.sync();
    } finally {
      await out.close();
    }
  });
}
