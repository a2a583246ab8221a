import type { ForwardGrid } from './forward-grid';
import type { Triple } from './lab';
import { monotone } from './monotone';
import { Separator, type InkLimits, type Inks } from './separation';

/** Points of darkness (0 the media, 1 the darkest black) → share of the possible black, both 0…1. */
export type BlackCurve = readonly (readonly [darkness: number, share: number])[];

export interface BlackChoice {
  curve: BlackCurve;
  /** Colour inks never fall while greys darken: black only fills up what they leave. */
  steady: boolean;
}

export const BLACK_CHOICES = {
  none: {
    curve: [
      [0, 0],
      [1, 0]
    ],
    steady: false
  },
  light: {
    curve: [
      [0, 0],
      [0.45, 0],
      [0.8, 0.3],
      [1, 0.4]
    ],
    steady: true
  },
  medium: {
    curve: [
      [0, 0],
      [0.2, 0],
      [0.6, 0.38],
      [1, 0.5]
    ],
    steady: true
  },
  heavy: {
    curve: [
      [0, 0],
      [0.08, 0.1],
      [0.45, 0.85],
      [1, 1]
    ],
    steady: false
  }
} as const satisfies Record<string, BlackChoice>;

export interface SeparationSettings {
  limits: InkLimits;
  black: BlackChoice;
}

export const DEFAULT_SEPARATION: SeparationSettings = { limits: { total: 2.6 }, black: BLACK_CHOICES.medium };

/** Greys on which a choice of black is worked out. */
const GREYS = 48;

/** The share of the possible black by darkness, 0…1 → 0…1, as the choice comes out in the greys of this press. */
export function blackShare(separator: Separator, choice: BlackChoice): (darkness: number) => number {
  const clamp = (v: number) => Math.min(1, Math.max(0, v));
  const asked = monotone(
    choice.curve.map(([darkness]) => darkness),
    choice.curve.map(([, share]) => share)
  );
  if (!choice.steady) return (darkness) => clamp(asked(clamp(darkness)));

  const darkest = darkestNeutral(separator);
  const least = new Float64Array(4);
  const most = new Float64Array(4);
  const inks = new Float64Array(4);
  const end = Float64Array.of(0.6, 0.5, 0.5, 0.9);
  separator.solve([darkest, 0, 0], 1, 0.1, end);
  const before = new Float64Array(3);
  const xs: number[] = [];
  const ys: number[] = [];
  for (let step = 0; step < GREYS; step++) {
    const darkness = step / (GREYS - 1);
    const lab: Triple = [100 - darkness * (100 - darkest), 0, 0];
    separator.solve(lab, 0, 1, least);
    separator.solve(lab, 1, 1, most);
    const at = (share: number) => {
      separator.solve(lab, least[3]! + share * Math.max(0, most[3]! - least[3]!), 1, inks);
      return inks;
    };
    const colours = (list: Float64Array) => list[0]! + list[1]! + list[2]!;
    // More black means less of the colours: the share lies between where they overtake their end and where they fall.
    const share = Math.max(
      bisect((s) => colours(at(s)) <= (0.84 + 0.14 * darkness) * colours(end)),
      Math.min(clamp(asked(darkness)), 1 - bisect((s) => [0, 1, 2].every((i) => at(1 - s)[i]! >= before[i]! - 1e-3)))
    );
    at(share);
    for (let i = 0; i < 3; i++) before[i] = Math.min(end[i]!, Math.max(before[i]!, inks[i]!));
    xs.push(darkness);
    ys.push(share);
  }
  const evened = ys.map((y, i) => (i === 0 || i === GREYS - 1 ? y : 0.25 * ys[i - 1]! + 0.5 * y + 0.25 * ys[i + 1]!));
  const came = monotone(xs, evened);
  return (darkness) => clamp(came(clamp(darkness)));
}

/** The smallest of 0…1 at which something that stays true becomes true; 1 when it never does. */
function bisect(holds: (x: number) => boolean): number {
  if (holds(0)) return 0;
  let low = 0;
  let high = 1;
  for (let i = 0; i < 9; i++) {
    const middle = (low + high) / 2;
    if (holds(middle)) high = middle;
    else low = middle;
  }
  return high;
}

/** The neutral ramp as inks, from the media to the darkest: what a choice of black does to greys. */
export function neutralInks(grid: ForwardGrid, settings: SeparationSettings, steps: number): { lightness: number; inks: Inks }[] {
  const separator = new Separator(grid, settings.limits);
  const share = blackShare(separator, settings.black);
  const darkest = darkestNeutral(separator);
  const inks = new Float64Array(4);
  const least = new Float64Array(4);
  const most = new Float64Array(4);
  return Array.from({ length: steps }, (_, i) => {
    const darkness = i / (steps - 1);
    const lightness = 100 - darkness * (100 - darkest);
    const black = wantedBlack(separator, [lightness, 0, 0], share(darkness), least, most);
    separator.solve([lightness, 0, 0], black, 1, inks);
    return { lightness, inks: [...inks] as Inks };
  });
}

/** L* of the darkest neutral within the limits. */
export function darkestNeutral(separator: Separator): number {
  const inks = Float64Array.of(0.6, 0.5, 0.5, 0.9);
  separator.solve([0, 0, 0], 1, 0.1, inks);
  return separator.grid.lab(inks[0]!, inks[1]!, inks[2]!, inks[3]!)[0];
}

/** Black between the least and the most that the colour can be made with; both begin at, and leave, a neighbour's answer. */
export function wantedBlack(
  separator: Separator,
  lab: Readonly<Triple>,
  share: number,
  least: Float64Array,
  most: Float64Array
): number {
  separator.solve(lab, 0, 1, least);
  separator.solve(lab, 1, 1, most);
  return least[3]! + share * Math.max(0, most[3]! - least[3]!);
}
