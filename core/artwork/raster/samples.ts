import { labToXyz, type Triple } from '../../colour/lab';
import type { Tags } from './tags';

/** TIFF pictures that common readers take wrongly: deep CMYK, Lab, floating point, channels beside the colours. */

export interface Layout {
  /** What the first channels are. */
  colour: 'grey' | 'rgb' | 'cmyk' | 'lab';
  colours: 1 | 3 | 4;
  channels: number;
  bits: number;
  kind: 'whole' | 'signed' | 'float';
  /** White is 0, as in a scanned drawing. */
  inverted: boolean;
  /** How a and b of Lab are written. */
  lab: 'signed' | 'offset';
  /** Which channel covers, and whether the colours are multiplied by it already. */
  alpha: { channel: number; multiplied: boolean } | undefined;
  /** Channels that are neither colour nor cover: spot colours, selections. */
  extra: number;
}

const PHOTOMETRIC = 262;
const BITS = 258;
const SAMPLES = 277;
const EXTRA = 338;
const SAMPLE_FORMAT = 339;

/** @returns undefined for kinds that are not told apart here: palettes, YCbCr, 1 bit */
export function layoutOf(tags: Tags): Layout | undefined {
  const photometric = tags.get(PHOTOMETRIC)?.[0];
  const bits = tags.get(BITS)?.[0] ?? 1;
  const channels = tags.get(SAMPLES)?.[0] ?? 1;
  const colour = ({ 0: 'grey', 1: 'grey', 2: 'rgb', 5: 'cmyk', 8: 'lab', 9: 'lab' } as const)[photometric ?? -1];
  if (!colour || bits < 8) return undefined;
  const colours = colour === 'grey' ? 1 : colour === 'cmyk' ? 4 : 3;
  if (channels < colours) return undefined;
  const said = tags.get(EXTRA) ?? [];
  // 1 is cover that the colours are multiplied by, 2 cover that they are not; 0 may be anything, and is no cover.
  const cover = said.findIndex((kind) => kind === 1 || kind === 2);
  const alpha =
    cover >= 0 && colours + cover < channels ? { channel: colours + cover, multiplied: said[cover] === 1 } : undefined;
  const format = tags.get(SAMPLE_FORMAT)?.[0] ?? 1;
  return {
    colour,
    colours,
    channels,
    bits,
    kind: format === 3 ? 'float' : format === 2 ? 'signed' : 'whole',
    inverted: photometric === 0,
    lab: photometric === 8 ? 'signed' : 'offset',
    alpha,
    extra: channels - colours - (alpha ? 1 : 0)
  };
}

/** Whether the usual reader takes it as it is meant. */
export const isUsual = ({ colour, bits, kind, alpha, extra }: Layout): boolean =>
  colour !== 'lab' &&
  kind === 'whole' &&
  bits <= 16 &&
  !(colour === 'cmyk' && bits > 8) &&
  extra === 0 &&
  !(colour === 'cmyk' && alpha) &&
  !alpha?.multiplied;

export interface Samples {
  /** 1, 3 or 4 bytes a pixel; Lab has become wide RGB. */
  colour: Uint8Array;
  alpha: Uint8Array | undefined;
}

/** Samples as a reader gives them, pixel by pixel, as 8 bits. */
export function eightBits(data: ArrayLike<number>, layout: Layout): Samples {
  const { channels, colours, alpha, colour } = layout;
  const count = Math.floor(data.length / channels);
  const out = new Uint8Array(count * colours);
  const cover = alpha && new Uint8Array(count);
  const most = fullOf(data, layout);
  const lab: Triple = [0, 0, 0];
  for (let i = 0; i < count; i++) {
    const from = i * channels;
    const to = i * colours;
    let share = 1;
    if (alpha && cover) {
      const covers = Math.min(1, Math.max(0, data[from + alpha.channel]! / most));
      cover[i] = Math.round(covers * 255);
      if (alpha.multiplied && covers > 0) share = 1 / covers;
    }
    if (colour === 'lab') {
      labOf(data, from, layout, lab);
      wideOf(lab, out, to);
      continue;
    }
    for (let k = 0; k < colours; k++) {
      const value = Math.min(1, Math.max(0, (data[from + k]! / most) * share));
      out[to + k] = Math.round((layout.inverted ? 1 - value : value) * 255);
    }
  }
  return { colour: out, alpha: cover };
}

/** What stands for a full channel. Floating point goes to 1, but for files that count on as whole numbers do. */
function fullOf(data: ArrayLike<number>, { kind, bits, channels, colours }: Layout): number {
  if (kind === 'whole') return 2 ** bits - 1;
  if (kind === 'signed') return 2 ** (bits - 1) - 1;
  let most = 0;
  for (let i = 0; i < data.length; i++) if (i % channels < colours) most = Math.max(most, data[i]!);
  // Light brighter than white is cut off at white; only far more than that is another scale.
  return most <= 16 ? 1 : most <= 255 ? 255 : most <= 65_535 ? 65_535 : most;
}

/** Lab as TIFF writes it (TIFF 6.0 section 23; ICC Lab is offset by half). */
function labOf(data: ArrayLike<number>, from: number, { kind, bits, lab }: Layout, out: Triple): void {
  const [l, a, b] = [data[from]!, data[from + 1]!, data[from + 2]!];
  if (kind === 'float') {
    out[0] = l;
    out[1] = a;
    out[2] = b;
    return;
  }
  const full = 2 ** bits - 1;
  const step = bits === 8 ? 1 : 2 ** (bits - 8);
  const signed = (v: number) => (v > full / 2 ? v - full - 1 : v) / step;
  out[0] = (l / full) * 100;
  out[1] = lab === 'signed' ? signed(a) : a / step - 128;
  out[2] = lab === 'signed' ? signed(b) : b / step - 128;
}

/** XYZ (D50) → ROMM RGB, linear (ISO 22028-2). */
const TO_WIDE = [
  [1.345943, -0.255607, -0.051112],
  [-0.544599, 1.508167, 0.020535],
  [0, 0, 1.211813]
] as const;

function wideOf(lab: Triple, out: Uint8Array, at: number): void {
  const [x, y, z] = labToXyz(lab);
  for (let k = 0; k < 3; k++) {
    const [p, q, r] = TO_WIDE[k] as readonly [number, number, number];
    const linear = Math.min(1, Math.max(0, p * x + q * y + r * z));
    out[at + k] = Math.round(linear ** (1 / 1.8) * 255);
  }
}
