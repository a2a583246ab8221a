import type { Roll, Sheets } from '$core/media/card';
import { DEFAULT_RULE, Release, RunRule, type LaneChange } from '$lib/model';
import type { Condition } from './conditions';
import type { LaneRow } from './db/rows';
import type { Docket } from './dockets';
import { Problem } from './problem';
import { dayOf, isPast } from './days';
import type { Shop } from './shop';

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
  changedAt: number;
  releasedOn: string;
}

/** Lanes: each machine has one for every media that it is used with; one is loaded. */
export class Lanes {
  readonly #shop: Shop;

  constructor(shop: Shop) {
    this.#shop = shop;
  }

  list(): Lane[] {
    return this.#shop.db
      .prepare<[], LaneRow>('SELECT * FROM lane ORDER BY machine_id, id')
      .all()
      .map((row) => this.#toLane(row));
  }

  get(id: number): Lane {
    const row = this.#shop.db.prepare<[number], LaneRow>('SELECT * FROM lane WHERE id = ?').get(id);
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
    const { db, conditions } = this.#shop;
    const { machineId, mediaId } = conditions.get(conditionId);
    db.prepare(
      'INSERT INTO lane (machine_id, media_id, condition_id, rule, release) VALUES (?, ?, ?, ?, ?) ON CONFLICT DO NOTHING'
    ).run(machineId, mediaId, conditionId, JSON.stringify(DEFAULT_RULE), JSON.stringify({ kind: 'hand' }));
    const { id } = db
      .prepare<[number, number], { id: number }>('SELECT id FROM lane WHERE machine_id = ? AND media_id = ?')
      .get(machineId, mediaId) as { id: number };
    return id;
  }

  /** Before a condition goes: a lane in its print mode takes another, or goes too. */
  leave(conditionId: number): void {
    const { db } = this.#shop;
    const rows = db.prepare<[number], LaneRow>('SELECT * FROM lane WHERE condition_id = ?').all(conditionId);
    for (const lane of rows) {
      const other = db
        .prepare<[number, number, number], { id: number }>(
          'SELECT id FROM condition WHERE machine_id = ? AND media_id = ? AND id != ? ORDER BY id'
        )
        .get(lane.machine_id, lane.media_id, conditionId);
      if (other) db.prepare('UPDATE lane SET condition_id = ? WHERE id = ?').run(other.id, lane.id);
      else db.prepare('DELETE FROM lane WHERE id = ?').run(lane.id);
    }
  }

  change(id: number, { conditionId, rule, release }: LaneChange): Lane {
    const { db, conditions, events } = this.#shop;
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
        JSON.stringify(rule ?? lane.rule),
        JSON.stringify(release ?? lane.release),
        id
      );
      // What waits in the lane prints as the lane does now.
      if (conditionId !== undefined)
        db.prepare(
          "UPDATE run SET condition_id = ?, version = version + 1 WHERE lane_id = ? AND state IN ('laying out', 'ripped') AND released_at IS NULL"
        ).run(conditionId, id);
    })();
    events.changed('runs');
    return this.get(id);
  }

  /** A docket has come into the lane: the wait for quiet begins anew. */
  came(id: number): void {
    this.#shop.db.prepare('UPDATE lane SET changed_at = ? WHERE id = ?').run(Date.now(), id);
  }

  releasedToday(id: number, day: string): void {
    this.#shop.db.prepare('UPDATE lane SET released_on = ? WHERE id = ?').run(day, id);
  }

  /** What a machine was seen with: the lane of that media knows the width by it. */
  saw(machineId: number, media: { name: string; widthMm: number; sheetMm: number | null }): void {
    this.#shop.db
      .prepare(
        'UPDATE lane SET width_mm = ?, height_mm = ? WHERE machine_id = ? AND media_id = (SELECT id FROM media WHERE name = ?)'
      )
      .run(media.widthMm, media.sheetMm, machineId, media.name);
  }

  /**
   * Changes the media on a machine: what is left of the roll or sheets on it goes into stock, what is chosen from stock
   * comes out of it.
   *
   * @param which of the card's rolls or sheets, counted from 0
   */
  async load(machineId: number, mediaId: number, which: number): Promise<void> {
    const { db, machines, media, printing, events } = this.#shop;
    // What is left on it is what is left now, not a second ago.
    await machines.lookNow();
    const machine = machines.get(machineId);
    if (!machine.printer) throw new Problem(409, `${machine.name} does not answer. Switch it on.`);
    if (printing.list().some((print) => print.machineId === machineId && print.endedAt === null))
      throw new Problem(409, `${machine.name} is printing. Change the media when it is done.`);
    const next = media.get(mediaId);
    const flatbed = machine.printer.media.sheetMm !== null;
    const roll = flatbed ? undefined : next.card.rolls[which];
    const sheets = flatbed ? next.card.sheets[which] : undefined;
    if (!roll && !sheets)
      throw new Problem(
        409,
        `There is no such ${flatbed ? 'stack of sheets' : 'roll'} of ${next.card.name} in stock any more. Look at its card.`
      );
    await machines.load(machineId, {
      name: next.card.name,
      surface: next.card.surface,
      widthMm: (roll ?? sheets)!.widthMm,
      lengthMm: roll?.lengthMm ?? 0,
      ...(sheets ? { sheetMm: sheets.heightMm, sheets: sheets.count } : {})
    });
    db.transaction(() => {
      const taken = media.get(mediaId);
      const { rolls, sheets: stacks } = taken.card;
      media.stock(mediaId, {
        rolls: flatbed ? rolls : rolls.filter((_, i) => i !== which),
        sheets: flatbed ? stacks.filter((_, i) => i !== which) : stacks
      });
      const before = machine.printer?.media;
      const old = before && media.named(before.name);
      if (!old || !before) return;
      // The card may be the very one that was just written.
      const { card } = media.get(old.id);
      const rest: Roll | Sheets | undefined =
        before.sheetMm === null
          ? before.lengthMm >= 1
            ? { widthMm: before.widthMm, lengthMm: Math.floor(before.lengthMm) }
            : undefined
          : before.sheets > 0
            ? { widthMm: before.widthMm, heightMm: before.sheetMm, count: before.sheets }
            : undefined;
      if (!rest) return;
      media.stock(old.id, {
        rolls: 'lengthMm' in rest ? [...card.rolls, rest] : card.rolls,
        sheets: 'count' in rest ? [...card.sheets, rest] : card.sheets
      });
    })();
    await machines.lookNow();
    events.changed('machines');
    events.changed('conditions');
    this.#shop.releasing.look();
  }

  #toLane(row: LaneRow): Lane {
    const { conditions, machines } = this.#shop;
    const condition = conditions.get(row.condition_id);
    const machine = machines.list().find((one) => one.id === row.machine_id);
    return {
      id: row.id,
      machineId: row.machine_id,
      mediaId: row.media_id,
      media: condition.media,
      condition,
      rule: RunRule.parse(JSON.parse(row.rule)),
      release: Release.parse(JSON.parse(row.release)),
      loaded: machine?.printer?.media.name === condition.media,
      changedAt: row.changed_at,
      releasedOn: row.released_on
    };
  }
}
