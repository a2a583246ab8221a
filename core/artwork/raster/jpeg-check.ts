/**
 * Walks the coded data of a JPEG (ITU-T T.81) without making a picture of it. Readers go on after a fault and give something
 * grey or shifted; here every code must be one of the table's, and every scan must end where its data does.
 */

interface Component {
  id: number;
  across: number;
  down: number;
  /** Blocks of the whole component, rounded up to whole units. */
  wide: number;
  high: number;
  /** Which coefficients are not 0 so far, for the refining scans of progressive pictures. */
  known: Uint8Array | undefined;
}

interface Frame {
  width: number;
  height: number;
  progressive: boolean;
  most: { across: number; down: number };
  components: Component[];
}

/** Codes by their first 16 bits: length << 8 | symbol; 0 for none. */
type Table = Uint16Array;

class Fault extends Error {}

/** @returns whether the coded data are at fault; false for kinds that are not walked (arithmetic coding, lossless) */
export function isJpegDamaged(bytes: Uint8Array): boolean {
  try {
    walk(bytes);
    return false;
  } catch (error) {
    if (error instanceof Fault) return true;
    throw error;
  }
}

function walk(bytes: Uint8Array): void {
  const word = (at: number) => ((bytes[at] ?? 0) << 8) | (bytes[at + 1] ?? 0);
  const dc: (Table | undefined)[] = [];
  const ac: (Table | undefined)[] = [];
  let frame: Frame | undefined;
  let interval = 0;
  let at = 2;
  while (at < bytes.length) {
    if (bytes[at] !== 0xff) throw new Fault();
    while (bytes[at + 1] === 0xff) at++;
    const marker = bytes[at + 1] ?? 0;
    at += 2;
    if (marker === 0xd9) return;
    if (marker >= 0xd0 && marker <= 0xd7) continue;
    const length = word(at);
    const end = at + length;
    if (length < 2 || end > bytes.length) throw new Fault();
    if (marker === 0xc4) readTables(bytes, at + 2, end, dc, ac);
    else if (marker === 0xdd) interval = word(at + 2);
    else if (marker === 0xc0 || marker === 0xc1 || marker === 0xc2) frame = readFrame(bytes, at + 2, end, marker === 0xc2);
    else if (marker >= 0xc3 && marker <= 0xcf && marker !== 0xc8 && marker !== 0xcc) return;
    else if (marker === 0xda) {
      if (!frame) throw new Fault();
      at = scan(bytes, at + 2, end, frame, dc, ac, interval);
      continue;
    }
    at = end;
  }
}

function readTables(bytes: Uint8Array, from: number, end: number, dc: (Table | undefined)[], ac: (Table | undefined)[]): void {
  for (let at = from; at + 17 <= end;) {
    const kind = bytes[at]!;
    const table = new Uint16Array(65536);
    let symbol = at + 17;
    let code = 0;
    for (let length = 1; length <= 16; length++) {
      for (let i = 0; i < bytes[at + length]!; i++) {
        const first = code << (16 - length);
        if (first >= 65536 || symbol >= end) throw new Fault();
        table.fill((length << 8) | bytes[symbol++]!, first, first + (1 << (16 - length)));
        code++;
      }
      code <<= 1;
    }
    (kind >> 4 ? ac : dc)[kind & 15] = table;
    at = symbol;
  }
}

function readFrame(bytes: Uint8Array, from: number, end: number, progressive: boolean): Frame {
  const height = ((bytes[from + 1] ?? 0) << 8) | (bytes[from + 2] ?? 0);
  const width = ((bytes[from + 3] ?? 0) << 8) | (bytes[from + 4] ?? 0);
  const count = bytes[from + 5] ?? 0;
  if (from + 6 + count * 3 > end || count < 1 || count > 4 || !width || !height) throw new Fault();
  const factors = Array.from({ length: count }, (_, i) => {
    const sampling = bytes[from + 7 + i * 3] ?? 0;
    return { id: bytes[from + 6 + i * 3] ?? 0, across: sampling >> 4, down: sampling & 15 };
  });
  if (factors.some(({ across, down }) => across < 1 || across > 4 || down < 1 || down > 4)) throw new Fault();
  const most = { across: Math.max(...factors.map((one) => one.across)), down: Math.max(...factors.map((one) => one.down)) };
  const components = factors.map((one): Component => {
    const wide = Math.ceil(width / (8 * most.across)) * one.across;
    const high = Math.ceil(height / (8 * most.down)) * one.down;
    return { ...one, wide, high, known: progressive ? new Uint8Array(wide * high * 64) : undefined };
  });
  return { width, height, progressive, most, components };
}

/** Bits of coded data, stuffing left out. Past a marker there is nothing more to read. */
class Bits {
  readonly #bytes: Uint8Array;
  at: number;
  #held = 0;
  #count = 0;
  #missing = 0;

  constructor(bytes: Uint8Array, at: number) {
    this.#bytes = bytes;
    this.at = at;
  }

