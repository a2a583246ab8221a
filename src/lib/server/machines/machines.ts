import { z } from 'zod';
import type { DropVolumes } from '$core/inks/drops';
import { pricesOf } from '$core/inks/ink-prices';
import { fourInks, InkSet, type Ink } from '$core/inks/ink-set';
import { BODIES } from '$core/media/card';
import { HandlingTable } from '$core/media/handling';
import { PrintMode } from '$core/media/modes';
import { DEFAULT_MARKS, type MarkRule } from '$core/marks/registration';
import type { Logger } from 'pino';
import { Problem, sentence } from '../platform/problem';
import { askJson } from './ask';
import { freshNumber } from '../platform/db/fresh-number';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { parsedOnce } from '../platform/parsed-once';
import { CutterAbilities, PLAIN_CUTTER } from '$protocol/cutter';
import { readCutter, type CutterStatus } from './cutter-client';
import { InstrumentStatus } from './instrument-client';
import { readPrinter, type PrinterStatus } from './printer-client';

export interface MachineRow {
  id: number;
  kind: 'printer' | 'cutter' | 'instrument';
  name: string;
  url: string;
  model: string;
  handling: string | null;
  inks: string | null;
  ink_prices: string;
  abilities: string | null;
  layers: number;
  cost_per_hour: number;
  bed: 'roll' | 'flatbed';
  /** The shop has it no more. */
  away: number;
}

export interface Machine {
  id: number;
  kind: MachineRow['kind'];
  name: string;
  url: string;
  costPerHour: number;
  bed: MachineRow['bed'];
  online: boolean;
  printer: PrinterStatus | null;
  cutter: CutterStatus | null;
  instrument: InstrumentStatus | null;
}

export const MachineName = z.string().trim().min(1, 'A machine needs a name.').max(60, 'A name has 60 letters at most.');
export const MachineUrl = z
  .url({ protocol: /^http$/, error: 'The address looks like http://192.168.1.20:631' })
  .max(300, 'An address has 300 letters at most.')
  .transform((url) => url.replace(/\/$/, ''));

const LoadedMedia = z.object({
  name: z.string().max(200),
  surface: z.string().max(20),
  body: z.enum(BODIES).optional(),
  colour: z.string().max(9).optional(),
  widthMm: z.number().min(0).max(10_000),
  lengthMm: z.number().min(0).max(1e7),
  sheetMm: z.number().min(0).max(20_000).optional(),
  sheets: z.int().min(0).max(100_000).optional(),
  batch: z.string().max(40).optional()
});
export type LoadedMedia = z.infer<typeof LoadedMedia>;
const MediaChange = z.object({ key: z.string().nullable(), was: LoadedMedia });
type MediaChange = z.infer<typeof MediaChange>;

const MachineModes = z.array(PrintMode).max(2000);

const LOOK_EVERY_MS = 1000;
const LEAST_PITCH_MM = 100;
const ASK_EVERY_MS = 60_000;
const MOST_TABLE_BYTES = 10e6;
const BRIEF = 'SELECT id, kind, name, url, cost_per_hour, bed FROM machine';
type BriefRow = Pick<MachineRow, 'id' | 'kind' | 'name' | 'url' | 'cost_per_hour' | 'bed'>;
const NOTHING = { printer: null, cutter: null, instrument: null };

const abilitiesOf = parsedOnce((said) => CutterAbilities.parse(said));
const inksOf = parsedOnce((said) => InkSet.parse(said));
export const InkPrices = z.record(z.string().max(40), z.number().min(0).max(1000));
export type InkPrices = z.infer<typeof InkPrices>;
const ownPrices = parsedOnce((said) => InkPrices.parse(said));
/** Where it does not matter how inks are laid down. */
const ANY_DROPS: DropVolumes = [1, 1, 1];

/** What it works with. */
interface Needs {
  db: Db;
  events: Events;
  log: Logger;
}

/** Looks at every machine once a second, and tells the browsers when something about one changed. */
export class Machines {
  readonly #needs: Needs;
  readonly #seen = new Map<number, Machine>();
  /** By machine, when it was asked for what is known of it. */
  readonly #seenAt = new Map<number, number>();
  readonly #asked = new Map<number, number>();
  readonly #looking = new Set<number>();
  #timer: NodeJS.Timeout | undefined;
  #stopped = false;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** All that are known, those too that were put away. */
  rows(): MachineRow[] {
    return this.#needs.db.prepare<[], MachineRow>('SELECT * FROM machine ORDER BY kind DESC, id').all();
  }

