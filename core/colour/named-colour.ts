import { z } from 'zod';
import { plainName } from '../units/names';
import type { Triple } from './lab';

const name = z
  .string({ error: 'A colour needs a name.' })
  .trim()
  .max(120, 'A name has at most 120 characters.')
  .refine((text) => plainName(text) !== '', 'A colour’s name needs a letter or a figure.');
const words = (most: number) => z.string().trim().max(most, `At most ${most} characters.`).default('');
const chroma = (axis: 'a*' | 'b*') =>
  z
    .number({ error: `${axis} must be a figure.` })
    .min(-150, `${axis} is −150 to 150.`)
    .max(150, `${axis} is −150 to 150.`);

/** L*a*b* under D50 for the 2° observer, against the perfect reflector. */
export const SurfaceLab = z.tuple([
  z.number({ error: 'L* must be a figure.' }).min(0, 'L* is 0 to 100.').max(100, 'L* is 0 to 100.'),
  chroma('a*'),
  chroma('b*')
]);

/** A colour that is known by its name, the same on every condition. */
export const NamedColour = z.object({
  name,
  lab: SurfaceLab,
  /** Other names for the same. */
  others: z.array(name).max(20, 'At most 20 other names.').default([]),
  collection: words(80),
  /** From whom it is. */
  from: words(120),
  note: words(500)
});
export type NamedColour = z.infer<typeof NamedColour>;

/** L*a*b* as it is typed: three figures with spaces, semicolons or commas between them, with a point or, where that is certain, a comma in them. */
export function readLab(text: string): Triple | undefined {
  const plain = text
    .replace(/[−–]/g, '-')
    .replace(/[Llab]\*?\s*[=:]?/g, ' ')
    .trim();
  const apart = [/[\s;]+/, /\s*[,;]\s*/].map((between) => plain.split(between).filter(Boolean));
  const parts = apart.find((list) => list.length === 3)?.map((part) => part.replace(/,$/, '').replace(',', '.'));
  const read = SurfaceLab.safeParse(parts?.map((part) => (/^[+-]?\d+(\.\d+)?$/.test(part) ? Number(part) : undefined)));
  return read.data;
}

export const showLab = (lab: Readonly<Triple>, digits = 1): string =>
  lab.map((v) => v.toFixed(digits).replace('-', '−')).join(', ');
