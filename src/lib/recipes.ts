import { z } from 'zod';
import { ArtworkChoices } from '$core/artwork/choices';
import type { MadeLine } from '$core/artwork/cut-choices';
import { RecordChoices } from '$core/records/choices';
import { InPocket } from './in-jig';
import { DocketChoices, PlatesKept, PRIORITIES, type DocketDocument } from './docket-choices';

/** A saved set of docket choices. What it does not set is left alone. */

const { shape } = DocketChoices;
const ratio = 'Its sides keep their proportion.';

/** How large it prints. */
export const SizeRule = z.discriminatedUnion('is', [
  z.object({ is: z.literal('own') }).describe('As the artwork is.'),
  z.object({ is: z.literal('at'), widthMm: shape.widthMm, heightMm: shape.heightMm }),
  z.object({ is: z.literal('width'), mm: shape.widthMm }).describe(ratio),
  z.object({ is: z.literal('height'), mm: shape.heightMm }).describe(ratio),
  z.object({
    is: z.literal('scale'),
    percent: z.number({ error: 'The scale must be a figure.' }).min(0.1, 'The scale is 0.1 to 50,000 %.').max(50_000, 'The scale is 0.1 to 50,000 %.')
  }), // prettier-ignore
  z.object({ is: z.literal('roll') }).describe(`As wide as what of the roll can be used. ${ratio}`)
]);
export type SizeRule = z.infer<typeof SizeRule>;

/** Said of every file, or of one alone that has none of its own. */
export const WHEN = ['always', 'missing'] as const;

const name = z.string().max(200);
export const MediaRule = z.discriminatedUnion('is', [
  z.object({ is: z.literal('condition'), conditionId: z.int() }),
  z.object({ is: z.literal('loaded'), machineId: z.int() }).describe('What is on a machine when it is applied, in the first mode that it has for it.'),
  z.object({ is: z.literal('named'), machine: name, media: name, mode: name }).describe('From another shop: used as soon as this one has it, and said until then.')
]); // prettier-ignore
export type MediaRule = z.infer<typeof MediaRule>;

export const JigRule = z.discriminatedUnion('is', [
  z.object({ is: z.literal('jig'), id: z.int().min(1), lies: InPocket }),
  z.object({ is: z.literal('named'), name, lies: InPocket }).describe('From another shop: used as soon as this one has it, and said until then.')
]); // prettier-ignore
export type JigRule = z.infer<typeof JigRule>;

export const RecipeSets = z
  .object({
    part: DocketChoices.pick({ box: true, crop: true, turn: true, mirror: true }),
    size: SizeRule,
    /** From how far it is looked at; nothing for the shop’s distance. */
    viewing: shape.viewingMm.unwrap(),
    bleed: z.object({ when: z.enum(WHEN), mm: ArtworkChoices.shape.bleedMm, from: z.enum(['page', 'mirror', 'stretch', 'colour']), colour: z.string().regex(/^#[0-9a-f]{6}$/i, 'A colour is six figures after #.') }), // prettier-ignore
    copies: shape.copies,
    media: MediaRule,
    jig: JigRule.nullable(),
    mayTurn: z.boolean(),
    colour: DocketChoices.pick({
      intent: true,
      sources: true,
      fieldsOff: true,
      enlarged: true,
      blackText: true,
      blackPictures: true,
      overprint: true,
      richBlack: true,
      thinnestMm: true,
      colours: true
    }),
    roles: shape.roles.unwrap(),
    layersOff: shape.layersOff.unwrap(),
    layers: DocketChoices.pick({ stack: true }),
    tone: DocketChoices.pick({ adjustment: true, tone: true }),
    cut: z.object({ when: z.enum(WHEN), cut: z.boolean(), lines: shape.lines.unwrap() }),
    finishing: shape.finishing.unwrap(),
    /** Fields, and how records lie; the table is of each docket. */
    records: RecordChoices.pick({ fields: true, chosen: true, each: true, order: true }),
    wall: shape.wall.unwrap(),
    priority: z.enum(PRIORITIES),
    plates: PlatesKept
  })
  .partial();
export type RecipeSets = z.infer<typeof RecipeSets>;
export type RecipePart = keyof RecipeSets;
export const RECIPE_PARTS = Object.keys(RecipeSets.shape) as RecipePart[];

/** What each sets, as it stands in a list. */
export const PART_WORDS: Record<RecipePart, string> = {
  part: 'the part of the page, turned and mirrored',
  size: 'size',
  viewing: 'from how far it is looked at',
  bleed: 'bleed',
  copies: 'number of copies',
  media: 'media and print mode',
  jig: 'the jig that it lies in',
  mayTurn: 'whether it may be turned',
  colour: 'colour, intent and black',
  roles: 'roles of spot colours and layers',
  layersOff: 'layers of the file that do not print',
  layers: 'layers of ink',
  tone: 'tone curves and adjustment',
  cut: 'cut lines',
  finishing: 'marks, folds and eyelets',
  records: 'fields and how records lie',
  wall: 'the wall and its panels',
  priority: 'priority',
  plates: 'how long its plates are kept'
};

export const MOST_RECIPES = 500;

export const Recipe = z.object({
  name: z.string().trim().min(1, 'A recipe needs a name.').max(80, 'A name has at most 80 characters.'),
  note: z.string().max(500, 'A note has at most 500 characters.').default(''),
  /** The one that it builds on: what that sets and this does not. */
  on: z.int().min(1).nullable().default(null),
  sets: RecipeSets
});
export type Recipe = z.infer<typeof Recipe>;

/** All that a recipe can take from a docket, as it is there. */
export function setsOf({ choices, priority }: Pick<DocketDocument, 'choices' | 'priority'>): RecipeSets {
  const { box, crop, turn, mirror, widthMm, heightMm, bleedMm, bleedFrom, bleedColour, copies, conditionId, mayTurn } = choices;
  const { viewingMm, layersOff, cut, lines, stack, adjustment, tone, finishing, records, wall, roles, jig, platesKept } = choices;
  return RecipeSets.parse({
    part: { box, crop, turn, mirror },
    size: { is: 'at', widthMm, heightMm },
    viewing: viewingMm,
    bleed: { when: 'always', mm: bleedMm, from: bleedFrom, colour: bleedColour },
    copies,
    ...(conditionId !== null && { media: { is: 'condition', conditionId } }),
    jig: jig && { is: 'jig', ...jig },
    mayTurn,
    colour: choices,
    roles,
    layersOff,
    layers: { stack },
    tone: { adjustment, tone },
    cut: { when: 'always', cut, lines: { ...lines, made: lines.made.map(untraced) } },
    finishing,
    ...(records.fields.length > 0 && { records }),
    wall: wall && { ...wall, photo: null },
    priority,
    plates: platesKept
  });
}

/** A line that was found is found anew in every artwork. */
const untraced = (line: MadeLine): MadeLine =>
  line.from.kind === 'found' ? { ...line, from: { ...line.from, outline: '' } } : line;

/** What a recipe sets with all that it builds on: its own before that of others. @param chain from itself to the first */
export const togetherOf = (chain: readonly Pick<Recipe, 'sets'>[]): RecipeSets =>
  chain.reduceRight<RecipeSets>((all, { sets }) => ({ ...all, ...sets }), {});
