import { unzlibSync } from 'fflate';

/** Font files: what family they hold, and the plain form of compressed ones. */

const word = (bytes: Uint8Array, at: number) => ((bytes[at] ?? 0) << 8) | (bytes[at + 1] ?? 0);
const long = (bytes: Uint8Array, at: number) => word(bytes, at) * 65536 + word(bytes, at + 2);
const tag = (bytes: Uint8Array, at: number) => String.fromCharCode(...bytes.subarray(at, at + 4));

/** @returns `sfnt` for TrueType and OpenType, `woff`, `woff2`; undefined for what is no font */
export function fontKind(bytes: Uint8Array): 'sfnt' | 'woff' | 'woff2' | undefined {
  const magic = tag(bytes, 0);
  if (magic === 'wOFF') return 'woff';
  if (magic === 'wOF2') return 'woff2';
  return ['\0\x01\0\0', 'OTTO', 'true', 'ttcf'].includes(magic) ? 'sfnt' : undefined;
}

const MOST_BYTES = 60e6;

/** Unpacks WOFF 1.0 (W3C 2012). @throws Error when it is broken or unpacks to more than 60 MB */
export function sfntOfWoff(woff: Uint8Array): Uint8Array {
  const count = word(woff, 12);
  const tables = Array.from({ length: count }, (_, i) => {
    const at = 44 + i * 20;
    const [offset, packed, length] = [long(woff, at + 4), long(woff, at + 8), long(woff, at + 12)];
    const data = woff.subarray(offset, offset + packed);
    if (length > MOST_BYTES) throw new Error('The font is too large.');
    return {
      tag: woff.subarray(at, at + 4),
      sum: woff.subarray(at + 16, at + 20),
      data: packed < length ? unzlibSync(data, { out: new Uint8Array(length) }) : data
    };
  });
  const padded = (n: number) => (n + 3) & ~3;
  const total = 12 + count * 16 + tables.reduce((sum, { data }) => sum + padded(data.length), 0);
  if (total > MOST_BYTES) throw new Error('The font is too large.');
  const out = new Uint8Array(total);
  const view = new DataView(out.buffer);
  out.set(woff.subarray(4, 8), 0);
  view.setUint16(4, count);
  const power = 2 ** Math.floor(Math.log2(Math.max(1, count)));
  view.setUint16(6, power * 16);
  view.setUint16(8, Math.log2(power));
  view.setUint16(10, count * 16 - power * 16);
  let at = 12 + count * 16;
  tables.forEach((table, i) => {
    const entry = 12 + i * 16;
    out.set(table.tag, entry);
    out.set(table.sum, entry + 4);
    view.setUint32(entry + 8, at);
    view.setUint32(entry + 12, table.data.length);
    out.set(table.data, at);
    at += padded(table.data.length);
  });
  return out;
}

/** Of a font's names, which it may have in more than one encoding (OpenType `name`). */
export const FONT_NAMES = { family: [16, 1], style: [17, 2], licence: [13], address: [14] } as const;

/** The family that an sfnt file says it is. @returns undefined where it does not say */
export const familyOf = (font: Uint8Array): string | undefined => nameOf(font, FONT_NAMES.family);

/**
 * A name that an sfnt file says.
 *
 * @param ids those that serve, the best first
 * @returns undefined where it does not say
 */
export function nameOf(font: Uint8Array, ids: readonly number[]): string | undefined {
  const start = tag(font, 0) === 'ttcf' ? long(font, 12) : 0;
  for (let i = 0; i < word(font, start + 4); i++) {
    const entry = start + 12 + i * 16;
    if (tag(font, entry) !== 'name') continue;
    const table = long(font, entry + 8);
    const strings = table + word(font, table + 4);
    let best: { name: string; rank: number } | undefined;
    for (let k = 0; k < Math.min(2000, word(font, table + 2)); k++) {
      const record = table + 6 + k * 12;
      const rank = ids.indexOf(word(font, record + 6));
      if (rank < 0 || (best && rank >= best.rank)) continue;
      const bytes = font.subarray(strings + word(font, record + 10), strings + word(font, record + 10) + word(font, record + 8));
      const wide = word(font, record) !== 1;
      const name = wide
        ? Array.from({ length: bytes.length >> 1 }, (_, c) => String.fromCharCode(word(bytes, c * 2))).join('')
        : String.fromCharCode(...bytes);
      if (name) best = { name, rank };
    }
    return best?.name;
  }
  return undefined;
}
