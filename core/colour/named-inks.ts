import type { ForwardGrid } from './forward-grid';
import { deltaE00, type Triple } from './lab';
import { absoluteFrom, relativeTo } from './media-relative';
import { Separator, type InkLimits, type Inks } from './separation';

/** A colour that is named by its L*a*b*, as inks of a printing condition: its solid, and its tints. */

/** A condition, as far as colours are made of its inks. */
export interface ColourPress {
  /** L*a*b* relative to the media. */
  grid: ForwardGrid;
  /** L*a*b* of the bare media under D50. */
  white: Triple;
  limits: InkLimits;
  /** Inks to begin with for a colour relative to the media: the profile's own answer, which says how much black there is to be. */
  begin: (lab: Readonly<Triple>) => readonly number[];
}

/** A colour of the shop as something prints in it. */
export interface InkedColour {
  /** Its number in the shop. */
  id: number;
  /** Under D50, against the perfect reflector. */
  lab: Triple;
  /** Inks that somebody chose or measured for the condition, in place of those that the model gives. */
  own?: Inks | undefined;
}

export interface NamedInks {
  /** Whole 255ths, as they are printed. */
  inks: Inks;
  /** L*a*b* that they come to by the model, under D50. */
  reached: Triple;
  /** CIEDE2000 from what was asked. */
  deltaE: number;
}

/** A colour that is missed by no more than this is in reach: side by side the two are hardly told apart. */
export const IN_REACH = 1;

/** Tints are worked out at so many even steps and read between them. */
export const TINT_STEPS = 32;

/** How much black is held to what the profile has, beside the colour: a whole ink is as bad as so much ΔE. */
const BLACK_HOLDS = 0.05;
/** Steps of the search, shares of the fullest ink. */
const FIRST_STEP = 0.08;
const LAST_STEP = 1 / 1024;

/** Where a search may begin beside the profile's answer: a colour out of reach has more than one place where no small step helps. */
const BEGINS: readonly Inks[] = [
  [0, 0, 0, 0],
  [1, 0, 0, 0],
  [0, 1, 0, 0],
  [0, 0, 1, 0],
  [1, 1, 0, 0],
  [0, 1, 1, 0],
  [1, 0, 1, 0],
  [0.6, 0.5, 0.5, 0.9]
];

/** Every ink alone, and one in place of another: at the limit of ink nothing else is left. */
const WAYS: readonly Inks[] = [0, 1, 2, 3].flatMap((i) => [
  oneOf(i, 0),
  ...[0, 1, 2, 3].filter((j) => j !== i).map((j) => oneOf(i, 1, j))
]);

function oneOf(up: number, down: number, other = up): Inks {
  return [0, 1, 2, 3].map((k) => (k === up ? 1 : k === other ? -down : 0)) as Inks;
}

/** Makes colours of one condition's inks. */
export class ColourMaker {
  readonly press: ColourPress;
  readonly #separator: Separator;
  readonly #relative: (lab: Readonly<Triple>) => Triple;
  readonly #absolute: (lab: Readonly<Triple>) => Triple;

  constructor(press: ColourPress) {
    this.press = press;
    this.#separator = new Separator(press.grid, press.limits);
    this.#relative = relativeTo(press.white);
    this.#absolute = absoluteFrom(press.white);
  }

  /** Whether inks are no more than the condition takes. */
  isWithin(inks: Readonly<Inks>): boolean {
    return this.#separator.isWithin(inks);
  }

