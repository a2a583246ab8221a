import { LRUCache } from 'lru-cache';
import { readFrom, readListQuery, type ListPage, type ListQuery, type ListShape } from '$lib/listing';
import { ARTWORK_LIST, type ArtworkLine } from '../artwork/artwork-list';
import type { Artworks } from '../artwork/artworks';
import { COLOUR_LIST, type ColourLine } from '../conditions/colour-list';
import type { NamedColours } from '../conditions/named-colours';
import { CUT_LIST, type CutListLine } from '../cutting/cut-list';
import type { Cuts } from '../cutting/cut-store';
import { DOCKET_LIST, type DocketLine } from '../dockets/docket-list';
import type { Dockets } from '../dockets/dockets';
import { dayOf } from '../platform/days';
import type { Db } from '../platform/db/open';
import type { Events } from '../platform/events';
import { idsOf, knownOf, shapeOf, type ListSpec } from '../platform/listing';
import { RUN_LIST, type RunLine } from '../production/run-list';
import type { Runs } from '../production/run-store';

/** By name: what a row of each list is. */
export interface Lines {
  dockets: DocketLine;
  artwork: ArtworkLine;
  runs: RunLine;
  cuts: CutListLine;
  colours: ColourLine;
}
export type ListName = keyof Lines;

const SPECS: Record<ListName, ListSpec> = {
  dockets: DOCKET_LIST,
  artwork: ARTWORK_LIST,
  runs: RUN_LIST,
  cuts: CUT_LIST,
  colours: COLOUR_LIST
};
/** What can be asked of each list. */
export const SHAPES = Object.fromEntries(Object.entries(SPECS).map(([name, spec]) => [name, shapeOf(spec)])) as Record<
  ListName,
  ListShape
>;
const MOST_KEPT = 300;

interface Needs {
  db: Db;
  events: Events;
  artworks: Artworks;
  dockets: Dockets;
  runs: Runs;
  cuts: Cuts;
  colours: NamedColours;
}

/** The shop's long lists. Many pages that show the same are answered from one look into the database, until anything changes. */
export class Lists {
  readonly #needs: Needs;
  readonly #kept = new LRUCache<string, ListPage<unknown>>({ max: MOST_KEPT });
  #keptAt = '';

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** The page that an address asks for. */
  page<N extends ListName>(name: N, params: URLSearchParams): ListPage<Lines[N]> {
    const now = `${this.#needs.events.changes} ${dayOf(new Date())}`;
    if (now !== this.#keptAt) this.#kept.clear();
    this.#keptAt = now;
    const query = readListQuery(params, SHAPES[name]);
    const from = readFrom(params);
    const key = JSON.stringify([name, query, from]);
    const page = this.#kept.get(key) ?? this.#look(name, query, from);
    this.#kept.set(key, page);
    return page as ListPage<Lines[N]>;
  }

  /** The numbers of rows in the order that an address asks for, from its place on. */
  ids(name: ListName, params: URLSearchParams, count: number): number[] {
    return idsOf(this.#needs.db, SPECS[name], readListQuery(params, SHAPES[name]), readFrom(params), count);
  }

  /** Those of some rows that are still in the list that an address asks for. */
  known(name: ListName, params: URLSearchParams, ids: readonly number[]): number[] {
    return knownOf(this.#needs.db, SPECS[name], readListQuery(params, SHAPES[name]), ids);
  }

  #look(name: ListName, query: ListQuery, from: number): ListPage<unknown> {
    const { artworks, dockets, runs, cuts, colours } = this.#needs;
    switch (name) {
      case 'dockets':
        return dockets.list(query, from);
      case 'artwork':
        return artworks.list(query, from);
      case 'runs':
        return runs.list(query, from);
      case 'cuts':
        return cuts.list(query, from);
      case 'colours':
        return colours.list(query, from);
    }
  }
}
