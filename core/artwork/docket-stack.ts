import { preparedAlike } from './choices';
import { newLayer, PLAIN_STACK, type ExtraInk, type Layer, type Stack } from '../inks/stack';
import type { Body } from '../media/card';
import type { PageFacts } from './facts';
import type { Marks } from './marked';
import type { PieceLayer } from './piece-layers';
import type { Preparation } from './preparation';
import { roleOf, type Role, type RoleRule } from './roles';

/** The stack of a docket: what it says, or what its file and its media suggest. */

const EXTRA: readonly ExtraInk[] = ['primer', 'white', 'varnish'];

export type MarksByInk = Partial<Record<ExtraInk, Marks>>;

/** By ink which spot colours and layers of a page are marked for it. */
export function marksOf(
  page: Pick<PageFacts, 'spots' | 'layers'>,
  rules: readonly RoleRule[],
  roles: Readonly<Record<string, Role>>
): MarksByInk {
  const named = (list: readonly { name: string }[], ink: ExtraInk) =>
    list.map(({ name }) => name).filter((name) => roleOf(name, rules, roles) === ink);
  return Object.fromEntries(
    EXTRA.flatMap((ink) => {
      const marks = { spots: named(page.spots, ink), layers: named(page.layers, ink) };
      return marks.spots.length + marks.layers.length > 0 ? [[ink, marks]] : [];
    })
  );
}

const marked = (id: number, ink: ExtraInk): Layer => newLayer(id, ink, { cover: { is: 'marked' } });

/** Colour, and what the file marks: primer and white under it, varnish over it. */
function asMarked(marks: MarksByInk): Stack {
  if (Object.keys(marks).length === 0) return PLAIN_STACK;
  const layers = [
    ...(marks.primer ? [marked(3, 'primer')] : []),
    ...(marks.white ? [marked(2, 'white')] : []),
    newLayer(1, 'colour'),
    ...(marks.varnish ? [marked(4, 'varnish')] : [])
  ];
  return { seen: 'front', layers };
}

/** The stack that a docket prints: its own, else what its file marks. */
export const stackOf = (own: Stack | null, marks: MarksByInk): Stack => own ?? asMarked(marks);

/**
 * Layers of colour with the pages that they show in place of the docket's own.
 *
 * @param pages of the file; a layer of a page that it does not have shows the docket's own, and `missingPages` tells
 */
export function withPictures(
  layers: readonly Layer[],
  preparation: Preparation,
  page: PageFacts,
  pages: readonly PageFacts[],
  role: (name: string) => Role | undefined
): PieceLayer[] {
  return layers.map((layer) => {
    const { ownPage } = layer;
    const other = layer.ink === 'colour' && ownPage !== null ? pages[ownPage] : undefined;
    if (!other) return layer;
    return { ...layer, own: { page: ownPage!, prepare: preparedAlike(preparation, page, other, role) } };
  });
}

/** Pages that layers of colour show and the file does not have, from 0. */
export const missingPages = (layers: readonly Layer[], pages: number): number[] =>
  layers.flatMap(({ ink, ownPage }) => (ink === 'colour' && (ownPage ?? -1) >= pages ? [ownPage!] : []));

/** What goes with a stack: what is seen through the media is printed mirrored. */
export const withStack = (stack: Stack): { stack: Stack; mirror: boolean } => ({ stack, mirror: stack.seen === 'behind' });

/** How far white keeps inside of what it lies under, so that it does not peep out, mm. */
export const USUAL_CHOKE_MM = 0.2;

/** A stack that is made by one choice. */
export interface ReadyStack {
  name: string;
  /** What it is good for. */
  what: string;
  stack: Stack;
}

const colour = newLayer(1, 'colour');
const white = newLayer(2, 'white', { chokeMm: USUAL_CHOKE_MM });
const primer = newLayer(3, 'primer', { cover: { is: 'whole' } });
const varnish = newLayer(4, 'varnish', { cover: { is: 'whole' } });

/** @param marks so that what the file marks is taken where it marks something */
export function readyStacks(marks: MarksByInk): ReadyStack[] {
  const parts: Layer = marks.varnish ? marked(4, 'varnish') : newLayer(4, 'varnish');
  const behind: Layer = marks.white ? marked(2, 'white') : white;
  return [
    { name: 'Colour alone', what: 'on white media', stack: PLAIN_STACK },
    {
      name: 'White under colour',
      what: 'on clear or dark media, seen from the front',
      stack: { seen: 'front', layers: [behind, colour] }
    },
    {
      name: 'Colour under white',
      what: 'on clear media, seen from behind, mirrored',
      stack: { seen: 'behind', layers: [colour, behind] }
    },
    {
      name: 'Colour, white, colour',
      what: 'on clear media, seen from both sides',
      stack: { seen: 'both', layers: [newLayer(1, 'colour', { mirrored: true }), behind, newLayer(5, 'colour')] }
    },
    {
      name: 'Primer, white, colour, varnish',
      what: 'on boards and glass',
      stack: { seen: 'front', layers: [primer, behind, colour, marks.varnish ? parts : varnish] }
    },
    { name: 'Varnish on parts', what: 'over colour', stack: { seen: 'front', layers: [colour, parts] } }
  ];
}

/** What a media suggests, by name; nothing where colour alone will do. */
export function suggestedFor(media: { body: Body; printedSide: 'face' | 'back'; primer: boolean }): string | undefined {
  if (media.primer) return 'Primer, white, colour, varnish';
  if (media.body === 'dark') return 'White under colour';
  if (media.body === 'clear') return media.printedSide === 'back' ? 'Colour under white' : 'White under colour';
  return undefined;
}
