import { describe, expect, it } from 'vitest';
import { marksOf } from '../artwork/docket-stack';
import type { PageFacts } from '../artwork/facts';
import { fieldSpots, pageWithFields } from './field-spots';
import { newCode, newPicture, newText } from './new-field';

const spot = (name: string) => ({ is: 'spot' as const, name, inks: [0, 0, 1, 0] as [number, number, number, number] });
const place = { x: 0, y: 0, width: 20, height: 10, turn: 0 };
const shadow = { right: 1, down: 1, soft: 0, strength: 0.5, colour: spot('Under') };
const fields = [
  { ...newText([], place), colour: spot('Varnish'), outline: { mm: 1, colour: spot('Brass') }, shadow },
  { ...newCode([], place), colour: spot('Brass') },
  { ...newCode([], place), colour: spot('') },
  newPicture([], place)
];

describe('spot colours of fields', () => {
  it('are those of all their parts, each once', () => {
    expect(fieldSpots(fields)).toEqual(['Varnish', 'Brass', 'Under']);
  });

  it('are the page’s too, and have the roles of their names', () => {
    const page = { spots: [{ name: 'Brass', objects: 3, outlines: 0, colour: null }], layers: [] } as unknown as PageFacts;
    const all = pageWithFields(page, fields);
    expect(all.spots.map(({ name, objects }) => [name, objects])).toEqual([
      ['Brass', 3],
      ['Varnish', 1],
      ['Under', 1]
    ]);
    expect(marksOf(all, [], { Varnish: 'varnish' })).toEqual({ varnish: { spots: ['Varnish'], layers: [] } });
    expect(pageWithFields(page, [])).toBe(page);
  });
});
