import { describe, expect, it } from 'vitest';
import { newLayer, type Cover, type Stack } from '$core/inks/stack';
import { coverKey, coverOf, layerWords, movedTo, withLayer, withoutLayer } from './layer-words';

const colour = newLayer(1, 'colour');
const white = newLayer(2, 'white', { chokeMm: 0.2 });
const stack: Stack = { seen: 'front', layers: [white, colour] };

describe('a cover as one word of a choice', () => {
  const covers: Cover[] = [
    { is: 'whole' },
    { is: 'margin', mm: 12 },
    { is: 'prints' },
    { is: 'marked' },
    { is: 'colours', picked: [[50, 10, 20]], within: 12, except: true },
    { is: 'layer', id: 17, except: false },
    { is: 'layer', id: 17, except: true }
  ];
  it.each(covers)('is the same again: $is', (cover) => {
    expect(coverOf(coverKey(cover), cover)).toEqual(cover);
  });

  it('keeps colours that were picked where their sense is turned round, and begins a margin with one', () => {
    const picked = covers[4]!;
    expect(coverOf('colours', picked)).toEqual({ ...picked, except: false });
    expect(coverOf('margin', { is: 'whole' })).toEqual({ is: 'margin', mm: 5 });
  });
});

describe('a layer in words', () => {
  it('says its ink, how much, where, and how far inside', () => {
    expect(layerWords(white, stack, 'mm')).toBe('white 100 % where anything prints, 0.2 mm inside');
    expect(layerWords({ ...white, chokeMm: 0, cover: { is: 'margin', mm: 5 } }, stack, 'cm')).toBe(
      'white 100 % on all of it and 0.5 cm around it'
    );
    expect(layerWords({ ...colour, ownPage: 1, mirrored: true }, stack, 'mm')).toBe('colour of page 2, the other way round');
  });
});

describe('layers are changed from the ticket', () => {
  it('moved to a place, and no farther than the ends', () => {
    expect(movedTo(stack, 2, 1).layers.map(({ id }) => id)).toEqual([1, 2]);
    expect(movedTo(stack, 2, 99).layers.map(({ id }) => id)).toEqual([1, 2]);
    expect(movedTo(stack, 1, -3).layers.map(({ id }) => id)).toEqual([1, 2]);
    expect(movedTo(stack, 7, 0)).toBe(stack);
  });

  it('taken out, and what lay by them lies on all that prints', () => {
    const varnish = newLayer(3, 'varnish', { cover: { is: 'layer', id: 2, except: true } });
    const left = withoutLayer({ ...stack, layers: [...stack.layers, varnish] }, 2);
    expect(left.layers.map(({ id, cover }) => [id, cover.is])).toEqual([
      [1, 'prints'],
      [3, 'prints']
    ]);
  });

  it('added where they belong, where the file marks them if it does', () => {
    const added = (ink: 'primer' | 'white' | 'varnish', marks = {}) => {
      const { layers } = withLayer(stack, ink, marks);
      return [layers.findIndex(({ id }) => id === 3), layers.find(({ id }) => id === 3)!.cover.is];
    };
    expect(added('primer')).toEqual([0, 'whole']);
    expect(added('white')).toEqual([1, 'prints']);
    expect(added('varnish', { varnish: { spots: ['Gloss'], layers: [] } })).toEqual([2, 'marked']);
  });
});
