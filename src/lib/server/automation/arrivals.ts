import { setImmediate, setTimeout } from 'node:timers/promises';
import type { Logger } from 'pino';
import { ArtworkError } from '$core/artwork/facts';
import { isTable, type JobTicket } from '$lib/arrivals';
import { MOST_UPLOAD_BYTES } from '../artwork/artworks';
import type { DocketShelf } from '../dockets/docket-shelf';
import { mayPass } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem, sentence } from '../platform/problem';
import type { Run } from '../production/run';
import type { RunEditing } from '../production/run-editing';
import { MOST_TABLE_BYTES } from '../records/tables';
import { ArrivalSteps, type StepNeeds } from './arrival-steps';
import { NEEDS_PERSON, type ArrivalRow, type NewArrival } from './arrival-store';
import type { NetworkJob } from './printers/network-jobs';
import type { KeptPrinter } from './printers/network-printers';
import type { Recipes } from './recipes';

interface Needs extends StepNeeds {
  events: Events;
  log: Logger;
  docketShelf: DocketShelf;
  recipes: Recipes;
  runEditing: RunEditing;
  /** Told as soon as a thing is past its reading: its file may be moved. */
  wasRead: (id: number) => void;
}

/** What is known of anything that was stored. */
type Came = Pick<NewArrival, 'place' | 'name' | 'bytes' | 'hash' | 'artwork_id' | 'state' | 'reason'>;

/** A file whose artwork is not made yet. */
export interface Stored {
  hash: string;
  bytes: number;
}
export interface StoredTable {
  name: string;
  hash: string;
}

/** So many go on at once: each is some milliseconds of the loop, which pages wait for, and the rest is drawn elsewhere. */
const AT_ONCE = 1;
/** To take something back one waits so long for what is going on with it. */
const WAIT_MS = 5000;
const LOOK_MS = 20;
/** What could not be written down is tried again after so long. */
const AGAIN_MS = 2000;

/** What comes by itself: taken, gone on with until what was asked of it is done, made again and taken back. */
export class Arrivals {
  readonly #needs: Needs;
  readonly #steps: ArrivalSteps;
  readonly #queue = new Set<number>();
  readonly #working = new Set<number>();
  #stopped = false;

  constructor(needs: Needs) {
    this.#needs = needs;
    this.#steps = new ArrivalSteps(needs);
    needs.events.on('artwork read', (artworkId) => needs.store.ofArtwork(artworkId).forEach((id) => this.goOn(id)));
  }

