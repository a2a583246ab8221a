import { readFile } from 'node:fs/promises';
import { basename } from 'node:path';
import type { DocketChoices } from '$lib/docket-choices';
import { Asked, askedPages, fitted, NOTHING_ASKED } from '$lib/network-printer';
import type { Artwork, Artworks } from '../artwork/artworks';
import type { Conditions } from '../conditions/conditions';
import type { DocketChecking } from '../dockets/docket-checking';
import type { DocketRecords } from '../dockets/docket-records';
import type { Dockets } from '../dockets/dockets';
import type { DocketEditing } from '../dockets/docket-editing';
import type { Db } from '../platform/db/open';
import type { FileStore } from '../platform/files';
import { Problem } from '../platform/problem';
import type { Ripping } from '../production/ripping';
import type { LayingOut } from '../production/laying-out';
import type { Runs } from '../production/run-store';
import type { ArrivalRow, ArrivalStore } from './arrival-store';
import type { Intake } from './intake';
import type { RecipeApplying } from './recipe-applying';

export interface StepNeeds {
  db: Db;
  artworks: Artworks;
  conditions: Conditions;
  dockets: Dockets;
  docketEditing: DocketEditing;
  docketChecking: DocketChecking;
  docketRecords: DocketRecords;
  files: FileStore;
  layingOut: LayingOut;
  runs: Runs;
  ripping: Ripping;
  applying: RecipeApplying;
  intake: Intake;
  store: ArrivalStore;
}

/** What is done with what arrived, step by step; each is one transaction, so that after a kill it goes on from there. */
export class ArrivalSteps {
  readonly #needs: StepNeeds;

  constructor(needs: StepNeeds) {
    this.#needs = needs;
  }

  /** @returns whether there is more to do @throws Problem for what a person must see to */
  async step(row: ArrivalRow): Promise<boolean> {
    switch (row.state) {
      case 'reading':
        return this.#makeDockets(row);
      case 'made':
        return this.#finish(row);
      case 'laid out':
        return this.#release(row);
      default:
        return false;
    }
  }

