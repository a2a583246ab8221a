import bwipjs from 'bwip-js/generic';
import * as mupdf from '../interpreter/interpreter';
import { MOST_CHARACTERS } from './line-of-text';
import type { Flat } from './print-list';

/** Lettering and codes as rectangles of ink, so that they print from plain amounts, before there is any profile. */

export type Rectangle = Omit<Flat, 'inks'>;

const DOTS_PER_MM = 7;

/**
 * A text as the sans has its characters: accents that are characters of their own, as in names of files from some systems, join
 * their letters, and what the sans does not have is seen to be missing.
 */
const inSans = (text: string, font: mupdf.Font): string =>
  [...text.normalize('NFC')]
    .map((one) => (font.encodeCharacter(one.codePointAt(0)!) > 0 ? one : /[\p{M}\p{C}]/u.test(one) ? '' : '?'))
    .join('');

/** Text in the interpreter's own sans, capitals `heightMm` high. */
export function textFlats(text: string, heightMm: number): { width: number; flats: Rectangle[] } {
  const font = new mupdf.Font('Helvetica');
  const size = (heightMm / 0.72) * DOTS_PER_MM;
  const written = new mupdf.Text();
  const end = written.showString(
    font,
    [size, 0, 0, -size, 0, heightMm * DOTS_PER_MM],
    inSans(text.slice(0, MOST_CHARACTERS), font)
  );
  const width = Math.ceil(end[4]) + 2;
  const height = Math.ceil(heightMm * 1.35 * DOTS_PER_MM);
  const pixmap = new mupdf.Pixmap(mupdf.ColorSpace.DeviceGray, [0, 0, width, height], false);
  pixmap.clear(255);
  const device = new mupdf.DrawDevice(mupdf.Matrix.identity, pixmap);
  device.fillText(written, mupdf.Matrix.identity, mupdf.ColorSpace.DeviceGray, [0], 1);
  device.close();
  const bits = Uint8Array.from(pixmap.getPixels(), (v) => (v < 128 ? 1 : 0));
  for (const made of [device, pixmap, written, font]) made.destroy();
  return { width: width / DOTS_PER_MM, flats: rectangles(bits, width, 1 / DOTS_PER_MM) };
}

/** A Data Matrix (ISO/IEC 16022) of a text. */
export function codeFlats(text: string, sizeMm: number, kind: 'datamatrix' | 'qrcode' = 'datamatrix'): Rectangle[] {
  const [symbol] = bwipjs.raw({ bcid: kind, text });
  if (!symbol || !('pixs' in symbol)) throw new RangeError(`There is no code for “${text}”.`);
  return rectangles(Uint8Array.from(symbol.pixs), symbol.pixx, sizeMm / symbol.pixx);
}

/** Runs of set cells, joined with the same run of the row above. @param cell its side */
export function rectangles(bits: Uint8Array, width: number, cell: number): Rectangle[] {
  const done: Rectangle[] = [];
  let open = new Map<string, Rectangle>();
  for (let y = 0; y * width < bits.length; y++) {
    const next = new Map<string, Rectangle>();
    for (let x = 0; x < width; x++) {
      if (!bits[y * width + x]) continue;
      let end = x;
      while (end < width && bits[y * width + end]) end++;
      const key = `${x}-${end}`;
      const above = open.get(key);
      if (above) above.height += cell;
      const rectangle = above ?? { x: x * cell, y: y * cell, width: (end - x) * cell, height: cell };
      if (!above) done.push(rectangle);
      next.set(key, rectangle);
      x = end;
    }
    open = next;
  }
  return done;
}
