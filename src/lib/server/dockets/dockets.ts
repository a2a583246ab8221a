import { LRUCache } from 'lru-cache';
import type { Finding, OutputIntentFact, PageFacts } from '$core/artwork/facts';
import type { FinishedSize } from '$core/artwork/preparation';
import { roleOf, toolOf } from '$core/artwork/roles';
import type { CheckInput } from '$core/checks/check';
import { DocketChoices, DocketDocument } from '$lib/docket-choices';
import type { ListPage, ListQuery } from '$lib/listing';
import { InPocket, type InJig } from '$lib/in-jig';
import type { RunState } from '$lib/run-rule';
import type { Artworks } from '../artwork/artworks';
import type { Conditions } from '../conditions/conditions';
import type { Machines } from '../machines/machines';
import { freshNumber } from '../platform/db/fresh-number';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { idsOf, pageOf, rowsOf } from '../platform/listing';
import { parsedOnce } from '../platform/parsed-once';
import { Problem } from '../platform/problem';
import type { Settings } from '../platform/settings';
import { DOCKET_LIST, type DocketLine } from './docket-list';
import { keepStep } from './docket-steps';

export interface DocketRow {
  id: number;
  artwork_id: number;
  page: number;
  name: string;
  customer: string;
  due_on: string;
  note: string;
  priority: 'low' | 'normal' | 'high';
  choices: string;
  version: number;
  step: number;
  run_id: number | null;
  away: number;
  previous_artwork_id: number | null;
  previous_page: number | null;
  added_at: number;
  run_state: RunState | null;
  /** Of the run that it waits in, JSON. */
  run_pockets: string | null;
  run_jig: number | null;
  /** Of the steps that are kept of it. */
  first_step: number | null;
  last_step: number | null;
}

export interface Docket extends DocketDocument {
  id: number;
  version: number;
  canUndo: boolean;
  canRedo: boolean;
  /** What of the artwork a screen shows beside it. */
  artwork: {
    name: string;
    /** How many it has, and the sizes of those that layers of the docket show. */
    pages: CheckInput['pages'];
    facts: PageFacts;
    fontsNotEmbedded: string[];
    findings: Finding[];
    outputIntent: OutputIntentFact | null;
  };
  /** The artwork that this one took the place of. */
  previous: { artworkId: number; page: number; name: string } | null;
  /** The newest run that it is in, and how far that is. */
  runId: number | null;
  runState: RunState | null;
  /** The jig of the run that it waits in: it lies in that one where it says none itself. */
  runJig: InJig | null;
  /** Put away, by a person or because it is done. */
  away: boolean;
}

/** Dockets whose choices are kept at hand. */
const MOST_KEPT = 2000;

/** What it works with. */
interface Needs {
  artworks: Artworks;
  conditions: Conditions;
  db: Db;
  events: Events;
  machines: Machines;
  settings: Settings;
}

/** The shop's dockets, as they are. */
export class Dockets {
  readonly #needs: Needs;
  readonly #choices = new LRUCache<number, { text: string; choices: DocketChoices }>({ max: MOST_KEPT });

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.events.on('artwork read', (id) => this.#readAgain(id));
  }

