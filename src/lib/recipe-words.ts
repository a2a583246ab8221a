import type { CutChoices, MadeLine } from '$core/artwork/cut-choices';
import { counted } from '$core/units/counted';
import { formatFigure, formatLength, type LengthUnit } from '$core/units/length';
import type { Way } from './arrivals';
import type { DocketDocument, PlatesKept } from './docket-choices';
import { RECIPE_PARTS, setsOf, type RecipePart, type RecipeSets } from './recipes';

/** What a recipe sets, in sentences. */

export interface RecipeNames {
  unit: LengthUnit;
  conditions: readonly { id: number; machine: string; media: string; mode: { name: string } }[];
  machines: readonly { id: number; name: string }[];
  jigs: readonly { id: number; name: string }[];
}

type Said<P extends RecipePart> = (set: NonNullable<RecipeSets[P]>, names: RecipeNames) => string;

const listed = (words: readonly (string | false)[]): string => words.filter(Boolean).join(', ');
const upper = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
const TURNS = { 0: 'upright', 90: 'turned right', 180: 'upside down', 270: 'turned left' } as const;
const BOX_WORDS = {
  trim: 'the trim box',
  media: 'the whole page',
  crop: 'the crop box',
  bleed: 'the bleed box',
  art: 'the art box',
  content: 'what is drawn',
  cut: 'the cut lines'
} as const;
const INTENTS = {
  relative: 'relative intent',
  perceptual: 'perceptual intent',
  saturation: 'saturation intent',
  file: 'the file’s own intent'
} as const;
const BLEED_FROM = {
  page: 'from the page',
  mirror: 'by mirroring the edge',
  stretch: 'by stretching the edge',
  colour: 'in one colour'
} as const;

const IN_POCKET = { own: 'at its own size', fit: 'as large as it fits whole', fill: 'as large as covers all of it' } as const;

/** How long plates are kept, once they are printed. */
export const platesWords = (kept: PlatesKept): string =>
  kept === 'as the shop' ? 'as the shop says' : kept === 'always' ? 'until a person deletes them' : `${counted(kept, 'day')} after the last print`; // prettier-ignore

function lineWords({ tool, from, offsetMm }: MadeLine, unit: LengthUnit): string {
  const along =
    from.kind === 'page'
      ? 'along the finished size'
      : from.kind === 'drawn'
        ? 'along a drawn line'
        : { opaque: 'at the opaque edge', background: 'where the background ends', shapes: 'around the shapes' }[from.how];
  const off = offsetMm === 0 ? '' : `, ${formatLength(Math.abs(offsetMm), unit)} ${offsetMm > 0 ? 'outside' : 'inside'}`;
  return `${tool} ${along}${off}`;
}

function cutWords({ customer, made, weed, tabs }: CutChoices, unit: LengthUnit): string[] {
  return [
    ...(customer.use
      ? [`the file’s own lines${customer.offsetMm === 0 ? '' : `, ${formatLength(customer.offsetMm, unit)} out`}`]
      : []),
    ...made.map((line) => lineWords(line, unit)),
    ...(weed.border ? ['a border to weed by'] : []),
    ...(tabs.count > 0 ? [`${tabs.count} tabs`] : [])
  ];
}

