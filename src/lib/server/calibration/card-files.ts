import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { strFromU8, strToU8, unzipSync, zipSync, type Zippable } from 'fflate';
import { z } from 'zod';
import { IccError, readProfileFacts } from '$core/colour/icc-read';
import { cardDifferences, MediaCard } from '$core/media/card';
import { PrintMode } from '$core/media/modes';
import { RESULTS, type ResultIds, type ResultStep } from '$lib/calibration';
import { BroughtDocument } from './brought-results';
import type { Media } from '../media/cards';
import { Problem } from '../platform/problem';
import type { Charts } from './charts';
import type { ConditionEditing } from '../conditions/condition-editing';
import type { Conditions } from '../conditions/conditions';
import type { Db } from '../platform/db/open';
import type { FileStore } from '../platform/files';
import type { Machines } from '../machines/machines';
import type { MediaCards } from '../media/cards';
import type { Modes } from '../conditions/modes';

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
const KeptCondition = z.object({
  machine: z.string().max(60),
  mode: PrintMode,
  results: z.array(KeptResult).max(RESULTS.length)
});
const CardFile = z.object({ card: MediaCard, conditions: z.array(KeptCondition).max(500) });
type CardFile = z.infer<typeof CardFile>;

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

export interface IncomingCard {
  /** Its place in the file. */
  index: number;
  name: string;
  state: 'new' | 'same' | 'different';
  differences: { field: string; mine: string; theirs: string }[];
  conditions: { machine: string; mode: string; profiled: boolean; state: 'new' | 'same' | 'different' | 'no machine' }[];
}

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

/** What it works with. */
interface Needs {
  db: Db;
  charts: Charts;
  conditions: Conditions;
  conditionEditing: ConditionEditing;
  files: FileStore;
  machines: Machines;
  media: MediaCards;
  modes: Modes;
}

export class CardFiles {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  async write(ids: readonly number[]): Promise<Uint8Array<ArrayBuffer>> {
    const parts: Record<string, Uint8Array> = {};
    const cards: string[] = [];
    for (const [i, id] of ids.entries()) {
      const folder = `cards/${i + 1}`;
      parts[`${folder}/card.json`] = strToU8(JSON.stringify(await this.#kept(id, folder, parts), null, 1));
      cards.push(`${folder}/card.json`);
    }
    const files = Object.fromEntries(Object.entries(parts).map(([name, bytes]) => [name, hashOf(bytes)]));
    const manifest = { format: FORMAT, version: VERSION, cards, files, sum: sumOf(files) };
    const all: Zippable = { 'manifest.json': [strToU8(JSON.stringify(manifest, null, 1)), { mtime: MTIME }] };
    for (const [name, bytes] of Object.entries(parts)) all[name] = [bytes, { mtime: MTIME }];
    return zipSync(all, { level: 6 });
  }

  /** What a file would bring. @throws Problem when it is broken or was changed on the way */
  look(bytes: Uint8Array): IncomingCard[] {
    return this.#open(bytes).cards.map((file, index) => this.#compare(file, index));
  }

  /**
   * Takes cards of a file. One of a name that is here already is put in its place only when it is asked for by `replace`;
   * otherwise it comes under another name.
   */
  async take(bytes: Uint8Array, choices: readonly { index: number; replace: boolean }[]): Promise<Media[]> {
    const { media, files, db } = this.#needs;
    const { cards, parts } = this.#open(bytes);
    // Files first: what is written down then is written down at once, or not at all.
    const profiles = new Map<string, string>();
    for (const { index } of choices)
      for (const { profile } of (cards[index]?.conditions ?? []).flatMap(({ results }) => results))
        if (profile && parts[profile] && !profiles.has(profile)) profiles.set(profile, await files.put(parts[profile]));
    return db.transaction(() => {
      const taken: Media[] = [];
      for (const { index, replace } of choices) {
        const file = cards[index];
        if (!file) throw new Problem(422, `The file has no card ${index + 1}.`);
        const same = media.named(file.card.name);
        const one = !same
          ? media.add(file.card)
          : replace
            ? media.replace(same.id, file.card, null)
            : this.#compare(file, index).state === 'same'
              ? same
              : media.addNew(file.card);
        for (const condition of file.conditions) this.#takeCondition(one.id, condition, profiles);
        taken.push(media.get(one.id));
      }
      return taken;
    })();
  }

  async #kept(id: number, folder: string, parts: Record<string, Uint8Array>): Promise<CardFile> {
    const { media, conditions, charts, files } = this.#needs;
    const own = conditions.list().filter((condition) => condition.mediaId === id);
    const kept = await Promise.all(
      own.map(async (condition, n) => ({
        machine: condition.mode.machine,
        mode: condition.mode,
        results: await Promise.all(
          Object.values(conditions.results(condition.id)).map(async (result) => {
            const name = `${folder}/condition-${n + 1}/${result.step.replace(' ', '-')}`;
            const document = result.document as unknown as Record<string, unknown>;
            const { hash } = document;
            if (typeof hash === 'string') parts[`${name}.icc`] = new Uint8Array(await readFile(files.path(hash)));
            if (result.chartId !== null) parts[`${name}.txt`] = strToU8(charts.cgats(result.chartId));
            return {
              step: result.step,
              madeAt: result.madeAt,
              restsOn: result.restsOn,
              number: result.id,
              document,
              ...(typeof hash === 'string' && { profile: `${name}.icc` }),
              ...(result.chartId !== null && { readings: `${name}.txt` })
            };
          })
        )
      }))
    );
    return { card: media.get(id).card, conditions: kept };
  }

