import { PROCESS_CHANNELS, type Ink } from './ink-set';

/** From what a channel asks for to what its inks print: one ink, several of a kind, or a dark one and a light one. */

/** How much colour a light ink has beside its dark one. */
export const LIGHT_STRENGTH = 0.35;
/** The most of a light ink: beyond it floods and gains nothing. */
const LIGHT_MOST = 0.72;
/** Amounts of the channel between which the light ink gives way: before the dark drops stand alone, and before light ones flood. */
const FADES_FROM = 0.12;
const FADES_TO = 0.62;

/** 0 below `from`, 1 above `to`, its slope without a jump between. */
function eased(value: number, from: number, to: number): number {
  const t = Math.min(1, Math.max(0, (value - from) / (to - from)));
  return t * t * (3 - 2 * t);
}

/**
 * Divides an amount of a channel between a dark and a light ink: colour is kept, so that
 * dark + strength × light = amount as long as the light ink is not at its most.
 *
 * @param amount 0…1 of the dark ink's fullest drop
 */
export function darkAndLight(amount: number): { dark: number; light: number } {
  const byLight = amount * (1 - eased(amount, FADES_FROM, FADES_TO));
  const light = Math.min(LIGHT_MOST, byLight / LIGHT_STRENGTH);
  return { dark: Math.max(0, amount - light * LIGHT_STRENGTH), light };
}

/**
 * The curve of each ink of a set: what share of its fullest drop a value of its channel asks for.
 *
 * @param channels of each channel 256 figures 0…1, rising; a channel that is not there is straight
 * @returns by ink, in the order of the set
 */
export function inkCurves(
  inks: readonly Pick<Ink, 'channel' | 'role'>[],
  channels: Readonly<Record<string, ArrayLike<number>>>
): Float64Array[] {
  return inks.map((ink) => {
    const fellows = inks.filter(({ channel }) => channel === ink.channel);
    const hasLight = fellows.some(({ role }) => role === 'light') && fellows.some(({ role }) => role !== 'light');
    const asked = channels[ink.channel];
    return Float64Array.from({ length: 256 }, (_, v) => {
      const amount = asked ? (asked[v] ?? 0) : v / 255;
      // Two of a kind print the same each: the channel’s full amount is both at their fullest.
      return hasLight ? darkAndLight(amount)[ink.role === 'light' ? 'light' : 'dark'] : amount;
    });
  });
}

/**
 * What values of channels take of ink, of all inks that print them: a light ink takes more of it for the same colour.
 *
 * @param curves of each of these channels 256 figures 0…1, rising
 * @param fullPl the drop that 1 stands for, pl
 * @returns by channel 256 figures
 */
export function inkTaken(
  inks: readonly Pick<Ink, 'channel' | 'role' | 'drops'>[],
  channels: readonly string[],
  curves: readonly ArrayLike<number>[],
  fullPl: number
): Float64Array[] {
  const byInk = inkCurves(inks, Object.fromEntries(channels.map((channel, i) => [channel, curves[i]!])));
  return channels.map((channel) =>
    Float64Array.from({ length: 256 }, (_, v) =>
      inks.reduce((sum, ink, i) => sum + (ink.channel === channel ? (byInk[i]![v]! * ink.drops[2]) / fullPl : 0), 0)
    )
  );
}

/** How many times the ink of their channels alone inks take, over all tones alike: 1 where none is light or doubled. */
export function inkTimes(inks: readonly Pick<Ink, 'channel' | 'role' | 'drops'>[]): number {
  const of = inks.filter(({ channel }) => (PROCESS_CHANNELS as readonly string[]).includes(channel));
  const straight = PROCESS_CHANNELS.map(() => Float64Array.from({ length: 256 }, (_, v) => v / 255));
  const sum = (tables: readonly Float64Array[]) => tables.reduce((all, table) => table.reduce((one, v) => one + v, all), 0);
  const full = of.find(({ role }) => role === 'colour')?.drops[2];
  return full === undefined ? 1 : sum(inkTaken(of, PROCESS_CHANNELS, straight, full)) / sum(straight);
}

/**
 * A curve as a table from a channel's value to a value of a plane of the ink's own; nothing where the curve only rises, so that
 * screening can fold it into its thresholds and lose nothing of it.
 */
export function ownPlane(curve: ArrayLike<number>): Uint8Array | undefined {
  const values = Array.from(curve);
  if (values.every((share, v) => v === 0 || share >= values[v - 1]! - 1e-9)) return undefined;
  return Uint8Array.from(values, (share) => Math.round(share * 255));
}
