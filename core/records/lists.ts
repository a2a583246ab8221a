import { z } from 'zod';
import { readNumber } from './forms';
import { plainName } from '../units/names';

/** Lists of a shop's own: what is said for a counter's figure, or in the place of a short form. */

export const ShopList = z.object({
  name: z.string().trim().min(1, 'A list has a name.').max(60, 'A list’s name has at most 60 characters.'),
  /** What is said; or a short form, an equals sign, and what is said in its place. */
  entries: z.array(z.string().max(300, 'An entry has at most 300 characters.')).max(2000, 'A list has at most 2,000 entries.')
});
export type ShopList = z.infer<typeof ShopList>;

export const ShopLists = z
  .array(ShopList)
  .max(50, 'The shop has at most 50 lists.')
  .refine((lists) => new Set(lists.map(({ name }) => plainName(name))).size === lists.length, 'Two lists have the same name.');

/** What is said of an entry, and the short form that it stands in the place of; nothing where it has none. */
function parted(entry: string): { short: string | undefined; said: string } {
  const at = entry.indexOf('=');
  return at < 0
    ? { short: undefined, said: entry.trim() }
    : { short: entry.slice(0, at).trim(), said: entry.slice(at + 1).trim() };
}

export const listNamed = (lists: readonly ShopList[], name: string): ShopList | undefined =>
  lists.find((list) => plainName(list.name) === plainName(name));

/** The entry that stands for a value: of that short form, or of that number from 1. @returns nothing where there is none */
export function entryFor({ entries }: ShopList, value: string): string | undefined {
  const all = entries.map(parted);
  const plain = plainName(value);
  const meant =
    all.find(({ short }) => short === value) ??
    all.find(({ short, said }) => plainName(short ?? said) === plain) ??
    all[(readNumber(value) ?? 0) - 1];
  return meant?.said;
}

/** The entry for a counter's figure, from 1; after the last one the first comes again. @returns nothing of an empty list */
export function entryAt({ entries }: ShopList, count: number): string | undefined {
  const { length } = entries;
  return length === 0 ? undefined : parted(entries[(((Math.round(count) - 1) % length) + length) % length]!).said;
}