  /** Goes on with what was on its way. */
  start(): void {
    for (const id of this.#needs.store.onTheirWay()) this.goOn(id);
  }

  stop(): void {
    this.#stopped = true;
    this.#queue.clear();
  }

  goOn(id: number): void {
    if (this.#stopped) return;
    this.#queue.add(id);
    this.#next();
  }

  #next(): void {
    for (const id of this.#queue) {
      if (this.#working.size >= AT_ONCE) return;
      if (this.#working.has(id)) continue;
      this.#queue.delete(id);
      this.#working.add(id);
      void this.#go(id).finally(() => {
        this.#working.delete(id);
        if (!this.#stopped) this.#next();
      });
    }
  }

  async #go(id: number): Promise<void> {
    const { store, events, wasRead } = this.#needs;
    // Not within the work of who told of it; others have their turn between.
    await setImmediate();
    if (this.#stopped) return;
    try {
      while (!this.#stopped && (await this.#steps.step(store.row(id))));
    } catch (error) {
      if (this.#stopped) return;
      if (!this.#waitsForPerson(id, error)) return this.#later(id, error);
    }
    if (this.#stopped) return;
    if (store.row(id).state !== 'reading') wasRead(id);
    events.changed('arrivals', [id]);
  }

  /** @returns whether that is written down; not where it failed for want of room, and will go on by itself */
  #waitsForPerson(id: number, error: unknown): boolean {
    if (mayPass(error)) return false;
    this.#needs.log.info({ arrival: id, error: sentence(error) }, 'it waits for a person');
    try {
      this.#needs.store.change(id, { state: 'waiting', reason: whyNot(error) });
    } catch (full) {
      if (mayPass(full)) return false;
      throw full;
    }
    return true;
  }

  /** A full disk needs nobody at the in-tray: what was on its way goes on when there is room. */
  #later(id: number, error: unknown): void {
    this.#needs.log.error({ arrival: id, error: sentence(error) }, 'what came in cannot be written down; it is tried again');
    globalThis.setTimeout(() => this.goOn(id), AGAIN_MS).unref();
  }

  /**
   * Takes what a program sends, with what it says of it.
   *
   * @param key what it calls it: sent twice it is made once
   * @param source or what `store` and `storeTable` made of it
   * @returns its number in the in-tray
   */
  async take(
    name: string,
    ticket: JobTicket,
    source: AsyncIterable<Uint8Array> | Stored,
    key: string | null,
    table?: StoredTable
  ): Promise<number> {
    const { files, recipes, store } = this.#needs;
    const known = key === null ? undefined : store.sentAs(key);
    if (known !== undefined) return known;
    const recipe = ticket.recipe === null ? null : recipes.named(ticket.recipe);
    return this.#arrive(name, source, (came) => {
      for (const stored of [table, 'hash' in source ? source : undefined])
        if (stored && !files.has(stored.hash))
          throw new Problem(409, 'What was sent first is gone meanwhile. Send all of it once more.');
      // Two that are sent at the same time: the one that ends first counts.
      const other = key === null ? undefined : store.sentAs(key);
      if (other !== undefined) throw new Problem(409, 'The same is being sent twice. Ask for it by its key.');
      return store.add({
        ...came,
        ...(table && { table_place: table.name, table_hash: table.hash }),
        source: 'program',
        customer: ticket.customer,
        copies: ticket.copies,
        sent_as: key,
        despite_looks: ticket.despiteLooks ? 1 : 0,
        way: ticket.way,
        recipe_id: recipe
      });
    });
  }

  /** Stores a file of which more is to be told. */
  store(source: AsyncIterable<Uint8Array>): Promise<Stored> {
    return this.#needs.files.take(source, MOST_UPLOAD_BYTES);
  }

  /** Stores a table that goes with artwork. @throws Problem where it is none by its name, or too long */
  async storeTable(name: string, source: AsyncIterable<Uint8Array>): Promise<StoredTable> {
    if (!isTable(name))
      throw new Problem(422, `${name || 'The table'} is no table by its name: it ends as .csv, .tsv, .xlsx, .xls or .ods.`);
    const { hash } = await this.#needs.files.take(source, MOST_TABLE_BYTES);
    return { name, hash };
  }

  /**
   * Takes what is printed on a printer of the shop's own.
   *
   * @param came told its number in the in-tray, in the transaction that writes it down
   */
  async takePrinted(
    { id: printerId, printer }: KeptPrinter,
    job: Pick<NetworkJob, 'name' | 'sender' | 'asked'>,
    source: AsyncIterable<Uint8Array>,
    came: (arrivalId: number) => void
  ): Promise<number> {
    const { store } = this.#needs;
    return this.#arrive(job.name, source, (stored) => {
      const id = store.add({
        ...stored,
        source: 'printer',
        printer_id: printerId,
        asked: JSON.stringify(job.asked),
        customer: job.sender,
        copies: job.asked.copies,
        despite_looks: printer.despiteLooks ? 1 : 0,
        way: printer.way,
        recipe_id: printer.recipeId
      });
      came(id);
      return id;
    });
  }

