import { readFileSync } from 'node:fs';
import * as mupdf from '$core/interpreter/interpreter';
import { throwTraps } from '$core/interpreter/interpreter';
import type { InkSpace } from '$core/artwork/resolver/resolver';
import { adjustLightness, withAdjustment, type Adjustment } from '$core/colour/adjustment';
import { withIntent, type IntentChoice, type RenderingIntent } from '$core/colour/icc-write';
import { openEngine } from '$core/colour/lcms';
import { ColourMaker } from '$core/colour/named-inks';
import { pressOfProfile } from '$core/colour/press-of-profile';
import type { InkLimits, Inks } from '$core/colour/separation';
import type { Kernels } from '$core/kernels/kernels';

export interface InkSpaceFiles {
  /** The condition's profile, and which of its intents is wanted. */
  profile: string;
  intent: IntentChoice;
  sources: { rgb: string; cmyk: string; grey: string };
  /** What named colours may take of ink. */
  limits: InkLimits;
  /** Of colours before they become inks; named ones keep theirs. */
  adjustment?: Adjustment | undefined;
}

/** The profiles that customers' colours are read with. */
export const readSources = (files: InkSpaceFiles['sources']): InkSpace['sources'] => ({
  rgb: Uint8Array.from(readFileSync(files.rgb)),
  cmyk: Uint8Array.from(readFileSync(files.cmyk)),
  grey: Uint8Array.from(readFileSync(files.grey))
});

const intentsOf = (intent: IntentChoice): RenderingIntent[] =>
  intent === 'file' ? ['relative', 'perceptual', 'saturation'] : [intent];

/** Opens the colours of a printing condition for drawing. */
export async function openInkSpace(files: InkSpaceFiles, kernels: Kernels): Promise<InkSpace> {
  const own = Uint8Array.from(readFileSync(files.profile));
  const { adjustment } = files;
  const plain = adjustment ? withAdjustment(own, adjustment, intentsOf(files.intent)) : own;
  const profile = files.intent === 'file' ? plain : withIntent(plain, files.intent);
  const sources = readSources(files.sources);
  const engine = await openEngine();
  const steps = Array.from({ length: 256 }, (_, i) => i / 255);
  const lightness = engine.deviceToLab(profile, 'CMYK', 'relative');
  const targetBlack = steps.map((k) => lightness([0, 0, 0, k])[0]);
  const grey = engine.deviceToLab(sources.grey, 'GRAY', 'relative');
  const tint = engine.deviceToLab(sources.cmyk, 'CMYK', 'relative');
  const target = new mupdf.ColorSpace(profile, 'condition');
  /** Those of a profile without a table for the intent are the target's. */
  const ofIntent = (intent: RenderingIntent) => {
    try {
      return new mupdf.ColorSpace(withIntent(plain, intent), intent);
    } catch (error) {
      throwTraps(error);
      return target;
    }
  };
  /** Lightness of what is printed in black alone, adjusted as all other colours are. */
  const asked = (lightness: number) => (adjustment ? adjustLightness(lightness, adjustment) : lightness);
  let maker: ColourMaker | undefined;
  /** By colour: thousands of records may be drawn in the same few. */
  const tints = new Map<string, Inks[]>();
  return {
    target,
    profile,
    tintsOf: (colour) => {
      const key = JSON.stringify([colour.lab, colour.own]);
      // Most pages have no named colour.
      const made = tints.get(key) ?? (maker ??= new ColourMaker(pressOfProfile(own, files.limits, engine))).tintsOf(colour);
      tints.set(key, made);
      return made;
    },
    intents:
      files.intent === 'file'
        ? { relative: target, perceptual: ofIntent('perceptual'), saturation: ofIntent('saturation') }
        : undefined,
    sources,
    blackForGrey: matchBlack(
      steps.map((g) => asked(grey([g])[0])),
      targetBlack
    ),
    blackForTint: matchBlack(
      steps.map((k) => asked(tint([0, 0, 0, k])[0])),
      targetBlack
    ),
    kernels
  };
}

/** Amounts of black that keep the steps of a source's lightness, stretched from its own darkest to the condition's black. */
export function matchBlack(source: readonly number[], target: readonly number[]): Float64Array {
  const darkest = Math.min(...source);
  const black = target[target.length - 1] ?? 0;
  return Float64Array.from(source, (value) => {
    const wanted = black + ((value - darkest) * (100 - black)) / (100 - darkest);
    const after = target.findIndex((lightness) => lightness <= wanted);
    if (after <= 0) return after === 0 ? 0 : 1;
    const above = target[after - 1] ?? 100;
    const below = target[after] ?? 0;
    return (after - (wanted - below) / Math.max(1e-9, above - below)) / (target.length - 1);
  });
}
