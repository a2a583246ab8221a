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

/** One that was put away, and where it was. */
export type AwayMachine = Pick<Machine, 'id' | 'name' | 'kind' | 'url'>;

/** Machines that come under another name or at another address, that go, and that come back. */
export class MachineShelf {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** Those that were put away. */
  away(): AwayMachine[] {
    return this.#needs.db
      .prepare<[], AwayMachine>('SELECT id, name, kind, away_url AS url FROM machine WHERE away = 1 ORDER BY name')
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
      this.#mustBeFree(id, url);
      await this.#mustBeSame(id, url);
      this.#mustBeFree(id, url);
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
      const uses = ['condition', 'print', 'lane', 'cut_task', 'cutter_key', 'loading', 'machine_note'].map((table) =>
        asks(`SELECT count(*) FROM ${table} WHERE machine_id = ?`)
      );
      if (uses.every((n) => n === 0)) {
        db.prepare('DELETE FROM machine WHERE id = ?').run(id);
        return 'deleted';
      }
      // Another machine may get its address.
      db.prepare("UPDATE machine SET away = 1, away_url = url, url = 'away ' || id WHERE id = ? AND away = 0").run(id);
      return 'put away';
    })();
    machines.forget(id);
    this.#tell();
    return { is, dockets };
  }

  /**
   * @param at where it is now; where it was, if that is not said
   * @throws Problem 409 where another machine is there
   */
  async bringBack(id: number, at?: string): Promise<void> {
    const { db, machines } = this.#needs;
    machines.get(id);
    const before = this.away().find((one) => one.id === id);
    if (!before) return;
    const url = at ?? before.url;
    this.#mustBeFree(id, url);
    await this.#mustBeSame(id, url);
    this.#mustBeFree(id, url);
    db.prepare('UPDATE machine SET away = 0, url = ?, away_url = NULL WHERE id = ? AND away = 1').run(url, id);
    this.#tell();
    await machines.look(id);
  }

  /** @throws Problem 409 where another machine is at an address */
  #mustBeFree(id: number, url: string): void {
    const other = this.#needs.machines.rows().find((row) => row.url === url && row.id !== id);
    if (other) throw new Problem(409, `${other.name} is at ${url}. Give another address.`);
  }

  /** @throws Problem 409 where another kind of machine answers at an address; one that is switched off answers nothing */
  async #mustBeSame(id: number, url: string): Promise<void> {
    const { machines } = this.#needs;
    const { kind, name, model: known } = machines.rows().find((row) => row.id === id)!;
    const model = await machines.modelAt(kind, url);
    if (model !== undefined && known && model !== known)
      throw new Problem(409, `At ${url} answers a ${model}, and ${name} is a ${known}. Add it as a machine of its own.`);
  }

  #tell(): void {
    const { events } = this.#needs;
    events.changed('machines');
    events.changed('conditions');
    events.changed('lanes');
    events.changed('cuts');
  }
}
