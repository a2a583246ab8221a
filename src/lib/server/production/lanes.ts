import { DEFAULT_RULE, Release, type LaneChange, type RunRule } from '$lib/run-rule';
import type { Condition } from '../conditions/condition';
import type { Docket } from '../dockets/dockets';
import { Problem } from '../platform/problem';
import { dayOf, isPast } from '../platform/days';
import type { Conditions } from '../conditions/conditions';
import { freshNumber } from '../platform/db/fresh-number';
import type { Db } from '../platform/db/open';
import type { Events, News } from '../platform/events';
import { parsedOnce } from '../platform/parsed-once';
import type { Machines } from '../machines/machines';
import { ruleOf } from './run';

export interface LaneRow {
  id: number;
  machine_id: number;
  media_id: number;
  condition_id: number;
  rule: string;
  release: string;
  width_mm: number | null;
  height_mm: number | null;
  released_on: string;
}

export interface Lane {
  id: number;
  machineId: number;
  mediaId: number;
  media: string;
  condition: Condition;
  rule: RunRule;
  release: Release;
  /** The media is on the machine now. */
  loaded: boolean;
  /** How long nothing new has come, ms; by a clock that nobody sets. */
  quietMs: number;
  releasedOn: string;
}

const releaseOf = parsedOnce((release) => Release.parse(release));

/** What it works with. */
interface Needs {
  conditions: Conditions;
  db: Db;
  events: Events;
  machines: Machines;
}

