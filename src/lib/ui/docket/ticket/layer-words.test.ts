import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readyStacks } from '$core/artwork/docket-stack';
import { LAYER_INKS, newLayer, Stack } from '$core/inks/stack';
import { canLieBy, layerName, layerWords, movedTo, withLayer, withoutLayer } from './layer-words';

const ready = (wanted: string) => readyStacks({}).find(({ name }) => name === wanted)!.stack;
const words = (stack: Stack) => stack.layers.map((layer) => layerWords(layer, stack, 'mm'));

describe('layers in words', () => {
  it('say their ink, how much of it, where it lies and how far inside', () => {
    expect(words(ready('White under colour'))).toEqual(['white 100 % where anything prints, 0.2 mm inside', 'colour']);
    expect(words(ready('Primer, white, colour, varnish'))).toEqual([
      'primer 100 % on all of it',
      'white 100 % where anything prints, 0.2 mm inside',
      'colour',
      'gloss varnish 100 % on all of it'
    ]);
    expect(words(ready('Colour, white, colour'))[0]).toBe('colour, the other way round');
    const stack: Stack = {
      seen: 'front',
      layers: [
        newLayer(1, 'white', { cover: { is: 'layer', id: 3, except: true }, amount: 1.5, chokeMm: -0.5 }),
        newLayer(2, 'white', { cover: { is: 'colours', picked: [[50, 0, 0]], within: 10, except: false } }),
        newLayer(3, 'varnish', { curing: 'matt', cover: { is: 'marked' }, byDarkness: [1, 1, 1, 1, 1] })
      ]
    };
    expect(words(stack)).toEqual([
      'white 150 % where varnish does not lie, 0.5 mm beyond',
      'white 100 % where one colour is',
      'matt varnish 100 % where the file marks it, by how dark the colour is'
    ]);
    expect(stack.layers.map((layer) => layerName(layer, stack))).toEqual(['white 1', 'white 2', 'varnish']);
  });
});

describe('layers that are moved, added and taken out', () => {
  it('stay a stack that can be printed', () => {
    const act = fc.oneof(
      fc.record({ kind: fc.constant('add' as const), ink: fc.constantFrom(...LAYER_INKS) }),
      fc.record({ kind: fc.constant('move' as const), at: fc.nat(5), to: fc.integer({ min: -2, max: 8 }) }),
      fc.record({ kind: fc.constant('drop' as const), at: fc.nat(5) }),
      fc.record({ kind: fc.constant('where' as const), at: fc.nat(5), other: fc.nat(5) })
    );
    fc.assert(
      fc.property(fc.array(act, { maxLength: 8 }), (acts) => {
        let stack = ready('White under colour');
        for (const one of acts) {
          const layer = 'at' in one ? stack.layers[one.at] : undefined;
          if (one.kind === 'add') stack = withLayer(stack, one.ink, {});
          else if (!layer) continue;
          else if (one.kind === 'move') stack = movedTo(stack, layer.id, one.to);
          else if (one.kind === 'drop') stack = stack.layers.length > 1 ? withoutLayer(stack, layer.id) : stack;
          else {
            const id = stack.layers[one.other]?.id;
            const next: Stack = {
              ...stack,
              layers: stack.layers.map((own) =>
                own === layer && id !== undefined ? { ...own, cover: { is: 'layer', id, except: false } } : own
              )
            };
            if (Stack.safeParse(next).success) stack = next;
          }
          expect(Stack.safeParse(stack).success).toBe(true);
        }
      })
    );
  });

  it('never run out of numbers', () => {
    let stack = ready('Colour alone');
    for (let i = 0; i < 200; i++) {
      stack = withLayer(stack, 'white', {});
      expect(Stack.safeParse(stack).success).toBe(true);
      stack = withoutLayer(stack, stack.layers.find(({ ink }) => ink === 'white')!.id);
    }
  });

  it('can lie by others, but not by those that lie by them', () => {
    const stack: Stack = {
      seen: 'front',
      layers: [
        newLayer(1, 'colour'),
        newLayer(2, 'white'),
        newLayer(3, 'varnish', { cover: { is: 'layer', id: 2, except: true } })
      ]
    };
    const by = (id: number) =>
      canLieBy(
        stack.layers.find((layer) => layer.id === id)!,
        stack
      ).map((layer) => layer.id);
    expect([by(2), by(3)]).toEqual([[1], [1, 2]]);
  });

  it('come where they are mostly wanted', () => {
    const inks = (stack: Stack) => stack.layers.map(({ ink }) => ink);
    const plain = ready('Colour alone');
    expect(inks(withLayer(plain, 'white', {}))).toEqual(['white', 'colour']);
    expect(inks(withLayer(withLayer(plain, 'white', {}), 'primer', {}))).toEqual(['primer', 'white', 'colour']);
    expect(inks(withLayer(plain, 'varnish', {}))).toEqual(['colour', 'varnish']);
    expect(withLayer(plain, 'varnish', { varnish: { spots: ['Gloss'], layers: [] } }).layers[1]!.cover).toEqual({ is: 'marked' });
  });
});
