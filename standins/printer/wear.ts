import { seededRandom } from '$core/geometry/random';
import type { Unit } from './physics';

/** What happens to a machine as time goes by, and what people do to it. */

export const WEAR = ['weeks', 'service', 'new inks', 'blocked nozzles'] as const;
export type Wear = (typeof WEAR)[number];

/** Drops swell and shrink by so much in some weeks; a service leaves them so near to what the maker says. */
const WEEKS = 0.08;
const SERVICED = 0.03;
/** One batch of ink is so much stronger or weaker than the next. */
const BATCH = 0.05;
/** And of so much another hue, degrees. */
const BATCH_HUE = 2;
/** The farthest that a hue is turned. */
export const FARTHEST_HUE = 30;
/** What a machine can come to at most, either way. */
const FARTHEST = 0.35;
/** Of a head's rows of nozzles so many stand beside each other; as many at the most are blocked as leave something. */
export const NOZZLE_ROWS = 16;
const MOST_BLOCKED = 8;

/**
 * A machine after something was done to it.
 *
 * @param seed the same gives the same again
 */
export function worn(unit: Unit, what: Wear, seed: number): Unit {
  const random = seededRandom(seed);
  const about = (middle: number, by: number) =>
    Math.round(Math.min(1 + FARTHEST, Math.max(1 - FARTHEST, middle * (1 + by * (2 * random() - 1)))) * 1000) / 1000;
  switch (what) {
    case 'weeks':
      return { ...unit, gain: unit.gain.map((gain) => about(gain, WEEKS)) };
    case 'service':
      return { ...unit, gain: unit.gain.map(() => about(1, SERVICED)), blocked: [0, 0, 0, 0] };
    case 'new inks':
      return {
        ...unit,
        strength: unit.strength.map(() => about(1, BATCH)),
        hue: unit.strength.map(() => Math.round(BATCH_HUE * (2 * random() - 1) * 10) / 10)
      };
    case 'blocked nozzles': {
      const blocked = [...(unit.blocked ?? [0, 0, 0, 0])];
      const ink = Math.floor(random() * blocked.length);
      blocked[ink] = Math.min(MOST_BLOCKED, blocked[ink]! + 1);
      return { ...unit, blocked };
    }
  }
}
