import { LRUCache } from 'lru-cache';
import { Jig, JigError, MOST_NAME, NEW_JIG, pocketsOf, stockJigOf, type Pocket } from '$core/layout/jig';
import { faultsOf } from '$core/layout/jig-faults';
import type { StockJig } from '$core/layout/placement';
import { hindranceOf } from '$core/checks/jigs';
import { jigLook } from '$lib/jig-look';
import type { DocketChoices } from '$lib/docket-choices';
import { freshNumber } from '../platform/db/fresh-number';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { issueSentence } from '../platform/issue-sentence';
import { freeName } from '../platform/free-name';
import { Problem } from '../platform/problem';

interface JigRow {
  id: number;
  name: string;
  document: string;
  version: number;
  changed_at: number;
}

export interface KeptJig {
  id: number;
  jig: Jig;
  version: number;
  changedAt: number;
  /** Runs that are placed in it and not printed yet. */
  runs: number[];
}

/** A jig as a line of a list. */
export interface JigLine {
  id: number;
  name: string;
  pockets: number;
  thing: { widthMm: number; heightMm: number };
  bed: Jig['bed'];
  /** Places that cannot be printed as they are. */
  faults: number;
  version: number;
  runs: number;
}

interface Needs {
  db: Db;
  events: Events;
}

/** What a file of a jig says of itself. */
export const JIG_FORMAT = 'zing-mast-jig';
const MOST_AT_HAND = 50;
const MOST_LINES = 1000;

/** The shop's jigs. */
export class Jigs {
  readonly #needs: Needs;
  /** Places of those in use, by number and version: runs ask for them again and again. */
  readonly #stocks = new LRUCache<string, StockJig>({ max: MOST_AT_HAND });

