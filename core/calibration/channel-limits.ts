import type { Ladder } from './ladders';

export interface LimitSuggestion {
  /** Share of the fullest ink. */
  limit: number;
  why: string;
  /** ΔE76 that each step adds, over 5 % of ink; as many as steps less one. */
  gains: number[];
}

/** Less than this over 5 % of ink is no longer worth the ink. */
export const LEAST_GAIN = 1;
/** A solid that turns by more than this from the colour at two thirds has begun to pool. */
export const MOST_TURN = 4;

/**
 * Where more ink no longer adds colour: the first step from half way up after which ΔE gained a 5 % of ink stays below
 * `LEAST_GAIN`, or from which the hue has turned.
 *
 * @param ladder at raw ink, 0…1 of the fullest drop
 */
export function suggestLimit(ladder: Ladder): LimitSuggestion {
  const { steps } = ladder;
  const raw = steps.slice(1).map((step, i) => ((step.distance - steps[i]!.distance) / (step.share - steps[i]!.share)) * 0.05);
  // Noise in one reading must not end the ladder: gains are evened out over three steps.
  const gains = raw.map((_, i) => {
    const near = raw.slice(Math.max(0, i - 1), i + 2);
    return near.reduce((sum, v) => sum + v, 0) / near.length;
  });
  const from = steps.findIndex((step) => step.share >= 0.5);
  const weak = gains.findIndex((gain, i) => i >= from && gain < LEAST_GAIN);
  const reference = steps[Math.round((steps.length - 1) * 0.66)]!.hue;
  const turned =
    ladder.name === 'black' ? -1 : steps.findIndex((step, i) => i >= from && Math.abs(step.hue - reference) > MOST_TURN);
  const ends = [
    weak >= 0
      ? { at: weak, why: `from here 5 % more ink adds less than ΔE ${LEAST_GAIN} (${Math.max(0, gains[weak]!).toFixed(2)})` }
      : undefined,
    turned >= 0 ? { at: turned - 1, why: `beyond it the hue has turned by more than ${MOST_TURN}°` } : undefined
  ].filter((end) => end !== undefined);
  const first = ends.sort((p, q) => p.at - q.at)[0];
  return first
    ? { limit: steps[first.at]!.share, why: first.why, gains }
    : { limit: 1, why: 'every step up to the fullest adds colour', gains };
}
