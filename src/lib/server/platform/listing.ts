import { fold, PAGE_ROWS, type FacetValue, type ListPage, type ListQuery, type ListShape } from '$lib/listing';
import type { Db } from './db/open';

/** More values of a facet are not shown: the commonest are. */
const MOST_FACET_VALUES = 30;
/** More rows are not acted on at once. */
export const MOST_AT_ONCE = 5000;

/**
 * A list of a room: what of SQL it stands on. All of these are written by us; what a person typed is only ever a parameter.
 */
export interface ListSpec {
  /** Tables, joined. */
  from: string;
  /** What always holds. */
  where?: string;
  /** The row's own number. */
  id: string;
  /** What a row of a page has. */
  columns: string;
  /** Its folded words. */
  words: string;
  /** By name: what is sorted by. Equal ones follow by the number, the newest first. */
  sorts: Readonly<Record<string, string>>;
  /** By name: what is filtered by, a text. */
  facets: Readonly<Record<string, string>>;
  /** By facet: its values in an order of their own; the commonest first where nothing is said. */
  inOrder?: Readonly<Record<string, readonly string[]>>;
  usual: ListShape['usual'];
  open?: ListShape['open'];
}

export const shapeOf = ({ sorts, facets, usual, open }: ListSpec): ListShape => ({
  sorts: Object.keys(sorts),
  facets: Object.keys(facets),
  usual,
  ...(open && { open })
});

/** A condition of SQL and what it is filled with. */
interface Where {
  sql: string;
  given: string[];
}

function whereOf(spec: ListSpec, query: ListQuery, without?: string): Where {
  const parts = [spec.where ?? '1'];
  const given: string[] = [];
  for (const word of fold(query.words).split(/\s+/).filter(Boolean).slice(0, 12)) {
    parts.push(`instr(${spec.words}, ?) > 0`);
    given.push(word);
  }
  for (const [name, values] of Object.entries(query.facets)) {
    const expression = spec.facets[name];
    if (!expression || name === without || values.length === 0) continue;
    parts.push(`${expression} IN (${values.map(() => '?').join()})`);
    given.push(...values);
  }
  const { open } = spec;
  if (open && open.facet !== without && !query.facets[open.facet]?.length && query.words.trim() === '') {
    parts.push(`${spec.facets[open.facet]} = ?`);
    given.push(open.value);
  }
  return { sql: parts.join(' AND '), given };
}

const orderOf = (spec: ListSpec, { sort, down }: ListQuery): string =>
  `${spec.sorts[sort] ?? spec.sorts[spec.usual.sort]} ${down ? 'DESC' : 'ASC'}, ${spec.id} DESC`;

/** A page of a list. Facets are counted for the first page alone: they do not change by scrolling. */
export function pageOf<Row>(db: Db, spec: ListSpec, query: ListQuery, from: number): ListPage<Row> {
  const { sql, given } = whereOf(spec, query);
  const count =
    db
      .prepare<string[], number>(`SELECT count(*) FROM ${spec.from} WHERE ${sql}`)
      .pluck()
      .get(...given) ?? 0;
  const all =
    db
      .prepare<[], number>(`SELECT count(*) FROM ${spec.from} WHERE ${spec.where ?? '1'}`)
      .pluck()
      .get() ?? 0;
  // Numbers first: what else a row shows is looked up for the page alone.
  const rows = rowsOf<Row>(db, spec, idsOf(db, spec, query, from, PAGE_ROWS));
  return { count, all, from, rows, facets: from === 0 ? facetsOf(db, spec, query) : {} };
}

function facetsOf(db: Db, spec: ListSpec, query: ListQuery): Record<string, FacetValue[]> {
  return Object.fromEntries(
    Object.entries(spec.facets).map(([name, expression]) => {
      const { sql, given } = whereOf(spec, query, name);
      const values = db
        .prepare<string[], FacetValue>(
          `SELECT ${expression} AS value, count(*) AS count FROM ${spec.from} WHERE ${sql} AND ${expression} IS NOT NULL
           GROUP BY 1 ORDER BY 2 DESC, 1 LIMIT ${MOST_FACET_VALUES}`
        )
        .all(...given);
      // What is chosen is always shown, so that it can be taken back.
      const chosen = (query.facets[name] ?? []).filter((value) => !values.some((one) => one.value === value));
      const order = spec.inOrder?.[name];
      if (order) values.sort((p, q) => order.indexOf(p.value) - order.indexOf(q.value));
      return [name, [...values, ...chosen.map((value) => ({ value, count: 0 }))]];
    })
  );
}

/** Rows by their numbers, in the order of these; those that are gone are left out. */
export const rowsOf = <Row>(db: Db, spec: ListSpec, ids: readonly number[]): Row[] =>
  db
    .prepare<[string], Row>(
      `SELECT ${spec.columns} FROM json_each(?) AS asked JOIN ${spec.from} WHERE ${spec.id} = asked.value ORDER BY asked.key`
    )
    .all(JSON.stringify(ids));

/** Those of some rows that are in a list as it is asked for. */
export function knownOf(db: Db, spec: ListSpec, query: ListQuery, ids: readonly number[]): number[] {
  const { sql, given } = whereOf(spec, query);
  return db
    .prepare<string[], number>(
      `SELECT ${spec.id} FROM ${spec.from} WHERE ${sql} AND ${spec.id} IN (SELECT value FROM json_each(?))`
    )
    .pluck()
    .all(...given, JSON.stringify(ids));
}

/** The numbers of a list's rows in its order, from one place to another. */
export function idsOf(db: Db, spec: ListSpec, query: ListQuery, from: number, count: number): number[] {
  const { sql, given } = whereOf(spec, query);
  return db
    .prepare<unknown[], number>(
      `SELECT ${spec.id} FROM ${spec.from} WHERE ${sql} ORDER BY ${orderOf(spec, query)} LIMIT ? OFFSET ?`
    )
    .pluck()
    .all(...given, Math.min(count, MOST_AT_ONCE), from);
}
