import { setImmediate } from 'node:timers/promises';
import type { ColourChange } from '$core/artwork/colour-changes';
import type { NamedPlaces, Preparation } from '$core/artwork/preparation';
import { isNear, stemOf } from '$core/colour/colour-names';
import { deltaE00, type Triple } from '$core/colour/lab';
import type { NamedColour } from '$core/colour/named-colour';
import type { InkedColour } from '$core/colour/named-inks';
import type { Inks } from '$core/colour/separation';
import { isPlainTone, toneAfter } from '$core/colour/tone';
import { plainName } from '$core/units/names';
import { fold, type ListPage, type ListQuery } from '$lib/listing';
import type { NameMatch, OwnColour, Round, ShopColour } from '$lib/named-colours';
import { freshNumber } from '../platform/db/fresh-number';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { pageOf, rowsOf } from '../platform/listing';
import { digest } from '../platform/digest';
import { Problem } from '../platform/problem';
import { COLOUR_LIST, toColourLine, type ColourLine, type ColourLineRow } from './colour-list';
import type { Conditions } from './conditions';

interface Needs {
  db: Db;
  events: Events;
  conditions: Conditions;
}

/** Of many that are taken: about ten milliseconds. */
const SLICE = 250;
/** How long a deleted colour can be brought back. */
const KEPT_MS = 7 * 24 * 3_600_000;
/** More names that might be meant are not looked at, and not shown. */
const MOST_LOOKED_AT = 2000;
const MOST_NEAR = 5;

/** A colour's own inks as they are kept: `press` tells for which state of the condition. */
export interface KeptInks {
  inks: Inks;
  how: OwnColour['how'];
  press: string;
  rounds: Round[];
  /** How far the model was from what was last measured, L*a*b*: what it says of other inks is as far off. */
  off?: Triple | undefined;
}

/** What the model says of a colour, with what measuring taught of it. */
export function asMeasured<M extends { reached: Triple; deltaE: number }>(
  made: M,
  off: Triple | undefined,
  lab: Readonly<Triple>
): M {
  if (!off) return made;
  const reached = made.reached.map((v, i) => v + off[i]!) as Triple;
  return { ...made, reached, deltaE: deltaE00(reached, lab) };
}

