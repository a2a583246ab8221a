import { z } from 'zod';

/** A stack: the layers of ink of a docket, read from the media upwards; what each is, what it covers, and how much of it. */

export const LAYER_INKS = ['colour', 'white', 'varnish', 'primer'] as const;
export type LayerInk = (typeof LAYER_INKS)[number];
/** Inks that lie under or over the colour: each is one plane of its own. */
export type ExtraInk = Exclude<LayerInk, 'colour'>;

const lab = z.tuple([z.number().min(0).max(110), z.number().min(-140).max(140), z.number().min(-140).max(140)]);

/** How far a layer may lie beyond the finished size, mm; as far as a bleed may. */
export const MOST_MARGIN_MM = 200;
/** Colours that a layer may be told by. */
export const MOST_PICKED = 12;

/** Where a layer lies. */
export const Cover = z.discriminatedUnion('is', [
  /** All of the piece, its bleed included. */
  z.object({ is: z.literal('whole') }),
  /** The finished size, and so much around it, mm: farther than colour prints, if wanted. */
  z.object({
    is: z.literal('margin'),
    mm: z.number().min(0, 'A margin is 0 to 200 mm.').max(MOST_MARGIN_MM, 'A margin is 0 to 200 mm.')
  }),
  /** Wherever any colour of the piece prints, as strongly as its paint covers. */
  z.object({ is: z.literal('prints') }),
  /** Where the colour is one of some, within ΔE (CIE 1976), or, `except`, where it prints and is none of them. */
  z.object({
    is: z.literal('colours'),
    picked: z.array(lab).min(1, 'Pick a colour on the artwork.').max(MOST_PICKED, `At most ${MOST_PICKED} colours.`),
    within: z.number().min(1, 'Colours are alike within 1 to 60 ΔE.').max(60, 'Colours are alike within 1 to 60 ΔE.'),
    except: z.boolean()
  }),
  /** Where the file’s own spot colours and layers of this ink’s role are. */
  z.object({ is: z.literal('marked') }),
  /** Where another layer of the stack lies, or, `except`, where it does not. */
  z.object({ is: z.literal('layer'), id: z.int().min(1).max(99), except: z.boolean() })
]);
export type Cover = z.infer<typeof Cover>;

/** Amounts for colours from light to dark, in equal steps of darkness. */
export const DARKNESS_STEPS = 5;

export const MOST_CHOKE_MM = 5;
export const MOST_AMOUNT = 2;

export const Layer = z.object({
  /** Tells layers of a stack apart, whatever their order. */
  id: z.int().min(1).max(99),
  ink: z.enum(LAYER_INKS),
  /** Says nothing of a layer of colour, which lies where the page has it. */
  cover: Cover,
  /** 1 is the fullest drop of one channel on every pixel; above it a second channel helps. */
  amount: z.number().min(0.01, 'The amount is 1 to 200 %.').max(MOST_AMOUNT, 'The amount is 1 to 200 %.'),
  /** Shares of the amount under light colours … under dark ones; nothing for the same under all. */
  byDarkness: z.array(z.number().min(0).max(1)).length(DARKNESS_STEPS).nullable(),
  /** Drawn in by so much at every edge, mm; out below 0. */
  chokeMm: z
    .number()
    .min(-MOST_CHOKE_MM, `The choke is at most ${MOST_CHOKE_MM} mm.`)
    .max(MOST_CHOKE_MM, `The choke is at most ${MOST_CHOKE_MM} mm.`),
  /** What is narrower than this is left out, mm. */
  leastMm: z.number().min(0, 'The smallest part is 0 to 3 mm.').max(3, 'The smallest part is 0 to 3 mm.'),
  /** Less cover than this share is none: soft edges end there. */
  leastCover: z.number().min(0, 'The least cover is 0 to 90 %.').max(0.9, 'The least cover is 0 to 90 %.'),
  /** A layer of colour that is seen from the other side than the rest. */
  mirrored: z.boolean(),
  /** The page of the file, from 0, that a layer of colour shows in place of the docket’s own. */
  ownPage: z.int().min(0).max(99_999).nullable().default(null),
  /** How varnish is cured. */
  curing: z.enum(['gloss', 'matt'])
});
export type Layer = z.infer<typeof Layer>;

export const SIDES_SEEN = ['front', 'behind', 'both'] as const;
export const MOST_LAYERS = 12;

export const Stack = z
  .object({
    /** Through the media, or not. */
    seen: z.enum(SIDES_SEEN),
    layers: z.array(Layer).min(1, 'A stack has at least one layer.').max(MOST_LAYERS, `At most ${MOST_LAYERS} layers.`)
  })
  .refine(({ layers }) => new Set(layers.map(({ id }) => id)).size === layers.length, 'Two layers have the same number.')
  .refine(
    ({ layers }) =>
      layers.every(({ id, cover }) => cover.is !== 'layer' || (cover.id !== id && layers.some((other) => other.id === cover.id))),
    'A layer lies where another does that the stack does not have.'
  )
  .refine(({ layers }) => layers.every((layer) => !goesRound(layer, layers)), 'Layers lie where each other do, in a circle.');
