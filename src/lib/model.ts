import { z } from 'zod';
import { ArtworkChoices, beyondMm, MOST_MM } from '$core/artwork/choices';
import { ColourChange, MOST_CHANGES } from '$core/artwork/colour-changes';
import { Adjustment, NO_ADJUSTMENT } from '$core/colour/adjustment';
import { Tone } from '$core/colour/tone';
import { plainName } from '$core/units/names';
import { InJig, InPocket } from './in-jig';
import { laidPanels, type WallFilm } from './panels';
import { WatchRule } from './watch';
import { BoxSchema } from '$core/artwork/facts';
import { ENLARGED } from '$core/artwork/preparation';
import { DEFAULT_RULES, RoleRule } from '$core/artwork/roles';
import { ShopLists } from '$core/records/lists';
import { DEFAULT_LIMITS, Limits } from '$core/checks/check';
import { NO_FINISHING } from '$core/marks/finishing';
import { Finishing } from '$core/marks/finishing-choice';
import { DEFAULT_MARKS, MarkRule } from '$core/marks/registration';
import type { HalftoneMethod } from '$core/screening/screener';
import { DEFAULT_POCKETS } from '$core/layout/in-pockets';
import { MOST_POCKETS } from '$core/layout/jig';
import { mountedJig } from '$core/layout/mounted-jig';
import { CORNERS, EFFORTS, isJig, PLACING_RULES, SHARINGS, type Stock, type StockJig } from '$core/layout/placement';
import type { Point } from '$core/geometry/matrix';
import { evenSides } from '$core/geometry/box';
import { pieceKey } from '$core/layout/pieces';
import { inPocket, type RunPiece } from '$core/layout/run-piece';
import { hasRecords, NO_RECORDS, RecordChoices } from '$core/records/choices';
import { MOST_CONTENT } from '$core/records/content';
import { MOST_SERIES } from '$core/records/series';
import { Wall } from '$core/panels/wall';
import { MOST_CHARACTERS, MOST_COLUMNS, MOST_ROWS } from '$core/records/table';

/** What browser and server agree on. Every figure that a person gives is checked here, once, with the limits in the sentence. */

const distance = (what: string, most: number) =>
  z
    .number({ error: `The ${what} must be a figure.` })
    .min(0, `The ${what} must not be below 0.`)
    .max(most, `The ${what} must be at most ${most} mm.`);

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
  size: ['widthMm', 'heightMm', 'box', 'crop', 'turn', 'mirror'],
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
  wall: ['wall']
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

export const HALFTONES = ['blue-noise', 'error-diffusion'] as const satisfies readonly HalftoneMethod[];
export const HALFTONE_WORDS: Record<HalftoneMethod, string> = {
  'blue-noise': 'blue noise',
  'error-diffusion': 'error diffusion'
};

export const RunRule = z.object({
  gapX: distance('gap across', 500),
  gapY: distance('gap along', 500),
  margin: distance('margin', 500),
  lead: distance('lead', 2000),
  tail: distance('tail', 2000),
  align: z.enum(['left', 'centre', 'right']),
  method: z.enum(HALFTONES),
  placing: z.enum(PLACING_RULES).default('rows'),
  /** The gaps are changed together. */
  linked: z.boolean().default(true),
  single: z.boolean().default(false),
  fill: z.enum(['none', 'row', 'all']).default('none'),
  longest: z
    .number({ error: 'The longest run must be a figure.' })
    .min(100, 'The longest run is 100 mm to 1000 m.')
    .max(1e6, 'The longest run is 100 mm to 1000 m.')
    .nullable()
    .default(null),
  turnStep: z.union([z.literal(0), z.literal(180), z.literal(90), z.literal(45), z.literal(15)]).default(90),
  effort: z.enum(EFFORTS).default('normal'),
  steps: z.int().min(1).max(10_000_000).nullable().default(null),
  corner: z.enum(CORNERS).default('front left'),
  marks: MarkRule.default(DEFAULT_MARKS),
  colourBar: z.boolean().default(false),
  cutAlong: z.enum(['lines', 'pieces']).optional(),
  /** The jig whose pockets it is placed in. */
  jig: z.int().min(1).nullable().default(null),
  pockets: InPocket.extend({
    sharing: z.enum(SHARINGS),
    touched: z
      .array(
        z.object({
          at: z.union([z.enum(CORNERS), z.int().min(1).max(MOST_POCKETS)]),
          x: z.number({ error: 'Where a point was touched is a figure.' }).min(-1e5).max(1e5),
          y: z.number({ error: 'Where a point was touched is a figure.' }).min(-1e5).max(1e5)
        })
      )
      .max(9, 'At most nine points are touched.')
      .default([])
  }).default(DEFAULT_POCKETS)
});
export type RunRule = z.infer<typeof RunRule>;

