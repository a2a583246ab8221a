import type { MarksByInk } from '$core/artwork/docket-stack';
import { DARKNESS_STEPS, newLayer, nextId, Stack, type Cover, type Layer, type LayerInk } from '$core/inks/stack';
import { formatLength, type LengthUnit } from '$core/units/length';

/** Layers of ink in words, and what is done with them from the ticket. */

/** A layer as others name it: by its ink, and by its place where there are several of the ink. */
export function layerName(layer: Layer, { layers }: Stack): string {
  const same = layers.filter(({ ink }) => ink === layer.ink);
  return same.length < 2 ? layer.ink : `${layer.ink} ${same.indexOf(layer) + 1}`;
}

function coverWords(cover: Cover, stack: Stack, unit: LengthUnit): string {
  switch (cover.is) {
    case 'whole':
      return 'on all of it';
    case 'margin':
      return `on all of it and ${formatLength(cover.mm, unit)} around it`;
    case 'prints':
      return 'where anything prints';
    case 'marked':
      return 'where the file marks it';
    case 'colours': {
      const picked = cover.picked.length === 1 ? 'one colour' : `${cover.picked.length} colours`;
      return cover.except ? `where anything but ${picked} prints` : `where ${picked} ${cover.picked.length === 1 ? 'is' : 'are'}`;
    }
    case 'layer': {
      const other = stack.layers.find(({ id }) => id === cover.id);
      const name = other ? layerName(other, stack) : 'nothing';
      return `where ${name} ${cover.except ? 'does not lie' : 'lies'}`;
    }
  }
}

/** What a layer is, as its bar says it. */
export function layerWords(layer: Layer, stack: Stack, unit: LengthUnit): string {
  if (layer.ink === 'colour')
    return `colour${layer.ownPage === null ? '' : ` of page ${layer.ownPage + 1}`}${layer.mirrored ? ', the other way round' : ''}`;
  const curing = layer.ink === 'varnish' ? `${layer.curing} ` : '';
  const less = layer.byDarkness ? ', by how dark the colour is' : '';
  const mm = formatLength(Math.abs(layer.chokeMm), unit);
  const choke = layer.chokeMm > 0 ? `, ${mm} inside` : layer.chokeMm < 0 ? `, ${mm} beyond` : '';
  return `${curing}${layer.ink} ${Math.round(layer.amount * 100)} % ${coverWords(layer.cover, stack, unit)}${less}${choke}`;
}

/** Layers that another can lie by, where they do or do not: those that do not in turn lie by it. */
export const canLieBy = (layer: Layer, stack: Stack): Layer[] =>
  stack.layers.filter(({ id }) => {
    const cover: Cover = { is: 'layer', id, except: false };
    const layers = stack.layers.map((one) => (one.id === layer.id ? { ...one, cover } : one));
    return Stack.safeParse({ ...stack, layers }).success;
  });

/** A margin as it first is, mm. */
const USUAL_MARGIN_MM = 5;

/** A cover as one word of a choice … */
export const coverKey = (cover: Cover): string => {
  if (cover.is !== 'colours' && cover.is !== 'layer') return cover.is;
  return [cover.is, ...(cover.is === 'layer' ? [cover.id] : []), ...(cover.except ? ['not'] : [])].join(' ');
};

/** … and the cover of such a word, with what a layer's own has of it. */
export function coverOf(key: string, own: Cover): Cover {
  const [is, ...rest] = key.split(' ');
  const except = rest.includes('not');
  switch (is) {
    case 'layer':
      return { is, id: Number(rest[0]), except };
    case 'colours':
      return { is, picked: own.is === 'colours' ? own.picked : [[0, 0, 0]], within: 12, except };
    case 'margin':
      return { is, mm: own.is === 'margin' ? own.mm : USUAL_MARGIN_MM };
    default:
      return { is: is as 'whole' | 'prints' | 'marked' };
  }
}

/** Moves a layer up or down, to a place counted from the media. */
export function movedTo(stack: Stack, id: number, to: number): Stack {
  const layers = stack.layers.filter((layer) => layer.id !== id);
  const layer = stack.layers.find((one) => one.id === id);
  if (!layer) return stack;
  layers.splice(Math.max(0, Math.min(layers.length, to)), 0, layer);
  return { ...stack, layers };
}

/** The stack without a layer; what lay where it does lies on all that prints. */
export function withoutLayer(stack: Stack, id: number): Stack {
  const layers = stack.layers.filter((layer) => layer.id !== id);
  return {
    ...stack,
    layers: layers.map((layer) =>
      layer.cover.is === 'layer' && layer.cover.id === id ? { ...layer, cover: { is: 'prints' as const } } : layer
    )
  };
}

/** One more layer: primer on the media, white under the colour, varnish and colour on top. */
export function withLayer(stack: Stack, ink: LayerInk, marks: MarksByInk): Stack {
  const cover: Cover =
    ink !== 'colour' && marks[ink] ? { is: 'marked' } : ink === 'white' || ink === 'colour' ? { is: 'prints' } : { is: 'whole' };
  const layer = newLayer(nextId(stack.layers), ink, { cover, ...(ink === 'white' && { chokeMm: 0.2 }) });
  const first = stack.layers.findIndex((one) => one.ink === 'colour');
  const at = ink === 'primer' ? 0 : ink === 'white' ? Math.max(0, first) : stack.layers.length;
  return movedTo({ ...stack, layers: [...stack.layers, layer] }, layer.id, at);
}

/** Amounts that follow how dark the colour is, before they are set one by one. */
export const evenDarkness = (): number[] => Array.from({ length: DARKNESS_STEPS }, () => 1);
