import { createHash } from 'node:crypto';
import { strFromU8, strToU8, unzipSync, zipSync, type Zippable } from 'fflate';
import { z } from 'zod';
import { IccError, readProfileFacts } from '$core/colour/icc-read';
import { MediaCard } from '$core/media/card';
import { PrintMode } from '$core/media/modes';
import { RESULTS } from '$lib/calibration';
import { Problem } from '../platform/problem';
import { BroughtDocument } from './brought-results';

/**
 * Media cards as one open file: a zip of JSON, ICC and CGATS, described in docs/formats.md. Its manifest has the
 * SHA-256 of every file in it, and one of them all, so that what arrives is what was sent.
 */

const FORMAT = 'zing-mast media cards';
const VERSION = 1;
const MOST_BYTES = 200e6;
const MOST_UNPACKED = 600e6;
const MOST_FILES = 2000;
/** The same time in every file, so that the same cards give the same bytes. */
const MTIME = new Date('2026-01-01T00:00:00Z');

const KeptResult = z.object({
  step: z.enum(RESULTS),
  madeAt: z.number(),
  restsOn: z.partialRecord(z.enum(RESULTS), z.int()),
  /** Its number in the shop that it comes from: what rests on it says so. */
  number: z.int(),
  document: z.record(z.string(), z.unknown()),
  /** Readings as CGATS, and the profile, by their names in the zip. */
  readings: z.string().max(200).optional(),
  profile: z.string().max(200).optional()
});
export const KeptCondition = z.object({
  machine: z.string().max(60),
  mode: PrintMode,
  results: z.array(KeptResult).max(RESULTS.length)
});
const CardFile = z.object({ card: MediaCard, conditions: z.array(KeptCondition).max(500) });
export type CardFile = z.infer<typeof CardFile>;

const Manifest = z.object({
  format: z.literal(FORMAT),
  version: z.literal(VERSION),
  cards: z.array(z.string().max(200)).min(1, 'The file has no cards.').max(1000),
  files: z.record(z.string().max(200), z.string().length(64)),
  /** Of the lines "hash name" of all files, sorted. */
  sum: z.string().length(64)
});

const hashOf = (bytes: Uint8Array | string) => createHash('sha256').update(bytes).digest('hex');
const sumOf = (files: Record<string, string>) =>
  hashOf(
    Object.entries(files)
      .map(([name, hash]) => `${hash} ${name}\n`)
      .sort()
      .join('')
  );

/** What is wrong with a document: in its schema's own words where it has some for people. */
function inWords({ issues: [issue] }: z.ZodError): string {
  const path = issue?.path.join('.') ?? '';
  if (issue && /^[A-Z][^:]*\.$/.test(issue.message) && !issue.message.startsWith('Invalid')) return issue.message;
  return path === '' ? 'it is not what such a file has.' : `${path} is missing, or not what it should be.`;
}

/** A step's figures are what its kind has, and its profile is one that can be printed with. */
function checkResult(
  name: string,
  result: z.infer<typeof KeptResult>,
  signed: Record<string, string>,
  parts: Record<string, Uint8Array>
): void {
  const document = BroughtDocument[result.step].safeParse(result.document);
  if (!document.success) {
    throw new Problem(422, `${name}: the step ${result.step}: ${inWords(document.error)}`);
  }
  result.document = document.data;
  if (!('hash' in document.data)) return;
  const profile = result.profile !== undefined && signed[result.profile] ? parts[result.profile] : undefined;
  if (!profile) throw new Problem(422, `${name}: the profile of the step ${result.step} is not in the file.`);
  try {
    const facts = readProfileFacts(profile);
    if (facts.colourSpace !== 'CMYK' || facts.deviceClass !== 'prtr') throw new IccError('It is no CMYK output profile.');
  } catch (error) {
    throw new Problem(
      422,
      `${name}: ${result.profile} cannot be printed with. ${error instanceof IccError ? error.message : ''}`.trim()
    );
  }
}

export interface OpenedCards {
  cards: CardFile[];
  /** By name: what is in the zip. */
  parts: Record<string, Uint8Array>;
}

/** Reads a file of cards. @throws Problem when it is broken, was changed on the way, or holds what cannot be */
export function openCards(bytes: Uint8Array): OpenedCards {
  if (bytes.length > MOST_BYTES) throw new Problem(413, `The file is larger than ${MOST_BYTES / 1e6} MB.`);
  let parts: Record<string, Uint8Array>;
  let unpacked = 0;
  let count = 0;
  try {
    parts = unzipSync(bytes, {
      filter: ({ originalSize }) => {
        unpacked += originalSize;
        if (++count > MOST_FILES || unpacked > MOST_UNPACKED)
          throw new Problem(413, 'The file unpacks to more than any set of cards has.');
        return true;
      }
    });
  } catch (error) {
    if (error instanceof Problem) throw error;
    throw new Problem(422, 'This is not a file of media cards: it is no zip, or cut off.');
  }
  const manifest = Manifest.safeParse(readJson(parts['manifest.json']));
  if (!manifest.success) throw new Problem(422, `This is not a file of media cards that can be read: ${inWords(manifest.error)}`);
  const { files, sum } = manifest.data;
  if (sumOf(files) !== sum)
    throw new Problem(422, 'The file was changed after it was written: its list of files is not what was signed.');
  for (const [name, hash] of Object.entries(files)) {
    const part = parts[name];
    if (!part || hashOf(part) !== hash)
      throw new Problem(422, `The file was changed after it was written: ${name} is not what was signed.`);
  }
  const cards = manifest.data.cards.map((name) => {
    const parsed = CardFile.safeParse(files[name] ? readJson(parts[name]) : undefined);
    if (!parsed.success) throw new Problem(422, `${name}: ${inWords(parsed.error)}`);
    for (const { results } of parsed.data.conditions) for (const result of results) checkResult(name, result, files, parts);
    return parsed.data;
  });
  // Only what was signed counts.
  return { cards, parts: Object.fromEntries(Object.keys(files).map((name) => [name, parts[name] as Uint8Array])) };
}

function readJson(bytes: Uint8Array | undefined): unknown {
  try {
    return bytes ? (JSON.parse(strFromU8(bytes)) as unknown) : undefined;
  } catch {
    return undefined;
  }
}

/** Writes a file of cards. @param cards the names of those parts that are cards */
export function packCards(cards: readonly string[], parts: Readonly<Record<string, Uint8Array>>): Uint8Array<ArrayBuffer> {
  const files = Object.fromEntries(Object.entries(parts).map(([name, bytes]) => [name, hashOf(bytes)]));
  const manifest = { format: FORMAT, version: VERSION, cards, files, sum: sumOf(files) };
  const all: Zippable = { 'manifest.json': [strToU8(JSON.stringify(manifest, null, 1)), { mtime: MTIME }] };
  for (const [name, bytes] of Object.entries(parts)) all[name] = [bytes, { mtime: MTIME }];
  return zipSync(all, { level: 6 });
}
