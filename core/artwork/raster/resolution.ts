import { ppiOfTags, readTags, type ReadAt } from './tags';

/** What a picture says of its size, as the file has it: readers fill in a guess where it says nothing. */

/** One pixel a millimetre is what a widespread coder writes that does not know. */
const UNKNOWN = 25.4;

const SANE = (ppi: number | undefined) =>
  ppi !== undefined && ppi >= 10 && ppi <= 20_000 && Math.abs(ppi - UNKNOWN) > 0.01 ? ppi : undefined;
const ascii = (bytes: Uint8Array, at: number, length: number) => String.fromCharCode(...bytes.subarray(at, at + length));
const big16 = (bytes: Uint8Array, at: number) => ((bytes[at] ?? 0) << 8) | (bytes[at + 1] ?? 0);
const big32 = (bytes: Uint8Array, at: number) => big16(bytes, at) * 65536 + big16(bytes, at + 2);
const METRE = 0.0254;

/** @returns pixels an inch; nothing where the file does not say, or says what cannot be */
export function saidPpi(format: string, read: ReadAt): number | undefined {
  if (format === 'TIFF') return SANE(ppiOfTags(readTags(read)[0]));
  if (format === 'PNG') return SANE(pngPpi(read));
  if (format === 'JPEG') return SANE(jpegPpi(read));
  if (format === 'BMP') {
    const head = read(0, 46);
    const perMetre = (head[38] ?? 0) | ((head[39] ?? 0) << 8) | ((head[40] ?? 0) << 16);
    return perMetre > 0 ? SANE(perMetre * METRE) : undefined;
  }
  return undefined;
}

/** The chunk pHYs, which stands before the picture (PNG 1.2, 11.3.5.3). */
function pngPpi(read: ReadAt): number | undefined {
  for (let at = 8, chunks = 0; chunks < 1000; chunks++) {
    const head = read(at, 17);
    const name = ascii(head, 4, 4);
    if (head.length < 8 || name === 'IDAT') return undefined;
    if (name === 'pHYs') return head[16] === 1 ? big32(head, 8) * METRE : undefined;
    at += 12 + big32(head, 0);
  }
  return undefined;
}

/** JFIF's density, or EXIF's. */
function jpegPpi(read: ReadAt): number | undefined {
  let jfif: number | undefined;
  for (let at = 2, markers = 0; markers < 1000; markers++) {
    const head = read(at, 20);
    const marker = head[1] ?? 0;
    if (head[0] !== 0xff || marker === 0xda || marker === 0xd9) break;
    const length = big16(head, 2);
    const name = ascii(head, 4, 4);
    if (marker === 0xe0 && name === 'JFIF') {
      const unit = head[11];
      const density = big16(head, 12);
      if (unit === 1) jfif = density;
      if (unit === 2) jfif = density * 2.54;
    }
    if (marker === 0xe1 && name === 'Exif') {
      const start = at + 10;
      const said = ppiOfTags(readTags((position, bytes) => read(start + position, bytes))[0]);
      if (said !== undefined) return jfif ?? said;
    }
    at += 2 + length;
  }
  return jfif;
}
