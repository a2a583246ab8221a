/** Writes ICC profiles: version 2.4 (ICC.1:2001-04), what every reader takes, and version 4.3 (ICC.1:2010-12). */

export type ProfileVersion = 2 | 4;

export interface Lut16 {
  inputs: number;
  outputs: number;
  grid: number;
  /** Input tables, one an input, all of one length; 0…65535. */
  inputTables: readonly ArrayLike<number>[];
  outputTables: readonly ArrayLike<number>[];
  /** grid^inputs × outputs, first input slowest; 0…65535. */
  table: ArrayLike<number>;
}

/** The straight table of two entries. */
export const STRAIGHT: readonly number[] = [0, 65535];

function ascii(view: DataView, at: number, text: string): void {
  for (let i = 0; i < text.length; i++) view.setUint8(at + i, text.charCodeAt(i) & 127);
}

const fixed = (view: DataView, at: number, value: number) => view.setInt32(at, Math.round(value * 65536));

function tagData(signature: string, bytes: number): { data: Uint8Array<ArrayBuffer>; view: DataView } {
  const data = new Uint8Array(Math.ceil(bytes / 4) * 4);
  const view = new DataView(data.buffer);
  ascii(view, 0, signature);
  return { data, view };
}

export function xyzTag(xyz: readonly [number, number, number]): Uint8Array {
  const { data, view } = tagData('XYZ ', 20);
  xyz.forEach((value, i) => fixed(view, 8 + i * 4, value));
  return data;
}

/** What is left of a text in 7 bits: letters without their accents. */
const plainText = (text: string): string =>
  text
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .replace(/[‘’]/g, "'")
    .replace(/[^\x20-\x7e\n\r\t]/g, '?');

export function textTag(said: string, version: ProfileVersion = 2): Uint8Array {
  if (version === 4) return mlucTag(said);
  const text = plainText(said);
  const { data, view } = tagData('text', 8 + text.length + 1);
  ascii(view, 8, text);
  return data;
}

/** In version 2 the text stands there twice: plain, and with all its letters where those are more. */
export function descriptionTag(said: string, version: ProfileVersion = 2): Uint8Array {
  if (version === 4) return mlucTag(said);
  const text = plainText(said);
  const full = text === said ? '' : `${said}\0`;
  const { data, view } = tagData('desc', 12 + text.length + 1 + 8 + full.length * 2 + 70);
  view.setUint32(8, text.length + 1);
  ascii(view, 12, text);
  const after = 12 + text.length + 1;
  view.setUint32(after + 4, full.length);
  for (let i = 0; i < full.length; i++) view.setUint16(after + 8 + i * 2, full.charCodeAt(i));
  return data;
}

/** v4 text, in English. */
function mlucTag(text: string): Uint8Array {
  const { data, view } = tagData('mluc', 28 + text.length * 2);
  view.setUint32(8, 1);
  view.setUint32(12, 12);
  ascii(view, 16, 'enGB');
  view.setUint32(20, text.length * 2);
  view.setUint32(24, 28);
  for (let i = 0; i < text.length; i++) view.setUint16(28 + i * 2, text.charCodeAt(i));
  return data;
}

/** A curve of samples, or of one gamma figure. */
export function curveTag(samples: readonly number[] | { gamma: number }): Uint8Array {
  if ('gamma' in samples) {
    const { data, view } = tagData('curv', 14);
    view.setUint32(8, 1);
    view.setUint16(12, Math.round(samples.gamma * 256));
    return data;
  }
  const { data, view } = tagData('curv', 12 + samples.length * 2);
  view.setUint32(8, samples.length);
  samples.forEach((value, i) => view.setUint16(12 + i * 2, Math.round(value)));
  return data;
}

export function lut16Tag(lut: Lut16): Uint8Array {
  const inLength = lut.inputTables[0]?.length ?? 2;
  const outLength = lut.outputTables[0]?.length ?? 2;
  const size = 52 + 2 * (inLength * lut.inputs + lut.table.length + outLength * lut.outputs);
  const { data, view } = tagData('mft2', size);
  view.setUint8(8, lut.inputs);
  view.setUint8(9, lut.outputs);
  view.setUint8(10, lut.grid);
  [1, 0, 0, 0, 1, 0, 0, 0, 1].forEach((value, i) => fixed(view, 12 + i * 4, value));
  view.setUint16(48, inLength);
  view.setUint16(50, outLength);
  let at = 52;
  const put = (list: ArrayLike<number>) => {
    for (let i = 0; i < list.length; i++, at += 2) view.setUint16(at, Math.min(65535, Math.max(0, Math.round(list[i] ?? 0))));
  };
  lut.inputTables.forEach(put);
  put(lut.table);
  lut.outputTables.forEach(put);
  return data;
}

export interface ProfileHeader {
  deviceClass: 'prtr' | 'mntr';
  colourSpace: 'CMYK' | 'RGB ' | 'GRAY';
  connection: 'Lab ' | 'XYZ ';
  version?: ProfileVersion;
  /** Written into the header; the caller says it, so that the same data give the same bytes. */
  made: { year: number; month: number; day: number };
}

