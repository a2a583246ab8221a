import type { Roll, Sheets } from '$core/media/card';
import type { Machines } from '../machines/machines';
import type { MediaCards } from '../media/cards';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import type { Prints } from './print-store';
import type { Releasing } from './releasing';

interface Needs {
  db: Db;
  events: Events;
  machines: Machines;
  media: MediaCards;
  prints: Prints;
  releasing: Releasing;
}

/** Changes the media on machines, and what is in stock with it. */
export class Loading {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /**
   * Changes the media on a machine: what is left of the roll or sheets on it goes into stock, what is chosen from stock
   * comes out of it.
   *
   * @param which of the card's rolls or sheets, counted from 0
   */
  async load(machineId: number, mediaId: number, which: number): Promise<void> {
    const { db, machines, media, prints, events, releasing } = this.#needs;
    // What is left on it is what is left now, not a second ago.
    await machines.look(machineId);
    const machine = machines.get(machineId);
    if (!machine.printer) throw new Problem(409, `${machine.name} does not answer. Switch it on.`);
    if (prints.busyMachines().has(machineId))
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
    await machines.look(machineId);
    events.changed('machines');
    events.changed('conditions');
    releasing.look();
  }
}
