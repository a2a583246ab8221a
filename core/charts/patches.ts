import type { Inks } from '../colour/separation';

/** One patch that is printed: values of C, M, Y, K in whole 255ths, so that what is asked for is what is printed. */
export interface Patch {
  id: string;
  inks: Inks;
}

export const CHANNELS = ['cyan', 'magenta', 'yellow', 'black'] as const;

/** Why a chart is printed: for a step of a condition, for a colour on it, or for variants of a docket's tone. */
export type StepChart = 'limits' | 'linear' | 'linear check' | 'total' | 'profile' | 'verify';
export type ColourChart = 'colour' | 'neighbours';
export type WatchChart = 'baseline' | 'compare';
export type ChartKind = StepChart | ColourChart | WatchChart | 'variants';

const exact = (v: number) => Math.round(Math.min(1, Math.max(0, v)) * 255) / 255;
const one = (channel: number, value: number): Inks => [0, 1, 2, 3].map((i) => (i === channel ? exact(value) : 0)) as Inks;
const number = (list: readonly Inks[], letter: string): Patch[] => list.map((inks, i) => ({ id: `${letter}${i + 1}`, inks }));

/** A ladder of each ink alone, from the bare media up. */
export function ladder(steps: number): Patch[] {
  return CHANNELS.flatMap((_, channel) =>
    number(
      Array.from({ length: steps }, (_, i) => one(channel, i / (steps - 1))),
      'CMYK'[channel]!
    )
  );
}

/** The ladder twice, the second time from the top down and in another order, so that what drifts across the roll evens out. */
export function twoLadders(steps: number): Patch[] {
  const first = ladder(steps);
  const second = [2, 0, 3, 1].flatMap((channel) => first.slice(channel * steps, (channel + 1) * steps).reverse());
  return [...first, ...second.map((patch) => ({ ...patch, id: `${patch.id}b` }))];
}

/** How totals grow: all inks together, colours under full black, and each pair of colours. */
export const TOTAL_SERIES = ['all', 'black', 'red', 'green', 'blue'] as const;
export type TotalSeries = (typeof TOTAL_SERIES)[number];

const SERIES: Record<TotalSeries, (t: number) => [number, number, number, number]> = {
  all: (t) => [t, t, t, t],
  black: (t) => [t, t, t, 1],
  red: (t) => [0, t, t, 0],
  green: (t) => [t, 0, t, 0],
  blue: (t) => [t, t, 0, 0]
};

/** Patches of growing total ink; values of linearised channels. */
export function totals(steps = 21): { series: TotalSeries; patches: Patch[] }[] {
  return TOTAL_SERIES.map((series) => ({
    series,
    patches: Array.from({ length: steps }, (_, i) => ({
      id: `${series}-${i + 1}`,
      inks: SERIES[series](i / (steps - 1)).map(exact) as Inks
    }))
  }));
}

/** Whether a combination is within the ink that the media takes; what is not, is not printed. */
export type Allowed = (inks: Readonly<Inks>) => boolean;

/**
 * A chart for a profile: overprints, ladders and greys, then a low-discrepancy sequence (Halton 1960) through the inside
 * and the faces of the ink space. What is over the limit is brought down onto it, since the limit is where dark colours lie.
 *
 * @param count how many patches at least 150
 */
export function profilePatches(count: number, allowed: Allowed): Patch[] {
  const list: Inks[] = [];
  const seen = new Set<string>();
  const add = (values: readonly number[]) => {
    const inks = values.map(exact) as Inks;
    const key = inks.join();
    if (list.length >= count || seen.has(key) || !allowed(inks)) return;
    seen.add(key);
    list.push(inks);
  };
  for (let bits = 0; bits < 16; bits++) add(within([bits & 1, (bits >> 1) & 1, (bits >> 2) & 1, bits >> 3], allowed));
  for (let channel = 0; channel < 4; channel++) for (let i = 1; i <= 10; i++) add(one(channel, i / 10));
  for (let i = 1; i <= 10; i++) {
    const t = i / 10;
    add(within([t, 0.78 * t, 0.76 * t, 0], allowed));
    add(within([0.7 * t, 0.53 * t, 0.52 * t, t], allowed));
  }
  for (let n = 1; list.length < count && n < count * 50; n++) add(within(spread(n), allowed));
  return number(shuffled(list), 'P');
}

/** So many patches tell whether a condition still prints as it did. */
export const PATCHES_COMPARED = 240;

/** What a condition is held against later: ladders, overprints, greys and some of all. */
export const comparedPatches = (allowed: Allowed): Patch[] => [
  ...profilePatches(PATCHES_COMPARED, allowed),
  { id: 'W', inks: [0, 0, 0, 0] }
];

/** Patches that are in no profile chart: another part of the sequence. */
export function freshPatches(count: number, allowed: Allowed, chart: readonly Patch[]): Patch[] {
  const known = new Set(chart.map((patch) => patch.inks.join()));
  const list: Inks[] = [];
  for (let n = 100_003; list.length < count && n < 200_000; n++) {
    const inks = spread(n).map(exact) as Inks;
    if (allowed(inks) && !known.has(inks.join())) list.push(inks);
  }
  return number(list, 'V');
}

/** The n-th point: a little beyond the faces, and back onto them, so that these are well covered; less of dark blacks. */
function spread(n: number): [number, number, number, number] {
  const face = (v: number) => Math.min(1, Math.max(0, (v - 0.06) / 0.88));
  return [face(halton(n, 2)), face(halton(n, 3)), face(halton(n, 5)), face(halton(n, 7) ** 1.5)];
}

function halton(n: number, base: number): number {
  let share = 1;
  let sum = 0;
  for (let rest = n; rest > 0; rest = Math.floor(rest / base)) {
    share /= base;
    sum += share * (rest % base);
  }
  return sum;
}

/** The same combination with its colours brought down until it is allowed. */
function within(inks: readonly number[], allowed: Allowed): number[] {
  const at = (keep: number) => [0, 1, 2].map((i) => Math.floor(inks[i]! * keep * 255) / 255).concat(inks[3]!);
  if (allowed(inks.map(exact) as Inks)) return [...inks];
  let low = 0;
  let high = 1;
  for (let i = 0; i < 12; i++) {
    const middle = (low + high) / 2;
    if (allowed(at(middle).map(exact) as Inks)) low = middle;
    else high = middle;
  }
  return at(low);
}

/** The same mixed order each time (Park & Miller's generator): neighbours differ, so that a strip out of place is found. */
function shuffled<T>(list: readonly T[]): T[] {
  const out = [...list];
  let state = 20_231;
  for (let i = out.length - 1; i > 0; i--) {
    state = (state * 48_271) % 2_147_483_647;
    const j = state % (i + 1);
    [out[i], out[j]] = [out[j]!, out[i]!];
  }
  return out;
}