  /** What was found of a page stands on what was read of it. */
  #readAgain(artworkId: number): void {
    this.#needs.db.prepare('UPDATE docket SET worst = NULL WHERE artwork_id = ?').run(artworkId);
  }

  /** Dockets as a list asks for them. */
  list(query: ListQuery, from: number): ListPage<DocketLine> {
    return pageOf(this.#needs.db, DOCKET_LIST, query, from);
  }

  /** Lines of a list by their numbers. */
  lines(ids: readonly number[]): DocketLine[] {
    return rowsOf(this.#needs.db, DOCKET_LIST, ids);
  }

  /** Numbers of a list in its order, from one place to another. */
  ids(query: ListQuery, from: number, count: number): number[] {
    return idsOf(this.#needs.db, DOCKET_LIST, query, from, count);
  }

  get(id: number): Docket {
    const docket = this.#toDocket(this.#row(id));
    if (!docket) throw new Problem(404, 'The artwork of this docket is being read anew. Try again in a moment.');
    return docket;
  }

  /** A docket for a page at its own size, on the media that is loaded, as it would be: nothing is kept of it. */
  begun(artworkId: number, page: number, over: Partial<DocketChoices> = {}, customer = ''): DocketDocument {
    const { artworks, machines, conditions, settings } = this.#needs;
    const { artwork, page: facts } = artworks.page(artworkId, page);
    const loaded = machines.list().find((machine) => machine.printer)?.printer?.media.name;
    const all = conditions.list();
    const condition = all.find((c) => c.media === loaded) ?? all[0];
    const cut = artworks.lines(artworkId, page).some((line) => toolOf(line, (name) => roleOf(name, settings.current.rules, {})));
    const choices = DocketChoices.parse({
      widthMm: Math.max(1, facts.widthMm),
      heightMm: Math.max(1, facts.heightMm),
      copies: 1,
      bleedMm: cut ? Math.min(3, facts.bleedMm) : 0,
      layersOff: facts.layers.filter((layer) => !layer.visible).map((layer) => layer.name),
      conditionId: condition?.id ?? null,
      cut,
      mayTurn: true,
      intent: 'relative',
      ...over
    });
    const base = artwork.name.replace(/\.[a-z0-9]{2,4}$/i, '').slice(0, 100) || 'Artwork';
    const name = (artwork.facts?.pages.length ?? 1) > 1 ? `${base}, page ${page + 1}` : base;
    return { artworkId, page, name, customer, dueOn: '', note: '', priority: 'normal', choices };
  }

  /** Keeps it. */
  add(artworkId: number, page: number, over: Partial<DocketChoices> = {}, customer = ''): Docket {
    const { db, events } = this.#needs;
    const document = this.begun(artworkId, page, over, customer);
    const { name, choices } = document;
    const id = db.transaction(() => {
      const fresh = freshNumber(db, 'docket');
      db.prepare('INSERT INTO docket (id, artwork_id, page, name, customer, choices, added_at) VALUES (?, ?, ?, ?, ?, ?, ?)').run(
        fresh,
        artworkId,
        page,
        name,
        customer,
        JSON.stringify(choices),
        Date.now()
      );
      keepStep(db, fresh, 0, document);
      return fresh;
    })();
    events.changed('dockets', [id]);
    return this.get(id);
  }

  /** Dockets of many pages in one go: all or none. */
  addMany(pages: readonly { artworkId: number; page: number }[]): number[] {
    return this.#needs.db.transaction(() => pages.map(({ artworkId, page }) => this.add(artworkId, page).id))();
  }

  #row(id: number): DocketRow {
    const row = this.#needs.db
      .prepare<[number], DocketRow>(
        `SELECT d.*, r.state AS run_state, iif(r.state = 'printed', NULL, r.rule ->> '$.jig') AS run_jig, r.rule -> '$.pockets' AS run_pockets,
           (SELECT min(step) FROM docket_step WHERE docket_id = d.id) AS first_step,
           (SELECT max(step) FROM docket_step WHERE docket_id = d.id) AS last_step
         FROM docket d LEFT JOIN run r ON r.id = d.run_id WHERE d.id = ?`
      )
      .get(id);
    if (!row) throw new Problem(404, 'There is no such docket.');
    return row;
  }

  /** Parsed once a version: they may hold long outlines. */
  #choicesOf({ id, choices: text }: DocketRow): DocketChoices {
    const known = this.#choices.get(id);
    if (known?.text === text) return known.choices;
    const choices = DocketChoices.parse(JSON.parse(text));
    this.#choices.set(id, { text, choices });
    return choices;
  }

  #toDocket(row: DocketRow): Docket | undefined {
    const { artworks } = this.#needs;
    const artwork = artworks.get(row.artwork_id);
    const facts = artwork.facts?.pages[row.page];
    if (!facts || !artwork.facts) return undefined;
    const { pages } = artwork.facts;
    const choices = this.#choicesOf(row);
    const shown = (choices.stack?.layers ?? []).flatMap(({ ownPage }) => {
      const size = ownPage === null ? undefined : pages[ownPage];
      return size ? [[ownPage, { widthMm: size.widthMm, heightMm: size.heightMm }]] : [];
    }) as [number, FinishedSize][];
    return {
      id: row.id,
      artworkId: row.artwork_id,
      page: row.page,
      name: row.name,
      customer: row.customer,
      dueOn: row.due_on,
      note: row.note,
      priority: row.priority,
      choices,
      version: row.version,
      canUndo: row.step > (row.first_step ?? row.step),
      canRedo: row.step < (row.last_step ?? row.step),
      artwork: {
        name: artwork.name,
        pages: { count: pages.length, shown: Object.fromEntries(shown) },
        facts,
        fontsNotEmbedded: artwork.facts.fontsNotEmbedded,
        outputIntent: artwork.facts.outputIntent ?? null,
        findings: artwork.facts.findings.filter((finding) => finding.page === row.page)
      },
      // Where that was taken back it is the docket's own again.
      previous:
        row.previous_artwork_id === null || (row.previous_artwork_id === row.artwork_id && row.previous_page === row.page)
          ? null
          : {
              artworkId: row.previous_artwork_id,
              page: row.previous_page ?? 0,
              name: artworks.get(row.previous_artwork_id).name
            },
      runId: row.run_id,
      runState: row.run_state,
      runJig: row.run_jig === null ? null : { id: row.run_jig, lies: liesOf(row.run_pockets ?? '') },
      away: row.away === 1
    };
  }
}

const liesOf = parsedOnce((pockets) => InPocket.parse(pockets));

/** What of a docket a person can change. */
export function toDocument(docket: Docket): DocketDocument {
  const { artworkId, page, name, customer, dueOn, note, priority, choices } = docket;
  return { artworkId, page, name, customer, dueOn, note, priority, choices };
}