  /** Those that the shop has. */
  list(): Machine[] {
    return this.#needs.db
      .prepare<[], BriefRow>(`${BRIEF} WHERE away = 0 ORDER BY kind DESC, id`)
      .all()
      .map((row) => this.#asSeen(row));
  }

  /** What kinds of machines the shop has. */
  models(): Set<string> {
    return new Set(this.rows().flatMap(({ model, away }) => (away ? [] : [model])));
  }

  /** One that was put away too. */
  get(id: number): Machine {
    const row = this.#needs.db.prepare<[number], BriefRow>(`${BRIEF} WHERE id = ?`).get(id);
    if (!row) throw new Problem(404, 'There is no such machine.');
    return this.#asSeen(row);
  }

  #asSeen(row: BriefRow): Machine {
    return { ...(this.#seen.get(row.id) ?? { online: false, ...NOTHING }), ...toMachine(row) };
  }

  instrument(): Machine {
    const instrument = this.list().find((machine) => machine.kind === 'instrument');
    if (!instrument) throw new Problem(409, 'The shop has no instrument. Add one under Shop, or load readings from a file.');
    return instrument;
  }

  /** @param id the first one where it is not said */
  cutter(id?: number | null): Machine {
    const cutter = this.list().find((machine) => machine.kind === 'cutter' && (id == null || machine.id === id));
    if (!cutter) throw new Problem(409, id == null ? 'The shop has no cutter. Add one under Shop.' : 'There is no such cutter.');
    return cutter;
  }

  /** What a cutter can do, as it last said. */
  abilities(id: number): CutterAbilities {
    const said = this.rows().find((row) => row.id === id)?.abilities;
    return said ? abilitiesOf(said) : PLAIN_CUTTER;
  }

  /** Marks and codes as the shop's cutters see them: the first that knows each kind. */
  marks(): MarkRule {
    const [first] = this.list().filter(({ kind }) => kind === 'cutter');
    if (!first) return DEFAULT_MARKS;
    const { marks, codes, reachMm } = this.abilities(first.id);
    return {
      ...DEFAULT_MARKS,
      shape: marks.includes(DEFAULT_MARKS.shape) ? DEFAULT_MARKS.shape : (marks[0] ?? DEFAULT_MARKS.shape),
      // A row of marks is seen wherever the print is held.
      pitch: Math.max(LEAST_PITCH_MM, Math.min(DEFAULT_MARKS.pitch, reachMm ?? Infinity)),
      ...(codes.includes('qrcode') && !codes.includes('datamatrix') && { code: 'qrcode' })
    };
  }

  /** What kind of machine it is; as the shop calls it where it never said. */
  modelOf(id: number): string {
    const row = this.rows().find((one) => one.id === id);
    return row ? row.model || row.name : '';
  }

  #keepAbilities(id: number, { name, abilities }: CutterStatus): void {
    const said = JSON.stringify(abilities);
    this.#needs.db
      .prepare('UPDATE machine SET abilities = ?, model = ? WHERE id = ? AND (abilities IS NOT ? OR model != ?)')
      .run(said, name, id, said, name);
  }

  /**
   * Adds a machine, or gives the one at an address a new name.
   *
   * @throws Problem 409 where a machine of another kind is there
   */
  add(kind: MachineRow['kind'], name: string, url: string): number {
    const { db, events } = this.#needs;
    const before = this.rows().find((row) => row.url === url);
    if (before && before.kind !== kind)
      throw new Problem(409, `${before.name} is at ${url}: it is a ${before.kind}. Remove that first, if it is a ${kind}.`);
    const id = before?.id ?? freshNumber(db, 'machine');
    db.prepare(
      `INSERT INTO machine (id, kind, name, url) VALUES (?, ?, ?, ?)
       ON CONFLICT (id) DO UPDATE SET name = excluded.name`
    ).run(id, kind, name, url);
    events.changed('machines');
    return id;
  }

  /** What answers at an address, nothing where nothing of that kind does. */
  async modelAt(kind: MachineRow['kind'], url: string): Promise<string | undefined> {
    const { printer, cutter } = await lookAt({ id: 0, kind, name: '', url, cost_per_hour: 0, bed: 'roll' });
    return printer?.model ?? cutter?.name;
  }

  /** It is not looked at any more. */
  forget(id: number): void {
    this.#seen.delete(id);
    this.#seenAt.delete(id);
    this.#asked.delete(id);
  }

  /** The same machine at a new address, as stand-ins have at each start. */
  moveTo(id: number, url: string): void {
    this.#needs.db
      .prepare('UPDATE machine SET url = iif(away, url, @url), away_url = iif(away, @url, NULL) WHERE id = @id')
      .run({ id, url });
    this.forget(id);
  }

  /**
   * What a person does at the machine: puts other media on it. The same key again changes nothing.
   *
   * @returns what was on it before
   * @throws Problem where it is not known whether it was done
   */
  async load(id: number, media: LoadedMedia, key: string): Promise<LoadedMedia> {
    const { name, url } = this.get(id);
    const body = JSON.stringify({ ...media, key });
    const reply = await askJson(`${url}/media`, { method: 'POST', body }).catch(() => undefined);
    const change = MediaChange.safeParse(reply?.ok ? reply.value : undefined);
    if (!change.success) throw new Problem(502, `${name} ${reply ? `did not take ${media.name}` : 'does not answer'}.`);
    return change.data.was;
  }

  /** How the media came there that is on a machine. @throws Error where it does not answer */
  async lastLoad(id: number): Promise<MediaChange | null> {
    return MediaChange.nullable().parse((await askJson(`${this.get(id).url}/media`)).value);
  }

  setCost(id: number, costPerHour: number): void {
    this.get(id);
    this.#needs.db.prepare('UPDATE machine SET cost_per_hour = ? WHERE id = ?').run(costPerHour, id);
    this.#needs.events.changed('machines');
  }

  /** The inks of a machine, as it last said; four where it never said. @param drops of the print mode */
  inks(id: number, drops: DropVolumes): InkSet {
    const said = this.rows().find((row) => row.id === id)?.inks;
    // The print mode says what colours are laid down with; other inks have drops of their own.
    return said ? inksOf(said).map((ink) => ({ ...ink, drops: isColour(ink) ? [...drops] : ink.drops })) : fourInks(drops);
  }

  /** What a ml of some of its inks costs, by their names; of all others what the shop pays for any. */
  inkPrices(id: number): InkPrices {
    return ownPrices(this.rows().find((row) => row.id === id)?.ink_prices ?? '{}');
  }

  /** By printer that the shop has, its inks, and what a ml of those costs that have a price of their own. */
  pricedInks(): Record<number, (Pick<Ink, 'name' | 'colour'> & { price: number | null })[]> {
    const printers = this.rows().filter(({ kind, away }) => kind === 'printer' && !away);
    return Object.fromEntries(
      printers.map(({ id, ink_prices: own }) => {
        const inks = this.inks(id, ANY_DROPS);
        const prices = pricesOf(inks, ownPrices(own));
        return [id, inks.map(({ name, colour }, i) => ({ name, colour, price: prices[i]! }))];
      })
    );
  }

  /**
   * @param changed prices by the names of inks; nothing for what the shop pays for any
   * @throws Problem where the machine has no such ink
   */
  setInkPrices(id: number, changed: Readonly<Record<string, number | null>>): void {
    const { name } = this.get(id);
    const names = this.inks(id, ANY_DROPS).map((ink) => ink.name);
    const unknown = Object.keys(changed).find((ink) => !names.includes(ink));
    if (unknown !== undefined) throw new Problem(422, `${name} has no ink ${unknown}. It has ${names.join(', ')}.`);
    const prices = Object.entries({ ...this.inkPrices(id), ...changed }).filter(([, price]) => price !== null);
    this.#needs.db.prepare('UPDATE machine SET ink_prices = ? WHERE id = ?').run(JSON.stringify(Object.fromEntries(prices)), id);
    // What things cost is told with conditions too.
    this.#needs.events.changed('machines');
    this.#needs.events.changed('conditions');
  }

  #keepInks(id: number, { inkSet, layers }: PrinterStatus): void {
    if (!inkSet) return;
    const said = JSON.stringify(inkSet);
    this.#needs.db
      .prepare('UPDATE machine SET inks = ?, layers = ? WHERE id = ? AND (inks IS NOT ? OR layers != ?)')
      .run(said, layers, id, said, layers);
  }

