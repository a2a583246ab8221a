import { hasRecords } from '$core/records/choices';
import { CHOICE_GROUPS, DocketChoices, type ChoiceGroup, type DocketDocument, type ManyChange } from '$lib/docket-choices';
import type { Artworks } from '../artwork/artworks';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { Problem } from '../platform/problem';
import type { Tables } from '../records/tables';
import { keepStep, stepAt, stepOf } from './docket-steps';
import { toDocument, type Docket, type Dockets } from './dockets';
import { leaveGoneConditions } from './gone-conditions';

/** What it works with. */
interface Needs {
  artworks: Artworks;
  db: Db;
  dockets: Dockets;
  events: Events;
  tables: Tables;
}

/** What people change of dockets, each change a step that can be taken back. */
export class DocketEditing {
  readonly #needs: Needs;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /**
   * Keeps a change; `version` is the one that it was made from.
   *
   * @param joins it goes on with the change before, so that both are one step back
   * @throws Problem 409 when the docket was changed meanwhile in another window
   */
  change(id: number, version: number, change: Partial<DocketDocument>, joins = false): Docket {
    const docket = this.#needs.dockets.get(id);
    if (docket.version !== version) throw new Problem(409, 'This docket was changed in another window meanwhile.');
    const before = toDocument(docket);
    const next = this.#counted({ ...before, ...change }, before.choices);
    if (JSON.stringify(next) === JSON.stringify(before)) return docket;
    if (next.artworkId !== before.artworkId || next.page !== before.page) this.#needs.artworks.page(next.artworkId, next.page);
    this.#needs.db.transaction(() => {
      const step = stepOf(this.#needs.db, id);
      const to = joins && step > 0 ? step : step + 1;
      this.#write(id, next, to);
      keepStep(this.#needs.db, id, to, next);
    })();
    this.#tell(docket);
    return this.#needs.dockets.get(id);
  }

  /** Goes a step back, or forward again. */
  go(id: number, version: number, by: -1 | 1): Docket {
    const docket = this.#needs.dockets.get(id);
    if (docket.version !== version) throw new Problem(409, 'This docket was changed in another window meanwhile.');
    const step = stepOf(this.#needs.db, id) + by;
    const document = stepAt(this.#needs.db, id, step);
    if (!document) throw new Problem(409, by < 0 ? 'There is nothing to take back.' : 'There is nothing to make again.');
    this.#needs.artworks.page(document.artworkId, document.page);
    this.#needs.db.transaction(() => {
      this.#write(id, document, step);
      leaveGoneConditions(this.#needs.db, [id]);
    })();
    this.#tell(docket);
    return this.#needs.dockets.get(id);
  }

  /** Changes many dockets in one transaction, each a step of its own. */
  changeMany(ids: readonly number[], change: ManyChange): void {
    const { choices, ...rest } = change;
    this.#needs.db.transaction(() => {
      for (const id of ids) {
        const docket = this.#needs.dockets.get(id);
        this.change(id, docket.version, { ...rest, choices: { ...docket.choices, ...choices } as DocketChoices });
      }
    })();
  }

  /** Gives other dockets the same choices of some groups. */
  copyChoices(from: number, to: readonly number[], groups: readonly ChoiceGroup[]): void {
    const source = this.#needs.dockets.get(from).choices;
    const keys = groups.flatMap((group): readonly (keyof DocketChoices)[] => CHOICE_GROUPS[group]);
    const part = Object.fromEntries(keys.map((key) => [key, source[key]]));
    this.#needs.db.transaction(() => {
      for (const id of to) {
        const docket = this.#needs.dockets.get(id);
        this.change(id, docket.version, { choices: DocketChoices.parse({ ...docket.choices, ...part }) });
      }
    })();
  }

  /** Puts another artwork in the place of a docket's own; all choices stay. */
  replaceArtwork(id: number, version: number, artworkId: number, page: number): Docket {
    const { db, dockets } = this.#needs;
    const before = dockets.get(id);
    db.transaction(() => {
      const after = this.change(id, version, { artworkId, page });
      if (after.version === before.version) return;
      db.prepare('UPDATE docket SET previous_artwork_id = ?, previous_page = ? WHERE id = ?').run(
        before.artworkId,
        before.page,
        id
      );
    })();
    return dockets.get(id);
  }

  /** The operator has seen what a new artwork changed. */
  forgetPrevious(id: number): void {
    this.#needs.db.prepare('UPDATE docket SET previous_artwork_id = NULL, previous_page = NULL WHERE id = ?').run(id);
    this.#needs.events.changed('dockets', [id]);
  }

  /** Copies follow from the records that are printed, where there are any. @throws Problem where these cannot be told */
  #counted(document: DocketDocument, before: DocketChoices): DocketDocument {
    const { choices } = document;
    if (!hasRecords(choices.records)) return document;
    if (choices.wall)
      throw new Problem(422, 'A wall is printed in panels and not in records. Take its table or its fields out first.');
    // What changes nothing of them needs no table: a docket whose table is lost can still be worked on.
    const isSame = JSON.stringify(choices.records) === JSON.stringify(before.records);
    const copies = isSame ? before.copies : this.#needs.tables.copies(choices);
    return copies === document.choices.copies ? document : { ...document, choices: { ...document.choices, copies } };
  }

  #write(id: number, document: DocketDocument, step: number): void {
    const { artworkId, page, name, customer, dueOn, note, priority, choices } = document;
    this.#needs.db
      .prepare(
        `UPDATE docket SET artwork_id = ?, page = ?, name = ?, customer = ?, due_on = ?, note = ?, priority = ?, choices = ?,
         step = ?, version = version + 1 WHERE id = ?`
      )
      .run(artworkId, page, name, customer, dueOn, note, priority, JSON.stringify(choices), step, id);
  }

  #tell(docket: Docket): void {
    this.#needs.events.changed('dockets', [docket.id]);
    if (docket.runId !== null) this.#needs.events.changed('runs', [docket.runId]);
  }
}
