import { ForwardGrid } from './forward-grid';
import { IccError, inksToLab, labToInks, readLut, readProfileFacts } from './icc-read';
import { xyzToLab, type Triple } from './lab';
import type { Engine } from './lcms';
import type { ColourPress } from './named-inks';
import type { InkLimits } from './separation';

/** Points of the grid that a profile's colours are read on: those of our own profiles, so that nothing is rounded between. */
const GRID = 17;

/**
 * A condition as its profile knows it.
 *
 * @param engine for profiles whose tables are of kinds that are not read here
 */
export function pressOfProfile(profile: Uint8Array, limits: InkLimits, engine: Engine): ColourPress {
  const { white } = readProfileFacts(profile);
  const lab = ownTable(() => inksToLab(readLut(profile, 'A2B1'))) ?? engine.deviceToLab(profile, 'CMYK', 'relative');
  const begin = ownTable(() => labToInks(readLut(profile, 'B2A1'))) ?? engine.labToDevice(profile, 'relative');
  const grid = ForwardGrid.sample((c, m, y, k, out) => {
    const [l, a, b] = lab([c, m, y, k]);
    out[0] = l;
    out[1] = a;
    out[2] = b;
  }, GRID);
  return {
    grid,
    white: white ? xyzToLab(white) : PERFECT,
    limits,
    begin: (asked) => begin(asked).map((v) => Math.min(1, Math.max(0, v)))
  };
}

const PERFECT: Triple = [100, 0, 0];

function ownTable<T>(read: () => T): T | undefined {
  try {
    return read();
  } catch (error) {
    if (error instanceof IccError) return undefined;
    throw error;
  }
}