  #open(bytes: Uint8Array): { cards: CardFile[]; parts: Record<string, Uint8Array> } {
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
    const manifest = Manifest.safeParse(this.#json(parts['manifest.json']));
    if (!manifest.success)
      throw new Problem(422, `This is not a file of media cards that can be read: ${inWords(manifest.error)}`);
    const { files, sum } = manifest.data;
    if (sumOf(files) !== sum)
      throw new Problem(422, 'The file was changed after it was written: its list of files is not what was signed.');
    for (const [name, hash] of Object.entries(files)) {
      const part = parts[name];
      if (!part || hashOf(part) !== hash)
        throw new Problem(422, `The file was changed after it was written: ${name} is not what was signed.`);
    }
    const cards = manifest.data.cards.map((name) => {
      const parsed = CardFile.safeParse(files[name] ? this.#json(parts[name]) : undefined);
      if (!parsed.success) throw new Problem(422, `${name}: ${inWords(parsed.error)}`);
      for (const { results } of parsed.data.conditions) for (const result of results) checkResult(name, result, files, parts);
      return parsed.data;
    });
    // Only what was signed counts.
    return { cards, parts: Object.fromEntries(Object.keys(files).map((name) => [name, parts[name] as Uint8Array])) };
  }

  #json(bytes: Uint8Array | undefined): unknown {
    try {
      return bytes ? (JSON.parse(strFromU8(bytes)) as unknown) : undefined;
    } catch {
      return undefined;
    }
  }

  #compare(file: CardFile, index: number): IncomingCard {
    const { media, conditions, machines } = this.#needs;
    const same = media.named(file.card.name);
    const differences = same ? cardDifferences(same.card, file.card) : [];
    const models = new Set(machines.rows().map((row) => row.model));
    const own = same ? conditions.list().filter((condition) => condition.mediaId === same.id) : [];
    const incoming = file.conditions.map(({ machine, mode, results }) => {
      const mine = own.find((condition) => condition.mode.code === mode.code);
      const profile = (list: { step: string; document: unknown }[]) =>
        (list.find((result) => result.step === 'profile')?.document as { hash?: string } | undefined)?.hash;
      const theirs = profile(results);
      const here = mine && profile(Object.values(conditions.results(mine.id)));
      return {
        machine,
        mode: mode.name,
        profiled: theirs !== undefined,
        state: !models.has(machine)
          ? ('no machine' as const)
          : !mine
            ? ('new' as const)
            : here === theirs
              ? ('same' as const)
              : ('different' as const)
      };
    });
    const state = !same
      ? 'new'
      : differences.length > 0 || incoming.some((one) => one.state === 'different' || one.state === 'new')
        ? 'different'
        : 'same';
    return { index, name: file.card.name, state, differences, conditions: incoming };
  }

  /** A condition comes with all that was found; a machine of its kind must be here. What is here keeps its history. */
  #takeCondition(mediaId: number, kept: z.infer<typeof KeptCondition>, profiles: ReadonlyMap<string, string>): void {
    const { conditions, conditionEditing, machines, modes } = this.#needs;
    const machine = machines.rows().find((row) => row.kind === 'printer' && row.model === kept.machine);
    if (!machine) return;
    modes.take([kept.mode]);
    const id = conditionEditing.add(machine.id, mediaId, kept.mode, {
      start: !kept.results.some(({ step }) => step === 'start')
    });
    const numbers = new Map<number, number>();
    const before = conditions.results(id);
    for (const step of RESULTS) {
      const result = kept.results.find((one) => one.step === step);
      if (!result) continue;
      const document = { ...result.document, ...(result.profile && { hash: profiles.get(result.profile) }) };
      const restsOn: ResultIds = {};
      for (const [on, number] of Object.entries(result.restsOn) as [ResultStep, number][]) restsOn[on] = numbers.get(number) ?? 0;
      const same = before[step];
      const number =
        same && JSON.stringify(same.document) === JSON.stringify(document)
          ? same.id
          : conditions.bring(id, step, document, restsOn, result.madeAt);
      numbers.set(result.number, number);
    }
    conditions.settle(
      id,
      Object.fromEntries(kept.results.map(({ step, number }) => [step, numbers.get(number)!])),
      'Taken from a file'
    );
  }
}
