import { z } from 'zod';
import { ArtworkChoices, MOST_MM } from '$core/artwork/choices';
import { ColourChange, MOST_CHANGES } from '$core/artwork/colour-changes';
import { Adjustment, NO_ADJUSTMENT } from '$core/colour/adjustment';
import { Tone } from '$core/colour/tone';
import { InJig } from './in-jig';
import { BoxSchema } from '$core/artwork/facts';
import { ENLARGED } from '$core/artwork/preparation';
import { NO_FINISHING } from '$core/marks/finishing';
import { Finishing } from '$core/marks/finishing-choice';
import { NO_RECORDS, RecordChoices } from '$core/records/choices';
import { MOST_CONTENT } from '$core/records/content';
import { MOST_SERIES } from '$core/records/series';
import { Wall } from '$core/panels/wall';
import { MOST_CHARACTERS, MOST_COLUMNS, MOST_ROWS } from '$core/records/table';

/** What a person says of a docket, as browser and server agree on it: every figure is checked here, once, with the limits in the sentence. */

export const Intent = z.enum(['relative', 'perceptual', 'saturation', 'file']);
export type Intent = z.infer<typeof Intent>;

/** Said of a source: as in the shop, whatever the file says it is made for. */
export const SHOPS_OWN = 'shop';
/** Profiles that colours are read with where a file has none, by name; nothing is as the file says, and else as in the shop. */
export const SourceChoice = z.object({ rgb: z.string().max(80), cmyk: z.string().max(80), grey: z.string().max(80) });
export type SourceChoice = z.infer<typeof SourceChoice>;
export const SHOPS_SOURCES: SourceChoice = { rgb: '', cmyk: '', grey: '' };

/** How long plates are kept once they are printed: so many days, or until a person deletes them. */
export const PlatesKept = z.union([
  z.enum(['as the shop', 'always']),
  z.int('Days are counted in whole numbers.').min(1, 'Plates are kept for a day at least.').max(3650, 'Plates are kept for at most 3,650 days; or for ever.')
]); // prettier-ignore
export type PlatesKept = z.infer<typeof PlatesKept>;

export const DocketChoices = ArtworkChoices.extend({
  copies: z.int('Copies are counted in whole numbers.').min(1, 'At least 1 copy.').max(MOST_SERIES, 'At most 100,000 copies.'),
  conditionId: z.int().nullable(),
  mayTurn: z.boolean(),
  intent: Intent,
  sources: SourceChoice.default(SHOPS_SOURCES),
  /** Brightness, contrast, saturation and a cast before the inks, and curves of the inks after. */
  adjustment: Adjustment.default(NO_ADJUSTMENT),
  tone: Tone.default({}),
  finishing: Finishing.default(NO_FINISHING),
  records: RecordChoices.default(NO_RECORDS),
  /** Where it is a wall that is printed in panels. */
  wall: Wall.nullable().default(null),
  /** Where it is printed on things that lie in a jig. */
  jig: InJig.nullable().default(null),
  /** How many days its plates are kept once it is printed. */
  platesKept: PlatesKept.default('as the shop')
});
export type DocketChoices = z.infer<typeof DocketChoices>;

export const PRIORITIES = ['low', 'normal', 'high'] as const;

/** All of a docket that a person can change, and take back. */
export const DocketDocument = z.object({
  artworkId: z.int(),
  page: z.int().min(0),
  name: z.string().trim().min(1, 'A docket needs a name.').max(120, 'A name has at most 120 characters.'),
  customer: z.string().max(120, 'A customer’s name has at most 120 characters.'),
  /** YYYY-MM-DD, or nothing. */
  dueOn: z.union([z.literal(''), z.iso.date('The due date is a day, as 2027-08-28.')]),
  note: z.string().max(2000, 'A note has at most 2000 characters.'),
  priority: z.enum(PRIORITIES),
  choices: DocketChoices
});
export type DocketDocument = z.infer<typeof DocketDocument>;