  #fill(count: number): void {
    while (this.#count < count) {
      let byte = 0;
      if (this.at < this.#bytes.length && !(this.#bytes[this.at] === 0xff && this.#bytes[this.at + 1] !== 0)) {
        byte = this.#bytes[this.at]!;
        this.at += byte === 0xff ? 2 : 1;
      } else this.#missing += 8;
      this.#held = ((this.#held << 8) | byte) & 0xffffff;
      this.#count += 8;
    }
  }

  /** @throws Fault when the data have no code of the table, or end */
  code(table: Table): number {
    this.#fill(16);
    const entry = table[(this.#held >> (this.#count - 16)) & 0xffff]!;
    if (entry === 0) throw new Fault();
    this.#drop(entry >> 8);
    return entry & 255;
  }

  take(count: number): number {
    if (count === 0) return 0;
    this.#fill(count);
    const value = (this.#held >> (this.#count - count)) & ((1 << count) - 1);
    this.#drop(count);
    return value;
  }

  #drop(count: number): void {
    this.#count -= count;
    // Bits that were filled in lie at the end: none of them may be used.
    if (this.#count < this.#missing) throw new Fault();
  }

  /** Goes to the next marker; only the rest of a byte, and fill bytes, may lie before it. */
  toMarker(): void {
    // What was read ahead goes back.
    let ahead = Math.floor((this.#count - this.#missing) / 8);
    while (ahead-- > 0) this.at -= this.#bytes[this.at - 1] === 0 && this.#bytes[this.at - 2] === 0xff ? 2 : 1;
    this.#held = this.#count = this.#missing = 0;
    if (this.#bytes[this.at] !== 0xff) throw new Fault();
    while (this.#bytes[this.at + 1] === 0xff) this.at++;
  }
}

/** @returns where the next marker stands */
function scan(
  bytes: Uint8Array,
  from: number,
  start: number,
  frame: Frame,
  dc: readonly (Table | undefined)[],
  ac: readonly (Table | undefined)[],
  interval: number
): number {
  const count = bytes[from] ?? 0;
  const parts = Array.from({ length: count }, (_, i) => {
    const component = frame.components.find(({ id }) => id === bytes[from + 1 + i * 2]);
    const tables = bytes[from + 2 + i * 2] ?? 0;
    if (!component) throw new Fault();
    return { component, dc: dc[tables >> 4], ac: ac[tables & 15] };
  });
  const only = parts.length === 1 ? parts[0] : undefined;
  const first = bytes[from + 1 + count * 2] ?? 0;
  const last = frame.progressive ? Math.min(63, bytes[from + 2 + count * 2] ?? 0) : 63;
  const refines = frame.progressive && (bytes[from + 3 + count * 2] ?? 0) >> 4 !== 0;
  const bits = new Bits(bytes, start);
  let run = 0;
  const table = (one: Table | undefined): Table => {
    if (!one) throw new Fault();
    return one;
  };

  const sequential = (part: (typeof parts)[number]) => {
    bits.take(Math.min(16, bits.code(table(part.dc))));
    const codes = table(part.ac);
    for (let k = 1; k < 64; k++) {
      const symbol = bits.code(codes);
      if ((symbol & 15) === 0) {
        if (symbol !== 0xf0) break;
        k += 15;
      } else {
        k += symbol >> 4;
        bits.take(symbol & 15);
      }
      if (k > 63) throw new Fault();
    }
  };
  const progressive = (part: (typeof parts)[number], block: number) => {
    if (first === 0) {
      bits.take(refines ? 1 : Math.min(16, bits.code(table(part.dc))));
      return;
    }
    const known = part.component.known as Uint8Array;
    const base = block * 64;
    let k = first;
    if (run === 0) {
      const codes = table(part.ac);
      for (; k <= last; k++) {
        const symbol = bits.code(codes);
        let zeros = symbol >> 4;
        const size = symbol & 15;
        if (size === 0 && zeros < 15) {
          run = (1 << zeros) + bits.take(zeros);
          break;
        }
        if (size > 0) bits.take(refines ? 1 : size);
        if (refines) {
          for (; k <= last; k++) {
            if (known[base + k]) bits.take(1);
            else if (--zeros < 0) break;
          }
        } else k += zeros;
        if (size > 0) {
          if (k > last) throw new Fault();
          known[base + k] = 1;
        }
      }
    }
    if (run > 0) {
      if (refines) for (; k <= last; k++) if (known[base + k]) bits.take(1);
      run--;
    }
  };
  const block = (part: (typeof parts)[number], column: number, row: number) =>
    frame.progressive ? progressive(part, row * part.component.wide + column) : sequential(part);

  const { most } = frame;
  const [wide, high] = only
    ? [
        Math.ceil(Math.ceil((frame.width * only.component.across) / most.across) / 8),
        Math.ceil(Math.ceil((frame.height * only.component.down) / most.down) / 8)
      ]
    : [Math.ceil(frame.width / (8 * most.across)), Math.ceil(frame.height / (8 * most.down))];
  for (let unit = 0; unit < wide * high; unit++) {
    if (interval > 0 && unit > 0 && unit % interval === 0) {
      bits.toMarker();
      if (bytes[bits.at + 1] !== 0xd0 + ((unit / interval - 1) & 7)) throw new Fault();
      bits.at += 2;
      run = 0;
    }
    const [column, row] = [unit % wide, Math.floor(unit / wide)];
    if (only) block(only, column, row);
    else
      for (const part of parts)
        for (let y = 0; y < part.component.down; y++)
          for (let x = 0; x < part.component.across; x++)
            block(part, column * part.component.across + x, row * part.component.down + y);
  }
  bits.toMarker();
  return bits.at;
}
