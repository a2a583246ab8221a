/** The tags of a TIFF file (TIFF 6.0, BigTIFF), which EXIF and JPEG use too. */

/** Bytes from a place in a file; fewer where it ends. */
export type ReadAt = (position: number, length: number) => Uint8Array;

/** Figures by tag number; texts and profiles are left out. */
export type Tags = ReadonlyMap<number, readonly number[]>;

const SIZES: Record<number, number> = {
  1: 1,
  3: 2,
  4: 4,
  5: 8,
  6: 1,
  8: 2,
  9: 4,
  10: 8,
  11: 4,
  12: 8,
  13: 4,
  16: 8,
  17: 8,
  18: 8
};
const MOST_PAGES = 2000;
const MOST_TAGS = 4000;
/** Tags with more figures than this are tables of places, of no use here. */
const MOST_FIGURES = 64;

/** @returns the tags of each page; none for what is no TIFF */
export function readTags(read: ReadAt): Tags[] {
  const head = viewOf(read(0, 16));
  if (head.byteLength < 8) return [];
  const little = head.getUint16(0) === 0x4949;
  if (!little && head.getUint16(0) !== 0x4d4d) return [];
  const magic = head.getUint16(2, little);
  const big = magic === 43;
  if (!big && magic !== 42) return [];
  const wide = (view: DataView, at: number) => (big ? Number(view.getBigUint64(at, little)) : view.getUint32(at, little));
  const pages: Tags[] = [];
  const seen = new Set<number>();
  let at = big && head.byteLength >= 16 ? wide(head, 8) : wide(head, 4);
  while (at > 0 && !seen.has(at) && pages.length < MOST_PAGES) {
    seen.add(at);
    const counted = viewOf(read(at, big ? 8 : 2));
    if (counted.byteLength < (big ? 8 : 2)) break;
    const count = Math.min(MOST_TAGS, big ? Number(counted.getBigUint64(0, little)) : counted.getUint16(0, little));
    const row = big ? 20 : 12;
    const table = viewOf(read(at + counted.byteLength, count * row + (big ? 8 : 4)));
    const tags = new Map<number, number[]>();
    for (let i = 0; i < count && (i + 1) * row <= table.byteLength; i++) {
      const kind = table.getUint16(i * row + 2, little);
      const size = SIZES[kind];
      const figures = wide(table, i * row + 4);
      if (!size || figures > MOST_FIGURES) continue;
      const inline = i * row + (big ? 12 : 8);
      const bytes = figures * size;
      const values =
        bytes <= (big ? 8 : 4)
          ? new DataView(table.buffer, table.byteOffset + inline, bytes)
          : viewOf(read(wide(table, inline), bytes));
      if (values.byteLength < bytes) continue;
      tags.set(
        table.getUint16(i * row, little),
        Array.from({ length: figures }, (_, k) => figure(values, k * size, kind, little))
      );
    }
    pages.push(tags);
    at = (count + 1) * row - row + (big ? 8 : 4) <= table.byteLength ? wide(table, count * row) : 0;
  }
  return pages;
}

const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

function figure(view: DataView, at: number, kind: number, little: boolean): number {
  switch (kind) {
    case 1:
      return view.getUint8(at);
    case 3:
      return view.getUint16(at, little);
    case 5:
      return view.getUint32(at, little) / (view.getUint32(at + 4, little) || 1);
    case 6:
      return view.getInt8(at);
    case 8:
      return view.getInt16(at, little);
    case 9:
      return view.getInt32(at, little);
    case 10:
      return view.getInt32(at, little) / (view.getInt32(at + 4, little) || 1);
    case 11:
      return view.getFloat32(at, little);
    case 12:
      return view.getFloat64(at, little);
    case 16:
    case 18:
      return Number(view.getBigUint64(at, little));
    case 17:
      return Number(view.getBigInt64(at, little));
    default:
      return view.getUint32(at, little);
  }
}

const X_RESOLUTION = 282;
const RESOLUTION_UNIT = 296;

/** Pixels an inch that tags say; nothing where they do not, or give a proportion alone. */
export function ppiOfTags(tags: Tags | undefined): number | undefined {
  const value = tags?.get(X_RESOLUTION)?.[0];
  const unit = tags?.get(RESOLUTION_UNIT)?.[0] ?? 2;
  if (!value || !(value > 0) || unit === 1) return undefined;
  return unit === 3 ? value * 2.54 : value;
}

/** What tags say of a picture's size and way up. */
export function sizeOfTags(tags: Tags): { width: number; height: number; channels: number; orientation: number } | undefined {
  const [width, height] = [tags.get(256)?.[0], tags.get(257)?.[0]];
  if (!width || !height) return undefined;
  return { width, height, channels: tags.get(277)?.[0] ?? 1, orientation: tags.get(274)?.[0] ?? 1 };
}