const SAID: { [P in RecipePart]: Said<P> } = {
  part: ({ box, crop, turn, mirror }) =>
    `${upper(BOX_WORDS[box])}${Object.values(crop).some((mm) => mm !== 0) ? ', cropped' : ''}, ${TURNS[turn]}${mirror ? ', mirrored' : ''}.`,
  size: (rule, { unit }) => {
    switch (rule.is) {
      case 'own':
        return 'At the artwork’s own size.';
      case 'at':
        return `${formatLength(rule.widthMm, unit)} × ${formatLength(rule.heightMm, unit)}.`;
      case 'width':
        return `${formatLength(rule.mm, unit)} wide, in proportion.`;
      case 'height':
        return `${formatLength(rule.mm, unit)} high, in proportion.`;
      case 'scale':
        return `At ${formatFigure(rule.percent, 2)} % of its own size.`;
      case 'roll':
        return 'As wide as what of the roll can be used, in proportion.';
    }
  },
  viewing: (mm, { unit }) => `Looked at from ${formatLength(mm, unit)}.`,
  bleed: ({ when, mm, from }, { unit }) =>
    mm === 0
      ? 'No bleed.'
      : `${formatLength(mm, unit)} of bleed, ${BLEED_FROM[from]}${when === 'missing' ? ' where the file has none' : ''}.`,
  copies: (copies) => `${counted(copies, 'copy', 'copies')}.`,
  media: (rule, { conditions, machines }) => {
    if (rule.is === 'named') return `On ${rule.media}, ${rule.machine}, ${rule.mode}: by its name.`;
    if (rule.is === 'loaded')
      return `On what ${machines.find(({ id }) => id === rule.machineId)?.name ?? 'a machine that is gone'} has loaded.`;
    const found = conditions.find(({ id }) => id === rule.conditionId);
    return found ? `On ${found.media}, ${found.machine}, ${found.mode.name}.` : 'On a media and print mode that are gone.';
  },
  jig: (rule, { unit, jigs }) => {
    const { anchor, marginMm, size, turn, edge, side } = rule.lies;
    const lies = listed([
      IN_POCKET[size],
      anchor !== 'middle' && `at the ${anchor}`,
      marginMm > 0 && `${formatLength(marginMm, unit)} from the edge`,
      turn !== 0 && TURNS[turn],
      edge === 'over' && 'printed over the edge',
      side === 'back' && 'things turned over'
    ]);
    if (rule.is === 'named') return `In the jig ${rule.name}, by its name: ${lies}.`;
    const found = jigs.find(({ id }) => id === rule.id);
    return found ? `In the jig ${found.name}: ${lies}.` : 'In a jig that is gone.';
  },
  mayTurn: (mayTurn) => (mayTurn ? 'It may be turned to save film.' : 'It is not turned.'),
  colour: ({ intent, blackText, blackPictures, overprint, richBlack, thinnestMm, fieldsOff, colours, sources }, { unit }) =>
    `${upper(
      listed([
        INTENTS[intent],
        blackText && 'black lettering in black alone',
        blackPictures && 'grey pictures in black alone',
        richBlack && 'deep black in all inks',
        overprint ? 'overprint as the file says' : 'no overprint',
        thinnestMm > 0 && `lines at least ${formatLength(thinnestMm, unit)} thick`,
        fieldsOff && 'without filled-in fields',
        colours.length > 0 && `${counted(colours.length, 'colour')} changed`,
        (sources.rgb || sources.cmyk || sources.grey) !== '' && 'colours read by profiles of its own'
      ])
    )}.`,
  roles: (roles) => {
    const all = Object.entries(roles);
    if (all.length === 0) return 'Spot colours and layers as the shop says.';
    return `${all
      .slice(0, 6)
      .map(([name, role]) => `“${name}” is ${role}`)
      .join(', ')}${all.length > 6 ? ` and ${all.length - 6} more` : ''}.`;
  },
  layersOff: (layers) =>
    layers.length === 0
      ? 'All layers of the file print.'
      : `${layers
          .slice(0, 6)
          .map((name) => `“${name}”`)
          .join(
            ', '
          )}${layers.length > 6 ? ` and ${layers.length - 6} more` : ''} ${layers.length === 1 ? 'does' : 'do'} not print.`,
  layers: ({ stack }) =>
    stack === null
      ? 'Layers of ink as the file marks them.'
      : `Layers of ink, from the media up: ${stack.layers.map(({ ink }) => ink).join(', ')}.`,
  tone: ({ adjustment, tone }) => {
    const curves = Object.keys(tone).length;
    const { brightness, contrast, saturation, cast } = adjustment;
    const said = listed([
      curves > 0 && counted(curves, 'tone curve'),
      brightness !== 0 && `brightness ${formatFigure(brightness * 100, 0)}`,
      contrast !== 0 && `contrast ${formatFigure(contrast * 100, 0)}`,
      saturation !== 0 && `saturation ${formatFigure(saturation * 100, 0)}`,
      cast !== 0 && 'a cast'
    ]);
    return said === '' ? 'No tone curve and no adjustment.' : `${upper(said)}.`;
  },
  cut: ({ when, cut, lines }, { unit }) => {
    if (when === 'missing') {
      const made = cutWords({ ...lines, customer: { ...lines.customer, use: false } }, unit);
      const else_ = cut && made.length > 0 ? made.join(', ') : 'not cut';
      return `Cut on the file’s own lines; where it has none: ${else_}.`;
    }
    if (!cut) return 'Not cut.';
    return `Cut: ${cutWords(lines, unit).join(', ') || 'nothing'}.`;
  },
  finishing: ({ crop, centre, outline, folds, pockets, hem, eyelets, caption }, { unit }) => {
    const said = listed([
      crop !== null && 'crop marks',
      centre && 'centre marks',
      outline && 'an outline',
      folds.length > 0 && counted(folds.length, 'fold'),
      Object.values(pockets).some((mm) => mm > 0) && 'pockets for poles',
      hem > 0 && `a hem of ${formatLength(hem, unit)}`,
      eyelets !== null &&
        (eyelets.by === 'spacing'
          ? `eyelets every ${formatLength(eyelets.spacing, unit)}`
          : `${eyelets.across} × ${eyelets.down} eyelets`),
      caption && 'a caption'
    ]);
    return said === '' ? 'No marks, folds or eyelets.' : `${upper(said)}.`;
  },
  records: ({ fields, each, order }) =>
    `${fields.length === 1 ? 'The field' : 'The fields'} ${fields.map(({ name }) => name).join(', ')}${each > 1 ? `; ${each} copies of each record` : ''}${order === 'stack' ? ', in piles that are in order once they are cut' : ''}.`,
  wall: ({ film, joint }) => `A wall in panels: the film ${film}, ${joint === 'butt' ? 'butted' : 'overlapping'}.`,
  priority: (priority) => `${upper(priority)} priority.`,
  plates: (kept) => `Its plates are kept ${platesWords(kept)}.`
};

