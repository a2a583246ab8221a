import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import type { Removed } from '../platform/removed';
import type { Machine, Machines } from './machines';

interface Needs {
  db: Db;
  events: Events;
  machines: Machines;
}

/** Machines that come under another name or at another address, that go, and that come back. */
export class MachineShelf {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** Those that were put away. */
  away(): { id: number; name: string; kind: Machine['kind'] }[] {
    return this.#needs.db
      .prepare<[], { id: number; name: string; kind: Machine['kind'] }>(
        'SELECT id, name, kind FROM machine WHERE away = 1 ORDER BY name'
      )
      .all();
  }

  /**
   * The same machine by another name, or at another address.
   *
   * @throws Problem 409 where another machine is there: what is known of this one is not true of that
   */
  async change(id: number, { name, url }: { name?: string | undefined; url?: string | undefined }): Promise<void> {
    const { db, events, machines } = this.#needs;
    const before = machines.get(id);
    if (url !== undefined && url !== before.url) {
      const other = machines.rows().find((row) => row.url === url);
      if (other)
        throw new Problem(409, `${other.name} is at ${url}${other.away ? ', and was put away' : ''}. Give another address.`);
      const known = machines.rows().find((row) => row.id === id)?.model;
      const model = await machines.modelAt(before.kind, url);
      if (model !== undefined && known && model !== known)
        throw new Problem(409, `At ${url} answers a ${model}, and ${before.name} is a ${known}. Add it as a machine of its own.`);
      machines.moveTo(id, url);
    }
    if (name !== undefined) db.prepare('UPDATE machine SET name = ? WHERE id = ?').run(name, id);
    events.changed('machines', [id]);
    events.changed('conditions');
    await machines.look(id);
  }

  /**
   * The shop has a machine no more. One that nothing was done with is deleted; else it is put away: what it printed stays known.
   *
   * @throws Problem 409 while something lies on it, or waits for it
   */
  remove(id: number): Removed {
    const { db, machines } = this.#needs;
    const { name, cutter } = machines.get(id);
    const asks = (sql: string) => db.prepare<[number], number>(sql).pluck().get(id) ?? 0;
    if (asks('SELECT count(*) FROM print WHERE machine_id = ? AND ended_at IS NULL') > 0)
      throw new Problem(409, `${name} is printing. Wait for it, or cancel the print.`);
    if (cutter?.roll || asks("SELECT count(*) FROM cut_task WHERE machine_id = ? AND state = 'cutting'") > 0)
      throw new Problem(409, `Something lies in ${name}. Take it out first.`);
    const waiting = db
      .prepare<[number], number>(
        `SELECT r.id FROM run r JOIN condition c ON c.id = r.condition_id
         WHERE c.machine_id = ? AND r.chart_id IS NULL AND r.state != 'printed' ORDER BY r.id`
      )
      .pluck()
      .all(id);
    if (waiting.length > 0)
      throw new Problem(
        409,
        `${waiting.length === 1 ? `Run ${waiting[0]} waits` : `Runs ${waiting.slice(0, 5).join(', ')}${waiting.length > 5 ? ' and others' : ''} wait`} for ${name}. Move ${waiting.length === 1 ? 'its' : 'their'} dockets to another lane, or delete ${waiting.length === 1 ? 'it' : 'them'}, first.`
      );
    const dockets = asks(
      `SELECT count(*) FROM docket d JOIN condition c ON c.id = json_extract(d.choices, '$.conditionId')
       WHERE c.machine_id = ? AND d.stage = 'waiting' AND d.away = 0`
    );
    const is = db.transaction(() => {
      db.prepare(
        "UPDATE cut_task SET state = 'waiting', registration = NULL, sheet = NULL WHERE machine_id = ? AND state IN ('loaded', 'registered')"
      ).run(id);
      const uses = ['condition', 'print', 'lane', 'cut_task', 'loading', 'machine_note'].map((table) =>
        asks(`SELECT count(*) FROM ${table} WHERE machine_id = ?`)
      );
      if (uses.every((n) => n === 0)) {
        db.prepare('DELETE FROM machine WHERE id = ?').run(id);
        return 'deleted';
      }
      db.prepare('UPDATE machine SET away = 1 WHERE id = ?').run(id);
      return 'put away';
    })();
    machines.forget(id);
    this.#tell();
    return { is, dockets };
  }

  bringBack(id: number): void {
    const { db, machines } = this.#needs;
    machines.get(id);
    db.prepare('UPDATE machine SET away = 0 WHERE id = ?').run(id);
    this.#tell();
  }

  #tell(): void {
    const { events } = this.#needs;
    events.changed('machines');
    events.changed('conditions');
    events.changed('lanes');
    events.changed('cuts');
  }
}
