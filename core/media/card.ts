import { z } from 'zod';
import { Stack } from '../inks/stack';
import { KnifeChoice } from './knife';

/** What a media is: one card, the same in the shop, in a file, and in a maker's library. Lengths in mm. */

export const FAMILIES = ['cast', 'calendered', 'banner', 'backlit', 'paper', 'textile', 'canvas', 'rigid'] as const;
export type Family = (typeof FAMILIES)[number];

export const SURFACES = ['gloss', 'satin', 'matt', 'paper', 'fabric'] as const;
export type Surface = (typeof SURFACES)[number];

/** The kinds of black ink that machines have: one that shines, and one that is dark where nothing shines. */
export const BLACKS = ['gloss', 'matt'] as const;
export type Black = (typeof BLACKS)[number];

/** What light does with a media: comes back, goes through, or is kept. */
export const BODIES = ['opaque', 'clear', 'translucent', 'dark'] as const;
export type Body = (typeof BODIES)[number];

const figure = (what: string, least: number, most: number, unit: string) =>
  z
    .number({ error: `The ${what} must be a figure.` })
    .min(least, `The ${what} is ${least} to ${most} ${unit}.`)
    .max(most, `The ${what} is ${least} to ${most} ${unit}.`);

/** How one kind of machine is to treat the media. */
export const Handling = z.object({
  headGapMm: figure('head gap', 0.5, 20, 'mm'),
  vacuumPercent: figure('vacuum', 0, 100, '%'),
  feedTensionN: figure('feed tension', 0, 200, 'N'),
  preHeatC: figure('pre-heat', 0, 90, '°C'),
  platenHeatC: figure('platen heat', 0, 90, '°C'),
  dryHeatC: figure('drying heat', 0, 120, '°C'),
  drySeconds: figure('drying time', 0, 600, 's'),
  feedCorrectionPercent: figure('feed correction', -3, 3, '%'),
  cutOff: z.enum(['blade', 'by hand', 'none']),
  takeUp: z.enum(['off', 'print side in', 'print side out']),
  marginMm: figure('edge margin', 0, 100, 'mm'),
  edgeGuards: z.boolean()
});
export type Handling = z.infer<typeof Handling>;

export const HANDLING_WORDS: Record<keyof Handling, { words: string; unit: string; step: number }> = {
  headGapMm: { words: 'Head gap', unit: 'mm', step: 0.1 },
  vacuumPercent: { words: 'Vacuum', unit: '%', step: 5 },
  feedTensionN: { words: 'Feed tension', unit: 'N', step: 1 },
  preHeatC: { words: 'Pre-heat', unit: '°C', step: 1 },
  platenHeatC: { words: 'Platen heat', unit: '°C', step: 1 },
  dryHeatC: { words: 'Drying heat', unit: '°C', step: 1 },
  drySeconds: { words: 'Drying time', unit: 's', step: 5 },
  feedCorrectionPercent: { words: 'Feed correction', unit: '%', step: 0.05 },
  cutOff: { words: 'Cut-off', unit: '', step: 0 },
  takeUp: { words: 'Take-up', unit: '', step: 0 },
  marginMm: { words: 'Edge margin', unit: 'mm', step: 0.5 },
  edgeGuards: { words: 'Edge guards', unit: '', step: 0 }
};

export const Roll = z.object({
  widthMm: figure('width of a roll', 50, 6000, 'mm'),
  lengthMm: figure('length of a roll', 0, 1e6, 'mm'),
  /** As its maker printed on it; nothing where nobody wrote it down. */
  batch: z.string().trim().max(40, 'A batch has at most 40 characters.').optional()
});
export type Roll = z.infer<typeof Roll>;

/** Sheets of one size in stock. */
export const Sheets = z.object({
  widthMm: figure('width of a sheet', 50, 6000, 'mm'),
  heightMm: figure('height of a sheet', 50, 10_000, 'mm'),
  count: z.int('Sheets are counted in whole numbers.').min(0, 'Sheets are counted from 0.').max(10_000, 'At most 10,000 sheets.')
});
export type Sheets = z.infer<typeof Sheets>;