  /** Stores what comes, and writes it down in the same transaction. @returns its number in the in-tray */
  async #arrive(name: string, source: AsyncIterable<Uint8Array> | Stored, add: (came: Came) => number): Promise<number> {
    const { artworks, events } = this.#needs;
    let id = 0;
    const also = (artworkId: number, hash: string, bytes: number) => {
      id = add({ place: '', name, bytes, hash, artwork_id: artworkId, state: 'reading', reason: null });
    };
    if ('hash' in source) artworks.takeStored(name, source, also);
    else await artworks.take(name, source, also);
    events.changed('arrivals', [id]);
    this.goOn(id);
    return id;
  }

  /**
   * Makes it again, with another recipe where one is given. What was made of it before is deleted, unless it is in a run.
   *
   * @throws Problem where it cannot be: its artwork is gone, or what was made is in a run
   */
  again(id: number, { recipeId, way }: { recipeId?: number | null | undefined; way?: ArrivalRow['way'] | undefined } = {}): void {
    const { db, artworks, events, store } = this.#needs;
    const row = store.row(id);
    if (this.#working.has(id)) throw new Problem(409, 'It is being worked on. Wait a moment.');
    if (row.artwork_id === null) throw new Problem(409, 'Its file is not here any more: put it into the folder again.');
    const artwork = artworks.get(row.artwork_id);
    if (artwork.state === 'refused')
      throw new Problem(409, `${artwork.name} cannot be read: ${artwork.reason} Ask for another file.`);
    db.transaction(() => {
      this.#takeBack(row);
      if (artwork.state === 'unread') artworks.read(artwork.id);
      store.change(id, {
        state: 'reading',
        reason: null,
        meant: 1,
        dockets: '[]',
        runs: '[]',
        ...(recipeId !== undefined && { recipe_id: recipeId }),
        ...(way !== undefined && { way })
      });
    })();
    events.changed('arrivals', [id]);
    this.goOn(id);
  }

  /**
   * Deletes what was made of it, and leaves it at that; also while it is on its way.
   *
   * @throws Problem where it is printed, or lies in a run with others
   */
  async undo(id: number): Promise<void> {
    const { db, events, store } = this.#needs;
    if (store.row(id).state === 'undone') throw new Problem(409, 'It was taken back before.');
    // What is going on with it comes to its end, and nothing new is begun.
    for (const until = Date.now() + WAIT_MS; this.#working.has(id); await setTimeout(LOOK_MS))
      if (Date.now() > until) throw new Problem(409, 'It is being worked on. Wait a moment.');
    this.#working.add(id);
    try {
      await this.#deleteOwnRuns(store.row(id));
      db.transaction(() => {
        this.#takeBack(store.row(id));
        store.change(id, { state: 'undone', reason: null, dockets: '[]', runs: '[]' });
      })();
      this.#queue.delete(id);
    } finally {
      this.#working.delete(id);
      this.#next();
    }
    // A file that was being read is let go of too.
    this.#needs.wasRead(id);
    events.changed('arrivals', [id]);
  }

  /** Runs that were made for it alone, where none of them is under way or printed. */
  async #deleteOwnRuns(row: ArrivalRow): Promise<void> {
    const { db, runEditing, runs } = this.#needs;
    const made = new Set(JSON.parse(row.dockets) as number[]);
    const isThere = db.prepare<[number], 1>('SELECT 1 FROM run WHERE id = ?');
    const own = (JSON.parse(row.runs) as number[])
      .filter((id) => isThere.get(id))
      .map((id) => runs.get(id))
      .filter(({ dockets }) => dockets.every(({ id }) => made.has(id)));
    const isOpen = ({ state, releasedAt }: Run) => releasedAt === null && (state === 'laying out' || state === 'ripped');
    if (own.every(isOpen)) for (const { id } of own) await runEditing.remove(id);
  }

  /** A person has seen to it. */
  settle(id: number): void {
    const { events, store } = this.#needs;
    if (!NEEDS_PERSON.includes(store.row(id).state)) throw new Problem(409, 'It does not wait for a person.');
    store.change(id, { state: 'done' });
    events.changed('arrivals', [id]);
  }

  #takeBack(row: ArrivalRow): void {
    const made = JSON.parse(row.dockets) as number[];
    const { inRuns } = this.#needs.docketShelf.remove(made);
    if (inRuns.length > 0)
      throw new Problem(409, `Docket ${inRuns.join(', ')} lies in a run. Take it out there first, or leave it.`);
  }
}

/** What a person can mend is told as it is; anything else is a fault of the program. */
const whyNot = (error: unknown): string =>
  error instanceof Problem || error instanceof ArtworkError
    ? error.message
    : `Something went wrong in the program: ${sentence(error)} Make it again; if that does not help, the server’s log says more.`;