export const DEFAULT_RULE: RunRule = RunRule.parse({
  gapX: 4,
  gapY: 4,
  margin: 5,
  lead: 10,
  tail: 20,
  align: 'centre',
  method: 'blue-noise'
});

/** A copy that was put where it is by hand. */
export const Pin = z.object({
  id: z.string().max(20),
  copy: z.int().min(0).max(100_000),
  part: z.int().min(0).max(10_000),
  x: z.number().min(-1e6).max(1e6),
  y: z.number().min(-1e6).max(1e6),
  turn: z.number().min(0).max(359.999),
  pocket: z.int().min(1).max(MOST_POCKETS).optional()
});

/** When a lane's runs print without being told to. */
export const Release = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('hand') }),
  /** Nothing new has come for so long. */
  z.object({
    kind: z.literal('quiet'),
    minutes: z.number().min(0.05, 'The wait is at least 0.05 minutes.').max(10_080, 'The wait is at most a week.')
  }),
  /** A sheet is filled to a share, or a roll's run is so long. */
  z.object({
    kind: z.literal('full'),
    share: z.number().min(0.05, 'A sheet is filled to 5 to 100 %.').max(1, 'A sheet is filled to 5 to 100 %.'),
    lengthMm: distance('length', 1e6)
  }),
  z.object({ kind: z.literal('at'), time: z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'The time looks like 17:30.') })
]);
export type Release = z.infer<typeof Release>;

export const LaneChange = z.object({ conditionId: z.int(), rule: RunRule, release: Release }).partial();
export type LaneChange = z.infer<typeof LaneChange>;

/** What a run in a condition is printed on. @param jig as it is kept: here it is laid on the sheet */
export function stockOf(
  condition: { rollWidthMm: number; sheetMm: number | null },
  rule: Pick<RunRule, 'corner' | 'pockets'>,
  jig?: StockJig
): Stock {
  if (condition.sheetMm === null) return { kind: 'roll', width: condition.rollWidthMm };
  const [width, height] = [condition.rollWidthMm, condition.sheetMm];
  const sheet = { kind: 'sheet' as const, width, height, corner: rule.corner };
  return jig ? { ...sheet, jig: mountedJig(jig, { width, height }, rule.pockets) } : sheet;
}

/** Pieces as large as what they are printed on asks. */
export const sizedFor = (stock: Stock, rule: Pick<RunRule, 'pockets'>, pieces: readonly RunPiece[]): RunPiece[] =>
  isJig(stock) ? pieces.map((piece) => inPocket(piece, stock, rule.pockets)) : [...pieces];

/** What a run knows of a docket that it takes pieces of. */
export interface InRunOf {
  /** What it is printed on; nothing where no media is chosen. */
  condition?: (WallFilm & { media: string }) | undefined;
  contour?: Point[][] | undefined;
  copies?: number | null;
  first?: number;
  /** The record of each copy in the run. */
  records?: readonly number[] | undefined;
  /** How many copies of which pieces it has; nothing for all of them. */
  pieces?: readonly (readonly [piece: number, copies: number])[] | null;
}

/**
 * The pieces of a docket as the layout takes them: copies of one size are one piece, whether or not each is a record of its own.
 * Of a wall each panel is one.
 */
export function toRunPieces(
  docket: { id: number; name: string; customer: string; choices: DocketChoices },
  more: InRunOf
): RunPiece[] {
  const { choices } = docket;
  const { widthMm, heightMm, bleedMm, copies, cut, mayTurn, intent, finishing, wall } = choices;
  const ref = { docket: String(docket.id), piece: 0 };
  const words = [`Docket ${docket.id}`, docket.customer, docket.name, more.condition?.media ?? ''].filter(Boolean).join(' · ');
  const all = { first: more.first ?? 0, of: copies, cut, intent, caption: words };
  if (wall) {
    const known = more.pieces && new Map(more.pieces);
    return laidPanels({ ...choices, wall }, more.condition, words).flatMap(({ index, bleed, turn, panel }): RunPiece[] => {
      const count = known ? (known.get(index) ?? 0) : (more.copies ?? copies);
      if (count === 0) return [];
      const piece = { ...ref, piece: index };
      return [
        {
          ...piece,
          ...all,
          id: pieceKey(piece),
          widthMm: panel.part.width,
          heightMm: panel.part.height,
          bleed,
          copies: count,
          mayTurn: false,
          finishing: { ...NO_FINISHING, ink: finishing.ink, turn },
          panel
        }
      ];
    });
  }
  const beyond = beyondMm(choices);
  const whole: RunPiece = {
    ...ref,
    ...all,
    id: pieceKey(ref),
    widthMm,
    heightMm,
    bleed: evenSides(beyond),
    copies: more.copies ?? copies,
    mayTurn,
    finishing,
    ...(more.records && hasRecords(choices.records) && { records: more.records, order: choices.records.order }),
    // What lies farther out than the bleed is a rectangle: so is the piece's place.
    contour: cut && beyond <= bleedMm ? more.contour : undefined
  };
  return [whole];
}

