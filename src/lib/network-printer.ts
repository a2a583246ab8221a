import { z } from 'zod';
import { WAYS } from './arrivals';

/** A printer for every program: what is printed on it becomes dockets by a recipe. */

/** Whoever may reach a printer beyond this machine says it by where they are, or by what they know. */
const address = z.union([z.ipv4(), z.ipv6(), z.cidrv4(), z.cidrv6()], {
  error: 'An address is one as 192.168.1.20, or a range of them as 192.168.1.0/24.'
});

export const NetworkPrinter = z
  .object({
    /** As other programs list it. */
    name: z
      .string()
      .trim()
      .min(1, 'A printer needs a name.')
      .max(60, 'A name has at most 60 characters.')
      .regex(/^[^/\\#\p{Cc}]*$/u, 'A printer’s name has no / \\ or #.'),
    /** None where dockets are made as they are by hand. */
    recipeId: z.int().min(1).nullable(),
    way: z.enum(WAYS),
    /** Whether what is to be looked at is laid out and released all the same; what stops never is. */
    despiteLooks: z.boolean().default(false),
    /** In place of the recipe's, where a program asks for a draft or for its best. */
    draftId: z.int().min(1).nullable().default(null),
    bestId: z.int().min(1).nullable().default(null),
    port: z.int('A port is a whole number.').min(1024, 'A port is 1024 to 65,535.').max(65_535, 'A port is 1024 to 65,535.'),
    /** Whether other machines reach it. */
    isOpen: z.boolean().default(false),
    addresses: z.array(address).max(100, 'At most 100 addresses.').default([]),
    /** Part of the address that it is added by; nothing where the list of addresses says who may. */
    key: z.union([z.literal(''), z.string().regex(/^[\w-]{16,64}$/, 'A key has 16 to 64 letters and figures.')]).default(''),
    /** Told to the machines around, so that their programs find it. */
    isAnnounced: z.boolean().default(false),
    mostPages: z.int('Pages are counted in whole numbers.').min(1, 'A document has 1 to 500 pages.').max(500, 'A document has 1 to 500 pages.').default(100), // prettier-ignore
    mostMb: z.int('The size is in whole megabytes.').min(1, 'A document has 1 to 20,000 MB.').max(20_000, 'A document has 1 to 20,000 MB.').default(2000), // prettier-ignore
    mostPerMinute: z.int('Documents are counted in whole numbers.').min(1, '1 to 1,000 documents a minute are taken.').max(1000, '1 to 1,000 documents a minute are taken.').default(60), // prettier-ignore
    isOn: z.boolean().default(true)
  })
  .refine(({ isOpen, addresses, key }) => !isOpen || addresses.length > 0 || key !== '', {
    path: ['addresses'],
    error: 'Say which addresses may print, or make a key: else whoever reaches this machine could.'
  })
  .refine(({ isOpen, isAnnounced }) => isOpen || !isAnnounced, {
    path: ['isAnnounced'],
    error: 'A printer that only this machine reaches is not announced to others.'
  })
  .refine(({ key, isAnnounced }) => key === '' || !isAnnounced, {
    path: ['isAnnounced'],
    error: 'A printer with a key is not announced: its address has the key in it. Say which addresses may print in its place.'
  });
export type NetworkPrinter = z.infer<typeof NetworkPrinter>;

/** The first port that printers of the shop are offered. */
export const FIRST_PORT = 6310;

/** What a program asks for with what it prints. */
export const Asked = z.object({
  /** Null where it says nothing of copies. */
  copies: z.int().min(1).nullable().default(null),
  /** The condition of the quality that it asks for; the recipe's own where it is not said. */
  conditionId: z.int().nullable().default(null),
  grey: z.boolean().default(false),
  /** A picture is made as large as this takes, mm. */
  fitMm: z.object({ width: z.number().positive(), height: z.number().positive() }).nullable().default(null),
  /** From 1, both ends with them; all where there are none. */
  pages: z
    .array(z.object({ from: z.int().min(1), to: z.int().min(1) }))
    .max(100)
    .default([]),
  mostPages: z.int().min(1).default(500)
});
export type Asked = z.infer<typeof Asked>;
export const NOTHING_ASKED: Asked = Asked.parse({});

/** Pages of a document that are asked for, from 0. */
export const askedPages = ({ pages }: Pick<Asked, 'pages'>, count: number): number[] =>
  Array.from({ length: count }, (_, page) => page).filter(
    (page) => pages.length === 0 || pages.some(({ from, to }) => page + 1 >= from && page + 1 <= to)
  );

/** As large as fits, in its proportions. */
export function fitted(
  own: { width: number; height: number },
  into: { width: number; height: number }
): { width: number; height: number } {
  const scale = Math.min(into.width / own.width, into.height / own.height);
  const tenth = (mm: number) => Math.max(1, Math.floor(mm * scale * 10) / 10);
  return { width: tenth(own.width), height: tenth(own.height) };
}

/** A sheet that programs may ask for. */
export interface Sheet {
  /** As PWG 5101.1 names it. */
  name: string;
  widthMm: number;
  heightMm: number;
}

const ISO = [
  ['a6', 105, 148],
  ['a5', 148, 210],
  ['a4', 210, 297],
  ['a3', 297, 420],
  ['a2', 420, 594],
  ['a1', 594, 841],
  ['a0', 841, 1189]
] as const;

/** A length as names of sheets have it: whole where it is, and without noughts at the end. */
const said = (mm: number): string => String(Math.round(mm * 100) / 100);

export const ownSheet = (what: 'custom' | 'roll', name: string, widthMm: number, heightMm: number): Sheet => ({
  name: `${what}_${name}_${said(widthMm)}x${said(heightMm)}mm`,
  widthMm,
  heightMm
});

/** The sheets that fit a media, upright or turned. */
export const sheetsFor = (widthMm: number, lengthMm: number): Sheet[] =>
  ISO.filter(([, w, h]) => Math.min(w, h) <= Math.min(widthMm, lengthMm) && Math.max(w, h) <= Math.max(widthMm, lengthMm)).map(
    ([name, widthMm, heightMm]) => ({ name: `iso_${name}_${widthMm}x${heightMm}mm`, widthMm, heightMm })
  );

/** The size that a name of a sheet says; nothing where it says none. @see PWG 5101.1 section 5 */
export function sizeOfName(name: string): { width: number; height: number } | undefined {
  const [, width, height, unit] = /_(\d+(?:\.\d+)?)x(\d+(?:\.\d+)?)(mm|in)$/.exec(name) ?? [];
  const mm = (figure: string | undefined) => Number(figure) * (unit === 'in' ? 25.4 : 1);
  const size = { width: mm(width), height: mm(height) };
  return size.width > 0 && size.height > 0 ? size : undefined;
}
