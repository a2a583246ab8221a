import { inkTimes } from '$core/inks/divide';
import { pricesByLayer, pricesOf } from '$core/inks/ink-prices';
import { PrintMode } from '$core/media/modes';
import type { ModeOfShop } from '$lib/mode-list';
import { Problem } from '../platform/problem';
import type { Conditions } from './conditions';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { Machines } from '../machines/machines';

/** What it works with. */
interface Needs {
  conditions: Conditions;
  db: Db;
  events: Events;
  machines: Machines;
}

/** Print modes: given by machines and makers, pinned by the shop. */
export class Modes {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.events.on('modes told', (modes) => this.take(modes));
  }

  list(): ModeOfShop[] {
    const { db, conditions, machines } = this.#needs;
    const all = conditions.list();
    const models = machines.models();
    // Of a kind of machine, not of a mode: all of its inks have the mode's drops.
    const known = new Map<string, Pick<ModeOfShop, 'inkTimes' | 'inkPrices'>>();
    const inksOf = ({ machine, drops }: PrintMode): Pick<ModeOfShop, 'inkTimes' | 'inkPrices'> => {
      const before = known.get(machine);
      if (before) return before;
      const has = machines.rows().find(({ model, away }) => model === machine && !away);
      const inks = has ? machines.inks(has.id, drops) : [];
      const made = {
        inkTimes: has ? inkTimes(inks) : 1,
        inkPrices: pricesByLayer(inks, has ? pricesOf(inks, machines.inkPrices(has.id)) : []).colour ?? []
      };
      known.set(machine, made);
      return made;
    };
    const prints = new Map(
      db
        .prepare<[], { mode_code: string; n: number }>(
          `SELECT c.mode_code, count(*) AS n FROM print p JOIN run r ON r.id = p.run_id JOIN condition c ON c.id = r.condition_id
           WHERE r.chart_id IS NULL GROUP BY c.mode_code`
        )
        .all()
        .map((row) => [row.mode_code, row.n])
    );
    return db
      .prepare<[], { document: string; pinned: number }>('SELECT document, pinned FROM print_mode ORDER BY rowid')
      .all()
      .map(({ document, pinned }) => {
        const mode = PrintMode.parse(JSON.parse(document));
        return {
          ...mode,
          pinned: pinned === 1,
          used: prints.get(mode.code) ?? 0,
          here: models.has(mode.machine),
          ...inksOf(mode),
          conditions: all
            .filter((condition) => condition.mode.code === mode.code)
            .map(({ id, media, profile }) => ({ id, media, profiled: profile === 'measured' || profile === 'imported' }))
        };
      });
  }

  get(code: string): PrintMode {
    const row = this.#needs.db
      .prepare<[string], { document: string }>('SELECT document FROM print_mode WHERE code = ?')
      .get(code);
    if (!row) throw new Problem(404, 'There is no such print mode.');
    return PrintMode.parse(JSON.parse(row.document));
  }

  /** Takes modes in; one that is known is brought up to date. */
  take(modes: readonly PrintMode[]): void {
    const { db, events } = this.#needs;
    const put = db.prepare(
      'INSERT INTO print_mode (code, document) VALUES (?, ?) ON CONFLICT (code) DO UPDATE SET document = excluded.document'
    );
    db.transaction(() => modes.forEach((mode) => put.run(mode.code, JSON.stringify(mode))))();
    events.changed('conditions');
  }

  pin(code: string, pinned: boolean): void {
    this.get(code);
    this.#needs.db.prepare('UPDATE print_mode SET pinned = ? WHERE code = ?').run(pinned ? 1 : 0, code);
    this.#needs.events.changed('conditions');
  }
}
