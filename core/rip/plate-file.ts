/**
 * The plate file: one TIFF 6.0 of all plates of a run, planar, 2 bits a sample, PackBits, InkNames set; BigTIFF where
 * 4 GB are passed. Plates are in the order in which they are laid down, and a tag says the layer of each. A sample is the drop's size, 0 (none) … 3 (large). Strips may be written in any order, by several
 * threads: the directory comes last, so that a file without it is not a TIFF at all.
 */

export interface PlateLayout {
  widthPx: number;
  heightPx: number;
  dpi: { x: number; y: number };
  /** By plate: the name of its ink. */
  inks: string[];
  /** By plate: the layer that it belongs to, counted from the media upwards; rising. */
  layers: number[];
  rowsPerStrip: number;
}

export interface Strip {
  offset: number;
  bytes: number;
}

/** Room at the start for a BigTIFF header; strips begin here. */
export const PLATE_HEADER_BYTES = 16;

export const stripsPerPlate = (layout: PlateLayout): number => Math.ceil(layout.heightPx / layout.rowsPerStrip);
export const packedRowBytes = (layout: PlateLayout): number => Math.ceil(layout.widthPx / 4);

/** Of our own, among the numbers that TIFF 6.0 leaves to anyone: the layer of each plate. */
const LAYERS_TAG = 65000;

const SHORT = 3;
const LONG = 4;
const ASCII = 2;
const RATIONAL = 5;
const LONG8 = 16;

interface Entry {
  tag: number;
  type: number;
  values: number[] | string;
}

const SIZE: Record<number, number> = { [SHORT]: 2, [LONG]: 4, [ASCII]: 1, [RATIONAL]: 8, [LONG8]: 8 };

/**
 * The header and the directory for strips that are written already.
 *
 * @param strips strips[plate × stripsPerPlate + i], the order that planar TIFF asks for
 * @param end where the strips end; the directory goes there
 */
export function plateDirectory(
  layout: PlateLayout,
  strips: readonly Strip[],
  end: number
): { header: Uint8Array; directory: Uint8Array } {
  const big = end + 64 * strips.length + 65536 > 0xffffffff;
  const address = big ? LONG8 : LONG;
  const count = layout.inks.length;
  const entries: Entry[] = [
    { tag: 256, type: LONG, values: [layout.widthPx] },
    { tag: 257, type: LONG, values: [layout.heightPx] },
    { tag: 258, type: SHORT, values: layout.inks.map(() => 2) },
    { tag: 259, type: SHORT, values: [32773] },
    { tag: 262, type: SHORT, values: [5] },
    { tag: 266, type: SHORT, values: [1] },
    { tag: 273, type: address, values: strips.map((s) => s.offset) },
    { tag: 277, type: SHORT, values: [count] },
    { tag: 278, type: LONG, values: [layout.rowsPerStrip] },
    { tag: 279, type: address, values: strips.map((s) => s.bytes) },
    { tag: 282, type: RATIONAL, values: [layout.dpi.x] },
    { tag: 283, type: RATIONAL, values: [layout.dpi.y] },
    { tag: 284, type: SHORT, values: [2] },
    { tag: 296, type: SHORT, values: [2] },
    { tag: 305, type: ASCII, values: 'Zing Mast\0' },
    { tag: 332, type: SHORT, values: [count === 4 ? 1 : 2] },
    { tag: 333, type: ASCII, values: layout.inks.map((name) => `${name}\0`).join('') },
    { tag: 334, type: SHORT, values: [count] },
    { tag: LAYERS_TAG, type: SHORT, values: layout.layers }
  ];
  const start = end + (end % 2);
  const inline = big ? 8 : 4;
  const tableBytes = (big ? 8 : 2) + entries.length * (big ? 20 : 12) + (big ? 8 : 4);
  const lengths = entries.map((e) => e.values.length * (SIZE[e.type] ?? 1));
  const outside = lengths.reduce((sum, n) => sum + (n > inline ? n + (n % 2) : 0), 0);
  const directory = new Uint8Array(start - end + tableBytes + outside);
  const view = new DataView(directory.buffer);
  let at = start - end;
  let far = at + tableBytes;
  const word = (offset: number, value: number) => {
    if (big) view.setBigUint64(offset, BigInt(value), true);
    else view.setUint32(offset, value, true);
  };
  if (big) view.setBigUint64(at, BigInt(entries.length), true);
  else view.setUint16(at, entries.length, true);
  at += big ? 8 : 2;
  entries.forEach((entry, i) => {
    view.setUint16(at, entry.tag, true);
    view.setUint16(at + 2, entry.type, true);
    word(at + 4, entry.values.length);
    const valueAt = at + (big ? 12 : 8);
    const length = lengths[i] ?? 0;
    let put = valueAt;
    if (length > inline) {
      word(valueAt, end + far);
      put = far;
      far += length + (length % 2);
    }
    if (typeof entry.values === 'string') {
      for (const ch of entry.values) view.setUint8(put++, ch.charCodeAt(0) & 127);
    } else {
      for (const value of entry.values) {
        if (entry.type === SHORT) view.setUint16(put, value, true);
        else if (entry.type === LONG) view.setUint32(put, value, true);
        else if (entry.type === LONG8) view.setBigUint64(put, BigInt(value), true);
        else {
          view.setUint32(put, Math.round(value * 1000), true);
          view.setUint32(put + 4, 1000, true);
        }
        put += SIZE[entry.type] ?? 1;
      }
    }
    at += big ? 20 : 12;
  });
  const header = new Uint8Array(PLATE_HEADER_BYTES);
  const head = new DataView(header.buffer);
  head.setUint16(0, 0x4949, true);
  head.setUint16(2, big ? 43 : 42, true);
  if (big) {
    head.setUint16(4, 8, true);
    head.setBigUint64(8, BigInt(start), true);
  } else head.setUint32(4, start, true);
  return { header, directory };
}