  #makeDockets(row: ArrivalRow): boolean {
    const { db, artworks, conditions, dockets, applying, intake, store, docketEditing } = this.#needs;
    if (row.artwork_id === null) throw new Problem(404, 'Its artwork was deleted.');
    const artwork = artworks.get(row.artwork_id);
    if (artwork.state === 'reading') return false;
    if (artwork.state === 'refused') {
      store.change(row.id, { state: 'refused', reason: artwork.reason });
      return false;
    }
    if (artwork.state !== 'ready') throw new Problem(500, artwork.reason ?? 'It could not be read.');
    const earlier = row.meant === 1 ? undefined : store.earlier(row.id);
    if (earlier)
      throw new Problem(
        409,
        `The same file came here before, on ${when(earlier.came_at)}, and was taken then. Make it again if it is meant to be printed once more.`
      );
    db.transaction(() => {
      const asked = row.asked === null ? NOTHING_ASKED : Asked.parse(JSON.parse(row.asked));
      const made = this.#pages(artwork, asked, row.meant === 1).map(
        (page) => dockets.add(artwork.id, page, this.#sizes(artwork, page, row.copies, asked), row.customer).id
      );
      // Where the folder says no recipe, a rule of the shop may.
      for (const id of made) {
        const recipe = row.recipe_id ?? intake.recipeFor(dockets.get(id));
        if (recipe !== undefined) applying.applyNow(recipe, [id]);
      }
      // What is asked for with the file goes before what the recipe says of all.
      for (const id of made) {
        const docket = dockets.get(id);
        const { choices } = docket;
        const change = {
          ...choices,
          ...(row.copies !== null && { copies: row.copies }),
          ...(asked.conditionId !== null && { conditionId: conditions.get(asked.conditionId).id }),
          ...(asked.grey && { adjustment: { ...choices.adjustment, saturation: -1 } })
        };
        docketEditing.change(id, docket.version, { choices: change }, true);
      }
      store.change(row.id, { state: 'made', reason: null, dockets: JSON.stringify(made) });
    })();
    return true;
  }

  /** @param meant a person has said that all of them are to be printed */
  #pages({ facts }: Artwork, asked: Asked, meant: boolean): number[] {
    const count = facts?.pages.length ?? 1;
    const pages = askedPages(asked, count);
    if (pages.length === 0) throw new Problem(422, `Pages were asked for that it does not have: it has ${count}.`);
    if (!meant && pages.length > asked.mostPages)
      throw new Problem(
        422,
        `It has ${pages.length} pages; ${asked.mostPages} are the most that are printed there by themselves. Make it again if all of them are meant.`
      );
    return pages;
  }

  /** How a docket begins, before a recipe says otherwise: of pictures, as large as the sheet that was asked for takes. */
  #sizes({ facts }: Artwork, page: number, copies: number | null, { fitMm }: Asked): Partial<DocketChoices> {
    const over = copies === null ? {} : { copies };
    const own = facts?.pages[page];
    if (fitMm === null || !own || facts.format === 'PDF') return over;
    const { width, height } = fitted({ width: own.widthMm, height: own.heightMm }, fitMm);
    return { ...over, widthMm: width, heightMm: height };
  }

  /** What is traced, checks, and the layout. */
  async #finish(row: ArrivalRow): Promise<boolean> {
    const { db, applying, docketChecking, dockets, layingOut, store } = this.#needs;
    const made = JSON.parse(row.dockets) as number[];
    const there = new Set(dockets.lines(made).map(({ id }) => id));
    for (const id of made) if (!there.has(id)) throw deleted(`Docket ${id}`, 'it was through');
    for (const id of made) await this.#giveTable(row, id);
    for (const id of made) await applying.trace(id);
    if (row.way === 'make dockets') {
      store.change(row.id, { state: 'done' });
      return false;
    }
    for (const id of made) {
      const worst = docketChecking.worst(id);
      if (worst.level === 'stop' || (worst.level === 'look' && row.despite_looks === 0))
        throw new Problem(422, `${dockets.get(id).name}: ${worst.sentence}`);
    }
    db.transaction(() => {
      const runs = layingOut.add(made, undefined, row.way === 'release');
      store.change(row.id, {
        state: row.way === 'release' ? 'laid out' : 'done',
        reason: null,
        runs: JSON.stringify([...new Set(runs)])
      });
    })();
    return true;
  }

  /** Releases its own runs: not one that others came into, or that was changed. */
  async #release(row: ArrivalRow): Promise<boolean> {
    const { ripping, runs, store } = this.#needs;
    const made = new Set(JSON.parse(row.dockets) as number[]);
    for (const id of JSON.parse(row.runs) as number[]) {
      const run = runs.find(id);
      if (!run) throw deleted(`Run ${id}`, 'it was released');
      if (run.releasedAt !== null || (run.state !== 'laying out' && run.state !== 'ripped')) continue;
      if (run.dockets.some((docket) => !made.has(docket.id)))
        throw new Problem(409, `Other dockets came into run ${id} meanwhile. Look at it and release it.`);
      await ripping.release(id);
    }
    store.change(row.id, { state: 'done', reason: null });
    return false;
  }

  /** Fills a docket's fields from the table that lay beside its artwork; where it has none, they stand where the artwork says. */
  async #giveTable({ table_hash: hash, table_place: place }: ArrivalRow, id: number): Promise<void> {
    const { dockets, docketRecords, files } = this.#needs;
    const docket = dockets.get(id);
    // A server that was killed meanwhile may have done so.
    if (hash === null || place === null || docket.choices.records.table !== null) return;
    const filled = docket.choices.records.fields.length > 0 ? docket : await docketRecords.fill(id);
    const { fields } = filled.choices.records;
    const name = basename(place).slice(0, 200);
    if (fields.length === 0)
      throw new Problem(
        422,
        `${name} lay beside it, and nothing on it is to be filled from a table: the artwork keeps no places free, and its recipe has no fields.`
      );
    const bytes = await readFile(files.path(hash));
    await docketRecords.take(id, dockets.get(id).version, { bytes, name, how: {}, key: undefined });
  }
}

/** A person did so, who may have meant it: nothing is made anew by itself. */
const deleted = (what: string, before: string): Problem =>
  new Problem(409, `${what} was deleted before ${before}. Make it again if it is to be printed; else it is seen to.`);

const when = (at: number): string =>
  new Date(at).toLocaleString('en-GB', { day: 'numeric', month: 'long', hour: '2-digit', minute: '2-digit' });