/** How far a run is. */
export type RunState = 'laying out' | 'ripping' | 'ripped' | 'printing' | 'printed';

const INK_COST = 'A ml of ink costs 0 to 1,000.';
export const ShopSettings = z.object({
  shopName: z.string().max(80, 'The shop’s name has at most 80 characters.'),
  unit: z.enum(['mm', 'cm', 'in']),
  currency: z
    .string()
    .trim()
    .min(1, 'A currency is said in one to four characters.')
    .max(4, 'A currency is said in one to four characters.'),
  rules: z.array(RoleRule).max(200, 'At most 200 rules.').default(DEFAULT_RULES),
  limits: Limits.default(DEFAULT_LIMITS),
  inkCostPerMl: z.number({ error: INK_COST }).min(0, INK_COST).max(1000, INK_COST),
  /** What looking at one file may take. */
  intake: z
    .object({
      seconds: z.int('Whole seconds.').min(5, 'A look takes 5 s at least.').max(600, 'A look takes 600 s at most.'),
      megabytes: z
        .int('Whole megabytes.')
        .min(300, 'A look takes 300 MB at least.')
        .max(64_000, 'A look takes 64,000 MB at most.')
    })
    .default({ seconds: 20, megabytes: 1000 }),
  sources: SourceChoice.default({ rgb: 'srgb', cmyk: 'offset', grey: 'grey' }),
  /** ΔE00 within which a verified condition passes. */
  tolerance: z
    .object({
      mean: z
        .number({ error: 'The mean tolerance is 0.1 to 10.' })
        .min(0.1, 'The mean tolerance is 0.1 to 10.')
        .max(10, 'The mean tolerance is 0.1 to 10.'),
      p95: z
        .number({ error: 'The tolerance for 95 % is 0.1 to 20.' })
        .min(0.1, 'The tolerance for 95 % is 0.1 to 20.')
        .max(20, 'The tolerance for 95 % is 0.1 to 20.')
    })
    .default({ mean: 1, p95: 2 }),
  /** Plates of printed runs are deleted so many days after their last print; never where nothing is said. */
  platesDays: z
    .int('Whole days.')
    .min(1, 'Plates are kept for a day at least.')
    .max(3650, 'Plates are kept for at most 3,650 days; or for ever.')
    .nullable()
    .default(null),
  /** When conditions are to be read again. */
  watch: WatchRule.default({ days: null, metres: null, afterService: true }),
  /** Tones of the shop's own, by name. */
  tones: z
    .array(
      z.object({
        name: z.string().trim().min(1, 'A tone needs a name.').max(60, 'A name has at most 60 characters.'),
        tone: Tone
      })
    )
    .max(60, 'At most 60 tones are kept.')
    .refine((tones) => new Set(tones.map(({ name }) => plainName(name))).size === tones.length, 'Two tones have the same name.')
    .default([]),
  /** For fields of records. */
  lists: ShopLists.default([]),
  libraryUrl: z
    .union([z.literal(''), z.url({ protocol: /^http$/, error: 'The address looks like http://192.168.1.20:8080' })])
    .default('')
});
export type ShopSettings = z.infer<typeof ShopSettings>;

/** Some of the settings: what is not said stays, and is not what it was at first. */
export const SettingsChange = z.object(
  Object.fromEntries(
    Object.entries(ShopSettings.shape).map(([name, schema]) => [
      name,
      (schema instanceof z.ZodDefault ? schema.unwrap() : schema).optional()
    ])
  )
) as unknown as z.ZodType<Partial<ShopSettings>>;

/** The residual above which the cutter does not start, mm. */
export const MOST_RESIDUAL_MM = 0.3;
