import { LRUCache } from 'lru-cache';
import { prepare } from '$core/artwork/choices';
import { changesNothing } from '$core/colour/adjustment';
import { isPlainTone, toneBytes, toneTables } from '$core/colour/tone';
import type { Finding, OutputIntentFact, PageFacts, PageLine } from '$core/artwork/facts';
import { marksOf, stackOf, withPictures, type MarksByInk } from '$core/artwork/docket-stack';
import type { PieceLayer } from '$core/artwork/piece-layers';
import type { FinishedSize, Preparation } from '$core/artwork/preparation';
import type { CheckInput } from '$core/checks/check';
import { roleOf, toolOf, type RoleRule } from '$core/artwork/roles';
import { finishedLines, type FinishedLine } from '$core/cutting/docket-lines';
import type { Point } from '$core/geometry/matrix';
import type { Stack } from '$core/inks/stack';
import { hasRecords } from '$core/records/choices';
import type { ShopList } from '$core/records/lists';
import { askedLists } from '$core/records/new-field';
import { fieldSpots, pageWithFields } from '$core/records/field-spots';
import { contourOf } from '$core/layout/contour';
import { CHOICE_GROUPS, DocketChoices, DocketDocument, type ChoiceGroup, type ManyChange } from '$lib/docket-choices';
import type { RunState } from '$lib/run-rule';
import type { ListPage, ListQuery } from '$lib/listing';
import { freshNumber } from '../platform/db/fresh-number';
import { idsOf, pageOf, rowsOf } from '../platform/listing';
import { Problem } from '../platform/problem';
import { DOCKET_LIST, type DocketLine } from './docket-list';
import { leaveGoneConditions } from './gone-conditions';
import type { Artworks } from '../artwork/artworks';
import type { Conditions } from '../conditions/conditions';
import type { NamedColours } from '../conditions/named-colours';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import type { Machines } from '../machines/machines';
import type { Settings } from '../platform/settings';
import type { RecordsOf } from '../records/overlays';
import type { Tables } from '../records/tables';

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
  /** Put away, by a person or because it is done. */
  away: boolean;
}

/** Steps back that are kept of a docket. */
const MOST_STEPS = 300;
const MOST_STEP_BYTES = 20e6;
/** Dockets whose choices and lines are kept at hand, so that a run does not make them all anew. */
const MOST_PREPARED = 2000;

/** What a docket's choices make of its page. */
export interface PreparedDocket {
  lines: PageLine[];
  preparation: Preparation;
  finished: FinishedLine[];
  /** What the page marks for inks beside colour, and the layers that the docket is printed in. */
  marks: MarksByInk;
  stack: Stack;
  /** Those layers, with the pages that some of colour show in place of the docket's own. */
  layers: PieceLayer[];
}

/** All that it is made of: version of the docket, its artwork and page, the shop's rules, and version of the named colours. */
type PreparedOf = [version: number, artworkId: number, page: number, rules: readonly RoleRule[], colours: number];

/** What it works with. */
interface Needs {
  artworks: Artworks;
  colours: NamedColours;
  conditions: Conditions;
  db: Db;
  events: Events;
  machines: Machines;
  settings: Settings;
  tables: Tables;
}

export class Dockets {
  readonly #needs: Needs;
  readonly #prepared = new LRUCache<number, { of: PreparedOf; made: PreparedDocket }>({ max: MOST_PREPARED });
  readonly #choices = new LRUCache<number, { text: string; choices: DocketChoices }>({ max: MOST_PREPARED });
  readonly #contours = new WeakMap<FinishedLine[], { rings: Point[][] | undefined }>();

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.events.on('artwork read', (id) => this.#readAgain(id));
  }

  /** What was made of a page stands on what was read of it. */
  #readAgain(artworkId: number): void {
    const ids = this.#needs.db.prepare<[number], number>('SELECT id FROM docket WHERE artwork_id = ?').pluck().all(artworkId);
    for (const id of ids) this.#prepared.delete(id);
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

  /** The contour that a docket's pieces are cut out by, for placing them by their shape; nothing where it has none. */
  contour(docket: Docket): Point[][] | undefined {
    if (!docket.choices.cut) return undefined;
    const { finished } = this.prepared(docket);
    const kept = this.#contours.get(finished);
    if (kept) return kept.rings;
    const made = contourOf(finished);
    this.#contours.set(finished, { rings: made });
    return made;
  }