export interface PlateFile extends PlateLayout {
  strips: Strip[];
}

export class PlateFileError extends Error {
  override name = 'PlateFileError';
}

/** Bytes of a file: `length` of them from `offset`, fewer at its end. */
export type ReadAt = (offset: number, length: number) => Uint8Array | Promise<Uint8Array>;

const MAX_STRIPS = 4_000_000;

/**
 * Reads the directory of a plate file. Everything in it is checked, since a machine takes it from outside.
 *
 * @param size bytes of the file
 * @throws PlateFileError naming what is wrong
 */
export async function readPlateFile(readAt: ReadAt, size: number): Promise<PlateFile> {
  const bytes = async (offset: number, length: number) => {
    if (offset < 0 || length < 0 || offset + length > size) throw new PlateFileError('The plate file is cut short.');
    const part = await readAt(offset, length);
    if (part.length !== length) throw new PlateFileError('The plate file is cut short.');
    return new DataView(part.buffer, part.byteOffset, part.length);
  };
  const head = await bytes(0, PLATE_HEADER_BYTES);
  const magic = head.getUint16(2, true);
  if (head.getUint16(0, true) !== 0x4949 || (magic !== 42 && magic !== 43)) throw new PlateFileError('This is not a plate TIFF.');
  const big = magic === 43;
  const start = big ? Number(head.getBigUint64(8, true)) : head.getUint32(4, true);
  const countView = await bytes(start, big ? 8 : 2);
  const entryCount = big ? Number(countView.getBigUint64(0, true)) : countView.getUint16(0, true);
  if (entryCount > 100) throw new PlateFileError('The plate file has too many directory entries.');
  const table = await bytes(start + (big ? 8 : 2), entryCount * (big ? 20 : 12));
  const found = new Map<number, number[]>();
  let names = '';
  for (let i = 0; i < entryCount; i++) {
    const at = i * (big ? 20 : 12);
    const tag = table.getUint16(at, true);
    const type = table.getUint16(at + 2, true);
    const count = big ? Number(table.getBigUint64(at + 4, true)) : table.getUint32(at + 4, true);
    const each = SIZE[type];
    if (!each) continue;
    if (count > MAX_STRIPS) throw new PlateFileError(`The plate file lists ${count} strips; ${MAX_STRIPS} are the most.`);
    const valueAt = at + (big ? 12 : 8);
    const inline = count * each <= (big ? 8 : 4);
    const view = inline
      ? new DataView(table.buffer, table.byteOffset + valueAt, count * each)
      : await bytes(big ? Number(table.getBigUint64(valueAt, true)) : table.getUint32(valueAt, true), count * each);
    if (tag === 333) {
      names = Array.from({ length: count }, (_, j) => String.fromCharCode(view.getUint8(j))).join('');
      continue;
    }
    found.set(
      tag,
      Array.from({ length: count }, (_, j) => {
        if (type === SHORT) return view.getUint16(j * 2, true);
        if (type === LONG) return view.getUint32(j * 4, true);
        if (type === LONG8) return Number(view.getBigUint64(j * 8, true));
        if (type === RATIONAL) return view.getUint32(j * 8, true) / view.getUint32(j * 8 + 4, true);
        return view.getUint8(j);
      })
    );
  }
  const one = (tag: number, what: string): number => {
    const value = found.get(tag)?.[0];
    if (value === undefined) throw new PlateFileError(`The plate file does not say its ${what}.`);
    return value;
  };
  const inkCount = one(277, 'number of inks');
  const inks = names.split('\0').filter(Boolean);
  if (inks.length !== inkCount) throw new PlateFileError(`The plate file has ${inkCount} plates but names ${inks.length} inks.`);
  if (one(259, 'compression') !== 32773 || one(284, 'plane order') !== 2 || found.get(258)?.some((bits) => bits !== 2)) {
    throw new PlateFileError('The plate file is not planar with 2 packed bits a sample.');
  }
  const layers = found.get(LAYERS_TAG) ?? inks.map(() => 0);
  if (layers.length !== inkCount || layers.some((layer, i) => ![layers[i - 1] ?? 0, (layers[i - 1] ?? -1) + 1].includes(layer)))
    throw new PlateFileError('The plate file does not say which layer each of its plates belongs to.');
  const layout: PlateLayout = {
    widthPx: one(256, 'width'),
    heightPx: one(257, 'height'),
    dpi: { x: one(282, 'resolution'), y: one(283, 'resolution') },
    inks,
    layers,
    rowsPerStrip: one(278, 'rows in a strip')
  };
  if (layout.widthPx < 1 || layout.heightPx < 1 || layout.rowsPerStrip < 1 || layout.widthPx > 500_000 || !(layout.dpi.x > 0)) {
    throw new PlateFileError(`The plate file says ${layout.widthPx} × ${layout.heightPx} pixels, which cannot be printed.`);
  }
  const offsets = found.get(273) ?? [];
  const sizes = found.get(279) ?? [];
  if (offsets.length !== stripsPerPlate(layout) * inkCount || sizes.length !== offsets.length) {
    throw new PlateFileError('The plate file does not list all of its strips.');
  }
  return { ...layout, strips: offsets.map((offset, i) => ({ offset, bytes: sizes[i] ?? 0 })) };
}
