import { randomUUID } from 'node:crypto';
import type { Logger } from 'pino';
import { Roll, Sheets } from '$core/media/card';
import type { LoadedMedia, Machines } from '../machines/machines';
import type { MediaCards } from '../media/cards';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem, sentence } from '../platform/problem';
import type { Prints } from './print-store';
import type { Releasing } from './releasing';

interface Needs {
  db: Db;
  events: Events;
  log: Logger;
  machines: Machines;
  media: MediaCards;
  prints: Prints;
  releasing: Releasing;
}

interface LoadingRow {
  machine_id: number;
  key: string;
  media_id: number;
  /** A roll or sheets, as they were in stock. */
  stock: string;
}

/**
 * Changes the media on machines, and what is in stock with it: no roll is in two places, and none is lost on the way. What
 * is chosen leaves the stock first; that it is on the machine, and what came off, the machine says.
 */
export class Loading {
  readonly #needs: Needs;
  readonly #busy = new Set<number>();

  constructor(needs: Needs) {
    this.#needs = needs;
    // A load that a break left open is settled when its machine is seen again.
    needs.events.on('media seen', ({ machineId }) => void this.#settle(machineId));
  }

  /**
   * Puts a roll or sheets from stock on a machine; what is left on it goes into stock.
   *
   * @param which of the card's rolls or sheets, counted from 0, as they were at its version
   */
  async load(machineId: number, chosen: { mediaId: number; version: number; which: number }): Promise<void> {
    const { machines, prints, events, releasing } = this.#needs;
    if (this.#busy.has(machineId)) throw new Problem(409, 'The media of this machine is being changed already.');
    this.#busy.add(machineId);
    try {
      await machines.look(machineId);
      const machine = machines.get(machineId);
      if (!machine.printer) throw new Problem(409, `${machine.name} does not answer. Switch it on.`);
      if (prints.busyMachines().has(machineId))
        throw new Problem(409, `${machine.name} is printing. Change the media when it is done.`);
      if (this.#open(machineId)) throw new Problem(409, `What was last loaded on ${machine.name} is not settled yet. Try again.`);
      const { key, wanted } = this.#take(machineId, chosen, machine.printer.media.sheetMm !== null);
      try {
        this.#loaded(machineId, await machines.load(machineId, wanted, key));
      } catch (error) {
        this.#busy.delete(machineId);
        await this.#settle(machineId);
        throw new Problem(
          502,
          `${sentence(error)} ${this.#open(machineId) ? 'What is on it is asked when it answers again.' : 'Nothing was changed in stock.'}`
        );
      }
      await machines.look(machineId);
    } finally {
      this.#busy.delete(machineId);
    }
    events.changed('machines');
    events.changed('conditions');
    releasing.look();
  }

  /** Takes a roll or sheets out of stock and writes down where they are on their way to. */
  #take(
    machineId: number,
    { mediaId, version, which }: { mediaId: number; version: number; which: number },
    isFlatbed: boolean
  ): { key: string; wanted: LoadedMedia } {
    const { db, media } = this.#needs;
    return db.transaction(() => {
      const { card, version: now, away } = media.get(mediaId);
      if (away) throw new Problem(409, `${card.name} was put away. Bring it back under Media first.`);
      const roll = isFlatbed ? undefined : card.rolls[which];
      const sheets = isFlatbed ? card.sheets[which] : undefined;
      const stock = roll ?? sheets;
      if (!stock || now !== version)
        throw new Problem(409, `What is in stock of ${card.name} has changed meanwhile. It is shown anew; choose again.`);
      const without = <T>(list: T[]) => list.filter((_, i) => i !== which);
      media.stock(mediaId, {
        rolls: roll ? without(card.rolls) : card.rolls,
        sheets: sheets ? without(card.sheets) : card.sheets
      });
      const key = randomUUID();
      db.prepare('INSERT INTO loading (machine_id, key, media_id, stock) VALUES (?, ?, ?, ?)').run(
        machineId,
        key,
        mediaId,
        JSON.stringify(stock)
      );
      const { name, surface, body, colour } = card;
      const sheet = sheets && { sheetMm: sheets.heightMm, sheets: sheets.count };
      const batch = roll?.batch ? { batch: roll.batch } : {};
      const wanted = { name, surface, body, colour, widthMm: stock.widthMm, lengthMm: roll?.lengthMm ?? 0, ...batch, ...sheet };
      return { key, wanted };
    })();
  }

  /** It is on the machine: what came off goes into stock. */
  #loaded(machineId: number, was: LoadedMedia): void {
    const { db, events, log, machines } = this.#needs;
    const why = db.transaction(() => (this.#close(machineId) ? this.#intoStock(was) : undefined))();
    if (why === undefined) return;
    const { name } = machines.get(machineId);
    log.warn({ machine: machineId, was, why }, 'what came off a machine is not in stock');
    events.send({ kind: 'said', text: `What came off ${name} is not in stock: ${why}` });
  }

  /** @returns why it cannot be kept there, where it cannot */
  #intoStock({ name, widthMm, lengthMm, sheetMm, sheets: count = 0, batch }: LoadedMedia): string | undefined {
    const { media } = this.#needs;
    if (sheetMm === undefined ? lengthMm < 1 : count === 0) return undefined;
    const old = media.named(name);
    if (!old) return `there is no card of ${name}.`;
    const { rolls, sheets } = old.card;
    try {
      if (sheetMm === undefined)
        media.stock(old.id, { rolls: [...rolls, { widthMm, lengthMm, ...(batch && { batch }) }], sheets });
      else media.stock(old.id, { rolls, sheets: [...sheets, { widthMm, heightMm: sheetMm, count }] });
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      return error.message;
    }
  }

  /** It did not get there: it goes back where it was. */
  #putBack({ machine_id: machineId, media_id: mediaId, stock }: LoadingRow): void {
    const { db, media } = this.#needs;
    db.transaction(() => {
      if (!this.#close(machineId)) return;
      const { rolls, sheets } = media.get(mediaId).card;
      const kept: unknown = JSON.parse(stock);
      const roll = Roll.safeParse(kept).data;
      if (roll) media.stock(mediaId, { rolls: [...rolls, roll], sheets });
      else media.stock(mediaId, { rolls, sheets: [...sheets, Sheets.parse(kept)] });
    })();
  }

  /** Asks the machine what became of a load that a break left open. */
  async #settle(machineId: number): Promise<void> {
    const { machines, events, log } = this.#needs;
    const open = this.#open(machineId);
    if (!open || this.#busy.has(machineId)) return;
    this.#busy.add(machineId);
    try {
      const change = await machines.lastLoad(machineId);
      if (change?.key === open.key) this.#loaded(machineId, change.was);
      else this.#putBack(open);
      events.changed('conditions');
    } catch (error) {
      log.info({ machine: machineId, error: sentence(error) }, 'a load is not settled yet');
    } finally {
      this.#busy.delete(machineId);
    }
  }

  #open(machineId: number): LoadingRow | undefined {
    return this.#needs.db.prepare<[number], LoadingRow>('SELECT * FROM loading WHERE machine_id = ?').get(machineId);
  }

  /** @returns whether it was open: it is settled once */
  #close(machineId: number): boolean {
    return this.#needs.db.prepare('DELETE FROM loading WHERE machine_id = ?').run(machineId).changes > 0;
  }
}
