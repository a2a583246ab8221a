import { offsetCoated } from '../colour/conditions';
import { deltaE00, deltaE76, xyzToLab, type Triple } from '../colour/lab';
import { ModelEvaluator } from '../colour/printer-model';
import type { Inks } from '../colour/separation';
import { stripName } from './chart-layout';
import type { Patch } from './patches';

export interface Finding {
  kind: 'backwards' | 'other strip' | 'not its colour' | 'missing' | 'outlier';
  strip: number;
  /** Patches it is about. */
  ids: string[];
  text: string;
}

export interface ReadPatch extends Patch {
  strip: number;
  lab: Triple;
}

/** Any press in the world, roughly: enough to tell that a red is not red. */
const usual = new ModelEvaluator(offsetCoated());
/** Amounts that are not linearised yet cover more than they say. */
const covered = (v: number, raw: boolean) => (raw ? 1 - (1 - v) ** 2.2 : v);

export function usualColour(inks: Readonly<Inks>, raw: boolean): Triple {
  const [c, m, y, k] = inks.map((v) => covered(v, raw)) as Inks;
  return xyzToLab(usual.xyz(c, m, y, k));
}

/** How far a patch may be from what is usual, ΔE76. */
const FAR = 42;

/**
 * Finds strips read backwards or in place of another, and patches that are not their colour.
 *
 * @param expected what is known of the press; the usual press where it is not given
 */
export function checkReadings(read: readonly ReadPatch[], raw: boolean, expected?: (inks: Readonly<Inks>) => Triple): Finding[] {
  const want = new Map(read.map((patch) => [patch, expected?.(patch.inks) ?? usualColour(patch.inks, raw)]));
  const strips = new Map<number, ReadPatch[]>();
  for (const patch of read) strips.set(patch.strip, [...(strips.get(patch.strip) ?? []), patch]);
  const far = expected ? 14 : FAR;
  const findings: Finding[] = [];
  for (const [strip, patches] of strips) {
    const colours = patches.map((patch) => want.get(patch)!);
    const miss = (others: readonly Triple[]) =>
      patches.reduce((sum, { lab }, i) => sum + Math.min(60, deltaE76(lab, others[i]!)), 0) / patches.length;
    const own = miss(colours);
    const turned = miss([...colours].reverse());
    if (own > 15 && turned < own * 0.6) {
      findings.push({
        kind: 'backwards',
        strip,
        ids: patches.map(({ id }) => id),
        text: `Strip ${stripName(strip)} was read backwards: it fits from right to left (ΔE ${turned.toFixed(0)} against ${own.toFixed(0)}). Read it again.`
      });
      continue;
    }
    const better = [...strips]
      .filter(([other, list]) => other !== strip && list.length === patches.length)
      .map(([other, list]) => ({ other, miss: miss(list.map((patch) => want.get(patch)!)) }))
      .sort((p, q) => p.miss - q.miss)[0];
    if (better && own > 15 && better.miss < own * 0.5) {
      findings.push({
        kind: 'other strip',
        strip,
        ids: patches.map(({ id }) => id),
        text: `What was read for strip ${stripName(strip)} looks like strip ${stripName(better.other)}. Read it again.`
      });
      continue;
    }
    for (const patch of patches) {
      const away = deltaE76(patch.lab, want.get(patch)!);
      if (away > far)
        findings.push({
          kind: 'not its colour',
          strip,
          ids: [patch.id],
          text: `${patch.id} in strip ${stripName(strip)} is not its colour: ${describe(patch.inks)} was read as ${nameOf(patch.lab)} (ΔE ${away.toFixed(0)} from what is usual).`
        });
    }
  }
  return findings;
}

/** Patches that the others contradict, by what leaving each out says of it. */
export function outliers(read: readonly ReadPatch[], leaveOut: Float64Array): { errors: number[]; findings: Finding[] } {
  const errors = read.map(({ lab }, i) => {
    const predicted: Triple = [lab[0] - leaveOut[i * 3]!, lab[1] - leaveOut[i * 3 + 1]!, lab[2] - leaveOut[i * 3 + 2]!];
    return deltaE00(lab, predicted);
  });
  const sorted = [...errors].sort((p, q) => p - q);
  const limit = Math.max(2, 6 * (sorted[Math.floor(sorted.length / 2)] ?? 0));
  return {
    errors,
    findings: read.flatMap((patch, i) =>
      errors[i]! > limit
        ? [
            {
              kind: 'outlier' as const,
              strip: patch.strip,
              ids: [patch.id],
              text: `${patch.id} in strip ${stripName(patch.strip)} (${describe(patch.inks)}) is ΔE00 ${errors[i]!.toFixed(1)} from what its neighbours say. Read the strip again, or leave the patch out.`
            }
          ]
        : []
    )
  };
}

/** Inks in words: C 40 M 20. */
export function describe(inks: Readonly<Inks>): string {
  const parts = inks.flatMap((v, i) => (v > 0 ? [`${'CMYK'[i]} ${Math.round(v * 100)}`] : []));
  return parts.join(' ') || 'bare media';
}

/** A colour in a plain word. */
export function nameOf(lab: Readonly<Triple>): string {
  const chroma = Math.hypot(lab[1], lab[2]);
  if (chroma < 12) return lab[0] > 80 ? 'white' : lab[0] > 30 ? 'grey' : 'black';
  const hue = ((Math.atan2(lab[2], lab[1]) * 180) / Math.PI + 360) % 360;
  const names: [number, string][] = [
    [20, 'pink'],
    [50, 'red'],
    [75, 'orange'],
    [110, 'yellow'],
    [170, 'green'],
    [230, 'cyan'],
    [305, 'blue'],
    [345, 'purple'],
    [361, 'pink']
  ];
  return names.find(([to]) => hue < to)?.[1] ?? 'pink';
}
