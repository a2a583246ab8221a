import { CHANNELS, type Patch } from '../charts/patches';
import { deltaE76, type Triple } from '../colour/lab';

/** One step of one ink's ladder: the share of its ink, and what was measured there, all places averaged. */
export interface LadderStep {
  share: number;
  lab: Triple;
  /** ΔE76 from the bare media. */
  distance: number;
  chroma: number;
  /** Degrees, within 180 of the ladder's middle. */
  hue: number;
}

export interface Ladder {
  channel: number;
  name: (typeof CHANNELS)[number];
  steps: LadderStep[];
}

export interface Measured {
  patch: Patch;
  lab: Triple;
}

export class ReadingError extends Error {
  override name = 'ReadingError';
  /** The patches that are in the way. */
  readonly patches: string[];
  constructor(message: string, patches: string[]) {
    super(message);
    this.patches = patches;
  }
}

export function mean(labs: readonly Readonly<Triple>[]): Triple {
  return [0, 1, 2].map((v) => labs.reduce((sum, lab) => sum + lab[v]!, 0) / labs.length) as Triple;
}

/** L*a*b* of the bare media: the mean of all patches without ink. @throws ReadingError when there is none */
export function mediaWhite(measured: readonly Measured[]): Triple {
  const bare = measured.filter(({ patch }) => patch.inks.every((v) => v === 0));
  if (bare.length === 0) throw new ReadingError('There is no patch of the bare media among the readings.', []);
  return mean(bare.map(({ lab }) => lab));
}

/**
 * Sorts the readings of ladders by ink and step.
 *
 * @throws ReadingError when steps are missing, or when the two places of a step disagree by more than `mostApart` ΔE76
 */
export function laddersOf(measured: readonly Measured[], mostApart = 4): Ladder[] {
  const white = mediaWhite(measured);
  return CHANNELS.map((name, channel) => {
    const shares = new Map<number, Measured[]>();
    for (const one of measured) {
      const { inks } = one.patch;
      if (inks.some((v, i) => i !== channel && v > 0)) continue;
      if (inks[channel] === 0) continue;
      shares.set(inks[channel]!, [...(shares.get(inks[channel]!) ?? []), one]);
    }
    if (shares.size < 5)
      throw new ReadingError(`The ladder of ${name} has only ${shares.size} steps; 5 at least are needed.`, []);
    const steps = [...shares].sort(([p], [q]) => p - q);
    for (const [share, places] of steps) {
      const centre = mean(places.map(({ lab }) => lab));
      const apart = Math.max(...places.map(({ lab }) => deltaE76(lab, centre))) * 2;
      if (places.length > 1 && apart > mostApart)
        throw new ReadingError(
          `${name} at ${Math.round(share * 100)} % was read twice, ΔE ${apart.toFixed(1)} apart (${mostApart} at most). Read the strips of ${places.map(({ patch }) => patch.id).join(' and ')} again.`,
          places.map(({ patch }) => patch.id)
        );
    }
    const solid = mean(steps.at(-1)![1].map(({ lab }) => lab));
    const middleHue = hueOf(solid);
    const step = (share: number, lab: Triple): LadderStep => ({
      share,
      lab,
      distance: deltaE76(lab, white),
      chroma: Math.hypot(lab[1] - white[1], lab[2] - white[2]),
      hue: middleHue + turn(hueOf([lab[0], lab[1] - white[1], lab[2] - white[2]]) - middleHue)
    });
    return {
      channel,
      name,
      steps: [step(0, white), ...steps.map(([share, places]) => step(share, mean(places.map(({ lab }) => lab))))]
    };
  });
}

const hueOf = (lab: Readonly<Triple>): number => (Math.atan2(lab[2], lab[1]) * 180) / Math.PI;
/** An angle into −180…180. */
const turn = (angle: number): number => ((((angle + 180) % 360) + 360) % 360) - 180;
