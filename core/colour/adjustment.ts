import { z } from 'zod';
import { placeInTable } from './curve-table';
import { mixLut, readLut, readProfileFacts, writeLutTable, type Lut } from './icc-read';
import type { RenderingIntent } from './icc-write';
import type { Triple } from './lab';

/** Brightness, contrast, saturation and a cast, in L*, chroma and hue: one more step before the inks. */

const amount = (what: string) =>
  z
    .number({ error: `${what} must be a figure.` })
    .min(-1, `${what} is −100 to 100.`)
    .max(1, `${what} is −100 to 100.`)
    .default(0);

export const Adjustment = z.object({
  brightness: amount('Brightness'),
  contrast: amount('Contrast'),
  saturation: amount('Saturation'),
  /** Of a cast: how strong, and towards which hue, degrees. */
  cast: z.number({ error: 'A cast must be a figure.' }).min(0, 'A cast is 0 to 100.').max(1, 'A cast is 0 to 100.').default(0),
  castHue: z.number({ error: 'A hue must be a figure.' }).min(0, 'A hue is 0 to 360°.').max(360, 'A hue is 0 to 360°.').default(0)
});
export type Adjustment = z.infer<typeof Adjustment>;

export const NO_ADJUSTMENT: Adjustment = { brightness: 0, contrast: 0, saturation: 0, cast: 0, castHue: 0 };

export const changesNothing = ({ brightness, contrast, saturation, cast }: Adjustment): boolean =>
  brightness === 0 && contrast === 0 && saturation === 0 && cast === 0;

/** How strong the fullest brightness is: the exponent of L*, and its other end. */
const MOST_GAMMA = 2;
/** The fullest contrast keeps tones rising. */
const MOST_CONTRAST = 0.9;
/** ΔE of the fullest cast, in the middle of lightness: white and black have none. */
const MOST_CAST = 30;

/** L* of 0…100 → L*; white stays white and black black, and what is lighter stays lighter. */
export function adjustLightness(lightness: number, { brightness, contrast }: Adjustment): number {
  const t = Math.min(1, Math.max(0, lightness / 100));
  const brighter = t ** (MOST_GAMMA ** -brightness);
  return 100 * (brighter - (contrast * MOST_CONTRAST * Math.sin(2 * Math.PI * brighter)) / (2 * Math.PI));
}

/** A colour relative to the media or the screen's white → the same adjusted. */
export function adjustLab([l, a, b]: Readonly<Triple>, adjustment: Adjustment): Triple {
  const { saturation, cast, castHue } = adjustment;
  const lightness = adjustLightness(l, adjustment);
  // Chroma that grows grows less where there is much of it.
  const chroma = Math.hypot(a, b);
  const more = saturation < 0 ? 1 + saturation : 1 + (saturation * 60) / (60 + chroma);
  const middle = (4 * lightness * (100 - lightness)) / 1e4;
  const hue = (castHue * Math.PI) / 180;
  const towards = MOST_CAST * cast * Math.max(0, middle);
  return [lightness, a * more + towards * Math.cos(hue), b * more + towards * Math.sin(hue)];
}

const TABLES: Record<RenderingIntent, string> = { perceptual: 'B2A0', relative: 'B2A1', saturation: 'B2A2' };

/**
 * A profile that gives the inks of adjusted colours: its tables from colours to inks are read at the adjusted place.
 *
 * @param intents whose tables are made so; one that the profile does not have is passed over
 * @throws IccError for tables of a kind that is not read here
 */
export function withAdjustment(
  profile: Uint8Array,
  adjustment: Adjustment,
  intents: readonly RenderingIntent[]
): Uint8Array<ArrayBuffer> {
  let bytes = Uint8Array.from(profile);
  for (const name of new Set(intents.map((intent) => TABLES[intent]))) {
    if (!readProfileFacts(profile).tags.includes(name)) continue;
    bytes = writeLutTable(bytes, name, adjusted(readLut(profile, name), adjustment));
  }
  return bytes;
}

const toLab = ([l = 0, a = 0, b = 0]: readonly number[]): Triple => [
  (l * 65535) / 652.8,
  (a * 65535) / 256 - 128,
  (b * 65535) / 256 - 128
];
const fromLab = ([l, a, b]: Readonly<Triple>): number[] =>
  [(l * 652.8) / 65535, ((a + 128) * 256) / 65535, ((b + 128) * 256) / 65535].map((v) => Math.min(1, Math.max(0, v)));

/** @returns the table, 0…1, before the output tables */
function adjusted(lut: Lut, adjustment: Adjustment): Float64Array {
  const { grid, outputs, inputTables } = lut;
  const axes = inputTables.map((table) => Array.from({ length: grid }, (_, i) => placeInTable(table, i / (grid - 1))));
  const table = new Float64Array(lut.table.length);
  let at = 0;
  for (let l = 0; l < grid; l++)
    for (let a = 0; a < grid; a++)
      for (let b = 0; b < grid; b++) {
        const lab = adjustLab(toLab([axes[0]![l]!, axes[1]![a]!, axes[2]![b]!]), adjustment);
        table.set(mixLut(lut, fromLab(lab), 'axes'), at);
        at += outputs;
      }
  return table;
}
