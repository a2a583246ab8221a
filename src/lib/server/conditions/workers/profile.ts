import { readFileSync } from 'node:fs';
import type { Measured } from '$core/calibration/ladders';
import { fittedToAll, type Correction, type Fitted } from '$core/calibration/matching';
import { withMixture } from '$core/calibration/mixing';
import { toneGrain, type ToneGrain, type TonePress } from '$core/calibration/tone-grain';
import { profileFromChart, type BuiltProfile } from '$core/calibration/profile-from-chart';
import type { ReadPatch } from '$core/charts/check-readings';
import { ForwardGrid } from '$core/colour/forward-grid';
import { faceColours, gamutHull, type GamutHull } from '$core/colour/gamut';
import { SurfaceError } from '$core/colour/gaussian-process';
import { inksToLab, readLut } from '$core/colour/icc-read';
import { srgbToXyz, wideRgbToXyz, xyzToLab, type Triple } from '$core/colour/lab';
import { openEngine } from '$core/colour/lcms';
import { PrinterModel } from '$core/colour/printer-model';
import { buildProfile, modelPress, type ProfileRecipe } from '$core/colour/profile-build';
import { neutralInks, type SeparationSettings } from '$core/colour/black';
import { type Inks } from '$core/colour/separation';
import { throwTraps } from '$core/interpreter/traps';
import { openKernels } from '../../platform/workers/kernels-file';
import { endingOnTraps } from '../../platform/workers/ending-on-traps';

/** Builds profiles and looks into them; the thread is ended when it is cancelled. */

export const fromModel = endingOnTraps(({ model, recipe }: { model: PrinterModel; recipe: ProfileRecipe }): Uint8Array =>
  buildProfile(modelPress(PrinterModel.parse(model)), recipe)
);

export interface ChartBuild {
  read: ReadPatch[];
  recipe: ProfileRecipe;
  /** One Int32: thousandths done, for whoever looks. */
  progress: SharedArrayBuffer;
}

export const fromChart = endingOnTraps(({ read, recipe, progress }: ChartBuild): BuiltProfile => {
  const done = new Int32Array(progress);
  return profileFromChart(read, recipe, (share) => Atomics.store(done, 0, Math.round(share * 1000)));
});

export interface NeutralsRequest {
  profile: string;
  separation: SeparationSettings;
  steps: number;
}

/** How greys would be made of inks: from the profile's own colours, so that it answers at once. */
export const neutrals = endingOnTraps(
  async ({ profile, separation, steps }: NeutralsRequest): Promise<{ lightness: number; inks: Inks }[]> =>
    neutralInks(ForwardGrid.sample(await forwardOf(profile), 9), separation, steps)
);

/** The hull of a CMYK profile's gamut, or of an RGB space. */
export const hull = endingOnTraps(async ({ profile }: { profile: string | 'srgb' | 'wide' }): Promise<GamutHull> => {
  if (profile === 'wide') return gamutHull(faceColours(3, 240, (rgb) => xyzToLab(wideRgbToXyz(rgb as Triple))));
  if (profile === 'srgb') return gamutHull(faceColours(3, 240, (rgb) => xyzToLab(srgbToXyz(rgb as Triple))));
  const forward = await forwardOf(profile);
  const out: Triple = [0, 0, 0];
  return gamutHull(
    faceColours(4, 90, ([c, m, y, k]) => {
      forward(c!, m!, y!, k!, out);
      return [...out];
    })
  );
});

export interface GrainRequest extends TonePress {
  profile: string;
  kernels: string;
  mask: string;
  tone: number;
}

/** How grainy a tone of each channel with a light ink is, of its drops. */
export const grain = endingOnTraps(async ({ profile, kernels, mask, tone, ...press }: GrainRequest): Promise<ToneGrain[]> => {
  const forward = await forwardOf(profile);
  const out: Triple = [0, 0, 0];
  const lightness = (channel: number, value: number) => {
    const [c, m, y, k] = [0, 1, 2, 3].map((i) => (i === channel ? value : 0)) as Inks;
    forward(c, m, y, k, out);
    return out[0];
  };
  const bytes = readFileSync(mask);
  const ranks = new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2);
  return toneGrain(press, tone, lightness, openKernels(kernels), { size: Math.sqrt(ranks.length), ranks });
});

/** Inks → L*a*b* through a profile: by our own reader, or by the colour engine where its tables are of another kind. */
async function forwardOf(profile: string): Promise<(c: number, m: number, y: number, k: number, out: Triple) => void> {
  const bytes = Uint8Array.from(readFileSync(profile));
  let lab: (inks: readonly number[]) => Triple;
  try {
    lab = inksToLab(readLut(bytes, 'A2B1'));
  } catch (error) {
    throwTraps(error);
    lab = (await openEngine()).deviceToLab(bytes, 'CMYK', 'relative');
  }
  return (c, m, y, k, out) => {
    const [l, a, b] = lab([c, m, y, k]);
    out[0] = l;
    out[1] = a;
    out[2] = b;
  };
}

/** L*a*b* aims → inks through a profile, and what it says they come to. */
export const throughProfile = endingOnTraps(
  async ({ profile, inks }: { profile: string; inks: Inks[] }): Promise<{ inks: Inks; asked: Triple }[]> => {
    const bytes = Uint8Array.from(readFileSync(profile));
    const engine = await openEngine();
    const toLab = engine.deviceToLab(bytes, 'CMYK', 'relative');
    const toInks = engine.labToDevice(bytes, 'relative');
    return inks.map((one) => {
      const asked = toLab(one);
      return { asked, inks: toInks(asked).map((v) => Math.round(Math.min(1, Math.max(0, v)) * 255) / 255) as Inks };
    });
  }
);

export interface MatchFit {
  correction: Correction;
  baseline: Measured[];
  now: Measured[];
  /** Where curves leave more than this, ΔE00 in the mean, inks are corrected together too. */
  leaves: number;
}

/** A correction fitted to all that was read; nothing where no surface holds, and the ladders must do. */
export const fitMatch = endingOnTraps(({ correction, baseline, now, leaves }: MatchFit): Fitted | null => {
  try {
    const fitted = fittedToAll(correction, baseline, now);
    return fitted.predicted.mean > leaves ? withMixture(fitted, baseline, now) : fitted;
  } catch (error) {
    if (error instanceof SurfaceError) return null;
    throw error;
  }
});

export { makeColours, proofTables } from './named-inks';