/** The shop's named colours, and what names mean. */
export class NamedColours {
  readonly #needs: Needs;
  /** Another with every change: what was made of colours before is made anew. */
  version = Date.now();

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.db.prepare('DELETE FROM named_colour WHERE gone_at < ?').run(Date.now() - KEPT_MS);
  }

  list(query: ListQuery, from: number): ListPage<ColourLine> {
    const page = pageOf<ColourLineRow>(this.#needs.db, COLOUR_LIST, query, from);
    return { ...page, rows: page.rows.map(toColourLine) };
  }

  lines(ids: readonly number[]): ColourLine[] {
    return rowsOf<ColourLineRow>(this.#needs.db, COLOUR_LIST, ids).map(toColourLine);
  }

  /** @throws Problem where there is none, or it was deleted */
  get(id: number): ColourLine {
    const [line] = this.lines([id]);
    if (!line || this.#isGone(id)) throw new Problem(404, 'There is no such colour; it may have been deleted.');
    return line;
  }

  collections(): string[] {
    return this.#needs.db
      .prepare<[], string>(
        `SELECT DISTINCT collection FROM named_colour WHERE gone_at IS NULL AND collection <> '' ORDER BY collection LIMIT 500`
      )
      .pluck()
      .all();
  }

  /** Those of a collection, or all: for a file. */
  all(collection?: string): NamedColour[] {
    return this.#needs.db
      .prepare<[string | null, string | null], ColourLineRow>(
        `SELECT ${COLOUR_LIST.columns} FROM named_colour n
         WHERE n.gone_at IS NULL AND (? IS NULL OR n.collection = ?) ORDER BY n.name COLLATE NOCASE, n.id`
      )
      .all(collection ?? null, collection ?? null)
      .map(toColourLine)
      .map(({ name, lab, others, collection: own, from, note }) => ({ name, lab, others, collection: own, from, note }));
  }

  /** @throws Problem where another has one of its names */
  add(colour: NamedColour): ColourLine {
    const id = this.#needs.db.transaction(() => this.insert(colour))();
    this.#changed();
    return this.get(id);
  }

  /** @param version that the change stands on */
  change(id: number, version: number, colour: NamedColour): ColourLine {
    const { db } = this.#needs;
    const before = this.get(id);
    if (before.version !== version)
      throw new Problem(409, `${before.name} was changed by somebody else meanwhile. It is shown as it is now; change it again.`);
    db.transaction(() => {
      db.prepare('DELETE FROM colour_name WHERE colour_id = ?').run(id);
      this.#update(id, colour);
    })();
    this.#changed();
    return this.get(id);
  }

  /** Within a transaction of the caller's. @returns its number */
  insert(colour: NamedColour): number {
    const { db } = this.#needs;
    const id = freshNumber(db, 'named_colour');
    db.prepare(
      `INSERT INTO named_colour (id, name, l, a, b, hue, chroma, collection, origin, note, others, words, changed_at)
       VALUES (?, '', 0, 0, 0, 0, 0, '', '', '', '[]', '', 0)`
    ).run(id);
    this.#update(id, colour);
    return id;
  }

  /** The colour alone. Within a transaction of the caller's, who tells of it. */
  setLab(id: number, [l, a, b]: Readonly<Triple>): void {
    this.#needs.db
      .prepare(
        'UPDATE named_colour SET l = ?, a = ?, b = ?, hue = ?, chroma = ?, version = version + 1, changed_at = ? WHERE id = ?'
      )
      .run(l, a, b, hueOf(a, b), Math.hypot(a, b), Date.now(), id);
  }

  #update(id: number, { name, lab: [l, a, b], others, collection, from, note }: NamedColour): void {
    const { db } = this.#needs;
    db.prepare(
      `UPDATE named_colour SET name = ?, l = ?, a = ?, b = ?, hue = ?, chroma = ?, collection = ?, origin = ?, note = ?,
         others = ?, words = ?, version = version + 1, changed_at = ? WHERE id = ?`
    ).run(
      ...[name, l, a, b, hueOf(a, b), Math.hypot(a, b), collection, from, note, JSON.stringify(others)],
      fold([name, ...others, collection, from, note].join(' ')),
      Date.now(),
      id
    );
    this.#keepNames(id, [name, ...others]);
  }

  #keepNames(id: number, names: readonly string[]): void {
    const { db } = this.#needs;
    const put = db.prepare('INSERT INTO colour_name (plain, stem, backwards, colour_id) VALUES (?, ?, ?, ?)');
    for (const name of new Map(names.map((one) => [plainName(one), one])).values()) {
      const plain = plainName(name);
      const taken = this.#byPlain(plain);
      if (taken && taken.id !== id)
        throw new Problem(
          409,
          `The shop has ${taken.name} already (L* ${taken.lab.map((v) => v.toFixed(1)).join(', ')}), and a name means one colour. Change that one, or give this one another name than ${name}.`
        );
      const stem = stemOf(name);
      put.run(plain, stem, reversed(stem), id);
    }
  }

  /** Deletes colours; they can be brought back for a week. Dockets print what they meant as their files have it. */
  remove(ids: readonly number[]): number {
    const { db } = this.#needs;
    const count = db.transaction(() => {
      const gone = db.prepare('UPDATE named_colour SET gone_at = ? WHERE id = ? AND gone_at IS NULL');
      const names = db.prepare('DELETE FROM colour_name WHERE colour_id = ?');
      return ids.reduce((sum, id) => {
        names.run(id);
        return sum + gone.run(Date.now(), id).changes;
      }, 0);
    })();
    if (count > 0) this.#changed();
    return count;
  }

  /** @throws Problem where another took one of their names since */
  bringBack(ids: readonly number[]): void {
    const { db } = this.#needs;
    db.transaction(() => {
      for (const id of ids) {
        if (db.prepare('UPDATE named_colour SET gone_at = NULL WHERE id = ? AND gone_at IS NOT NULL').run(id).changes === 0)
          continue;
        const [line] = this.lines([id]);
        if (line) this.#keepNames(id, [line.name, ...line.others]);
      }
    })();
    this.#changed();
  }

  /**
   * Takes many in slices, so that others have their turn between: each slice is a transaction. Who is broken off in the middle
   * takes the same again, and what is there already stays.
   */
  async inSlices<T>(list: readonly T[], take: (one: T) => void): Promise<void> {
    const slice = this.#needs.db.transaction((part: readonly T[]) => part.forEach(take));
    try {
      for (let from = 0; from < list.length; from += SLICE) {
        slice(list.slice(from, from + SLICE));
        await setImmediate();
      }
    } finally {
      this.#changed();
    }
  }

  /** The colour of one alone. */
  moveTo(id: number, lab: Readonly<Triple>): void {
    this.setLab(id, lab);
    this.#changed();
  }

  /** What a name means here, and what might be meant where that is not certain. */
  match(name: string): NameMatch {
    const stem = stemOf(name);
    const [colour, ...others] = this.#meant(name, stem);
    if (colour && others.length === 0) return { name, colour, near: [] };
    return { name, colour: null, near: colour ? [colour, ...others] : this.#near(stem) };
  }

  /** The colour of a name; without it those of the name without a supplier's endings, of which it is one if there is one alone. */
  #meant(name: string, stem: string): ShopColour[] {
    const exact = this.#byPlain(plainName(name));
    if (exact) return [exact];
    return this.#needs.db
      .prepare<[string], NameRow>(`${BY_NAME} WHERE c.stem = ? GROUP BY n.id LIMIT ${MOST_NEAR}`)
      .all(stem)
      .map(toShopColour);
  }

  /** The colour that has just this name, or it as one of its others. */
  named(name: string): ShopColour | undefined {
    return this.#byPlain(plainName(name));
  }

  #byPlain(plain: string): ShopColour | undefined {
    const row = this.#needs.db.prepare<[string], NameRow>(`${BY_NAME} WHERE c.plain = ?`).get(plain);
    return row && toShopColour(row);
  }

  /** Names that begin or end alike are looked at: an odd letter or two leave one of the two ends as it is. */
  #near(stem: string): ShopColour[] {
    const { db } = this.#needs;
    const part = Math.max(2, Math.floor(stem.length / 3));
    const select = (column: 'plain' | 'backwards') =>
      db.prepare<[string, string], NameRow & { stem: string }>(
        `${BY_NAME} WHERE c.${column} BETWEEN ? AND ? || char(1114111) LIMIT ${MOST_LOOKED_AT}`
      );
    const [front, back] = [stem.slice(0, part), reversed(stem).slice(0, part)];
    const rows = [...select('plain').all(front, front), ...select('backwards').all(back, back)];
    const found = new Map(rows.filter((row) => isNear(row.stem, stem)).map((row) => [row.id, toShopColour(row)]));
    return [...found.values()].slice(0, MOST_NEAR);
  }

  /**
   * What of a page prints in named colours.
   *
   * @param spots the names of its spot colours
   * @param changes what its docket says
   */
  places(spots: readonly string[], changes: readonly ColourChange[]): NamedPlaces | undefined {
    const inked = ({ id, lab }: ShopColour): InkedColour => ({ id, lab });
    const byId = (id: number) => {
      const [line] = this.#isGone(id) ? [] : this.lines([id]);
      return line && inked(line);
    };
    const said = new Map(changes.flatMap(({ what, to }) => ('spot' in what ? [[what.spot, to] as const] : [])));
    const ofSpots = spots.flatMap((name): [string, InkedColour][] => {
      const to = said.get(name);
      const meant = to === undefined ? this.#meant(name, stemOf(name)) : [];
      const own = typeof to === 'number' ? byId(to) : meant.length === 1 ? meant[0] : undefined;
      return own ? [[name, { id: own.id, lab: own.lab }]] : [];
    });
    const flats = changes.flatMap(({ what, to }) => {
      const colour = 'flat' in what && to !== null ? byId(to) : undefined;
      return colour && 'flat' in what ? [{ lab: what.flat, within: what.within, to: colour }] : [];
    });
    if (ofSpots.length + flats.length === 0) return undefined;
    return { spots: Object.fromEntries(ofSpots), flats };
  }

  /** Pages' preparations as a condition prints them now: with its curves after the docket's, and the inks that colours have of their own there. */
  onCondition(conditionId: number): (preparation: Preparation) => Preparation {
    const tone = this.#needs.conditions.tone(conditionId);
    const isPlain = isPlainTone(tone);
    let press: string | undefined;
    const withOwn = (colour: InkedColour): InkedColour => {
      const kept = this.kept(colour.id, conditionId);
      if (!kept) return colour;
      press ??= this.pressOf(conditionId);
      return kept.press === press ? { ...colour, own: kept.inks } : colour;
    };
    return (preparation) => {
      const toned = isPlain ? preparation : { ...preparation, tone: toneAfter(preparation.tone, tone) };
      const { named } = preparation;
      if (!named) return toned;
      return {
        ...toned,
        named: {
          spots: Object.fromEntries(Object.entries(named.spots).map(([name, colour]) => [name, withOwn(colour)])),
          flats: named.flats.map((flat) => ({ ...flat, to: withOwn(flat.to) }))
        }
      };
    };
  }

  /** Tells one state of a condition's colour from another: its profile and curves; what brings it back to its baseline is none. */
  pressOf(conditionId: number): string {
    const { plain, profileHash } = this.#needs.conditions.colour(conditionId);
    return digest([profileHash, plain]);
  }

  kept(id: number, conditionId: number): KeptInks | undefined {
    const document = this.#needs.db
      .prepare<[number, number], string>('SELECT document FROM colour_inks WHERE colour_id = ? AND condition_id = ?')
      .pluck()
      .get(id, conditionId);
    return document === undefined ? undefined : (JSON.parse(document) as KeptInks);
  }

  /** Inks of its own, where they are of the condition as it is now. */
  current(id: number, conditionId: number): KeptInks | undefined {
    const kept = this.kept(id, conditionId);
    return kept?.press === this.pressOf(conditionId) ? kept : undefined;
  }

  /** Inks of a colour's own on a condition as it is now; nothing for those that the profile gives. */
  keepInks(id: number, conditionId: number, own: Omit<KeptInks, 'press'> | null): void {
    const { db } = this.#needs;
    this.get(id);
    if (own === null) db.prepare('DELETE FROM colour_inks WHERE colour_id = ? AND condition_id = ?').run(id, conditionId);
    else
      db.prepare(
        `INSERT INTO colour_inks (colour_id, condition_id, document, changed_at) VALUES (?, ?, ?, ?)
         ON CONFLICT DO UPDATE SET document = excluded.document, changed_at = excluded.changed_at`
      ).run(id, conditionId, JSON.stringify({ ...own, press: this.pressOf(conditionId) }), Date.now());
    this.#changed();
  }

  #isGone(id: number): boolean {
    const gone = this.#needs.db.prepare<[number], number | null>('SELECT gone_at FROM named_colour WHERE id = ?').pluck().get(id);
    return gone !== null;
  }

  #changed(): void {
    this.version = Math.max(this.version + 1, Date.now());
    const { events } = this.#needs;
    events.tell('colours changed', undefined);
    for (const what of ['colours', 'dockets', 'runs'] as const) events.changed(what);
  }
}

interface NameRow {
  id: number;
  name: string;
  l: number;
  a: number;
  b: number;
}

const BY_NAME = 'SELECT n.id, n.name, n.l, n.a, n.b, c.stem FROM colour_name c JOIN named_colour n ON n.id = c.colour_id';
const toShopColour = ({ id, name, l, a, b }: NameRow): ShopColour => ({ id, name, lab: [l, a, b] });
const reversed = (text: string): string => [...text].reverse().join('');
const hueOf = (a: number, b: number): number => ((Math.atan2(b, a) * 180) / Math.PI + 360) % 360;