export type Stack = z.infer<typeof Stack>;

function goesRound(layer: Layer, layers: readonly Layer[]): boolean {
  let at: Layer | undefined = layer;
  for (let steps = 0; at?.cover.is === 'layer'; steps++) {
    if (steps > layers.length) return true;
    const { id }: { id: number } = at.cover;
    at = layers.find((other) => other.id === id);
  }
  return false;
}

/** A layer as it first is. */
export const newLayer = (id: number, ink: LayerInk, more: Partial<Layer> = {}): Layer => ({
  id,
  ink,
  cover: { is: 'prints' },
  amount: 1,
  byDarkness: null,
  chokeMm: 0,
  leastMm: 0,
  leastCover: 0,
  mirrored: false,
  ownPage: null,
  curing: 'gloss',
  ...more
});

/** A number that no layer has: the least, so that adding and taking out again and again never runs out of them. */
export function nextId(layers: readonly Layer[]): number {
  let free = 1;
  while (layers.some(({ id }) => id === free)) free++;
  return free;
}

/** Colour alone, as every docket is that says nothing else. */
export const PLAIN_STACK: Stack = { seen: 'front', layers: [newLayer(1, 'colour')] };

export const isPlain = ({ layers }: Pick<Stack, 'layers'>): boolean =>
  layers.length === 1 && layers[0]!.ink === 'colour' && !layers[0]!.mirrored && (layers[0]!.ownPage ?? null) === null;

/** How far layers lie beyond the finished size because they say so, mm. */
export const marginMm = (layers: readonly Pick<Layer, 'ink' | 'cover'>[]): number =>
  // A layer of colour lies where the page has it, whatever its cover.
  layers.reduce((most, { ink, cover }) => (ink !== 'colour' && cover.is === 'margin' ? Math.max(most, cover.mm) : most), 0);

/** A layer that a machine lays down: the same for all pieces of a run. */
export interface LaidLayer {
  ink: LayerInk;
  curing?: Layer['curing'] | undefined;
}

const laid = ({ ink, curing }: Layer): LaidLayer => (ink === 'varnish' ? { ink, curing } : { ink });
const same = (p: LaidLayer, q: LaidLayer) => p.ink === q.ink && p.curing === q.curing;

/** What a machine lays for a stack alone: layers of one ink that follow each other are two, since each has its own picture. */
export const laidLayers = ({ layers }: Stack): LaidLayer[] => layers.map(laid);

/** The shortest order of layers that has two orders within it. */
function shortestOfBoth(p: readonly LaidLayer[], q: readonly LaidLayer[]): LaidLayer[] {
  // lengths[i][j]: of the shortest for what p has from i on and q from j on.
  const lengths = Array.from({ length: p.length + 1 }, () => new Array<number>(q.length + 1).fill(0));
  for (let i = p.length; i >= 0; i--)
    for (let j = q.length; j >= 0; j--) {
      if (i === p.length || j === q.length) lengths[i]![j] = p.length - i + q.length - j;
      else if (same(p[i]!, q[j]!)) lengths[i]![j] = 1 + lengths[i + 1]![j + 1]!;
      else lengths[i]![j] = 1 + Math.min(lengths[i + 1]![j]!, lengths[i]![j + 1]!);
    }
  const both: LaidLayer[] = [];
  let [i, j] = [0, 0];
  while (i < p.length || j < q.length) {
    if (i < p.length && j < q.length && same(p[i]!, q[j]!)) {
      both.push(p[i++]!);
      j++;
    } else if (j === q.length || (i < p.length && lengths[i + 1]![j]! <= lengths[i]![j + 1]!)) both.push(p[i++]!);
    else both.push(q[j++]!);
  }
  return both;
}

/**
 * The layers of a run whose dockets have stacks of their own: in one job, each stack in its order.
 *
 * @returns the run's layers, and for each stack which of them each of its layers is
 */
export function layersTogether(stacks: readonly Stack[]): { layers: LaidLayer[]; places: number[][] } {
  const orders = stacks.map(laidLayers);
  // The longest first: short ones mostly lie within it. In an order that does not hang on that of the dockets.
  const sorted = [...orders].sort((p, q) => q.length - p.length || JSON.stringify(p).localeCompare(JSON.stringify(q)));
  const layers = sorted.reduce<LaidLayer[]>(shortestOfBoth, []);
  const places = orders.map((order) => {
    let from = 0;
    return order.map((layer) => {
      const at = layers.findIndex((one, i) => i >= from && same(one, layer));
      from = at + 1;
      return at;
    });
  });
  // Of more than two orders some layer may have become needless.
  const used = layers.map((_, i) => i).filter((i) => places.some((at) => at.includes(i)));
  return { layers: used.map((i) => layers[i]!), places: places.map((at) => at.map((i) => used.indexOf(i))) };
}

/** Inks that a stack needs beside colours, each once. */
export const extraInks = (stack: Stack): ExtraInk[] => [
  ...new Set(stack.layers.map(({ ink }) => ink).filter((ink) => ink !== 'colour'))
];
