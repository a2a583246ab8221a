import { isDeepStrictEqual } from 'node:util';
import { checkHandling, suggestHandling, type HandlingCheck, type HandlingTable } from '$core/media/handling';
import { MediaCard, MOST_NAME, NEW_CARD } from '$core/media/card';
import type { KnifeChoice } from '$core/media/knife';
import { freeName } from '../platform/free-name';
import { Problem } from '../platform/problem';
import type { Removed } from '../platform/removed';
import { freshNumber } from '../platform/db/fresh-number';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { Machines } from '../machines/machines';

export interface MediaRow {
  id: number;
  name: string;
  card: string;
  locked: number;
  library_id: string | null;
  library_version: number | null;
  version: number;
  width_mm: number | null;
  away: number;
}

export interface Media {
  id: number;
  card: MediaCard;
  locked: boolean;
  /** The shop has it no more. */
  away: boolean;
  library: { id: string; version: number } | null;
  version: number;
  /** Handling outside of what the machines' makers suggest. */
  looks: HandlingCheck[];
  conditions: number;
}

/** What it works with. */
interface Needs {
  db: Db;
  events: Events;
  machines: Machines;
}

/** Media cards: what the shop prints on. */
export class MediaCards {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** Those that the shop has. */
  list(): Media[] {
    return this.#needs.db
      .prepare<[], MediaRow>('SELECT * FROM media WHERE away = 0 ORDER BY name COLLATE NOCASE')
      .all()
      .map((row) => this.#toMedia(row));
  }

  /** Those that were put away. */
  away(): { id: number; name: string }[] {
    return this.#needs.db
      .prepare<[], { id: number; name: string }>('SELECT id, name FROM media WHERE away = 1 ORDER BY name COLLATE NOCASE')
      .all();
  }

  /** The card that came from one of a library, put away or not. */
  fromLibrary(id: string): Media | undefined {
    const row = this.#needs.db.prepare<[string], MediaRow>('SELECT * FROM media WHERE library_id = ? ORDER BY away').get(id);
    return row && this.#toMedia(row);
  }

  get(id: number): Media {
    const row = this.#needs.db.prepare<[number], MediaRow>('SELECT * FROM media WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is no such media.');
    return this.#toMedia(row);
  }

  named(name: string): Media | undefined {
    const row = this.#needs.db.prepare<[string], MediaRow>('SELECT * FROM media WHERE name = ?').get(name);
    return row && this.#toMedia(row);
  }

  /**
   * Writes down what of a media is in stock; a locked card has stock too.
   *
   * @throws Problem for what no card can have: one that cannot be read would keep all of them from being shown
   */
  stock(id: number, stock: Pick<MediaCard, 'rolls' | 'sheets'>): void {
    const { card } = this.get(id);
    const next = MediaCard.safeParse({ ...card, ...stock });
    if (!next.success) throw new Problem(422, next.error.issues[0]!.message);
    this.#needs.db.prepare('UPDATE media SET card = ?, version = version + 1 WHERE id = ?').run(JSON.stringify(next.data), id);
  }

  /** What it is cut with on a kind of cutter; nothing where that was never said. */
  knives(id: number, model: string): KnifeChoice | undefined {
    return this.get(id).card.knives[model];
  }

  /** Writes down what it is cut with; for a locked card too, as its stock. */
  keepKnives(id: number, model: string, knives: KnifeChoice): void {
    const { card } = this.get(id);
    this.#needs.db
      .prepare('UPDATE media SET card = ?, version = version + 1 WHERE id = ?')
      .run(JSON.stringify({ ...card, knives: { ...card.knives, [model]: knives } }), id);
  }

  add(card: MediaCard, origin: { locked?: boolean; library?: { id: string; version: number } } = {}): Media {
    const { db, events } = this.#needs;
    this.#mustBeFree(card.name);
    const id = freshNumber(db, 'media');
    const { locked = false, library } = origin;
    db.prepare('INSERT INTO media (id, name, card, locked, library_id, library_version) VALUES (?, ?, ?, ?, ?, ?)').run(
      id,
      card.name,
      JSON.stringify(card),
      locked ? 1 : 0,
      library?.id ?? null,
      library?.version ?? null
    );
    events.changed('conditions');
    return this.get(id);
  }

  /** A card of its own, with the handling that the shop's machines suggest. */
  addNew(over: Partial<MediaCard>): Media {
    const card = MediaCard.parse({ ...NEW_CARD, ...over, name: this.#freeName(over.name ?? NEW_CARD.name) });
    for (const table of this.tables()) {
      const suggested = suggestHandling(table, card.family, card.thicknessMm);
      if (suggested && !card.handling[table.machine]) card.handling[table.machine] = suggested.handling;
    }
    return this.add(card);
  }

  copy(id: number): Media {
    const { card } = this.get(id);
    return this.add({ ...card, name: this.#freeName(`${card.name}, ours`) });
  }

  /** @throws Problem when the card is locked and more than its stock is another, was changed meanwhile, or the name is taken */
  change(id: number, version: number, card: MediaCard): Media {
    const { db, events } = this.#needs;
    const before = this.get(id);
    if (before.locked && !isDeepStrictEqual(withoutStock(before.card), withoutStock(card)))
      throw new Problem(409, `${before.card.name} came as it is and is locked. Copy it to change it.`);
    if (before.version !== version)
      throw new Problem(
        409,
        'This card was changed in another window meanwhile. The newer one is shown now; make your change again.'
      );
    this.#mustBeFree(card.name, id);
    if (card.name !== before.card.name) this.#mustLieNowhere(before.card.name, 'which knows it by this name');
    db.prepare('UPDATE media SET name = ?, card = ?, version = version + 1 WHERE id = ?').run(
      card.name,
      JSON.stringify(card),
      id
    );
    events.changed('conditions');
    return this.get(id);
  }

  /**
   * Puts a card of the library or of a file in the place of an older one, locked or not, which is the shop's again if it was put
   * away. What is in stock here stays.
   */
  replace(id: number, card: MediaCard, library: { id: string; version: number } | null): Media {
    const { db } = this.#needs;
    const same = this.named(card.name);
    if (same && same.id !== id) throw new Problem(409, `There is a media ${card.name} already. Rename that one first.`);
    const { name, rolls, sheets } = this.get(id).card;
    if (card.name !== name) this.#mustLieNowhere(name, `and is ${card.name} now`);
    db.prepare(
      'UPDATE media SET name = ?, card = ?, version = version + 1, library_id = coalesce(?, library_id), library_version = coalesce(?, library_version), away = 0 WHERE id = ?'
    ).run(card.name, JSON.stringify({ ...card, rolls, sheets }), library?.id ?? null, library?.version ?? null, id);
    this.#tell();
    return this.get(id);
  }

  /**
   * The shop has a media no more. One that nothing was printed or measured on, nor lies in stock, is deleted; else it is put away with its conditions:
   * what is known of them stays.
   *
   * @throws Problem 409 while it lies on a machine, or a run waits for it
   */
  remove(id: number): Removed {
    const { db } = this.#needs;
    const { card, conditions } = this.get(id);
    const { name, rolls, sheets, white } = card;
    const asks = (sql: string) => db.prepare<[number], number>(sql).pluck().get(id) ?? 0;
    this.#mustLieNowhere(name);
    if (asks('SELECT count(*) FROM loading WHERE media_id = ?') > 0)
      throw new Problem(409, `${name} is on its way to a machine. Wait until that answers.`);
    const run = asks(
      `SELECT r.id FROM run r JOIN condition c ON c.id = r.condition_id
       WHERE c.media_id = ? AND r.chart_id IS NULL AND r.state != 'printed' ORDER BY r.id LIMIT 1`
    );
    if (run > 0) throw new Problem(409, `Run ${run} waits for ${name}. Print or delete it first.`);
    const dockets = asks(
      `SELECT count(*) FROM docket d JOIN condition c ON c.id = json_extract(d.choices, '$.conditionId')
       WHERE c.media_id = ? AND d.stage = 'waiting' AND d.away = 0`
    );
    // What lies in stock, and what was measured of it, is not thrown away with it.
    const isKnown = rolls.length + sheets.length > 0 || white !== null;
    const isUsed = isKnown || conditions > 0 || asks('SELECT count(*) FROM lane WHERE media_id = ?') > 0;
    db.prepare(isUsed ? 'UPDATE media SET away = 1 WHERE id = ?' : 'DELETE FROM media WHERE id = ?').run(id);
    this.#tell();
    return { is: isUsed ? 'put away' : 'deleted', dockets };
  }

  bringBack(id: number): Media {
    this.#needs.db.prepare('UPDATE media SET away = 0 WHERE id = ?').run(id);
    this.#tell();
    return this.get(id);
  }

  #tell(): void {
    this.#needs.events.changed('conditions');
    this.#needs.events.changed('lanes');
  }

  /** @throws Problem 409 while a machine has it loaded: that is known by its name */
  #mustLieNowhere(name: string, why = ''): void {
    const on = this.#needs.machines.list().find(({ printer }) => printer?.media.name === name);
    if (on) throw new Problem(409, `${name} lies on ${on.name}${why && `, ${why}`}. Load other media there first.`);
  }

  /** @throws Problem 409 where another card has a name */
  #mustBeFree(name: string, id?: number): void {
    const same = this.named(name);
    if (same && same.id !== id)
      throw new Problem(
        409,
        same.away
          ? `${name} was put away. Bring it back under Media, or give this one another name.`
          : `There is a media ${name} already. Give this one another name.`
      );
  }

  /** Notes the white of the bare media as it was measured. @throws Problem for a reading that no media has */
  measuredWhite(id: number, white: [number, number, number]): void {
    const rounded = white.map((v) => Math.round(v * 100) / 100);
    if (!MediaCard.shape.white.safeParse(rounded).success)
      throw new Problem(
        422,
        `The bare media was read as L* ${rounded[0]}, a* ${rounded[1]}, b* ${rounded[2]}: no media is like that. Read its patches again.`
      );
    // Whoever has the card open is told that it changed, and does not write the white of before over it.
    this.#needs.db
      .prepare("UPDATE media SET card = json_set(card, '$.white', json(?)), version = version + 1 WHERE id = ?")
      .run(JSON.stringify(rounded), id);
  }

  /** The tables of the machines that the shop has. */
  tables(): HandlingTable[] {
    return this.#needs.machines
      .rows()
      .flatMap(({ handling, away }) => (handling && !away ? [JSON.parse(handling) as HandlingTable] : []));
  }

  #freeName = (wanted: string): string => freeName(wanted, MOST_NAME, (name) => this.named(name) !== undefined);

  #toMedia(row: MediaRow): Media {
    const card = MediaCard.parse(JSON.parse(row.card));
    return {
      id: row.id,
      card,
      locked: row.locked === 1,
      away: row.away === 1,
      library:
        row.library_id !== null && row.library_version !== null ? { id: row.library_id, version: row.library_version } : null,
      version: row.version,
      looks: this.tables().flatMap((table) => checkHandling(table, card)),
      conditions:
        this.#needs.db.prepare<[number], { n: number }>('SELECT count(*) AS n FROM condition WHERE media_id = ?').get(row.id)
          ?.n ?? 0
    };
  }
}

const withoutStock = (card: MediaCard) => ({ ...card, rolls: [], sheets: [] });
