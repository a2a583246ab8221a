/**
 * PWG raster, as programs without a PDF send pages to printers.
 *
 * @see PWG 5102.4
 */

const SYNC = 'RaS2';
const HEAD_BYTES = 1796;
const MOST_SIDE = 200_000;

/** Kinds of pixels that are read, by their number, bits a colour and bits a pixel. */
const KINDS = {
  black_1: { space: 3, bits: 1, pixel: 1, channels: 1, blank: 0 },
  sgray_8: { space: 18, bits: 8, pixel: 8, channels: 1, blank: 255 },
  srgb_8: { space: 19, bits: 8, pixel: 24, channels: 3, blank: 255 },
  cmyk_8: { space: 6, bits: 8, pixel: 32, channels: 4, blank: 0 }
} as const;
type Kind = keyof typeof KINDS;
export const PWG_KINDS = Object.keys(KINDS) as Kind[];

export interface PwgHead {
  kind: Kind;
  width: number;
  height: number;
  /** Dots an inch. */
  across: number;
  down: number;
  /** Of a line that is not packed. */
  lineBytes: number;
}

export interface PwgPage extends PwgHead {
  channels: 1 | 3 | 4;
  /** 8 bits a channel, line after line; grey and RGB are light, CMYK is ink. */
  data: Uint8Array;
}

/** What is no such raster, or ends before its end. */
export class NotPwg extends Error {}

const isWhole = (bytes: Uint8Array, from: number, length: number): boolean => from + length <= bytes.length;

/** @param at where a page begins @throws NotPwg */
export function readPwgHead(bytes: Uint8Array, at: number): PwgHead {
  if (!isWhole(bytes, at, HEAD_BYTES)) throw new NotPwg('The raster ends within a page.');
  const view = new DataView(bytes.buffer, bytes.byteOffset + at, HEAD_BYTES);
  const u32 = (offset: number) => view.getUint32(offset);
  const [width, height, bits, pixel, lineBytes, space] = [372, 376, 384, 388, 392, 400].map(u32) as [number, number, number, number, number, number]; // prettier-ignore
  const [across, down] = [u32(276), u32(280)];
  const kind = PWG_KINDS.find((one) => KINDS[one].space === space && KINDS[one].bits === bits && KINDS[one].pixel === pixel);
  if (!kind) throw new NotPwg(`The raster has ${bits} bits a colour in colour space ${space}; ${PWG_KINDS.join(', ')} are read.`);
  if (width < 1 || height < 1 || width > MOST_SIDE || height > MOST_SIDE || across < 1 || down < 1)
    throw new NotPwg(`A page of the raster is ${width} × ${height} dots at ${across} × ${down} dpi.`);
  if (lineBytes !== Math.ceil((width * pixel) / 8))
    throw new NotPwg('The lines of the raster are not as long as its page is wide.');
  return { kind, width, height, across, down, lineBytes };
}

/**
 * The pages of a raster, one after the other.
 *
 * @param look told of each page before its pixels are read; what it throws ends the reading
 * @throws NotPwg
 */
export function* readPwg(bytes: Uint8Array, look: (head: PwgHead) => void): Generator<PwgPage> {
  if (!isPwg(bytes)) throw new NotPwg('This is no PWG raster.');
  let at = SYNC.length;
  if (at === bytes.length) throw new NotPwg('The raster has no page.');
  while (at < bytes.length) {
    const head = readPwgHead(bytes, at);
    look(head);
    const { channels } = KINDS[head.kind];
    const packed = new Uint8Array(head.lineBytes * head.height);
    at = unpack(bytes, at + HEAD_BYTES, head, packed);
    yield { ...head, channels, data: head.kind === 'black_1' ? greyOf(packed, head) : packed };
  }
}

export const isPwg = (bytes: Uint8Array): boolean => SYNC.split('').every((letter, i) => bytes[i] === letter.charCodeAt(0));

/** Lines are told how often, and in them pixels as runs of one or as they are. @returns where the page ends */
function unpack(bytes: Uint8Array, from: number, { kind, height, lineBytes }: PwgHead, into: Uint8Array): number {
  const { pixel, blank } = KINDS[kind];
  const unit = Math.max(1, pixel / 8);
  let at = from;
  for (let y = 0; y < height;) {
    const times = must(bytes, at++) + 1;
    if (y + times > height) throw new NotPwg('The raster has more lines than its page is high.');
    const [start, end] = [y * lineBytes, (y + 1) * lineBytes];
    for (let x = start; x < end;) {
      const code = must(bytes, at++);
      // To the end of the line there is nothing.
      if (code === 128) {
        into.fill(blank, x, end);
        x = end;
        continue;
      }
      const isRun = code < 128;
      const length = (isRun ? code + 1 : 257 - code) * unit;
      const taken = isRun ? unit : length;
      if (x + length > end) throw new NotPwg('A line of the raster is longer than its page is wide.');
      if (!isWhole(bytes, at, taken)) throw new NotPwg('The raster ends within a page.');
      if (isRun) for (let i = 0; i < length; i++) into[x + i] = bytes[at + (i % unit)]!;
      else into.set(bytes.subarray(at, at + length), x);
      at += taken;
      x += length;
    }
    for (let n = 1; n < times; n++) into.copyWithin(start + n * lineBytes, start, end);
    y += times;
  }
  return at;
}

function must(bytes: Uint8Array, at: number): number {
  const byte = bytes[at];
  if (byte === undefined) throw new NotPwg('The raster ends within a page.');
  return byte;
}

/** Bits of ink as 8 bits of light. */
function greyOf(packed: Uint8Array, { width, height, lineBytes }: PwgHead): Uint8Array {
  const grey = new Uint8Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) grey[y * width + x] = (packed[y * lineBytes + (x >> 3)]! >> (7 - (x & 7))) & 1 ? 0 : 255;
  return grey;
}