const column = z.string().max(100);
const cell = z.string().max(MOST_CHARACTERS);
const record = z.int().min(1);
/** One change of a docket's table, made from a version of the docket. */
export const TableChange = z.object({
  version: z.int(),
  edit: z.discriminatedUnion('is', [
    z.object({ is: z.literal('cell'), record, column, value: cell }),
    z.object({ is: z.literal('add rows'), rows: z.array(z.array(cell).max(MOST_COLUMNS)).max(10_000) }),
    z.object({ is: z.literal('take out rows'), records: z.array(record).max(MOST_ROWS) }),
    z.object({ is: z.literal('add column'), name: column, content: z.string().max(MOST_CONTENT) }),
    z.object({ is: z.literal('rename column'), column, name: column }),
    z.object({ is: z.literal('take out column'), column }),
    z.object({ is: z.literal('sort'), column, down: z.boolean() })
  ])
});

/** What can be changed on many dockets at once. */
export const ManyChange = DocketDocument.pick({ customer: true, dueOn: true, note: true, priority: true })
  .extend({
    choices: DocketChoices.pick({
      copies: true,
      conditionId: true,
      mayTurn: true,
      intent: true,
      bleedMm: true,
      bleedFrom: true
    }).partial()
  })
  .partial();
export type ManyChange = z.infer<typeof ManyChange>;

/** Groups of choices that can be copied from one docket to others. */
export const CHOICE_GROUPS = {
  size: ['widthMm', 'heightMm', 'box', 'crop', 'turn', 'mirror', 'viewingMm'],
  bleed: ['bleedMm', 'bleedFrom', 'bleedColour'],
  media: ['conditionId', 'intent', 'mayTurn', 'jig'],
  colour: [
    'sources',
    'roles',
    'layersOff',
    'fieldsOff',
    'enlarged',
    'blackText',
    'blackPictures',
    'overprint',
    'richBlack',
    'thinnestMm',
    'colours',
    'adjustment',
    'tone'
  ],
  layers: ['stack', 'mirror'],
  cut: ['cut', 'lines'],
  finishing: ['finishing'],
  copies: ['copies'],
  records: ['records'],
  wall: ['wall'],
  plates: ['platesKept']
} as const satisfies Record<string, readonly (keyof DocketChoices)[]>;
export type ChoiceGroup = keyof typeof CHOICE_GROUPS;
export const ChoiceGroups = z.array(z.enum(Object.keys(CHOICE_GROUPS) as [ChoiceGroup, ...ChoiceGroup[]])).min(1);

/** sRGB, 0…255. */
export const Background = z.tuple([z.number().min(0).max(255), z.number().min(0).max(255), z.number().min(0).max(255)]);

/** A page as it will print, for asking for its picture. */
export const PieceRequest = z.object({
  widthMm: z
    .number()
    .min(0.5)
    .max(MOST_MM + 2000),
  heightMm: z
    .number()
    .min(0.5)
    .max(MOST_MM + 2000),
  bleedMm: z.number().min(0).max(1000),
  sources: SourceChoice.default(SHOPS_SOURCES),
  /** What prints in another colour than its file says. */
  colours: z.array(ColourChange).max(MOST_CHANGES).default([]),
  prepare: z.object({
    region: BoxSchema.extend({ width: z.number().min(0.01).max(1e5), height: z.number().min(0.01).max(1e5) }),
    turn: z.union([z.literal(0), z.literal(90), z.literal(180), z.literal(270)]),
    mirror: z.boolean(),
    bleed: z.discriminatedUnion('from', [
      z.object({ from: z.literal('page') }),
      z.object({ from: z.literal('mirror') }),
      z.object({ from: z.literal('stretch') }),
      z.object({ from: z.literal('colour'), colour: z.tuple([z.number(), z.number(), z.number()]) })
    ]),
    leftOut: z.object({
      spots: z.array(z.string()).max(500),
      layers: z.array(z.string()).max(1000),
      fields: z.boolean().optional()
    }),
    enlarged: z.enum(ENLARGED).default('as it suits'),
    blackText: z.boolean(),
    blackPictures: z.boolean().default(false),
    overprint: z.boolean().default(true),
    richBlack: z.boolean(),
    thinnestMm: z.number().min(0).max(5)
  })
});
export type PieceRequest = z.infer<typeof PieceRequest>;