  /** Ink in all that values become, shares of the fullest drop. */
  inkOf(inks: Readonly<Inks>): number {
    return inks.reduce((sum, value, channel) => sum + this.#separator.amount(channel, value), 0);
  }

  /** What inks come to by the model, L*a*b* under D50. */
  look(inks: Readonly<Inks>): Triple {
    return this.#absolute(this.press.grid.lab(...inks));
  }

  /**
   * The inks whose colour is nearest by CIEDE2000 within the limits of ink; of several that are as near those with the profile's
   * own share of black.
   *
   * @param lab under D50, against the perfect reflector
   */
  make(lab: Readonly<Triple>): NamedInks {
    const wanted = this.#relative(lab);
    const first = Float64Array.from(this.press.begin(wanted));
    const black = first[3]!;
    const solved = (from: Float64Array): Inks => {
      this.#separator.solve(wanted, black, BLACK_HOLDS, from);
      return [...from] as Inks;
    };
    const miss = (inks: Readonly<Inks>) => deltaE00(this.look(inks), lab);
    const cost = (inks: Readonly<Inks>) => miss(inks) + BLACK_HOLDS * Math.abs(inks[3] - black);
    let best = this.#descend(solved(first), cost);
    if (miss(best) > IN_REACH)
      for (const begin of BEGINS) {
        const other = this.#descend(solved(Float64Array.from(begin)), cost);
        if (cost(other) < cost(best)) best = other;
      }
    const inks = this.#whole(best, cost);
    return { inks, reached: this.look(inks), deltaE: miss(inks) };
  }

  /** Inks that somebody chose: what they come to. */
  tell(inks: Readonly<Inks>, lab: Readonly<Triple>): NamedInks {
    const whole = inks.map((v) => Math.round(Math.min(1, Math.max(0, v)) * 255) / 255) as Inks;
    const reached = this.look(whole);
    return { inks: whole, reached, deltaE: deltaE00(reached, lab) };
  }

  /** The inks of a colour from the bare media to its solid, as `tints` has them. */
  tintsOf({ lab, own }: Pick<InkedColour, 'lab' | 'own'>): Inks[] {
    return this.tints(own ?? this.make(lab).inks);
  }

  /**
   * The inks of a solid's tints, from the bare media to the solid in even steps. Their tone is that of ISO 20654:2017 (spot colour
   * tone value): even steps of L*, a* and b* from the media to the solid.
   *
   * @returns `TINT_STEPS` + 1 of them
   */
  tints(solid: Readonly<Inks>): Inks[] {
    const { grid } = this.press;
    const end = grid.lab(...solid);
    const bare = grid.lab(0, 0, 0, 0);
    const list: Inks[] = [];
    const from = Float64Array.from(solid);
    for (let i = TINT_STEPS; i >= 0; i--) {
      const t = i / TINT_STEPS;
      if (i === TINT_STEPS || i === 0) {
        list.unshift(i === 0 ? [0, 0, 0, 0] : [...solid]);
        continue;
      }
      const wanted = bare.map((v, k) => v + t * (end[k]! - v)) as Triple;
      // Each begins at a little less of the one before, with as much of its black as is left: a tint brings no ink of its own.
      for (let k = 0; k < 4; k++) from[k] = list[0]![k]! * (i / (i + 1));
      this.#separator.solve(wanted, solid[3] * t, 1, from);
      list.unshift([...from].map((v, k) => Math.min(list[0]![k]!, v)) as Inks);
    }
    return list;
  }

  /** Steps along single inks and exchanges of two that become smaller where none helps (Hooke & Jeeves 1961). */
  #descend(from: Inks, cost: (inks: Readonly<Inks>) => number): Inks {
    let inks = from;
    let now = cost(inks);
    for (let step = FIRST_STEP; step >= LAST_STEP;) {
      let next: Inks | undefined;
      for (const way of WAYS)
        for (const sign of [step, -step]) {
          const tried = inks.map((v, k) => Math.min(1, Math.max(0, v + sign * way[k]!))) as Inks;
          if (!this.isWithin(tried)) continue;
          const then = cost(tried);
          if (then < now - 1e-6) [next, now] = [tried, then];
        }
      if (next) inks = next;
      else step /= 2;
    }
    return inks;
  }

  /** The best of the whole 255ths around: what is asked for is then what is printed. */
  #whole(inks: Inks, cost: (inks: Readonly<Inks>) => number): Inks {
    const floors = inks.map((v) => Math.floor(v * 255 + 1e-6)) as Inks;
    const around = (n: number) =>
      floors.map((v, k) => Math.min(255, Math.max(0, v - 1 + (Math.floor(n / 4 ** k) % 4))) / 255) as Inks;
    const fitting = Array.from({ length: 4 ** 4 }, (_, n) => around(n)).filter((some) => this.isWithin(some));
    const costs = fitting.map(cost);
    return fitting[costs.indexOf(Math.min(...costs))] ?? (floors.map((v) => v / 255) as Inks);
  }
}
