import { z } from 'zod';
import type { Piscina } from 'piscina';
import { DEFAULT_SEPARATION } from '$core/colour/black';
import { PrinterModel } from '$core/colour/printer-model';
import type { ProfileRecipe } from '$core/colour/profile-build';
import type { PrintMode } from '$core/media/modes';
import { askJson } from '../machines/ask';
import type { Machines } from '../machines/machines';
import type { MediaCards } from '../media/cards';
import { freshNumber } from '../platform/db/fresh-number';
import type { Removed } from '../platform/removed';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { FileStore } from '../platform/files';
import { Problem } from '../platform/problem';
import type { TaskContext, TaskRunner } from '../platform/tasks/runner';
import type { Conditions } from './conditions';
import { MADE } from './source-profiles';

const StartSheet = z.object({ curves: z.array(z.array(z.number().min(0).max(1)).length(256)).length(4), model: PrinterModel });

interface Needs {
  db: Db;
  files: FileStore;
  events: Events;
  tasks: TaskRunner;
  profilePool: Piscina;
  machines: Machines;
  media: MediaCards;
  conditions: Conditions;
}

/** Conditions come and go, each begun from what its machine says of itself. */
export class ConditionEditing {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.tasks.register('start', { most: 1, work: (subject, context) => this.#start(Number(subject), context) });
  }

  /** Adds a condition, or gives the one there is, and has its machine's start taken unless one is brought along. */
  add(machineId: number, mediaId: number, mode: PrintMode, { start = true } = {}): number {
    const { db, tasks, events, machines, media, conditions } = this.#needs;
    const machine = machines.rows().find((row) => row.id === machineId && !row.away);
    if (machine?.kind !== 'printer') throw new Problem(422, 'A printing condition needs a machine that prints.');
    if (machine.model && mode.machine !== machine.model)
      throw new Problem(422, `This print mode is for ${mode.machine}; ${machine.name} is a ${machine.model}.`);
    const { card, away: isAway } = media.get(mediaId);
    if (isAway) throw new Problem(409, `${card.name} was put away. Bring it back under Media first.`);
    if (machine.model && Object.keys(card.handling).length > 0 && !card.handling[machine.model])
      throw new Problem(
        422,
        `The card of ${card.name} does not say how ${machine.model} is to handle it. Add that on the card first.`
      );
    db.prepare(
      'INSERT INTO condition (id, machine_id, media_id, mode_code, mode) VALUES (?, ?, ?, ?, ?) ON CONFLICT DO NOTHING'
    ).run(freshNumber(db, 'condition'), machineId, mediaId, mode.code, JSON.stringify(mode));
    const { id, away } = db
      .prepare<[number, number, string], { id: number; away: number }>(
        'SELECT id, away FROM condition WHERE machine_id = ? AND media_id = ? AND mode_code = ?'
      )
      .get(machineId, mediaId, mode.code) as { id: number; away: number };
    if (away) this.bringBack(id);
    if (start && !conditions.results(id).start) tasks.add('start', id);
    events.tell('condition added', id);
    events.changed('conditions');
    return id;
  }

  /** Takes the machine's start again, after it did not answer. */
  startAgain(id: number): void {
    const { conditions, tasks } = this.#needs;
    conditions.row(id);
    if (!conditions.results(id).start) tasks.add('start', id);
  }

  /**
   * Nothing is to be printed in it any more. One that nothing was done with is deleted; another is put away: what was printed
   * and measured in it stays known.
   *
   * @returns how many dockets have chosen it and lie in no run
   * @throws Problem 409 where a run waits that prints in it
   */
  remove(id: number): Removed {
    const { db, events, conditions } = this.#needs;
    const { machine, media } = conditions.row(id);
    const asks = (sql: string) => db.prepare<[number], number>(sql).pluck().get(id) ?? 0;
    const open = asks(
      "SELECT id FROM run WHERE condition_id = ? AND chart_id IS NULL AND state != 'printed' ORDER BY id LIMIT 1"
    );
    if (open > 0)
      throw new Problem(409, `Run ${open} prints in this condition, ${media} on ${machine}. Print or delete it first, or give its lane another print mode.`); // prettier-ignore
    const CHOSEN = "FROM docket WHERE json_extract(choices, '$.conditionId') = ?";
    // What was measured, or came with a card, is work too; and recipes say it.
    const isUsed = [
      'SELECT count(*) FROM run WHERE condition_id = ?',
      `SELECT count(*) ${CHOSEN}`,
      "SELECT count(*) FROM condition_result WHERE condition_id = ? AND step != 'start'",
      'SELECT count(*) FROM baseline WHERE condition_id = ?',
      'SELECT count(*) FROM colour_inks WHERE condition_id = ?',
      "SELECT count(*) FROM recipe WHERE gone = 0 AND json_extract(document, '$.sets.media.conditionId') = ?"
    ].some((sql) => asks(sql) > 0);
    db.transaction(() => {
      events.tell(isUsed ? 'condition put away' : 'condition goes', id);
      db.prepare(isUsed ? 'UPDATE condition SET away = 1 WHERE id = ?' : 'DELETE FROM condition WHERE id = ?').run(id);
    })();
    this.#tell();
    return {
      is: isUsed ? 'put away' : 'deleted',
      dockets: asks(`SELECT count(*) ${CHOSEN} AND stage = 'waiting' AND away = 0`)
    };
  }

  bringBack(id: number): void {
    const { db, events, conditions } = this.#needs;
    conditions.row(id);
    db.prepare('UPDATE condition SET away = 0 WHERE id = ?').run(id);
    events.tell('condition added', id);
    this.#tell();
  }

  #tell(): void {
    this.#needs.events.changed('conditions');
    this.#needs.events.changed('lanes');
  }

  /** A machine knows roughly what it prints on each surface: enough to begin with, and said to be no more than that. */
  async #start(id: number, { signal }: TaskContext): Promise<(() => void) | undefined> {
    const { files, profilePool, machines, conditions } = this.#needs;
    const row = conditions.row(id);
    const condition = conditions.get(id);
    const machine = machines.rows().find((m) => m.id === row.machine_id);
    const query = new URLSearchParams({
      surface: condition.surface,
      dpi: String(condition.mode.dpi),
      drop: String(condition.mode.drops[2]),
      black: condition.mode.black
    });
    const reply = await askJson(`${machine?.url}/start?${query.toString()}`, { signal, ms: 10_000, mostBytes: 10e6 }).catch(
      () => undefined
    );
    if (!reply?.ok)
      throw new Problem(502, `${row.machine} does not answer, so there is nothing to start from. Switch it on and try again.`);
    const { curves, model } = StartSheet.parse(reply.value);
    const recipe: ProfileRecipe = {
      name: `${row.machine} on ${row.media}, as the machine says`,
      made: MADE,
      version: 2,
      separation: { ...DEFAULT_SEPARATION, limits: { total: condition.mode.limits.total, amounts: curves } },
      forwardGrid: 13,
      backwardGrid: 25
    };
    const profile = (await profilePool.run({ model, recipe }, { signal, name: 'fromModel' })) as Uint8Array;
    const hash = await files.put(profile);
    return () => {
      if (!conditions.results(id).start) conditions.keep(id, 'start', { curves, hash }, null, 'Begun from what the machine says');
    };
  }
}