  /** The same of lines of the list: thousands of places are not looked through each time. */
  readonly #lines = new LRUCache<string, Omit<JigLine, 'runs'>>({ max: MOST_LINES });

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  list(): JigLine[] {
    return this.lines().map((line) => ({ ...line, runs: this.#runs(line.id).length }));
  }

  #line({ id, name, version, document }: JigRow): Omit<JigLine, 'runs'> {
    const key = `${id} ${version}`;
    const known = this.#lines.get(key);
    if (known) return known;
    const jig = Jig.parse(JSON.parse(document));
    const pockets = pocketsOf(jig);
    const line = {
      id,
      name,
      pockets: pockets.filter(({ isOff }) => !isOff).length,
      thing: { widthMm: jig.thing.widthMm, heightMm: jig.thing.heightMm },
      bed: jig.bed,
      faults: faultsOf(jig, pockets).length,
      version
    };
    this.#lines.set(key, line);
    return line;
  }

  /** One as dockets are held against it; nothing where it is gone. */
  line(id: number): Omit<JigLine, 'runs'> | undefined {
    const row = this.#needs.db.prepare<[number], JigRow>('SELECT * FROM jig WHERE id = ?').get(id);
    return row && this.#line(row);
  }

  /** Why a docket cannot lie in the jig that it says; empty where it can, or says none. */
  whyNot(choices: DocketChoices, condition: { machine: string; sheetMm: number | null }): string {
    const look = jigLook(choices, null, (id) => this.line(id), condition);
    return look ? hindranceOf(look, choices.wall !== null) : '';
  }

  lines(): Omit<JigLine, 'runs'>[] {
    return this.#needs.db
      .prepare<[], JigRow>('SELECT * FROM jig ORDER BY name')
      .all()
      .map((row) => this.#line(row));
  }

  names(): { id: number; name: string }[] {
    return this.#needs.db.prepare<[], { id: number; name: string }>('SELECT id, name FROM jig ORDER BY name').all();
  }

  get(id: number): KeptJig {
    const row = this.#row(id);
    const { document, version, changed_at: changedAt } = row;
    return { id, jig: Jig.parse(JSON.parse(document)), version, changedAt, runs: this.#runs(id) };
  }

  /** The same for a picture; nothing where nothing can be placed in it. */
  places(id: number): StockJig | undefined {
    try {
      return this.stock(id);
    } catch (error) {
      if (error instanceof Problem) return undefined;
      throw error;
    }
  }

  /** A jig as runs are placed in it. @throws Problem where there is none, or it has places that cannot be printed */
  stock(id: number): StockJig {
    const { document, version, name } = this.#row(id);
    const key = `${id} ${version}`;
    const known = this.#stocks.get(key);
    if (known) return known;
    const jig = Jig.parse(JSON.parse(document));
    if (faultsOf(jig).length > 0)
      throw new Problem(
        409,
        `${name} has pockets that lie on each other, or off the bed or its plate. Mend it first, under Shop.`
      );
    const stock = stockJigOf(id, jig);
    this.#stocks.set(key, stock);
    return stock;
  }

  /** @throws Problem where the name is taken */
  add(jig: Jig = { ...NEW_JIG, name: this.#freeName(NEW_JIG.name) }): KeptJig {
    this.#check(jig);
    const { db, events } = this.#needs;
    const id = freshNumber(db, 'jig');
    db.prepare('INSERT INTO jig (id, name, document, changed_at) VALUES (?, ?, ?, ?)').run(
      id,
      jig.name,
      JSON.stringify(jig),
      Date.now()
    );
    events.changed('jigs');
    return this.get(id);
  }

  copy(id: number): KeptJig {
    const { jig } = this.get(id);
    return this.add({ ...jig, name: this.#freeName(jig.name) });
  }

  /** @throws Problem where it was changed meanwhile, the name is taken, or runs are placed in it and it could no longer be printed */
  change(id: number, version: number, jig: Jig): KeptJig {
    const { db, events } = this.#needs;
    const before = this.get(id);
    if (before.version !== version)
      throw new Problem(
        409,
        'This jig was changed in another window meanwhile. The newer one is shown now; make your change again.'
      );
    this.#check(jig, id);
    const [run] = before.runs;
    if (run !== undefined && faultsOf(jig).length > 0)
      throw new Problem(
        409,
        `Run ${run} is placed in this jig: it cannot have pockets that lie on each other, or off the bed or its plate. Copy it to try that.`
      );
    const numbers = renumbered(before.jig, jig);
    db.transaction(() => {
      db.prepare('UPDATE jig SET name = ?, document = ?, version = version + 1, changed_at = ? WHERE id = ?').run(
        jig.name,
        JSON.stringify(jig),
        Date.now(),
        id
      );
      if ([...numbers].some(([was, is]) => was !== is)) events.tell('pockets renumbered', { jigId: id, numbers });
    })();
    events.changed('jigs', [id]);
    events.tell('jig changed', id);
    if (before.runs.length > 0) events.changed('runs', before.runs);
    return this.get(id);
  }

  /** @throws Problem while runs are placed in it, or dockets wait for it */
  remove(id: number): void {
    const { runs, jig } = this.get(id);
    if (runs.length > 0)
      throw new Problem(
        409,
        `${jig.name} is used by run ${runs.join(', ')}. Print or delete ${runs.length === 1 ? 'it' : 'these'}, or choose another jig there, first.`
      );
    const waiting = this.#dockets(id);
    if (waiting.length > 0)
      throw new Problem(
        409,
        `Docket ${waiting.slice(0, 5).join(', ')}${waiting.length > 5 ? ` and ${waiting.length - 5} more` : ''} ${waiting.length === 1 ? 'is' : 'are'} to lie in ${jig.name}. Choose another jig there, or put ${waiting.length === 1 ? 'it' : 'them'} away, first.`
      );
    const { db, events } = this.#needs;
    db.transaction(() => {
      db.prepare(
        'INSERT INTO jig_bin (id, name, document, version) SELECT id, name, document, version FROM jig WHERE id = ?'
      ).run(id);
      db.prepare('DELETE FROM jig WHERE id = ?').run(id);
    })();
    events.changed('jigs');
    events.tell('jig changed', id);
  }

  /** Brings a deleted jig back: recipes and dockets that say it find it again. Another may have its name by now. */
  bringBack(id: number): KeptJig {
    const { db, events } = this.#needs;
    const gone = db
      .prepare<[number], { document: string; version: number }>('SELECT document, version FROM jig_bin WHERE id = ?')
      .get(id);
    if (!gone) throw new Problem(404, 'There is no such deleted jig.');
    const kept = Jig.parse(JSON.parse(gone.document));
    const jig = { ...kept, name: this.#freeName(kept.name) };
    db.transaction(() => {
      db.prepare('INSERT INTO jig (id, name, document, version, changed_at) VALUES (?, ?, ?, ?, ?)').run(
        id,
        jig.name,
        JSON.stringify(jig),
        gone.version + 1,
        Date.now()
      );
      db.prepare('DELETE FROM jig_bin WHERE id = ?').run(id);
    })();
    events.changed('jigs');
    events.tell('jig changed', id);
    return this.get(id);
  }

  /** A jig as a file of it says. @throws Problem where it is none */
  bring(file: unknown): KeptJig {
    const { format, jig } = (file ?? {}) as { format?: unknown; jig?: unknown };
    if (format !== JIG_FORMAT) throw new Problem(422, 'This file is no jig: it does not say so at its beginning.');
    const read = Jig.safeParse(jig, { error: issueSentence });
    if (!read.success) throw new Problem(422, `This jig cannot be taken: ${read.error.issues[0]?.message ?? 'it is not whole.'}`);
    return this.add({ ...read.data, name: this.#freeName(read.data.name) });
  }

  #row(id: number): JigRow {
    const row = this.#needs.db.prepare<[number], JigRow>('SELECT * FROM jig WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is no such jig.');
    return row;
  }

  #runs(id: number): number[] {
    return this.#needs.db
      .prepare<[number], number>("SELECT id FROM run WHERE json_extract(rule, '$.jig') = ? AND state != 'printed' ORDER BY id")
      .pluck()
      .all(id);
  }

  /** Those that wait, and say that they are to lie in it. */
  #dockets(id: number): number[] {
    return this.#needs.db
      .prepare<[number], number>(
        "SELECT id FROM docket WHERE json_extract(choices, '$.jig.id') = ? AND away = 0 AND stage = 'waiting' ORDER BY id"
      )
      .pluck()
      .all(id);
  }

  #named(name: string): number | undefined {
    return this.#needs.db.prepare<[string], number>('SELECT id FROM jig WHERE name = ?').pluck().get(name);
  }

  #freeName = (wanted: string): string => freeName(wanted, MOST_NAME, (name) => this.#named(name) !== undefined);

  #check(jig: Jig, id?: number): void {
    const same = this.#named(jig.name);
    if (same !== undefined && same !== id)
      throw new Problem(409, `There is a jig ${jig.name} already. Give this one another name.`);
    try {
      pocketsOf(jig);
    } catch (error) {
      if (error instanceof JigError) throw new Problem(422, error.message);
      throw error;
    }
  }
}

/** By the number that a place had, the one that it has now: the same place of the grid, whatever is filled before it. */
function renumbered(before: Jig, now: Jig): Map<number, number | undefined> {
  const isOn = ({ isOff }: Pocket) => !isOff;
  const byKey = new Map(pocketsOf(now).filter(isOn).map(({ key, number }) => [key, number])); // prettier-ignore
  return new Map(pocketsOf(before).filter(isOn).map(({ key, number }) => [number, byKey.get(key)])); // prettier-ignore
}