/** Where a part is set to nothing. */
const NONE: Partial<Record<RecipePart, string>> = {
  viewing: 'Looked at from as far as the shop says.',
  jig: 'In no jig.',
  wall: 'No wall.'
};

/** One part of what a recipe sets, as a sentence. */
export function partWords<P extends RecipePart>(part: P, sets: RecipeSets, names: RecipeNames): string {
  const set = sets[part] as RecipeSets[P] | null;
  if (set === undefined) return '';
  return set === null ? (NONE[part] ?? '') : SAID[part](set as NonNullable<RecipeSets[P]>, names);
}

/** All that a recipe sets, in the order of a ticket. */
export const recipeWords = (sets: RecipeSets, names: RecipeNames): { part: RecipePart; words: string }[] =>
  RECIPE_PARTS.flatMap((part) => (sets[part] === undefined ? [] : [{ part, words: partWords(part, sets, names) }]));

/** What of a docket is otherwise than before, as sentences of what it is now. */
export function changesWords(
  before: DocketDocument,
  after: DocketDocument,
  names: RecipeNames
): { part: RecipePart; was: string; is: string }[] {
  const [was, is] = [setsOf(before), setsOf(after)];
  return RECIPE_PARTS.flatMap((part) =>
    JSON.stringify(was[part]) === JSON.stringify(is[part])
      ? []
      : [{ part, was: partWords(part, was, names), is: partWords(part, is, names) }]
  );
}

/** What becomes of dockets that are made by themselves. */
export const WAY_WORDS: Record<Way, string> = {
  'make dockets': 'left for a person',
  'lay out': 'laid out',
  release: 'laid out and released'
};
