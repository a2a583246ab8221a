import { DocketChoices } from '$lib/model';
import type { PageFacts } from '$core/artwork/facts';
import type { DocketRow, RunState } from './db/rows';
import { Problem } from './problem';
import type { Shop } from './shop';

export interface Docket {
  id: number;
  artworkId: number;
  page: number;
  name: string;
  customer: string;
  choices: DocketChoices;
  version: number;
  /** What of the artwork a screen shows beside it. */
  artwork: { name: string; pages: number; facts: PageFacts };
  /** The newest run that it is in, and how far that is. */
  runId: number | null;
  runState: RunState | null;
}

export class Dockets {
  readonly #shop: Shop;

  constructor(shop: Shop) {
    this.#shop = shop;
  }

  list(): Docket[] {
    return this.#shop.db
      .prepare<[], DocketRow>('SELECT * FROM docket ORDER BY id DESC')
      .all()
      .flatMap((row) => this.#toDocket(row) ?? []);
  }

  get(id: number): Docket {
    const row = this.#shop.db.prepare<[number], DocketRow>('SELECT * FROM docket WHERE id = ?').get(id);
    const docket = row && this.#toDocket(row);
    if (!docket) throw new Problem(404, 'There is no such docket.');
    return docket;
  }

  /** A docket for a page at its own size, on the media that is loaded. */
  add(artworkId: number, page: number, over: Partial<DocketChoices> = {}, customer = ''): Docket {
    const { db, artworks, machines, conditions, events } = this.#shop;
    const { artwork, page: facts } = artworks.page(artworkId, page);
    const loaded = machines.list().find((machine) => machine.printer)?.printer?.media.name;
    const all = conditions.list();
    const condition = all.find((c) => c.media === loaded) ?? all[0];
    const cut = facts.cutPaths.length > 0;
    const choices = DocketChoices.parse({
      widthMm: facts.widthMm,
      heightMm: facts.heightMm,
      copies: 1,
      bleedMm: cut ? Math.min(3, facts.bleedMm) : 0,
      conditionId: condition?.id ?? null,
      cut,
      mayTurn: true,
      intent: 'relative',
      ...over
    });
    const base = artwork.name.replace(/\.[a-z0-9]{2,4}$/i, '');
    const name = (artwork.facts?.pages.length ?? 1) > 1 ? `${base}, page ${page + 1}` : base;
    const { lastInsertRowid } = db
      .prepare('INSERT INTO docket (artwork_id, page, name, customer, choices, added_at) VALUES (?, ?, ?, ?, ?, ?)')
      .run(artworkId, page, name, customer, JSON.stringify(choices), Date.now());
    events.changed('dockets');
    return this.get(Number(lastInsertRowid));
  }

  /**
   * Keeps choices; `version` is the one that they were made from.
   *
   * @throws Problem 409 when the docket was changed meanwhile in another window
   */
  change(id: number, version: number, change: { name?: string; customer?: string; choices?: DocketChoices }): Docket {
    const { db, events } = this.#shop;
    const docket = this.get(id);
    if (docket.version !== version)
      throw new Problem(
        409,
        'This docket was changed in another window meanwhile. The newer choices are shown now; make your change again.'
      );
    const next = { ...docket, ...change };
    if (next.choices.cut && docket.artwork.facts.cutPaths.length === 0)
      throw new Problem(422, 'The artwork has no cut line, so it cannot be cut.', { cut: 'The artwork has no cut line.' });
    db.prepare('UPDATE docket SET name = ?, customer = ?, choices = ?, version = version + 1 WHERE id = ?').run(
      next.name,
      next.customer,
      JSON.stringify(next.choices),
      id
    );
    events.changed('dockets');
    if (docket.runId !== null) events.changed('runs');
    return this.get(id);
  }

  remove(id: number): void {
    const { db, events } = this.#shop;
    const runs = db.prepare<[number], { run_id: number }>('SELECT run_id FROM run_docket WHERE docket_id = ?').all(id);
    if (runs.length > 0)
      throw new Problem(409, `This docket is in run ${runs.map((r) => r.run_id).join(', ')}. Take it out there first.`);
    db.prepare('DELETE FROM docket WHERE id = ?').run(id);
    events.changed('dockets');
  }

  #toDocket(row: DocketRow): Docket | undefined {
    const artwork = this.#shop.artworks.get(row.artwork_id);
    const facts = artwork.facts?.pages[row.page];
    if (!facts) return undefined;
    const run = this.#shop.db
      .prepare<[number], { run_id: number; state: RunState }>(
        'SELECT d.run_id, r.state FROM run_docket d JOIN run r ON r.id = d.run_id WHERE d.docket_id = ? ORDER BY d.run_id DESC'
      )
      .get(row.id);
    return {
      id: row.id,
      artworkId: row.artwork_id,
      page: row.page,
      name: row.name,
      customer: row.customer,
      choices: DocketChoices.parse(JSON.parse(row.choices)),
      version: row.version,
      artwork: { name: artwork.name, pages: artwork.facts?.pages.length ?? 1, facts },
      runId: run?.run_id ?? null,
      runState: run?.state ?? null
    };
  }
}
