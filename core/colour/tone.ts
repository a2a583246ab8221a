import { z } from 'zod';
import { monotone } from './monotone';

/** Tone curves: what becomes of the amount of each ink, by channel or for all of them together. */

export const TONE_CHANNELS = ['all', 'cyan', 'magenta', 'yellow', 'black'] as const;
export type ToneChannel = (typeof TONE_CHANNELS)[number];

const MOST_POINTS = 16;
/** Points nearer than this stand on one place. */
const LEAST_APART = 0.004;
const share = z
  .number({ error: 'A point of a curve has two figures.' })
  .min(0, 'A tone is 0 to 100 %.')
  .max(1, 'A tone is 0 to 100 %.');

/**
 * A curve by its points: amounts 0…1 → 0…1, from 0 to 1. It rises unless it is told that it may fall.
 */
export const ToneCurve = z
  .object({
    points: z
      .array(z.tuple([share, share]))
      .min(2, 'A curve has a point at each end.')
      .max(MOST_POINTS, `A curve has at most ${MOST_POINTS} points.`),
    mayFall: z.boolean().default(false)
  })
  .superRefine(({ points, mayFall }, context) => {
    const refuse = (message: string) => context.addIssue({ code: 'custom', message });
    if (points[0]![0] !== 0 || points.at(-1)![0] !== 1) return refuse('A curve goes from 0 to 100 %.');
    for (let i = 1; i < points.length; i++) {
      const [before, after] = [points[i - 1]!, points[i]!];
      if (after[0] < before[0]) return refuse('The points of a curve stand in order.');
      if (after[0] - before[0] < LEAST_APART)
        return refuse(`Two points of the curve stand on one place, ${Math.round(after[0] * 100)} %.`);
      if (!mayFall && after[1] < before[1])
        return refuse(
          `The curve turns back between ${Math.round(before[0] * 100)} and ${Math.round(after[0] * 100)} %: darker would print lighter. Say that it may fall, or raise it.`
        );
    }
  });
export type ToneCurve = z.infer<typeof ToneCurve>;

/** A curve of each channel, and one of all that goes before them. A channel that is not there stays as it is. */
export const Tone = z.partialRecord(z.enum(TONE_CHANNELS), ToneCurve);
export type Tone = z.infer<typeof Tone>;

/** A straight curve, to begin with. */
export const straightTone = (): ToneCurve => ({
  points: [
    [0, 0],
    [1, 1]
  ],
  mayFall: false
});

const isStraight = ({ points }: ToneCurve): boolean => points.every(([from, to]) => Math.abs(from - to) < 1e-9);

/** Whether it changes nothing. */
export const isPlainTone = (tone: Tone): boolean => Object.values(tone).every((curve) => !curve || isStraight(curve));

/** A curve as a function: smooth, and rising wherever its points do (Fritsch & Carlson 1980). */
export function toneFunction({ points }: ToneCurve): (amount: number) => number {
  const at = monotone(
    points.map(([from]) => from),
    points.map(([, to]) => to)
  );
  return (amount) => Math.min(1, Math.max(0, at(amount)));
}

/**
 * Tones one after the other as one: by channel of the profile 256 amounts.
 *
 * @param stack in the order in which they apply
 */
export function toneTables(stack: readonly Tone[]): Float64Array[] {
  const steps = stack.map((tone) => ({
    all: toneFunction(tone.all ?? straightTone()),
    each: TONE_CHANNELS.slice(1).map((channel) => toneFunction(tone[channel] ?? straightTone()))
  }));
  return [0, 1, 2, 3].map((channel) =>
    Float64Array.from({ length: 256 }, (_, v) => steps.reduce((amount, { all, each }) => each[channel]!(all(amount)), v / 255))
  );
}

/** Whether two say the same, for people: a channel that is not there is a straight one. */
export const sameTone = (one: Tone, other: Tone): boolean =>
  TONE_CHANNELS.every((channel) => {
    const [p, q] = [one[channel] ?? straightTone(), other[channel] ?? straightTone()];
    return JSON.stringify(p.points) === JSON.stringify(q.points) && p.mayFall === q.mayFall;
  });

/**
 * A tone that goes after another, as one.
 *
 * @param before by channel 256 bytes; nothing where nothing goes before
 * @returns the same of both
 */
export function toneAfter(before: readonly (readonly number[])[] | undefined, tone: Tone): number[][] {
  const tables = toneTables([tone]).map((table) => [...toneBytes(table)]);
  return before ? before.map((table, channel) => table.map((byte) => tables[channel]![byte]!)) : tables;
}

/** A table as bytes, for pixels. */
export const toneBytes = (table: Float64Array): Uint8Array => Uint8Array.from(table, (amount) => Math.round(amount * 255));

/**
 * The amount that a table turns into a wanted one, 0…1: the least where several do, the nearest where none does.
 *
 * @param table as `toneTables` gives them
 */
export function beforeTone(table: Float64Array, wanted: number): number {
  const last = table.length - 1;
  for (let v = 0; v < last; v++) {
    const [p, q] = [table[v]!, table[v + 1]!];
    if ((p <= wanted && wanted <= q) || (q <= wanted && wanted <= p)) {
      const between = Math.abs(q - p) < 1e-12 ? 0 : (wanted - p) / (q - p);
      return (v + between) / last;
    }
  }
  let nearest = 0;
  for (let v = 1; v <= last; v++) if (Math.abs(table[v]! - wanted) < Math.abs(table[nearest]! - wanted)) nearest = v;
  return nearest / last;
}

/** How near a point has to be to be moved rather than added, and how near it may be dragged to the next. */
const NEAR = 0.02;
const SPACE = 0.005;

/** The curve with a point put or moved; those at the ends move up and down alone. @returns the curve, and which point it is */
export function withPoint(
  curve: ToneCurve,
  at: number | undefined,
  [from, to]: readonly [number, number]
): { curve: ToneCurve; at: number } {
  const { points } = curve;
  const clamp = (v: number, low: number, high: number) => Math.min(high, Math.max(low, v));
  const along = clamp(from, 0, 1);
  const which = at ?? points.findIndex(([x]) => Math.abs(x - along) < NEAR);
  const isNew = which < 0;
  const list = isNew
    ? [...points, [along, to] as [number, number]].sort((p, q) => p[0] - q[0])
    : points.map((point): [number, number] => [...point]);
  if (isNew && list.length > MOST_POINTS) return { curve, at: -1 };
  const index = isNew ? list.findIndex(([x, y]) => x === along && y === to) : which;
  const before = list[index - 1];
  const after = list[index + 1];
  const x = !before ? 0 : !after ? 1 : clamp(along, before[0] + SPACE, after[0] - SPACE);
  const y = curve.mayFall ? clamp(to, 0, 1) : clamp(to, before?.[1] ?? 0, after?.[1] ?? 1);
  list[index] = [x, y];
  return { curve: { ...curve, points: list }, at: index };
}

/** The curve without a point; those at the ends stay. */
export function withoutPoint(curve: ToneCurve, at: number): ToneCurve {
  if (at <= 0 || at >= curve.points.length - 1) return curve;
  return { ...curve, points: curve.points.filter((_, i) => i !== at) };
}