/** Puts the tags together; tags that share one array are stored once. */
export function writeProfile(header: ProfileHeader, tags: Record<string, Uint8Array>): Uint8Array<ArrayBuffer> {
  const names = Object.keys(tags);
  const placed = new Map<Uint8Array, number>();
  let end = 128 + 4 + names.length * 12;
  for (const name of names) {
    const data = tags[name]!;
    if (placed.has(data)) continue;
    placed.set(data, end);
    end += data.length;
  }
  const bytes = new Uint8Array(end);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, end);
  view.setUint32(8, header.version === 4 ? 0x04300000 : 0x02400000);
  ascii(view, 12, header.deviceClass);
  ascii(view, 16, header.colourSpace);
  ascii(view, 20, header.connection);
  view.setUint16(24, header.made.year);
  view.setUint16(26, header.made.month);
  view.setUint16(28, header.made.day);
  ascii(view, 36, 'acsp');
  view.setUint32(64, 1);
  [0.9642, 1, 0.8249].forEach((value, i) => fixed(view, 68 + i * 4, value));
  view.setUint32(128, names.length);
  names.forEach((name, i) => {
    const data = tags[name]!;
    const at = 132 + i * 12;
    ascii(view, at, name);
    view.setUint32(at + 4, placed.get(data) ?? 0);
    view.setUint32(at + 8, data.length);
  });
  for (const [data, at] of placed) bytes.set(data, at);
  return bytes;
}

export type RenderingIntent = 'perceptual' | 'relative' | 'saturation';

/** What a docket chooses: an intent for all of it, or what its file says of each object. */
export type IntentChoice = RenderingIntent | 'file';

/**
 * The same profile, but asking for the relative colorimetric table answers with the table of `intent`:
 * the way to choose an intent in an engine that always asks for relative colorimetric.
 *
 * @throws RangeError when the profile has no such table
 */
export function withIntent(profile: Uint8Array, intent: RenderingIntent): Uint8Array<ArrayBuffer> {
  const bytes = Uint8Array.from(profile);
  if (intent === 'relative') return bytes;
  const wanted = intent === 'perceptual' ? 'B2A0' : 'B2A2';
  const view = new DataView(bytes.buffer);
  const entries = Array.from({ length: view.getUint32(128) }, (_, i) => 132 + i * 12);
  const named = (name: string) => entries.find((at) => String.fromCharCode(...bytes.subarray(at, at + 4)) === name);
  const from = named(wanted);
  const to = named('B2A1');
  if (from === undefined || to === undefined) throw new RangeError(`This profile has no table for the ${intent} intent.`);
  bytes.copyWithin(to + 4, from + 4, from + 12);
  return bytes;
}

type Xyz = [number, number, number];

/** A v2 display profile of three primaries (adapted to D50) and one tone curve. */
function rgbProfile(name: string, [red, green, blue]: [Xyz, Xyz, Xyz], curve: Uint8Array): Uint8Array<ArrayBuffer> {
  return writeProfile(
    { deviceClass: 'mntr', colourSpace: 'RGB ', connection: 'XYZ ', made: { year: 2026, month: 1, day: 1 } },
    {
      desc: descriptionTag(name),
      cprt: textTag('No rights reserved'),
      wtpt: xyzTag([0.9642, 1, 0.8249]),
      rXYZ: xyzTag(red),
      gXYZ: xyzTag(green),
      bXYZ: xyzTag(blue),
      rTRC: curve,
      gTRC: curve,
      bTRC: curve
    }
  );
}

/** sRGB (IEC 61966-2-1). */
export function srgbProfile(): Uint8Array<ArrayBuffer> {
  const curve = curveTag(
    Array.from({ length: 1024 }, (_, i) => {
      const v = i / 1023;
      return 65535 * (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
    })
  );
  const primaries: [Xyz, Xyz, Xyz] = [
    [0.4360747, 0.2225045, 0.0139322],
    [0.3850649, 0.7168786, 0.0971045],
    [0.1430804, 0.0606169, 0.7141733]
  ];
  return rgbProfile('sRGB', primaries, curve);
}

/** ROMM RGB (ISO 22028-2), which holds every colour that a press or a screen can make. */
export function wideRgbProfile(): Uint8Array<ArrayBuffer> {
  const primaries: [Xyz, Xyz, Xyz] = [
    [0.7976749, 0.2880402, 0],
    [0.1351917, 0.7118741, 0],
    [0.0313534, 0.0000857, 0.82521]
  ];
  return rgbProfile('ROMM RGB', primaries, curveTag({ gamma: 1.8 }));
}

/** Grey with the tone curve of sRGB. */
export function greyProfile(): Uint8Array<ArrayBuffer> {
  const curve = curveTag(
    Array.from({ length: 1024 }, (_, i) => {
      const v = i / 1023;
      return 65535 * (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
    })
  );
  return writeProfile(
    { deviceClass: 'mntr', colourSpace: 'GRAY', connection: 'XYZ ', made: { year: 2026, month: 1, day: 1 } },
    {
      desc: descriptionTag('Grey, sRGB tone'),
      cprt: textTag('No rights reserved'),
      wtpt: xyzTag([0.9642, 1, 0.8249]),
      kTRC: curve
    }
  );
}