  /** What is outlined on the docket's page, and what its choices make of the page. */
  prepared(docket: Docket): PreparedDocket {
    const { rules } = this.#needs.settings.current;
    const { version, artworkId, page } = docket;
    const of: PreparedOf = [version, artworkId, page, rules, this.#needs.colours.version];
    const known = this.#prepared.get(docket.id);
    if (known && of.every((part, i) => part === known.of[i])) return known.made;
    const made = this.#prepare(docket, rules);
    this.#prepared.set(docket.id, { of, made });
    return made;
  }

  /** The layers that a docket is printed in, without its lines, which take their time. */
  layers({ artwork, choices }: Docket): Pick<PreparedDocket, 'marks' | 'stack'> {
    const marks = marksOf(
      pageWithFields(artwork.facts, choices.records.fields),
      this.#needs.settings.current.rules,
      choices.roles
    );
    return { marks, stack: stackOf(choices.stack, marks) };
  }

  /** The shop's lists that fields ask for. */
  lists({ fields }: DocketChoices['records']): ShopList[] {
    return askedLists(fields, this.#needs.settings.current.lists);
  }

  /** Its records as they are drawn; nothing where it has none. */
  recordsOf({ choices }: Docket): RecordsOf | undefined {
    if (!hasRecords(choices.records)) return undefined;
    const dpi = choices.conditionId === null ? null : this.#needs.conditions.get(choices.conditionId).mode.dpi;
    return { choices, dpi, lists: this.lists(choices.records) };
  }

  #prepare(docket: Docket, rules: readonly RoleRule[]): PreparedDocket {
    const { choices } = docket;
    const lines = this.#needs.artworks.lines(docket.artworkId, docket.page);
    const pages = this.#needs.artworks.get(docket.artworkId).facts?.pages ?? [];
    // Layers may show other pages of the file.
    const spots = [...pages.flatMap((page) => page.spots.map(({ name }) => name)), ...fieldSpots(choices.records.fields)];
    const named = this.#needs.colours.places([...new Set(spots)], choices.colours);
    const preparation = {
      ...prepare(choices, pageWithFields(docket.artwork.facts, choices.records.fields), lines, rules),
      ...(named && { named }),
      ...tonesOf(choices)
    };
    const role = (name: string) => roleOf(name, rules, choices.roles);
    // A wall's panels are cut along their own edges.
    const finished =
      choices.cut && !choices.wall ? finishedLines(lines, role, preparation, choices, choices.lines, choices.layersOff) : [];
    const layers = this.layers(docket);
    const pictured = withPictures(layers.stack.layers, preparation, docket.artwork.facts, pages, role);
    return { lines, preparation, finished, ...layers, layers: pictured };
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
      this.#keepStep(fresh, 0, document);
      return fresh;
    })();
    events.changed('dockets', [id]);
    return this.get(id);
  }

  /** Dockets of many pages in one go: all or none. */
  addMany(pages: readonly { artworkId: number; page: number }[]): number[] {
    return this.#needs.db.transaction(() => pages.map(({ artworkId, page }) => this.add(artworkId, page).id))();
  }

  /**
   * Keeps a change; `version` is the one that it was made from.
   *
   * @param joins it goes on with the change before, so that both are one step back
   * @throws Problem 409 when the docket was changed meanwhile in another window
   */
  change(id: number, version: number, change: Partial<DocketDocument>, joins = false): Docket {
    const docket = this.get(id);
    if (docket.version !== version) throw new Problem(409, 'This docket was changed in another window meanwhile.');
    const before = toDocument(docket);
    const next = this.#counted({ ...before, ...change }, before.choices);
    if (JSON.stringify(next) === JSON.stringify(before)) return docket;
    if (next.artworkId !== before.artworkId || next.page !== before.page) this.#needs.artworks.page(next.artworkId, next.page);
    this.#needs.db.transaction(() => {
      const { step } = this.#row(id);
      const to = joins && step > 0 ? step : step + 1;
      this.#write(id, next, to);
      this.#needs.db.prepare('DELETE FROM docket_step WHERE docket_id = ? AND step > ?').run(id, to);
      this.#keepStep(id, to, next);
      // Large outlines leave fewer steps.
      const kept = Math.max(20, Math.min(MOST_STEPS, Math.floor(MOST_STEP_BYTES / JSON.stringify(next).length)));
      this.#needs.db.prepare('DELETE FROM docket_step WHERE docket_id = ? AND step <= ?').run(id, to - kept);
    })();
    this.#tell(docket);
    return this.get(id);
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

  /** The record of each of a docket's copies; nothing where it has no records. */
  series({ choices }: Pick<Docket, 'choices'>): Uint32Array | undefined {
    return hasRecords(choices.records) ? this.#needs.tables.series(choices.records) : undefined;
  }

  /** Goes a step back, or forward again. */
  go(id: number, version: number, by: -1 | 1): Docket {
    const docket = this.get(id);
    if (docket.version !== version) throw new Problem(409, 'This docket was changed in another window meanwhile.');
    const { step } = this.#row(id);
    const row = this.#needs.db
      .prepare<[number, number], { document: string }>('SELECT document FROM docket_step WHERE docket_id = ? AND step = ?')
      .get(id, step + by);
    if (!row) throw new Problem(409, by < 0 ? 'There is nothing to take back.' : 'There is nothing to make again.');
    const document = DocketDocument.parse(JSON.parse(row.document));
    this.#needs.artworks.page(document.artworkId, document.page);
    this.#needs.db.transaction(() => {
      this.#write(id, document, step + by);
      leaveGoneConditions(this.#needs.db, [id]);
    })();
    this.#tell(docket);
    return this.get(id);
  }

  /** Changes many dockets in one transaction, each a step of its own. */
  changeMany(ids: readonly number[], change: ManyChange): void {
    const { choices, ...rest } = change;
    this.#needs.db.transaction(() => {
      for (const id of ids) {
        const docket = this.get(id);
        this.change(id, docket.version, { ...rest, choices: { ...docket.choices, ...choices } as DocketChoices });
      }
    })();
  }

  /** Gives other dockets the same choices of some groups. */
  copyChoices(from: number, to: readonly number[], groups: readonly ChoiceGroup[]): void {
    const source = this.get(from).choices;
    const keys = groups.flatMap((group): readonly (keyof DocketChoices)[] => CHOICE_GROUPS[group]);
    const part = Object.fromEntries(keys.map((key) => [key, source[key]]));
    this.#needs.db.transaction(() => {
      for (const id of to) {
        const docket = this.get(id);
        this.change(id, docket.version, { choices: DocketChoices.parse({ ...docket.choices, ...part }) });
      }
    })();
  }

  /** Puts another artwork in the place of a docket's own; all choices stay. */
  replaceArtwork(id: number, version: number, artworkId: number, page: number): Docket {
    const before = this.get(id);
    const after = this.change(id, version, { artworkId, page });
    this.#needs.db
      .prepare('UPDATE docket SET previous_artwork_id = ?, previous_page = ? WHERE id = ?')
      .run(before.artworkId, before.page, id);
    this.#tell(after);
    return this.get(id);
  }

  /** The operator has seen what a new artwork changed. */
  forgetPrevious(id: number): void {
    this.#needs.db.prepare('UPDATE docket SET previous_artwork_id = NULL, previous_page = NULL WHERE id = ?').run(id);
    this.#needs.events.changed('dockets', [id]);
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

  #keepStep(id: number, step: number, document: DocketDocument): void {
    this.#needs.db
      .prepare('INSERT OR REPLACE INTO docket_step (docket_id, step, document, made_at) VALUES (?, ?, ?, ?)')
      .run(id, step, JSON.stringify(document), Date.now());
  }

  #tell(docket: Docket): void {
    this.#needs.events.changed('dockets', [docket.id]);
    if (docket.runId !== null) this.#needs.events.changed('runs', [docket.runId]);
  }

  #row(id: number): DocketRow {
    const row = this.#needs.db
      .prepare<[number], DocketRow>(
        `SELECT d.*, (SELECT state FROM run WHERE id = d.run_id) AS run_state,
           (SELECT min(step) FROM docket_step WHERE docket_id = d.id) AS first_step,
           (SELECT max(step) FROM docket_step WHERE docket_id = d.id) AS last_step
         FROM docket d WHERE d.id = ?`
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
      previous:
        row.previous_artwork_id === null
          ? null
          : {
              artworkId: row.previous_artwork_id,
              page: row.previous_page ?? 0,
              name: artworks.get(row.previous_artwork_id).name
            },
      runId: row.run_id,
      runState: row.run_state,
      away: row.away === 1
    };
  }
}

/** What of a docket a person can change. */
export function toDocument(docket: Docket): DocketDocument {
  const { artworkId, page, name, customer, dueOn, note, priority, choices } = docket;
  return { artworkId, page, name, customer, dueOn, note, priority, choices };
}

/** What a docket's adjustment and curves come to; nothing of what changes nothing. */
export function tonesOf({
  adjustment,
  tone
}: Pick<DocketChoices, 'adjustment' | 'tone'>): Pick<Preparation, 'adjustment' | 'tone'> {
  return {
    ...(!changesNothing(adjustment) && { adjustment }),
    ...(!isPlainTone(tone) && { tone: toneTables([tone]).map((table) => [...toneBytes(table)]) })
  };
}
