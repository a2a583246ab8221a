import { z } from 'zod';
import { MOST_SERIES } from '$core/records/series';

/** What comes by itself: folders that are watched, and the in-tray of all that came. */

/** How far what arrives goes by itself. */
export const WAYS = ['make dockets', 'lay out', 'release'] as const;
export type Way = (typeof WAYS)[number];

/** Where the figure stands in a pattern of names. */
const FIGURE = '#';
export const USUAL_COPIES = '_#x';

const copiesPattern = z
  .string()
  .max(40, 'A pattern has at most 40 characters.')
  .refine((text) => text === '' || (text.split(FIGURE).length === 2 && text.length > 1), {
    error: `A pattern has one ${FIGURE} where the figure stands, and at least one sign beside it, as ${USUAL_COPIES}.`
  });

export const WatchedFolder = z.object({
  /** From the shop's own data folder where it does not begin at the root. */
  path: z.string().trim().min(1, 'A folder needs a path.').max(1000, 'A path has at most 1,000 characters.'),
  /** None where dockets are made as they are by hand. */
  recipeId: z.int().min(1).nullable(),
  way: z.enum(WAYS),
  /** Whether what is to be looked at is laid out and released all the same; what stops never is. */
  despiteLooks: z.boolean().default(false),
  /** Folders in it are customers. */
  customers: z.boolean().default(true),
  /** Of a file's name, how many copies it asks for; empty where names say nothing of that. */
  copies: copiesPattern.default(USUAL_COPIES),
  /** A table of the same name beside artwork is its records. */
  tables: z.boolean().default(true),
  isOn: z.boolean().default(true),
  /** What lies in it when it is chosen is meant to be taken too. */
  withAll: z.boolean().default(false)
});
export type WatchedFolder = z.infer<typeof WatchedFolder>;

/** How many copies a file's name asks for; nothing where it does not say. @param pattern with # for the figure */
export function copiesOf(fileName: string, pattern: string): number | undefined {
  const [before, after] = pattern.split(FIGURE);
  if (before === undefined || after === undefined) return undefined;
  const base = fileName.replace(/\.[^.]*$/, '');
  const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
  // The last one in the name counts, and no part of a longer figure.
  const all = [...base.matchAll(new RegExp(`${escaped(before)}(?<!\\d)(\\d{1,6})(?!\\d)${escaped(after)}`, 'giu'))];
  const count = Number(all.at(-1)?.[1] ?? NaN);
  return count >= 1 && count <= MOST_SERIES ? count : undefined;
}

/** Files that are tables by their name. */
const TABLES = ['csv', 'tsv', 'xlsx', 'xls', 'ods'];
const ENDING = /\.([^./\\]*)$/;

export const isTable = (place: string): boolean => TABLES.includes(ENDING.exec(place)?.[1]?.toLowerCase() ?? '');

/** Where a table of artwork would lie: beside it, with its name. */
export function tablePlaces(artwork: string): string[] {
  const base = artwork.replace(ENDING, '');
  return TABLES.flatMap((ending) => [`${base}.${ending}`, `${base}.${ending.toUpperCase()}`]);
}

/**
 * `reading` and `made` are on their way; `done` went all of it; `waiting` needs a person; `refused` cannot be printed at all;
 * `undone` was taken back.
 */
export const ARRIVAL_STATES = ['reading', 'made', 'laid out', 'done', 'waiting', 'refused', 'undone'] as const;
export type ArrivalState = (typeof ARRIVAL_STATES)[number];

/** What a program says of a file that it sends. */
export const JobTicket = z.object({
  customer: z.string().max(120, 'A customer’s name has at most 120 characters.').default(''),
  copies: z.int('Copies are counted in whole numbers.').min(1, 'At least 1 copy.').max(MOST_SERIES, 'At most 100,000 copies.').nullable().default(null), // prettier-ignore
  /** By its name or its number; none for the shop's rules, or as by hand. */
  recipe: z
    .union([z.string().max(80), z.int().min(1)])
    .nullable()
    .default(null),
  way: z.enum(WAYS).default('make dockets'),
  despiteLooks: z.boolean().default(false)
});
export type JobTicket = z.infer<typeof JobTicket>;

/** A line of the in-tray. */
export interface Arrival {
  id: number;
  source: 'folder' | 'program' | 'printer';
  /** None where it is watched no more, or it came otherwise. */
  folder: { id: number; path: string } | null;
  /** The name of the one that it was printed on; none where that is gone, or it came otherwise. */
  printer: string | null;
  /** Within the folder. */
  place: string;
  name: string;
  customer: string;
  copies: number | null;
  bytes: number;
  /** The table that lay beside it. */
  table: string | null;
  way: Way;
  recipe: { id: number; name: string } | null;
  artworkId: number | null;
  /** What was made of it, as far as it is still there. */
  dockets: { id: number; name: string; runId: number | null }[];
  state: ArrivalState;
  reason: string | null;
  cameAt: number;
}

/** Where things come from, as a list is asked for: of one folder or printer by its number, or of all programs that send them. */
export const CameFrom = z
  .string()
  .regex(/^(program|(folder|printer)-[1-9]\d{0,9})$/, 'Where it came from is as folder-3, printer-1 or program.')
  .transform((text) => {
    const [source, id] = text.split('-') as [Arrival['source'], string | undefined];
    return { source, id: id === undefined ? null : Number(id) };
  });
export type CameFrom = z.infer<typeof CameFrom>;
