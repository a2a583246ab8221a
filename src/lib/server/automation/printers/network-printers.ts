import { randomUUID } from 'node:crypto';
import { FIRST_PORT, NetworkPrinter } from '$lib/network-printer';
import type { Conditions } from '../../conditions/conditions';
import { freshNumber } from '../../platform/db/fresh-number';
import type { Db } from '../../platform/db/open';
import type { Events } from '../../platform/events';
import { Problem } from '../../platform/problem';
import type { Recipes } from '../recipes';

export interface KeptPrinter {
  id: number;
  uuid: string;
  version: number;
  printer: NetworkPrinter;
  changedAt: number;
}

interface PrinterRow {
  id: number;
  uuid: string;
  document: string;
  version: number;
  changed_at: number;
}

interface Needs {
  db: Db;
  events: Events;
  conditions: Conditions;
  recipes: Recipes;
}

const MOST_PRINTERS = 20;

/** The shop's own printers for other programs, as they are kept. */
export class NetworkPrinters {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  list(): KeptPrinter[] {
    return this.#needs.db.prepare<[], PrinterRow>('SELECT * FROM network_printer ORDER BY id').all().map(toPrinter);
  }

  get(id: number): KeptPrinter {
    const row = this.#needs.db.prepare<[number], PrinterRow>('SELECT * FROM network_printer WHERE id = ?').get(id);
    if (!row) throw new Problem(404, 'There is no such printer.');
    return toPrinter(row);
  }

  /** A port that none of them has yet. */
  freePort(): number {
    const taken = new Set(this.list().map(({ printer }) => printer.port));
    let port = FIRST_PORT;
    while (taken.has(port)) port++;
    return port;
  }

  add(printer: NetworkPrinter): KeptPrinter {
    const { db } = this.#needs;
    if (this.list().length >= MOST_PRINTERS) throw new Problem(422, `There are ${MOST_PRINTERS} printers, the most.`);
    this.#check(printer, 0);
    const id = freshNumber(db, 'network_printer');
    db.prepare('INSERT INTO network_printer (id, uuid, document, changed_at) VALUES (?, ?, ?, ?)').run(
      id,
      randomUUID(),
      JSON.stringify(printer),
      Date.now()
    );
    this.#tell();
    return this.get(id);
  }

  change(id: number, version: number, printer: NetworkPrinter): KeptPrinter {
    const { db } = this.#needs;
    if (this.get(id).version !== version) throw new Problem(409, 'This printer was changed in another window meanwhile. It is shown as it is now; make your change again.'); // prettier-ignore
    this.#check(printer, id);
    db.prepare('UPDATE network_printer SET document = ?, version = version + 1, changed_at = ? WHERE id = ?').run(
      JSON.stringify(printer),
      Date.now(),
      id
    );
    this.#tell();
    return this.get(id);
  }

  /** Nothing can be printed on it any more; what was stays in the in-tray. */
  remove(id: number): void {
    this.get(id);
    this.#needs.db.prepare('DELETE FROM network_printer WHERE id = ?').run(id);
    this.#tell();
  }

  #tell(): void {
    this.#needs.events.changed('arrivals');
    this.#needs.events.tell('printers changed', undefined);
  }

  /** @param id of one that is there already; 0 for a new one */
  #check(printer: NetworkPrinter, id: number): void {
    const { conditions, recipes } = this.#needs;
    if (printer.recipeId !== null) recipes.whole(printer.recipeId);
    for (const conditionId of [printer.draftId, printer.bestId]) if (conditionId !== null) conditions.get(conditionId);
    const others = this.list().filter((other) => other.id !== id);
    const named = others.find((other) => other.printer.name.toLowerCase() === printer.name.toLowerCase());
    if (named) throw new Problem(409, `There is a printer ${named.printer.name} already. Give this one another name.`);
    const there = others.find((other) => other.printer.port === printer.port);
    if (there) throw new Problem(409, `${there.printer.name} has port ${printer.port}. ${this.freePort()} is free.`);
  }
}

const toPrinter = ({ id, uuid, document, version, changed_at: changedAt }: PrinterRow): KeptPrinter => ({
  id,
  uuid,
  version,
  printer: NetworkPrinter.parse(JSON.parse(document)),
  changedAt
});
