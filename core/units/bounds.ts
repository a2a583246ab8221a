import { z } from 'zod';

/** What a figure may be, as its schema says: a box that asks for it says the same. @throws RangeError for what is no figure */
export function boundsOf(schema: z.ZodType): { min: number; max: number } {
  if (schema instanceof z.ZodDefault) return boundsOf(schema.unwrap() as z.ZodType);
  if (!(schema instanceof z.ZodNumber)) throw new RangeError('This is no figure.');
  return { min: schema.minValue ?? -Infinity, max: schema.maxValue ?? Infinity };
}
