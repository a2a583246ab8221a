import { z } from 'zod';
import { mlPerSquareMetre } from '../inks/drops';
import { FAMILIES } from './card';

/** A print mode: how a kind of machine prints a family of media. */
export const PrintMode = z.object({
  /** Tells modes apart for good: goes with cards that are exported. */
  code: z.string().min(1).max(120),
  name: z.string().min(1).max(120),
  machine: z.string().min(1).max(60),
  inkSet: z.string().min(1).max(60),
  family: z.enum(FAMILIES),
  maker: z.string().max(60),
  dpi: z.number().min(90).max(2880),
  passes: z.int().min(1).max(64),
  direction: z.enum(['both ways', 'one way']),
  quality: z.enum(['draft', 'production', 'quality', 'fine']),
  /** pl of the small, middle and large drop. */
  drops: z.tuple([z.number().positive(), z.number().positive(), z.number().positive()]),
  speedM2PerH: z.number().positive(),
  /** What the maker starts with: most of each ink, most in all; shares of the fullest. */
  limits: z.object({ channels: z.tuple([z.number(), z.number(), z.number(), z.number()]), total: z.number() })
});
export type PrintMode = z.infer<typeof PrintMode>;

/** What modes can be told apart by, in the order of the finder. */
export const FACETS = ['machine', 'inkSet', 'family', 'maker', 'dpi', 'quality', 'passes', 'direction'] as const;
export type Facet = (typeof FACETS)[number] | 'profile';

export type Chosen = Partial<Record<Facet, string>>;

export interface ModeToFind extends PrintMode {
  /** Whether a media of the shop has been profiled in it: "yes" or "no". */
  profile: 'yes' | 'no';
  /** Names that are not in the mode itself and that people search by: media printed in it. */
  words: string;
}

const valueOf = (mode: ModeToFind, facet: Facet): string => String(mode[facet]);

/** Every word of the text must be somewhere in the mode. */
function matches(mode: ModeToFind, words: readonly string[]): boolean {
  if (words.length === 0) return true;
  const all = [
    mode.name,
    mode.machine,
    mode.inkSet,
    mode.family,
    mode.maker,
    `${mode.dpi} dpi`,
    mode.quality,
    `${mode.passes} passes`,
    mode.direction,
    mode.words
  ]
    .join(' ')
    .toLowerCase();
  return words.every((word) => all.includes(word));
}

/**
 * Narrows modes down.
 *
 * @returns what is left, and for each facet how many would be left behind each of its choices, the others kept
 */
export function findModes<M extends ModeToFind>(
  modes: readonly M[],
  chosen: Chosen,
  text: string
): { found: M[]; counts: Record<Facet, { value: string; count: number }[]> } {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const searched = modes.filter((mode) => matches(mode, words));
  const facets: Facet[] = [...FACETS, 'profile'];
  const fits = (mode: M, except?: Facet) =>
    facets.every((facet) => facet === except || chosen[facet] === undefined || valueOf(mode, facet) === chosen[facet]);
  const counts = Object.fromEntries(
    facets.map((facet) => {
      const values = new Map([...new Set(modes.map((mode) => valueOf(mode, facet)))].map((value) => [value, 0]));
      for (const mode of searched)
        if (fits(mode, facet)) values.set(valueOf(mode, facet), (values.get(valueOf(mode, facet)) ?? 0) + 1);
      return [facet, [...values].map(([value, count]) => ({ value, count })).sort(byValue)];
    })
  ) as Record<Facet, { value: string; count: number }[]>;
  return { found: searched.filter((mode) => fits(mode)), counts };
}

const byValue = (p: { value: string }, q: { value: string }) => {
  const [a, b] = [Number(p.value), Number(q.value)];
  return Number.isNaN(a) || Number.isNaN(b) ? p.value.localeCompare(q.value) : a - b;
};

/** Hours and cost of an area in a mode. */
export function modeCost(mode: PrintMode, areaM2: number, ink: { coverage: number; costPerMl: number }) {
  const inkMl = mlPerSquareMetre({ x: mode.dpi, y: mode.dpi }, mode.drops) * ink.coverage * areaM2;
  return { minutes: (areaM2 / mode.speedM2PerH) * 60, inkMl, inkCost: inkMl * ink.costPerMl };
}
