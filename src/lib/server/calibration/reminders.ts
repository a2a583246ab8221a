import { whyDue } from '$lib/watch';
import type { Conditions } from '../conditions/conditions';
import { dayOf } from '../platform/days';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { Settings } from '../platform/settings';

interface Needs {
  db: Db;
  events: Events;
  settings: Settings;
  conditions: Conditions;
}

export interface Reminder {
  conditionId: number;
  why: string;
}

const DAY_MS = 24 * 3_600_000;

/** Which conditions the shop's rule wants read again. Every page asks: it is looked up when something changed, or on another day. */
export class Reminders {
  readonly #needs: Needs;
  #kept: { at: string; due: Reminder[] } | undefined;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  due(): Reminder[] {
    const at = `${this.#needs.events.changes} ${dayOf(new Date())}`;
    if (this.#kept?.at !== at) this.#kept = { at, due: this.#look() };
    return this.#kept.due;
  }

  #look(): Reminder[] {
    const { db, settings, conditions } = this.#needs;
    const { watch: rule, unit } = settings.current;
    const metres = db
      .prepare<[number, number], number>(
        `SELECT coalesce(sum(p.printed_mm), 0) / 1000 FROM print p JOIN run r ON r.id = p.run_id
         WHERE p.ended_at > ? AND r.condition_id = ?`
      )
      .pluck();
    const notes = db
      .prepare<[number, number], string>('SELECT what FROM machine_note WHERE machine_id = ? AND made_at > ? ORDER BY id')
      .pluck();
    return conditions.list().flatMap(({ id, machineId, watch }): Reminder[] => {
      if (watch.baselineAt === null) return [];
      const since = Math.max(watch.read?.at ?? 0, watch.baselineAt);
      const why = whyDue(
        {
          days: Math.floor((Date.now() - since) / DAY_MS),
          metres: rule.metres === null ? 0 : (metres.get(since, id) ?? 0),
          notes: notes.all(machineId, since)
        },
        rule,
        unit
      );
      return why ? [{ conditionId: id, why }] : [];
    });
  }
}
