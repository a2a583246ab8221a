import { readFile } from 'node:fs/promises';
import { isDeepStrictEqual } from 'node:util';
import { strToU8 } from 'fflate';
import type { Piscina } from 'piscina';
import type { z } from 'zod';
import { cardDifferences } from '$core/media/card';
import { RESULTS, type ResultIds, type ResultStep } from '$lib/calibration';
import type { Media } from '../media/cards';
import { Problem } from '../platform/problem';
import { made, type Told } from '../platform/told';
import type { CardFile, KeptCondition, OpenedCards } from './card-zip';
import type { Charts } from './charts';
import type { ConditionEditing } from '../conditions/condition-editing';
import type { Conditions } from '../conditions/conditions';
import type { Db } from '../platform/db/open';
import type { FileStore } from '../platform/files';
import type { Machines } from '../machines/machines';
import type { MediaCards } from '../media/cards';
import type { Modes } from '../conditions/modes';

/** Media cards that come and go as files, with all that was found of them: what is taken is put beside what is here. */

export interface IncomingCard {
  /** Its place in the file. */
  index: number;
  name: string;
  state: 'new' | 'same' | 'different';
  differences: { field: string; mine: string; theirs: string }[];
  conditions: { machine: string; mode: string; profiled: boolean; state: 'new' | 'same' | 'different' | 'no machine' }[];
}

/** What it works with. */
interface Needs {
  cardPool: Piscina;
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
    return (await this.#needs.cardPool.run({ cards, parts }, { name: 'pack' })) as Uint8Array<ArrayBuffer>;
  }

  /** What a file would bring. @throws Problem when it is broken or was changed on the way */
  async look(bytes: Uint8Array): Promise<IncomingCard[]> {
    return (await this.#open(bytes)).cards.map((file, index) => this.#compare(file, index));
  }

  /**
   * Takes cards of a file. One of a name that is here already is put in its place only when it is asked for by `replace`;
   * otherwise it comes under another name.
   */
  async take(bytes: Uint8Array, choices: readonly { index: number; replace: boolean }[]): Promise<Media[]> {
    const { media, files, db } = this.#needs;
    const { cards, parts } = await this.#open(bytes);
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
              ? media.bringBack(same.id)
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

  async #open(bytes: Uint8Array): Promise<OpenedCards> {
    return made((await this.#needs.cardPool.run(bytes, { name: 'open' })) as Told<OpenedCards>);
  }

  #compare(file: CardFile, index: number): IncomingCard {
    const { media, conditions, machines } = this.#needs;
    const same = media.named(file.card.name);
    const differences = same ? cardDifferences(same.card, file.card) : [];
    const models = machines.models();
    const own = same ? conditions.list().filter((condition) => condition.mediaId === same.id) : [];
    const incoming = file.conditions.map(({ machine, mode, results }) => {
      const mine = own.find((condition) => condition.mode.code === mode.code);
      return {
        machine,
        mode: mode.name,
        profiled: results.some(({ step }) => step === 'profile'),
        state: !models.has(machine)
          ? ('no machine' as const)
          : !mine
            ? ('new' as const)
            : sayTheSame(conditions.results(mine.id), results)
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
    const machine = machines.rows().find((row) => row.kind === 'printer' && row.model === kept.machine && !row.away);
    if (!machine) return;
    modes.take([kept.mode]);
    const id = conditionEditing.add(machine.id, mediaId, kept.mode, {
      start: !kept.results.some(({ step }) => step === 'start')
    });
    const before = conditions.results(id);
    if (sayTheSame(before, kept.results)) return;
    const numbers = new Map<number, number>();
    for (const step of RESULTS) {
      const result = kept.results.find((one) => one.step === step);
      if (!result) continue;
      const document = { ...result.document, ...(result.profile && { hash: profiles.get(result.profile) }) };
      const restsOn: ResultIds = {};
      for (const [on, number] of Object.entries(result.restsOn) as [ResultStep, number][]) restsOn[on] = numbers.get(number) ?? 0;
      const same = before[step];
      const number =
        same && isDeepStrictEqual(same.document, document)
          ? same.id
          : conditions.bring(id, step, document, restsOn, result.madeAt);
      numbers.set(result.number, number);
    }
    const taken = Object.fromEntries(kept.results.map(({ step, number }) => [step, numbers.get(number)!]));
    // Where it was not begun yet elsewhere, what its machine says here stays.
    conditions.settle(id, { ...(before.start && { start: before.start.id }), ...taken }, 'Taken from a file');
  }
}

/** Whether a condition of a file brings nothing that is not here. */
const sayTheSame = (here: ReturnType<Conditions['results']>, results: CardFile['conditions'][number]['results']): boolean =>
  results.every(({ step, document }) => isDeepStrictEqual(here[step]?.document, document)) &&
  RESULTS.every((step) => step === 'start' || !here[step] || results.some((one) => one.step === step));
