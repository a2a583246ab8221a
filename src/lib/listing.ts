/** What a screen asks of a list, and what it gets. The address of the screen holds the same. */

/** Rows that are sent at once. */
export const PAGE_ROWS = 100;
const MOST_VALUES = 40;

/** A list as it is asked for: words, an order, facets by name, and from where on. Anything else in an address is left alone. */
export interface ListQuery {
  /** Words that all have to be in it. */
  words: string;
  /** A column's name. */
  sort: string;
  down: boolean;
  /** By facet: the values of which one has to be. */
  facets: Record<string, string[]>;
}

export interface FacetValue {
  value: string;
  count: number;
}

export interface ListPage<Row> {
  /** How many there are with this filter, and without any. */
  count: number;
  all: number;
  /** Where the rows begin among the count. */
  from: number;
  rows: Row[];
  /** By facet: what else could be chosen, with the other filters as they are, the commonest first. */
  facets: Record<string, FacetValue[]>;
}

/** What of a list can be chosen in an address. */
export interface ListShape {
  sorts: readonly string[];
  facets: readonly string[];
  /** The order where nothing is said. */
  usual: { sort: string; down: boolean };
  /** The value of a facet that is shown where none is chosen and no words are looked for: the rest is put away. */
  open?: { facet: string; value: string };
}

/** Longer words and values are not looked for: no list has them. */
const MOST_CHARACTERS = 200;

/** Reads a list's query from an address; what is not of this list, or wrong, is as if it were not there. */
export function readListQuery(params: URLSearchParams, shape: ListShape): ListQuery {
  const [, minus, name] = /^(-?)(.*)$/.exec(params.get('sort') ?? '') ?? [];
  const known = name !== undefined && shape.sorts.includes(name);
  const facets: Record<string, string[]> = {};
  for (const facet of shape.facets) {
    const values = params
      .getAll(facet)
      .filter((value) => value.length <= MOST_CHARACTERS)
      .slice(0, MOST_VALUES);
    if (values.length > 0) facets[facet] = [...new Set(values)];
  }
  const words = params.get('q') ?? '';
  return {
    words: words.slice(0, MOST_CHARACTERS),
    sort: known ? name : shape.usual.sort,
    down: known ? minus === '-' : shape.usual.down,
    facets
  };
}

/** The address of a list that is asked for otherwise; what in it is not the list's own stays. */
export function listAddress(params: URLSearchParams, query: ListQuery, shape: ListShape): string {
  const own = new Set(['q', 'sort', 'from', ...shape.facets]);
  const others = [...params].filter(([name]) => !own.has(name));
  return new URLSearchParams([...others, ...writeListQuery(query, shape)]).toString();
}

/** The query as an address has it; nothing for what is usual. */
export function writeListQuery(query: ListQuery, shape: ListShape): URLSearchParams {
  const params = new URLSearchParams();
  if (query.words.trim() !== '') params.set('q', query.words);
  if (query.sort !== shape.usual.sort || query.down !== shape.usual.down)
    params.set('sort', (query.down ? '-' : '') + query.sort);
  for (const facet of shape.facets) for (const value of query.facets[facet] ?? []) params.append(facet, value);
  return params;
}

/** From which row on a page is asked for. @returns 0 for anything that is no place in a list */
export function readFrom(params: URLSearchParams): number {
  const from = Number(params.get('from') ?? 0);
  return Number.isSafeInteger(from) && from > 0 ? Math.min(from, 1e7) : 0;
}

/** A list whose rows are all at hand: by name, what it is sorted, filtered and searched by. */
export interface LocalSpec<Row> {
  id: (row: Row) => number;
  words: (row: Row) => string;
  sorts: Readonly<Record<string, (row: Row) => string | number>>;
  facets: Readonly<Record<string, (row: Row) => string | readonly string[]>>;
  /** Facets whose values follow each other as numbers do; of others the commonest is first. */
  inOrder?: readonly string[];
  usual: ListShape['usual'];
}

export const localShape = <Row>({ sorts, facets, usual }: LocalSpec<Row>): ListShape => ({
  sorts: Object.keys(sorts),
  facets: Object.keys(facets),
  usual
});

/** Letters that are no other letter with an accent, as they are typed where they are not on the keys. */
const WITHOUT_STROKES: Readonly<Record<string, string>> = { ł: 'l', ø: 'o', đ: 'd', ħ: 'h', æ: 'ae', œ: 'oe', ß: 'ss' };

/** Words as they are looked for: in lower case, without accents, in one way of writing. */
export const fold = (written: string): string =>
  written
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[łøđħæœß]/g, (letter) => WITHOUT_STROKES[letter] ?? letter);

/** All rows that fit, in order, as one page. */
export function localPage<Row>(rows: readonly Row[], spec: LocalSpec<Row>, query: ListQuery): ListPage<Row> {
  const words = fold(query.words).split(/\s+/).filter(Boolean);
  const searched = rows.filter((row) => {
    const text = fold(spec.words(row));
    return words.every((word) => text.includes(word));
  });
  const has = (row: Row, name: string, values: readonly string[]) => {
    const own = spec.facets[name]?.(row) ?? [];
    return (typeof own === 'string' ? [own] : own).some((value) => values.includes(value));
  };
  const chosen = Object.entries(query.facets).filter(([name, values]) => name in spec.facets && values.length > 0);
  const fits = (row: Row, without?: string) => chosen.every(([name, values]) => name === without || has(row, name, values));
  const by = spec.sorts[query.sort] ?? spec.sorts[spec.usual.sort];
  const sign = query.down ? -1 : 1;
  const order = (p: Row, q: Row): number => {
    const [a, b] = by ? [by(p), by(q)] : [0, 0];
    const first = typeof a === 'number' && typeof b === 'number' ? a - b : String(a).localeCompare(String(b));
    return sign * first || spec.id(q) - spec.id(p);
  };
  const found = searched.filter((row) => fits(row)).sort(order);
  return { count: found.length, all: rows.length, from: 0, rows: found, facets: localFacets(searched, spec, query, fits) };
}

function localFacets<Row>(
  rows: readonly Row[],
  spec: LocalSpec<Row>,
  query: ListQuery,
  fits: (row: Row, without: string) => boolean
): Record<string, FacetValue[]> {
  return Object.fromEntries(
    Object.entries(spec.facets).map(([name, read]) => {
      const counts = new Map<string, number>((query.facets[name] ?? []).map((value) => [value, 0]));
      for (const row of rows.filter((one) => fits(one, name))) {
        const own = read(row);
        for (const value of typeof own === 'string' ? [own] : own) counts.set(value, (counts.get(value) ?? 0) + 1);
      }
      const values = [...counts].map(([value, count]) => ({ value, count }));
      const byName = (p: FacetValue, q: FacetValue) => p.value.localeCompare(q.value, 'en', { numeric: true });
      return [name, values.sort((p, q) => (spec.inOrder?.includes(name) ? 0 : q.count - p.count) || byName(p, q))];
    })
  );
}
