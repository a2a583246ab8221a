import { LRUCache } from 'lru-cache';
import { prepare } from '$core/artwork/choices';
import { marksOf, stackOf, withPictures, type MarksByInk } from '$core/artwork/docket-stack';
import type { PageLine } from '$core/artwork/facts';
import type { PieceLayer } from '$core/artwork/piece-layers';
import type { Preparation } from '$core/artwork/preparation';
import { roleOf, type RoleRule } from '$core/artwork/roles';
import { changesNothing } from '$core/colour/adjustment';
import { isPlainTone, toneBytes, toneTables } from '$core/colour/tone';
import { finishedLines, type FinishedLine } from '$core/cutting/docket-lines';
import type { Point } from '$core/geometry/matrix';
import type { Stack } from '$core/inks/stack';
import { contourOf } from '$core/layout/contour';
import { hasRecords } from '$core/records/choices';
import { fieldSpots, pageWithFields } from '$core/records/field-spots';
import type { ShopList } from '$core/records/lists';
import { askedLists } from '$core/records/new-field';
import { jigLook } from '$lib/jig-look';
import type { DocketChoices } from '$lib/docket-choices';
import type { Artworks } from '../artwork/artworks';
import type { Conditions } from '../conditions/conditions';
import type { NamedColours } from '../conditions/named-colours';
import type { Jigs } from '../machines/jigs';
import type { Events } from '../platform/events';
import type { Settings } from '../platform/settings';
import type { RecordsOf } from '../records/overlays';
import type { Tables } from '../records/tables';
import type { Docket } from './dockets';

/** Dockets whose lines and layers are kept at hand, so that a run does not make them all anew. */
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
  events: Events;
  jigs: Jigs;
  settings: Settings;
  tables: Tables;
}

/** What choices make of dockets' pages and tables, kept as long as nothing of it changes. */
export class PreparedDockets {
  readonly #needs: Needs;
  readonly #prepared = new LRUCache<number, { of: PreparedOf; made: PreparedDocket }>({ max: MOST_PREPARED });
  readonly #contours = new WeakMap<FinishedLine[], { rings: Point[][] | undefined }>();

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.events.on('artwork read', (id) => this.#readAgain(id));
  }

  /** What was made of a page stands on what was read of it. */
  #readAgain(artworkId: number): void {
    for (const [id, { of }] of [...this.#prepared]) if (of[1] === artworkId) this.#prepared.delete(id);
  }

  /** What is outlined on the docket's page, and what its choices make of the page. */
  get(docket: Docket): PreparedDocket {
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
  recordsOf({ choices, runJig }: Docket): RecordsOf | undefined {
    if (!hasRecords(choices.records)) return undefined;
    const dpi = choices.conditionId === null ? null : this.#needs.conditions.get(choices.conditionId).mode.dpi;
    const jig = jigLook(choices, runJig, (id) => this.#needs.jigs.line(id), undefined);
    const scale = jig && jig !== 'gone' ? jig.scale : 1;
    return { choices, dpi, lists: this.lists(choices.records), ...(scale !== 1 && { scale }) };
  }

  /** The contour that a docket's pieces are cut out by, for placing them by their shape; nothing where it has none. */
  contour(docket: Docket): Point[][] | undefined {
    if (!docket.choices.cut) return undefined;
    const { finished } = this.get(docket);
    const kept = this.#contours.get(finished);
    if (kept) return kept.rings;
    const made = contourOf(finished);
    this.#contours.set(finished, { rings: made });
    return made;
  }

  /** The record of each of a docket's copies; nothing where it has no records. */
  series({ choices }: Pick<Docket, 'choices'>): Uint32Array | undefined {
    return hasRecords(choices.records) ? this.#needs.tables.series(choices.records) : undefined;
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