/** Characters of a card's name. */
export const MOST_NAME = 80;

export const MediaCard = z.object({
  name: z.string().trim().min(1, 'A media needs a name.').max(MOST_NAME, `A name has at most ${MOST_NAME} characters.`),
  maker: z.string().trim().max(80, 'A maker’s name has at most 80 characters.'),
  family: z.enum(FAMILIES),
  surface: z.enum(SURFACES),
  widthMm: figure('width', 50, 6000, 'mm'),
  thicknessMm: figure('thickness', 0.01, 60, 'mm'),
  costPerM2: figure('cost', 0, 10_000, 'a m²'),
  note: z.string().max(2000, 'A note has at most 2000 characters.'),
  /** L*a*b* of the bare media as measured: films are of any colour, and some shine. */
  white: z.tuple([z.number().min(0).max(120), z.number().min(-150).max(150), z.number().min(-150).max(150)]).nullable(),
  rolls: z.array(Roll).max(200, 'At most 200 rolls.'),
  sheets: z.array(Sheets).max(50, 'At most 50 sizes of sheet.').default([]),
  body: z.enum(BODIES).default('opaque'),
  /** As it looks on white, on the screen. */
  colour: z
    .string()
    .regex(/^#[0-9a-f]{6}$/i, 'A colour is six figures after #.')
    .default('#ffffff'),
  /** Which side of it is printed. */
  printedSide: z.enum(['face', 'back']).default('face'),
  /** Ink holds on it only over primer. */
  primer: z.boolean().default(false),
  /** Which black is the right one on it. */
  black: z.enum(BLACKS).default('gloss'),
  /** What dockets on it are printed in unless they say otherwise; none of its own for what its body suggests. */
  stack: Stack.nullable().default(null),
  /** What it is cut with, by kind of cutter. */
  knives: z.record(z.string().min(1).max(60), KnifeChoice).default({}),
  /** By kind of machine; it can be printed only on those. */
  handling: z.record(z.string().min(1).max(60), Handling)
});
export type MediaCard = z.infer<typeof MediaCard>;

export const NEW_CARD: MediaCard = {
  knives: {},
  name: 'New media',
  maker: '',
  family: 'calendered',
  surface: 'gloss',
  widthMm: 1300,
  thicknessMm: 0.08,
  costPerM2: 5,
  note: '',
  white: null,
  rolls: [],
  sheets: [],
  body: 'opaque',
  colour: '#ffffff',
  printedSide: 'face',
  primer: false,
  black: 'gloss',
  stack: null,
  handling: {}
};

/** What of one card is otherwise in another: names of fields, and of fields within a machine's handling. What is in stock is each shop's own. */
export function cardDifferences(mine: MediaCard, theirs: MediaCard): { field: string; mine: string; theirs: string }[] {
  const say = (value: unknown): string =>
    value === null || value === undefined ? 'nothing' : typeof value === 'object' ? JSON.stringify(value) : String(value);
  const list: { field: string; mine: string; theirs: string }[] = [];
  for (const key of Object.keys(MediaCard.shape) as (keyof MediaCard)[]) {
    if (key === 'handling' || key === 'rolls' || key === 'sheets') continue;
    if (say(mine[key]) !== say(theirs[key])) list.push({ field: key, mine: say(mine[key]), theirs: say(theirs[key]) });
  }
  for (const machine of new Set([...Object.keys(mine.handling), ...Object.keys(theirs.handling)])) {
    const [here, there] = [mine.handling[machine], theirs.handling[machine]];
    if (!here || !there) {
      list.push({ field: machine, mine: here ? 'yes' : 'no', theirs: there ? 'yes' : 'no' });
      continue;
    }
    for (const key of Object.keys(HANDLING_WORDS) as (keyof Handling)[]) {
      if (here[key] !== there[key])
        list.push({ field: `${machine}: ${HANDLING_WORDS[key].words}`, mine: say(here[key]), theirs: say(there[key]) });
    }
  }
  return list;
}
