import { z } from 'zod';
import { ColourChange, MOST_CHANGES } from './colour-changes';
import { CutChoices, DEFAULT_CUT } from './cut-choices';
import type { PageFacts, PageLine } from './facts';
import type { Box } from '../geometry/box';
import { apply } from '../geometry/matrix';
import { bounds, flatten, type Path } from '../geometry/path';
import { marginMm, Stack } from '../inks/stack';
import { ENLARGED, finishedToPage, uprightSize, type Preparation } from './preparation';
import { Role, roleOf, toolOf, type RoleRule } from './roles';

export const MOST_MM = 100_000;

const size = (what: string) =>
  z
    .number({ error: `The ${what} must be a figure.` })
    .min(1, `The ${what} must be at least 1 mm.`)
    .max(MOST_MM, `The ${what} must be at most ${MOST_MM / 1000} m.`);

const side = z.number().min(-MOST_MM).max(MOST_MM);

export const BOXES = ['trim', 'media', 'crop', 'bleed', 'art', 'content', 'cut'] as const;
export type BoxName = (typeof BOXES)[number];

/** What a docket does to its artwork page. A docket written before a choice was there has its default. */
export const ArtworkChoices = z.object({
  widthMm: size('width'),
  heightMm: size('height'),
  /** Which part of the page is the finished size, before the crop: a page box, what is drawn, or around the cut lines. */
  box: z.enum(BOXES).default('trim'),
  /** Taken off each side of that box, mm of the page; below 0 adds. */
  crop: z.object({ left: side, top: side, right: side, bottom: side }).default({ left: 0, top: 0, right: 0, bottom: 0 }),
  turn: z.union([z.literal(0), z.literal(90), z.literal(180), z.literal(270)]).default(0),
  mirror: z.boolean().default(false),
  bleedMm: z
    .number({ error: 'The bleed must be a figure.' })
    .min(0, 'The bleed must not be below 0.')
    .max(200, 'The bleed must be at most 200 mm.'),
  bleedFrom: z.enum(['page', 'mirror', 'stretch', 'colour']).default('page'),
  bleedColour: z
    .string()
    .regex(/^#[0-9a-f]{6}$/i, 'A colour is six figures after #.')
    .default('#ffffff'),
  roles: z.record(z.string().max(200), Role).default({}),
  /** What is filled in in forms, and stamps, does not print. */
  fieldsOff: z.boolean().default(false),
  enlarged: z.enum(ENLARGED).default('as it suits'),
  layersOff: z.array(z.string().max(200)).max(500).default([]),
  blackText: z.boolean().default(false),
  blackPictures: z.boolean().default(false),
  overprint: z.boolean().default(true),
  richBlack: z.boolean().default(false),
  /** Spot colours and flat colours that print in a named colour, or in none though the shop has one of that name. */
  colours: z.array(ColourChange).max(MOST_CHANGES, `At most ${MOST_CHANGES} colours of a docket are changed.`).default([]),
  thinnestMm: z.number().min(0).max(5).default(0),
  /** From how far it is looked at, mm; none for the shop's distance. */
  viewingMm: z.number().min(100).max(100_000).nullable().default(null),
  /** What lies under and over the colour; nothing for what the file marks. */
  stack: Stack.nullable().default(null),
  cut: z.boolean(),
  lines: CutChoices.default(DEFAULT_CUT)
});
export type ArtworkChoices = z.infer<typeof ArtworkChoices>;

/** The named box of a page, mm from the trim box's corner; the trim box where there is nothing of the name. */
export function pageBox(name: BoxName, page: PageFacts, lines: readonly PageLine[], role: (name: string) => Role | undefined) {
  const trim = { x: 0, y: 0, width: page.widthMm, height: page.heightMm };
  if (name === 'content') return page.content && page.content.width > 0.1 && page.content.height > 0.1 ? page.content : trim;
  if (name === 'cut') {
    const cuts = lines.filter((line) => toolOf(line, role));
    return bounds(cuts.flatMap((line) => flatten(line.path as Path, 0.05))) ?? trim;
  }
  return page.boxes[name] ?? trim;
}

/** The smallest part of a page that can be a finished size, mm. */
const LEAST_MM = 0.5;

/** What a docket's choices make of a page. */
export function prepare(
  choices: ArtworkChoices,
  page: PageFacts,
  lines: readonly PageLine[],
  rules: readonly RoleRule[]
): Preparation {
  const role = (name: string) => roleOf(name, rules, choices.roles);
  const box = pageBox(choices.box, page, lines, role);
  const { crop } = choices;
  const region = {
    x: box.x + Math.min(crop.left, box.width - LEAST_MM),
    y: box.y + Math.min(crop.top, box.height - LEAST_MM),
    width: Math.max(LEAST_MM, box.width - crop.left - crop.right),
    height: Math.max(LEAST_MM, box.height - crop.top - crop.bottom)
  };
  const hidden = (name: string) => {
    const is = role(name);
    return is !== undefined && is !== 'prints';
  };
  const rgb = [1, 3, 5].map((i) => parseInt(choices.bleedColour.slice(i, i + 2), 16)) as [number, number, number];
  return {
    region,
    turn: choices.turn,
    mirror: choices.mirror,
    bleed: choices.bleedFrom === 'colour' ? { from: 'colour', colour: rgb } : { from: choices.bleedFrom },
    leftOut: {
      spots: page.spots.map((spot) => spot.name).filter(hidden),
      layers: page.layers.map((layer) => layer.name).filter((name) => hidden(name) || choices.layersOff.includes(name)),
      fields: choices.fieldsOff
    },
    enlarged: choices.enlarged,
    blackText: choices.blackText,
    blackPictures: choices.blackPictures,
    overprint: choices.overprint,
    richBlack: choices.richBlack,
    thinnestMm: choices.thinnestMm
  };
}

/**
 * Another page in the place of a docket's own, at its finished size: the same part of it, in shares of the page where the
 * two are not of one size.
 */
export function preparedAlike(
  preparation: Preparation,
  page: PageFacts,
  other: PageFacts,
  role: (name: string) => Role | undefined
): Preparation {
  const { region, leftOut } = preparation;
  const [across, down] = [other.widthMm / page.widthMm, other.heightMm / page.heightMm];
  const prints = (name: string) => (role(name) ?? 'prints') === 'prints';
  const isOff = ({ name, visible }: PageFacts['layers'][number]) =>
    leftOut.layers.includes(name) || (!visible && !page.layers.some((layer) => layer.name === name));
  return {
    ...preparation,
    region: { x: region.x * across, y: region.y * down, width: region.width * across, height: region.height * down },
    leftOut: {
      ...leftOut,
      spots: other.spots.map(({ name }) => name).filter((name) => !prints(name)),
      layers: other.layers.filter((layer) => !prints(layer.name) || isOff(layer)).map(({ name }) => name)
    }
  };
}

/** How far a docket prints beyond its finished size, mm: its bleed, or a layer of ink that reaches farther. */
export const beyondMm = ({ bleedMm, stack }: Pick<ArtworkChoices, 'bleedMm' | 'stack'>): number =>
  Math.max(bleedMm, marginMm(stack?.layers ?? []));

/** How much bleed the page itself has around a preparation's region at a finished size, mm: on the narrowest side. */
export function pageBleed(preparation: Preparation, page: PageFacts, widthMm: number): number {
  const { region } = preparation;
  const outer = [page.boxes['bleed'], page.boxes['media']].filter((box) => box !== undefined);
  const trim = { x: 0, y: 0, width: page.widthMm, height: page.heightMm };
  const around = outer.reduce((most, box) => (box.width * box.height > most.width * most.height ? box : most), trim);
  const least = Math.min(
    region.x - around.x,
    region.y - around.y,
    around.x + around.width - region.x - region.width,
    around.y + around.height - region.y - region.height
  );
  return Math.max(0, least) * (widthMm / uprightSize(preparation).widthMm);
}

/** The crop that leaves a part of what is shown. @param box mm at the finished size, from its top left */
export function cropTo(choices: ArtworkChoices, preparation: Preparation, box: Box): ArtworkChoices['crop'] {
  const back = finishedToPage(preparation, choices);
  const p = apply(back, { x: box.x, y: box.y });
  const q = apply(back, { x: box.x + box.width, y: box.y + box.height });
  const { region } = preparation;
  const { left, top, right, bottom } = choices.crop;
  return {
    left: left + Math.min(p.x, q.x) - region.x,
    top: top + Math.min(p.y, q.y) - region.y,
    right: right + region.x + region.width - Math.max(p.x, q.x),
    bottom: bottom + region.y + region.height - Math.max(p.y, q.y)
  };
}

/** A change of what of the page is shown, and the size that keeps its scale. */
export function keepScale(
  before: ArtworkChoices,
  change: Partial<Pick<ArtworkChoices, 'box' | 'crop' | 'turn' | 'mirror'>>,
  page: PageFacts,
  lines: readonly PageLine[],
  rules: readonly RoleRule[]
): Partial<ArtworkChoices> {
  const was = prepare(before, page, lines, rules);
  const lay = (turn: number) => turn === 90 || turn === 270;
  const upright = uprightSize(was);
  // Scales along the page's own sides, whichever way it lies.
  const across = lay(was.turn) ? before.heightMm / upright.heightMm : before.widthMm / upright.widthMm;
  const along = lay(was.turn) ? before.widthMm / upright.widthMm : before.heightMm / upright.heightMm;
  const { region, turn } = prepare({ ...before, ...change }, page, lines, rules);
  const width = Math.min(MOST_MM, Math.max(1, region.width * across));
  const height = Math.min(MOST_MM, Math.max(1, region.height * along));
  return { ...change, widthMm: lay(turn) ? height : width, heightMm: lay(turn) ? width : height };
}