/** Lanes: each machine has one for every media that it is used with; one is loaded. */
export class Lanes {
  readonly #needs: Needs;
  readonly #startedAt = performance.now();
  readonly #cameAt = new Map<number, number>();

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.events.on('condition added', (id) => void this.ensure(id));
    needs.events.on('condition goes', (id) => this.#leave(id, true));
    needs.events.on('condition put away', (id) => this.#leave(id, false));
    needs.events.on('media seen', (media) => this.#saw(media));
  }

  /** Those of the machines and media that the shop has, in conditions that something can be printed in. */
  list(): Lane[] {
    return this.#needs.db
      .prepare<[], LaneRow>(
        `SELECT l.* FROM lane l JOIN machine m ON m.id = l.machine_id JOIN condition c ON c.id = l.condition_id
         JOIN media d ON d.id = l.media_id WHERE m.away = 0 AND d.away = 0 AND c.away = 0 ORDER BY l.machine_id, l.id`
      )
      .all()
      .map((row) => this.#toLane(row));
  }

  get(id: number): Lane {
    const row = this.#needs.db.prepare<[number], LaneRow>('SELECT * FROM lane WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is no such lane.');
    return this.#toLane(row);
  }

  /** The lane of a docket's media on its machine. */
  of(docket: Docket): number {
    const { conditionId } = docket.choices;
    if (conditionId === null) throw new Problem(422, `Choose a media and print mode for ${docket.name} first.`);
    return this.ensure(conditionId);
  }

  /** The lane of a condition's machine and media; a new one in that condition's print mode where there is none. */
  ensure(conditionId: number): number {
    const { db, conditions, machines } = this.#needs;
    const { machineId, mediaId } = conditions.get(conditionId);
    const rule = { ...DEFAULT_RULE, marks: machines.marks() };
    db.prepare(
      'INSERT INTO lane (id, machine_id, media_id, condition_id, rule, release) VALUES (?, ?, ?, ?, ?, ?) ON CONFLICT DO NOTHING'
    ).run(freshNumber(db, 'lane'), machineId, mediaId, conditionId, JSON.stringify(rule), JSON.stringify({ kind: 'hand' }));
    const { id } = db
      .prepare<[number, number], { id: number }>('SELECT id FROM lane WHERE machine_id = ? AND media_id = ?')
      .get(machineId, mediaId) as { id: number };
    // A lane whose own print mode was put away takes the one that is asked for.
    db.prepare(
      'UPDATE lane SET condition_id = ? WHERE id = ? AND EXISTS (SELECT 1 FROM condition WHERE id = lane.condition_id AND away = 1)'
    ).run(conditionId, id);
    return id;
  }

  /** Before a condition goes: a lane in its print mode takes another, or goes too, or is seen no more. */
  #leave(conditionId: number, goes: boolean): void {
    const { db, conditions } = this.#needs;
    const rows = db.prepare<[number], LaneRow>('SELECT * FROM lane WHERE condition_id = ?').all(conditionId);
    for (const lane of rows) {
      const other = db
        .prepare<[number, number, number], { id: number }>(
          'SELECT id FROM condition WHERE machine_id = ? AND media_id = ? AND id != ? ORDER BY away, id'
        )
        .get(lane.machine_id, lane.media_id, conditionId);
      // One that was put away keeps its own where all others were, too.
      if (other && (goes || !conditions.get(other.id).away))
        db.prepare('UPDATE lane SET condition_id = ? WHERE id = ?').run(other.id, lane.id);
      else if (goes) db.prepare('DELETE FROM lane WHERE id = ?').run(lane.id);
    }
  }

  change(id: number, { conditionId, rule, release }: LaneChange): Lane {
    const { db, conditions, events } = this.#needs;
    const lane = this.get(id);
    if (conditionId !== undefined) {
      const condition = conditions.get(conditionId);
      if (condition.machineId !== lane.machineId || condition.mediaId !== lane.mediaId)
        throw new Problem(422, `This print mode is for ${condition.machine} on ${condition.media}, not for this lane.`);
    }
    // A time of day that is past counts from tomorrow.
    const now = new Date();
    if (release?.kind === 'at' && isPast(release.time, now)) this.releasedToday(id, dayOf(now));
    db.transaction(() => {
      db.prepare('UPDATE lane SET condition_id = ?, rule = ?, release = ? WHERE id = ?').run(
        conditionId ?? lane.condition.id,
        // A jig is chosen run by run.
        JSON.stringify({ ...(rule ?? lane.rule), jig: null }),
        JSON.stringify(release ?? lane.release),
        id
      );
      // What waits in the lane prints as the lane does now.
      if (conditionId !== undefined)
        db.prepare(
          "UPDATE run SET condition_id = ?, version = version + 1 WHERE lane_id = ? AND state IN ('laying out', 'ripped') AND released_at IS NULL"
        ).run(conditionId, id);
    })();
    events.changed('lanes', [id]);
    events.changed('runs');
    return this.get(id);
  }

  /** A docket has come into the lane: the wait for quiet begins anew. */
  came(id: number): void {
    this.#cameAt.set(id, performance.now());
  }

  releasedToday(id: number, day: string): void {
    this.#needs.db.prepare('UPDATE lane SET released_on = ? WHERE id = ?').run(day, id);
  }

  /** What a machine was seen with: the lane of that media knows the width by it. */
  #saw({ machineId, name, widthMm, sheetMm }: News['media seen']): void {
    this.#needs.db
      .prepare(
        `UPDATE lane SET width_mm = ?, height_mm = ? WHERE machine_id = ? AND media_id = (SELECT id FROM media WHERE name = ?)
         AND (width_mm IS NOT ? OR height_mm IS NOT ?)`
      )
      .run(widthMm, sheetMm, machineId, name, widthMm, sheetMm);
  }

  #toLane(row: LaneRow): Lane {
    const { conditions, machines } = this.#needs;
    const condition = conditions.get(row.condition_id);
    const machine = machines.list().find((one) => one.id === row.machine_id);
    return {
      id: row.id,
      machineId: row.machine_id,
      mediaId: row.media_id,
      media: condition.media,
      condition,
      rule: ruleOf(row.rule),
      release: releaseOf(row.release),
      loaded: machine?.printer?.media.name === condition.media,
      // After a restart the wait begins anew.
      quietMs: performance.now() - (this.#cameAt.get(row.id) ?? this.#startedAt),
      releasedOn: row.released_on
    };
  }
}
