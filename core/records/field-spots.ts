import type { PageFacts } from '../artwork/facts';
import type { Field, FieldColour } from './field';

/** Spot colours that fields are in: they have roles as those of the artwork do, so that a field can be in varnish. */

const coloursOf = (field: Field): (FieldColour | undefined)[] =>
  field.is === 'picture'
    ? []
    : field.is === 'code'
      ? [field.colour]
      : [field.colour, field.outline?.colour, field.shadow?.colour];

/** Their names, each once. */
export const fieldSpots = (fields: readonly Field[]): string[] => [
  ...new Set(fields.flatMap(coloursOf).flatMap((colour) => (colour?.is === 'spot' && colour.name !== '' ? [colour.name] : [])))
];

/** A page with the spot colours of the fields on it, beside its own. */
export function pageWithFields(page: PageFacts, fields: readonly Field[]): PageFacts {
  const others = fieldSpots(fields).filter((name) => !page.spots.some((spot) => spot.name === name));
  if (others.length === 0) return page;
  return { ...page, spots: [...page.spots, ...others.map((name) => ({ name, objects: 1, outlines: 0, colour: null }))] };
}
