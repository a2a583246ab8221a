import { z } from 'zod';
import { mlPerSquareMetre, type PrintSpeed } from '../inks/drops';
import { BLACKS, FAMILIES } from './card';

/** A print mode: how a kind of machine prints a family of media. */
export const PrintMode = z.object({
  /** Tells modes apart for good: goes with cards that are exported. */
  code: z.string().min(1).max(120),
  name: z.string().min(1).max(120),
  machine: z.string().min(1).max(60),
  inkSet: z.string().min(1).max(60),
  /** Which black of its machine it lays down. */
  black: z.enum(BLACKS).default('gloss'),
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

/** How fast a machine is in a mode. @param layers that it lays down in one job */
export const speedIn = (
  { headMm, carriageMmPerS, turnS }: Pick<PrintSpeed, 'headMm' | 'carriageMmPerS' | 'turnS'>,
  { passes, direction }: Pick<PrintMode, 'passes' | 'direction'>,
  layers: number
): PrintSpeed => ({ headMm, carriageMmPerS, turnS, passes, layers, oneWay: direction === 'one way' });

/** Hours and cost of an area in a mode. */
export function modeCost(mode: PrintMode, areaM2: number, ink: { coverage: number; costPerMl: number }) {
  const inkMl = mlPerSquareMetre({ x: mode.dpi, y: mode.dpi }, mode.drops) * ink.coverage * areaM2;
  return { minutes: (areaM2 / mode.speedM2PerH) * 60, inkMl, inkCost: inkMl * ink.costPerMl };
}
