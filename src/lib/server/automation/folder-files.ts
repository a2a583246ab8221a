import { constants, type BigIntStats } from 'node:fs';
import { lstat, mkdir, open, realpath, rename, writeFile, type FileHandle } from 'node:fs/promises';
import { dirname, extname, isAbsolute, join, parse, relative, sep } from 'node:path';
import { MOST_UPLOAD_BYTES } from '../artwork/artworks';
import { REFUSED, TAKEN } from './folder-places';

/** Files of a watched folder: looked at without following links, and moved aside once they are taken. */

/** Why a file is no file to be printed; anything else about it is found when it is read. */
export class NoFile extends Error {}

/** A file that lies behind a link is none of the folder's: it is left where it is. */
export class Elsewhere extends Error {}

/** Whether a path is a folder or lies in it; both absolute and without dots. */
export function isWithin(path: string, folder: string): boolean {
  const way = relative(folder, path);
  return way !== '..' && !way.startsWith(`..${sep}`) && !isAbsolute(way);
}

/** Where systems keep what is theirs. */
const SYSTEM = ['bin', 'boot', 'dev', 'etc', 'lib', 'lib64', 'proc', 'run', 'sbin', 'sys', 'usr', 'Windows', 'System', 'Library'];

/**
 * Why a folder is not watched: all that lies in one is taken and moved aside, so that it must be one for this alone.
 *
 * @param path absolute
 * @param own folders of the program and of whoever it runs for, none of which may lie in it
 * @param others that are watched: what one of them moves aside would arrive in the other, again and again
 */
export function whyUnwatched(
  path: string,
  { own, dataFolder, others }: { own: readonly string[]; dataFolder: string; others: readonly string[] }
): string | undefined {
  const { root } = parse(path);
  if (path === root || SYSTEM.some((name) => isWithin(path, join(root, name)))) return 'belongs to the system.';
  if ([...own, dataFolder].some((one) => isWithin(one, path))) return 'has the program’s own files or all of somebody’s in it.';
  const watched = join(dataFolder, OWN_FOLDER);
  if (isWithin(path, dataFolder) && (path === watched || !isWithin(path, watched)))
    return 'is where the program keeps its own files.';
  const other = others.find((one) => isWithin(path, one) || isWithin(one, path));
  return other === undefined ? undefined : `and ${other} lie in each other, so that files would go round.`;
}

/** Within the data folder, for folders that are named and not said where. */
export const OWN_FOLDER = 'watched';

/** Tells one file from the next of the same name. */
export const identityOf = ({ dev, ino, size, mtimeNs }: BigIntStats): string => [dev, ino, size, mtimeNs].join(':');

export interface FoundFile {
  identity: string;
  bytes: number;
}

/** What a thing in a folder is. @throws NoFile for what is never opened; an error of the file system where it is not there */
export async function lookAt(folder: string, place: string): Promise<FoundFile> {
  const path = join(folder, place);
  const stats = await lstat(path, { bigint: true });
  const identity = identityOf(stats);
  const bytes = Number(stats.size);
  if (stats.isSymbolicLink()) throw new NoFile('It is a link to another file. Links are not followed: put the file itself here.');
  if (!stats.isFile()) throw new NoFile('It is no file that can be read, but a device or a pipe.');
  if (bytes === 0) throw new NoFile('The file is empty. Save it again, and wait until it is written.');
  if (bytes > MOST_UPLOAD_BYTES)
    throw new NoFile(`The file has ${(bytes / 1e9).toFixed(1)} GB; ${MOST_UPLOAD_BYTES / 1e9} GB is the most that is taken.`);
  return { identity, bytes };
}

/** Whether it is the identity of a file without anything in it. */
export const isEmpty = (identity: string): boolean => identity.split(':')[2] === '0';

/** What is there now in its place, whatever it is. */
export async function identityAt(folder: string, place: string): Promise<string | undefined> {
  try {
    return identityOf(await lstat(join(folder, place), { bigint: true }));
  } catch {
    return undefined;
  }
}

/** Opens a file that was looked at; not one that a link has been put in the place of. */
export async function openFound(folder: string, place: string): Promise<FileHandle> {
  const path = join(folder, place);
  const [root, own] = [await realpath(folder), await realpath(dirname(path))];
  if (!isWithin(own, root)) throw new Elsewhere('It lies outside of the folder, behind a link.');
  return open(path, constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_NONBLOCK);
}

/**
 * Moves a file out of the way of the next, under a name that is free.
 *
 * @param why written beside it, where it is refused
 * @returns where it is now, from the folder on
 */
export async function moveAside(folder: string, place: string, why?: string): Promise<string> {
  const into = why === undefined ? TAKEN : REFUSED;
  const from = join(folder, place);
  if (!isWithin(await realpath(dirname(from)), await realpath(folder))) throw new Elsewhere('It lies behind a link.');
  const to = await freeName(join(folder, into, place), why !== undefined);
  await mkdir(dirname(to), { recursive: true });
  if (why !== undefined) await writeFile(`${to}.txt`, `${why}\n`);
  await rename(from, to);
  return relative(folder, to);
}

/** @param withText a text of the same name goes beside it */
async function freeName(path: string, withText: boolean): Promise<string> {
  const [extension, isThere] = [extname(path), (to: string) => lstat(to).then(Boolean, () => false)];
  const base = path.slice(0, path.length - extension.length);
  for (let n = 2, to = path; ; n++) {
    if (!(await isThere(to)) && !(withText && (await isThere(`${to}.txt`)))) return to;
    to = `${base} (${n})${extension}`;
  }
}
