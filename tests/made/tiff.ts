/** Small uncompressed TIFF files, so that a test says exactly what kind they are. */

export interface MadeTiff {
  width: number;
  height: number;
  photometric: number;
  bits: 8 | 16 | 32;
  /** 1 whole, 2 signed, 3 floating point. */
  format?: 1 | 2 | 3;
  channels: number;
  /** What the channels beyond the colours are: 0 anything, 1 multiplied cover, 2 cover. */
  extra?: number[];
  /** Samples of every pixel, in the file's own figures; the same everywhere. */
  pixel: number[] | ((x: number, y: number) => number[]);
  ppi?: number;
  icc?: Uint8Array;
}

export function madeTiff({ width, height, photometric, bits, format = 1, channels, extra, pixel, ppi, icc }: MadeTiff): Buffer {
  const size = bits / 8;
  const data = Buffer.alloc(width * height * channels * size);
  for (let i = 0; i < width * height; i++) {
    const values = typeof pixel === 'function' ? pixel(i % width, Math.floor(i / width)) : pixel;
    values.forEach((value, k) => {
      const at = (i * channels + k) * size;
      if (format === 3) data.writeFloatLE(value, at);
      else if (bits === 8) data.writeUInt8(value & 255, at);
      else if (bits === 16) data.writeUInt16LE(value & 65535, at);
      else data.writeUInt32LE(value >>> 0, at);
    });
  }
  const entries: { tag: number; kind: 3 | 4 | 5 | 7; values: number[] | Uint8Array }[] = [
    { tag: 256, kind: 4, values: [width] },
    { tag: 257, kind: 4, values: [height] },
    { tag: 258, kind: 3, values: new Array<number>(channels).fill(bits) },
    { tag: 259, kind: 3, values: [1] },
    { tag: 262, kind: 3, values: [photometric] },
    { tag: 273, kind: 4, values: [0] },
    { tag: 277, kind: 3, values: [channels] },
    { tag: 278, kind: 4, values: [height] },
    { tag: 279, kind: 4, values: [data.length] },
    ...(ppi
      ? [
          { tag: 282, kind: 5 as const, values: [ppi, 1] },
          { tag: 283, kind: 5 as const, values: [ppi, 1] }
        ]
      : []),
    { tag: 284, kind: 3, values: [1] },
    ...(ppi ? [{ tag: 296, kind: 3 as const, values: [2] }] : []),
    ...(extra ? [{ tag: 338, kind: 3 as const, values: extra }] : []),
    { tag: 339, kind: 3, values: new Array<number>(channels).fill(format) },
    ...(icc ? [{ tag: 34675, kind: 7 as const, values: icc }] : [])
  ];
  const table = Buffer.alloc(2 + entries.length * 12 + 4);
  table.writeUInt16LE(entries.length, 0);
  const beyond: Buffer[] = [];
  let free = 8 + table.length;
  const put = (bytes: Buffer): number => {
    const at = free;
    const padded = bytes.length % 2 ? Buffer.concat([bytes, Buffer.alloc(1)]) : bytes;
    beyond.push(padded);
    free += padded.length;
    return at;
  };
  const rows = entries.map(({ tag, kind, values }) => {
    const each = { 3: 2, 4: 4, 5: 4, 7: 1 }[kind];
    const bytes = Buffer.alloc(values.length * each);
    values.forEach((value, i) =>
      each === 2 ? bytes.writeUInt16LE(value, i * 2) : each === 4 ? bytes.writeUInt32LE(value, i * 4) : bytes.writeUInt8(value, i)
    );
    return { tag, kind, count: kind === 5 ? 1 : values.length, bytes };
  });
  const places = rows.map(({ bytes }) => (bytes.length > 4 ? put(bytes) : undefined));
  const strip = free;
  rows.forEach(({ tag, kind, count, bytes }, i) => {
    const at = 2 + i * 12;
    table.writeUInt16LE(tag, at);
    table.writeUInt16LE(kind, at + 2);
    table.writeUInt32LE(count, at + 4);
    const place = tag === 273 ? strip : places[i];
    if (place !== undefined) table.writeUInt32LE(place, at + 8);
    else bytes.copy(table, at + 8);
  });
  const head = Buffer.from([0x49, 0x49, 42, 0, 8, 0, 0, 0]);
  return Buffer.concat([head, table, ...beyond, data]);
}