  /** Looks at every machine again and again, each for itself: one that hangs holds up no other. */
  watch(): void {
    this.#timer = setInterval(() => {
      for (const { id } of this.list()) {
        if (this.#looking.has(id)) continue;
        this.#looking.add(id);
        this.look(id)
          .catch((error: unknown) =>
            this.#needs.log.error({ machine: id, error: sentence(error) }, 'a machine was not looked at')
          )
          .finally(() => this.#looking.delete(id));
      }
    }, LOOK_EVERY_MS);
    void this.lookNow().catch(() => undefined);
  }

  stop(): void {
    this.#stopped = true;
    clearInterval(this.#timer);
  }

  /** The first time that a machine is seen, it gives its maker's table and print modes. */
  async #getToKnow(id: number, model: string): Promise<void> {
    const row = this.rows().find((one) => one.id === id);
    if (!row || (row.model === model && row.handling !== null)) return;
    // One that gives nothing is not asked every second.
    if (performance.now() - (this.#asked.get(id) ?? -Infinity) < ASK_EVERY_MS) return;
    this.#asked.set(id, performance.now());
    const [table, modes] = await Promise.all(
      ['handling', 'modes'].map((what) => askJson(`${row.url}/${what}`, { mostBytes: MOST_TABLE_BYTES }).catch(() => undefined))
    );
    const handling = HandlingTable.safeParse(table?.value);
    const given = MachineModes.safeParse(modes?.value);
    // A machine that gives neither prints all the same; it is asked again later.
    const kept = handling.success && given.success ? JSON.stringify(handling.data) : row.handling;
    this.#needs.db.prepare('UPDATE machine SET model = ?, handling = ? WHERE id = ?').run(model, kept, id);
    if (given.success) this.#needs.events.tell('modes told', given.data);
  }

  /** Looks at all machines, each for itself. */
  async lookNow(): Promise<void> {
    await Promise.all(this.list().map(({ id }) => this.look(id)));
  }

  /** Looks at one machine, and tells when something about it changed. One that does not answer is off. */
  async look(id: number): Promise<void> {
    const row = this.rows().find((one) => one.id === id);
    if (!row) throw new Problem(404, 'There is no such machine.');
    const askedAt = performance.now();
    const machine = await lookAt(row);
    // It may have gone meanwhile, or be elsewhere; an answer that comes late is older than what is known.
    if (this.#stopped || !this.list().some((one) => one.id === id && one.url === row.url)) return;
    if ((this.#seenAt.get(id) ?? 0) > askedAt) return;
    this.#seenAt.set(id, askedAt);
    const before = this.#seen.get(id);
    this.#seen.set(id, machine);
    if (machine.printer) {
      const { media, model } = machine.printer;
      const bed = media.sheetMm === null ? 'roll' : 'flatbed';
      this.#needs.db.prepare('UPDATE machine SET bed = ? WHERE id = ? AND bed != ?').run(bed, id, bed);
      this.#keepInks(id, machine.printer);
      await this.#getToKnow(id, model);
      this.#needs.events.tell('media seen', { machineId: id, name: media.name, widthMm: media.widthMm, sheetMm: media.sheetMm });
    }
    if (machine.cutter) {
      this.#keepAbilities(id, machine.cutter);
      this.#needs.events.tell('cutter seen', { machineId: id, roll: machine.cutter.roll, askedAt });
    }
    this.#tell(before, machine);
  }

  /** While it prints, what it says of itself is sent along; only what screens stand on has them look again. */
  #tell(before: Machine | undefined, machine: Machine): void {
    if (this.#stopped || JSON.stringify(before) === JSON.stringify(machine)) return;
    this.#needs.events.send({ kind: 'machine', machine });
    if (JSON.stringify(before && atRest(before)) !== JSON.stringify(atRest(machine))) this.#needs.events.changed('machines');
  }
}

/** A machine without what goes down while it prints, and what counts up while it cuts. */
function atRest(machine: Machine): Machine {
  const { printer, cutter } = machine;
  return {
    ...machine,
    ...(printer?.state === 'processing' && {
      printer: {
        ...printer,
        media: { ...printer.media, lengthMm: 0, sheets: 0 },
        inks: printer.inks.map((ink) => ({ ...ink, level: 0 }))
      }
    }),
    ...(cutter && { cutter: { ...cutter, linesCut: 0, bladeM: 0, roll: cutter.roll && { ...cutter.roll, positionMm: 0 } } })
  };
}

const isColour = ({ role }: Ink) => role === 'colour' || role === 'light';

const toMachine = ({ id, kind, name, url, cost_per_hour: costPerHour, bed }: BriefRow) => ({
  id,
  kind,
  name,
  url,
  costPerHour,
  bed
});

async function lookAt(row: BriefRow): Promise<Machine> {
  const machine: Machine = { ...toMachine(row), online: false, ...NOTHING };
  try {
    if (row.kind === 'printer') machine.printer = await readPrinter(row.url);
    else if (row.kind === 'instrument') machine.instrument = InstrumentStatus.parse((await askJson(`${row.url}/state`)).value);
    else machine.cutter = await readCutter(row.url);
    machine.online = true;
  } catch {
    // Off or not reachable: said on the screen, looked at again in a second.
  }
  return machine;
}
