import { keepScale, MOST_MM, pageBleed, prepare } from '$core/artwork/choices';
import type { PageFacts, PageLine } from '$core/artwork/facts';
import { uprightSize } from '$core/artwork/preparation';
import { roleOf, toolOf, type RoleRule } from '$core/artwork/roles';
import { DocketChoices, type DocketDocument } from './docket-choices';
import type { InJig } from './in-jig';
import type { JigRule, MediaRule, RecipeSets, SizeRule } from './recipes';
import { usableWidth } from './usable-width';

/** What a recipe makes of a docket. */

interface KnownCondition {
  id: number;
  machineId: number;
  machine: string;
  media: string;
  mode: { name: string };
  rollWidthMm: number;
}

/** What it is applied to, and in which shop. */
export interface Ground {
  facts: PageFacts;
  /** What the page outlines. */
  lines: readonly PageLine[];
  rules: readonly RoleRule[];
  conditions: readonly KnownCondition[];
  machines: readonly { id: number; name: string; printer: { media: { name: string } } | null }[];
  jigs: readonly { id: number; name: string }[];
}

export interface Applied {
  document: DocketDocument;
  /** What it needs that is not there, as sentences: nothing is guessed in its place. */
  lacking: string[];
}

/** Lines that a recipe finds in the artwork are traced after it: their outline is another one on every page. */
export const toTrace = ({ lines }: Pick<DocketChoices, 'lines'>) =>
  lines.made.filter(({ from }) => from.kind === 'found' && from.outline === '');

/** A recipe's sets on a docket. Applied twice it changes nothing more. */
export function withRecipe(sets: RecipeSets, before: DocketDocument, ground: Ground): Applied {
  const lacking: string[] = [];
  let choices = { ...before.choices };
  const { facts, lines, rules } = ground;
  if (sets.roles) choices.roles = sets.roles;
  if (sets.part) choices = { ...choices, ...keepScale(choices, sets.part, facts, lines, rules) };
  if (sets.media) {
    const condition = conditionOf(sets.media, ground);
    if (typeof condition === 'string') lacking.push(condition);
    else choices.conditionId = condition.id;
  }
  if (sets.jig !== undefined) {
    const jig = sets.jig && jigOf(sets.jig, ground);
    if (typeof jig === 'string') lacking.push(jig);
    else choices.jig = jig;
  }
  if (sets.viewing !== undefined) choices.viewingMm = sets.viewing;
  if (sets.layersOff) choices.layersOff = sets.layersOff;
  if (sets.plates !== undefined) choices.platesKept = sets.plates;
  if (sets.colour) choices = { ...choices, ...sets.colour };
  if (sets.layers) choices.stack = sets.layers.stack;
  if (sets.tone) choices = { ...choices, ...sets.tone };
  if (sets.finishing) choices.finishing = sets.finishing;
  if (sets.mayTurn !== undefined) choices.mayTurn = sets.mayTurn;
  if (sets.copies !== undefined) choices.copies = sets.copies;
  if (sets.cut) choices = { ...choices, ...cutOf(sets.cut, choices, ground) };
  if (sets.records) choices.records = { ...choices.records, ...sets.records };
  if (sets.wall !== undefined) choices.wall = sets.wall;
  if (sets.bleed) choices.bleedMm = sets.bleed.mm;
  if (sets.size) {
    const size = sizeOf(sets.size, choices, ground);
    if (typeof size === 'string') lacking.push(size);
    else choices = { ...choices, ...size };
  }
  if (sets.bleed) choices = { ...choices, ...bleedOf(sets.bleed, choices, ground) };
  return {
    document: { ...before, ...(sets.priority && { priority: sets.priority }), choices: DocketChoices.parse(choices) },
    lacking
  };
}

/** What a recipe prints on. @returns why not, as a sentence, where it is not there */
export function conditionOf(
  rule: MediaRule,
  { conditions, machines }: Pick<Ground, 'conditions' | 'machines'>
): KnownCondition | string {
  if (rule.is === 'condition')
    return (
      conditions.find(({ id }) => id === rule.conditionId) ??
      'The media and print mode of this recipe are gone. Choose others for it.'
    );
  if (rule.is === 'named')
    return (
      conditions.find(
        ({ machine, media, mode }) => machine === rule.machine && media === rule.media && mode.name === rule.mode
      ) ?? `There is no ${rule.media} on ${rule.machine} in ${rule.mode} here. Choose another media for this recipe.`
    );
  const machine = machines.find(({ id }) => id === rule.machineId);
  if (!machine) return 'The machine of this recipe is gone. Choose another one for it.';
  const loaded = machine.printer?.media.name;
  if (loaded === undefined) return `${machine.name} does not answer, so that its media is not known.`;
  return (
    conditions.find(({ machineId, media }) => machineId === machine.id && media === loaded) ??
    `${machine.name} has ${loaded} loaded, and there is no print mode for it.`
  );
}

