import { z } from 'zod';
import { BoxSchema } from '$core/artwork/facts';
import { Adjustment, NO_ADJUSTMENT } from '$core/colour/adjustment';
import { straightTone, Tone, TONE_CHANNELS, toneFunction, type ToneCurve } from '$core/colour/tone';
import { HALFTONES, HALFTONE_WORDS } from './run-rule';
import { Intent, type DocketChoices } from './docket-choices';

/** Variants of a docket's tone, printed beside each other to be chosen by eye. */

export const MOST_VARIANTS = 12;
export const LETTERS = 'ABCDEFGHIJKL';

/** What of a docket a variant changes. */
export const Variant = z.object({
  /** What is different about it, for people. */
  words: z.string().max(60),
  adjustment: Adjustment,
  tone: Tone,
  intent: Intent,
  /** Only where variants are of that. */
  halftone: z.enum(HALFTONES).optional()
});
export type Variant = z.infer<typeof Variant>;

export const StripRequest = z.object({
  /** Which part of the docket, mm of its finished size. */
  part: BoxSchema.extend({
    width: z.number().min(5, 'The part is at least 5 mm wide.').max(2000, 'The part is at most 2 m wide.'),
    height: z.number().min(5, 'The part is at least 5 mm high.').max(2000, 'The part is at most 2 m high.')
  }),
  variants: z.array(Variant).min(2, 'Two variants at least.').max(MOST_VARIANTS, `At most ${MOST_VARIANTS} variants.`)
});
export type StripRequest = z.infer<typeof StripRequest>;

export const VARIANT_KINDS = [
  'between',
  'brightness',
  'contrast',
  'saturation',
  'cyan',
  'magenta',
  'yellow',
  'black',
  'intents',
  'halftones'
] as const;
export type VariantKind = (typeof VARIANT_KINDS)[number];

export const VARIANT_WORDS: Record<VariantKind, string> = {
  between: 'from as it was sent to as it is now',
  brightness: 'darker to brighter',
  contrast: 'softer to harder',
  saturation: 'paler to stronger',
  cyan: 'less to more cyan',
  magenta: 'less to more magenta',
  yellow: 'less to more yellow',
  black: 'less to more black',
  intents: 'the three rendering intents',
  halftones: 'the two halftones'
};

/** How far the outermost variants go. */
const FARTHEST = 0.35;
const MORE_INK = 0.12;

type Now = Pick<DocketChoices, 'adjustment' | 'tone' | 'intent'>;

/** How many there are of some kinds, whatever is asked for. */
export const COUNTS: Partial<Record<VariantKind, number>> = { intents: 3, halftones: HALFTONES.length };

/** @param count how many, where the kind does not say */
export function variantsOf(kind: VariantKind, count: number, now: Now): Variant[] {
  const percent = (v: number) => `${v > 0 ? '+' : v < 0 ? '−' : ''}${Math.round(Math.abs(v) * 100)}`;
  const steps = Array.from({ length: count }, (_, i) => (count === 1 ? 0 : (2 * i) / (count - 1) - 1));
  switch (kind) {
    case 'intents':
      return (['relative', 'perceptual', 'saturation'] as const).map((intent) => ({ ...pick(now), intent, words: intent }));
    case 'halftones':
      return HALFTONES.map((halftone) => ({ ...pick(now), halftone, words: HALFTONE_WORDS[halftone] }));
    case 'between':
      return steps.map((step) => {
        const share = (step + 1) / 2;
        return {
          intent: now.intent,
          adjustment: between(now.adjustment, share),
          tone: toneBetween(now.tone, share),
          words: share === 0 ? 'as sent' : share === 1 ? 'as now' : `${Math.round(share * 100)} % of the way`
        };
      });
    case 'brightness':
    case 'contrast':
    case 'saturation':
      return steps.map((step) => {
        const value = Math.min(1, Math.max(-1, now.adjustment[kind] + step * FARTHEST));
        return { ...pick(now), adjustment: { ...now.adjustment, [kind]: value }, words: `${kind} ${percent(value)}` };
      });
    default:
      return steps.map((step) => ({
        ...pick(now),
        tone: { ...now.tone, [kind]: lifted(now.tone[kind] ?? straightTone(), step * MORE_INK) },
        words: `${kind} ${percent(step * MORE_INK)}`
      }));
  }
}

const pick = ({ adjustment, tone, intent }: Now) => ({ adjustment, tone, intent });

/** As many points as tell any curve well. */
const PLACES = [0, 0.125, 0.25, 0.375, 0.5, 0.625, 0.75, 0.875, 1];
const rounded = (v: number) => Math.round(Math.min(1, Math.max(0, v)) * 1e4) / 1e4;
const through = (at: (x: number) => number, mayFall: boolean): ToneCurve => ({
  points: PLACES.map((x) => [x, rounded(at(x))]),
  mayFall
});

/** A curve with so much more in its middle. */
function lifted(curve: ToneCurve, more: number): ToneCurve {
  const at = toneFunction(curve);
  return through((x) => at(x) + more * 4 * x * (1 - x), curve.mayFall);
}

/** A part of the way from nothing changed. */
function between({ brightness, contrast, saturation, cast, castHue }: Adjustment, share: number): Adjustment {
  const [b, c, s, k] = [brightness, contrast, saturation, cast].map((v) => v * share) as [number, number, number, number];
  return share === 0 ? NO_ADJUSTMENT : { brightness: b, contrast: c, saturation: s, cast: k, castHue };
}

function toneBetween(tone: Tone, share: number): Tone {
  return Object.fromEntries(
    TONE_CHANNELS.flatMap((channel) => {
      const curve = tone[channel];
      if (!curve || share === 0) return [];
      const at = toneFunction(curve);
      return [[channel, share === 1 ? curve : through((x) => x + share * (at(x) - x), curve.mayFall)]];
    })
  );
}