/** The jig that things lie in. @returns why not, as a sentence, where it is not there */
function jigOf(rule: JigRule, { jigs }: Pick<Ground, 'jigs'>): InJig | string {
  const found = jigs.find(({ id, name }) => (rule.is === 'jig' ? id === rule.id : name === rule.name));
  if (found) return { id: found.id, lies: rule.lies };
  return rule.is === 'jig'
    ? 'The jig of this recipe is gone. Choose another one for it.'
    : `There is no jig ${rule.name} here. Choose another one for this recipe, or make it.`;
}

function sizeOf(rule: SizeRule, choices: DocketChoices, ground: Ground): { widthMm: number; heightMm: number } | string {
  if (rule.is === 'at') return { widthMm: rule.widthMm, heightMm: rule.heightMm };
  const { widthMm, heightMm } = uprightSize(prepare(choices, ground.facts, ground.lines, ground.rules));
  const scaled = (share: number) => ({ widthMm: widthMm * share, heightMm: heightMm * share });
  const wanted = (): { widthMm: number; heightMm: number } | string => {
    switch (rule.is) {
      case 'own':
        return scaled(1);
      case 'width':
        return { widthMm: rule.mm, heightMm: (heightMm * rule.mm) / widthMm };
      case 'height':
        return { widthMm: (widthMm * rule.mm) / heightMm, heightMm: rule.mm };
      case 'scale':
        return scaled(rule.percent / 100);
      case 'roll': {
        const condition = ground.conditions.find(({ id }) => id === choices.conditionId);
        if (!condition) return 'It is to be as wide as the roll, and no media is chosen.';
        // Down to a tenth of a millimetre: a hair too wide would not fit.
        const mm = Math.floor((usableWidth(choices, condition.rollWidthMm) - 2 * choices.bleedMm) * 10) / 10;
        if (mm < 1) return `Of ${condition.media} nothing is left across for artwork.`;
        return { widthMm: mm, heightMm: (heightMm * mm) / widthMm };
      }
    }
  };
  const size = wanted();
  if (typeof size === 'string') return size;
  const [least, most] = [Math.min(size.widthMm, size.heightMm), Math.max(size.widthMm, size.heightMm)];
  if (least < 1 || most > MOST_MM)
    return `It would be ${size.widthMm.toFixed(1)} × ${size.heightMm.toFixed(1)} mm; sides are 1 mm to ${MOST_MM / 1000} m.`;
  return size;
}

/** Pages that have bleed enough keep theirs, where it is made only for those that have none. */
function bleedOf(
  { when, mm, from, colour }: NonNullable<RecipeSets['bleed']>,
  choices: DocketChoices,
  { facts, lines, rules }: Ground
): Pick<DocketChoices, 'bleedMm' | 'bleedFrom' | 'bleedColour'> {
  const has = pageBleed(prepare(choices, facts, lines, rules), facts, choices.widthMm);
  const isThere = when === 'missing' && has >= mm - 0.05;
  return { bleedMm: mm, bleedFrom: isThere ? 'page' : from, bleedColour: colour };
}

/** A file with lines of its own keeps to them, where lines are made only for those that have none. */
function cutOf(
  { when, cut, lines }: NonNullable<RecipeSets['cut']>,
  choices: DocketChoices,
  ground: Ground
): Pick<DocketChoices, 'cut' | 'lines'> {
  const role = (name: string) => roleOf(name, ground.rules, choices.roles);
  const hasOwn = ground.lines.some((line) => toolOf(line, role));
  if (when === 'missing' && hasOwn)
    return { cut: true, lines: { ...lines, customer: { ...lines.customer, use: true }, made: [] } };
  const made = lines.made.map((line) => {
    if (line.from.kind !== 'found') return line;
    // What was traced here already stays: it is the same page.
    const own = choices.lines.made.find(({ id, from }) => id === line.id && isFoundAlike(from, line.from));
    return { ...line, from: own?.from ?? { ...line.from, outline: '' } };
  });
  return { cut, lines: { ...lines, made } };
}

type LineSource = DocketChoices['lines']['made'][number]['from'];
const isFoundAlike = (p: LineSource, q: LineSource): boolean =>
  p.kind === 'found' &&
  q.kind === 'found' &&
  JSON.stringify([p.how, p.threshold, p.background]) === JSON.stringify([q.how, q.threshold, q.background]);
