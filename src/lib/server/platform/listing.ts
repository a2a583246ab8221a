import { fold, PAGE_ROWS, type FacetValue, type ListPage, type ListQuery, type ListShape } from '$lib/listing';
import type { Db } from './db/open';

/** More values of a facet are not shown: the commonest are. */
const MOST_FACET_VALUES = 30;
/** More words of a search are not looked for. */
const MOST_WORDS = 12;
/** More rows are not acted on at once. */
export const MOST_AT_ONCE = 5000;

/**
 * A list of a room: what of SQL it stands on. All of these are written by us; what a person typed is only ever a parameter.
 */
export interface ListSpec {
  /** Tables, joined. */
  from: string;
  /** Fewer tables, where words and facets stand in those alone: counting looks at every row, and joins take most of its time. */
  counted?: string;
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
  /** By name: what is filtered by. */
  facets: Readonly<Record<string, FacetSpec>>;
  /** One facet more, of a column that has too many values to be counted one by one. */
  classes?: { facet: string; cases: (db: Db) => readonly FacetCase[] };
  usual: ListShape['usual'];
  open?: ListShape['open'];
}

/** A class of rows. Each row is of one of them. */
export interface FacetCase {
  name: string;
  /** Of SQL. */
  when: string;
}

/** A facet: a column, plain so that it is counted quickly, and what its values are called. */
export interface FacetSpec {
  column: string;
  /** Made anew for each look: names change, and so does the day. A value that has no name is not counted. */
  say?: (db: Db) => (value: Raw) => string | undefined;
  /** All that can stand in the column, where that is known without looking. */
  values?: readonly Raw[];
  /** Its names in an order of their own; the commonest first where nothing is said. */
  order?: readonly string[];
}
export type Raw = string | number | null;

const facetNames = ({ facets, classes }: ListSpec): string[] => [...Object.keys(facets), ...(classes ? [classes.facet] : [])];

export const shapeOf = (spec: ListSpec): ListShape => {
  const { sorts, usual, open } = spec;
  return {
    sorts: Object.keys(sorts),
    facets: facetNames(spec),
    usual,
    ...(open && { open })
  };
};

/** A condition of SQL and what it is filled with. */
interface Where {
  sql: string;
  given: Raw[];
}

/** What is looked for by words, and what always holds. */
function searched(spec: ListSpec, { words }: ListQuery): Where {
  const list = fold(words).split(/\s+/).filter(Boolean).slice(0, MOST_WORDS);
  return {
    sql: [spec.where ?? '1', ...list.map(() => `instr(${spec.words}, ?) > 0`)].join(' AND '),
    given: list
  };
}

/** By facet: the names of which one has to be. Where none is chosen and nothing looked for, what is open. */
function chosenOf(spec: ListSpec, query: ListQuery): Map<string, readonly string[]> {
  const names = facetNames(spec);
  const chosen = new Map(Object.entries(query.facets).filter(([name, values]) => names.includes(name) && values.length > 0));
  const { open } = spec;
  if (open && !chosen.has(open.facet) && query.words.trim() === '') chosen.set(open.facet, [open.value]);
  return chosen;
}

type Say = (value: Raw) => string | undefined;
const asItIs: Say = (value) => (value === null ? undefined : String(value));
/** Each value is named once, however many groups have it. */
function sayer(db: Db, facet: FacetSpec): Say {
  const say = facet.say?.(db) ?? asItIs;
  const known = new Map<Raw, string | undefined>();
  return (value) => {
    if (!known.has(value)) known.set(value, say(value));
    return known.get(value);
  };
}

/** What was chosen, as a condition on the columns: the values that have those names. */
function whereOf(db: Db, spec: ListSpec, query: ListQuery): Where {
  const { sql, given } = searched(spec, query);
  const parts = [sql];
  const all: Raw[] = [...given];
  for (const [name, values] of chosenOf(spec, query)) {
    if (name === spec.classes?.facet) {
      const cases = spec.classes.cases(db).filter((one) => values.includes(one.name));
      parts.push(cases.map(({ when }) => `(${when})`).join(' OR ') || '0');
      continue;
    }
    const facet = spec.facets[name] as FacetSpec;
    const say = sayer(db, facet);
    const there =
      facet.values ??
      db
        .prepare<[], Raw>(`SELECT DISTINCT ${facet.column} FROM ${spec.counted ?? spec.from}`)
        .pluck()
        .all();
    const those = there.filter((value) => values.includes(say(value) ?? ''));
    // The plus keeps the order of the rows as it is: the first hundred are found by going through them.
    const is = `+(${facet.column}) IN (SELECT value FROM json_each(?))`;
    parts.push(those.includes(null) ? `${is} OR ${facet.column} IS NULL` : is);
    all.push(JSON.stringify(those.filter((value) => value !== null)));
  }
  return { sql: parts.map((part) => `(${part})`).join(' AND '), given: all };
}

const orderOf = (spec: ListSpec, { sort, down }: ListQuery): string =>
  `${spec.sorts[sort] ?? spec.sorts[spec.usual.sort]} ${down ? 'DESC' : 'ASC'}, ${spec.id} DESC`;

/** A page of a list. Facets are told with the first page alone: they do not change by scrolling. */
export function pageOf<Row>(db: Db, spec: ListSpec, query: ListQuery, from: number): ListPage<Row> {
  // Numbers first: what else a row shows is looked up for the page alone.
  const rows = rowsOf<Row>(db, spec, idsOf(db, spec, query, from, PAGE_ROWS));
  const { count, facets } = counted(db, spec, query);
  const all =
    db
      .prepare<[], number>(`SELECT count(*) FROM ${spec.counted ?? spec.from} WHERE ${spec.where ?? '1'}`)
      .pluck()
      .get() ?? 0;
  return { count, all, from, rows, facets: from === 0 ? facets : {} };
}

/** How many there are, and how many there would be with each value of each facet: from one look at all that the words find. */
function counted(db: Db, spec: ListSpec, query: ListQuery): Pick<ListPage<unknown>, 'count' | 'facets'> {
  const { sql, given } = searched(spec, query);
  const facets = Object.values(spec.facets);
  const cases = spec.classes?.cases(db) ?? [{ name: '', when: '1' }];
  // Two facets may be read from one column.
  const columns = [...new Set(facets.map(({ column }) => column))];
  const at = facets.map(({ column }) => columns.indexOf(column));
  const says = facets.map((facet) => sayer(db, facet));
  const groups = db
    .prepare<Raw[], Raw[]>(
      `SELECT ${[...columns, ...cases.map(({ when }) => `sum(${when})`)].join()} FROM ${spec.counted ?? spec.from}
       WHERE ${sql} GROUP BY ${columns.map((_, i) => i + 1).join()}`
    )
    .raw()
    .all(...given);
  const chosen = chosenOf(spec, query);
  const names = facetNames(spec);
  const asked = names.map((name) => chosen.get(name));
  const counts = names.map((name) => new Map((query.facets[name] ?? []).map((value): [string, number] => [value, 0])));
  let count = 0;
  const add = (values: readonly (string | undefined)[], n: number) => {
    const misses = asked.flatMap((only, i) => (only && !only.includes(values[i] ?? '') ? [i] : []));
    if (misses.length === 0) count += n;
    if (misses.length > 1) return;
    // A facet's own choice does not narrow down what else could be chosen of it.
    for (const i of misses.length === 1 ? misses : names.keys()) {
      const value = values[i];
      if (value !== undefined) counts[i]!.set(value, (counts[i]!.get(value) ?? 0) + n);
    }
  };
  for (const group of groups) {
    const values = says.map((say, i) => say(group[at[i]!] as Raw));
    cases.forEach(({ name }, i) => {
      const n = Number(group[columns.length + i]);
      if (n > 0) add([...values, name], n);
    });
  }
  const orders = [...facets.map(({ order }) => order), cases.map(({ name }) => name)];
  return {
    count,
    facets: Object.fromEntries(names.map((name, i) => [name, inOrder(counts[i]!, orders[i], query.facets[name] ?? [])]))
  };
}

/** What is chosen is always shown, so that it can be taken back. */
function inOrder(
  counts: ReadonlyMap<string, number>,
  order: readonly string[] | undefined,
  chosen: readonly string[]
): FacetValue[] {
  const all = [...counts].map(([value, count]) => ({ value, count }));
  if (order) return all.sort((p, q) => order.indexOf(p.value) - order.indexOf(q.value));
  all.sort((p, q) => q.count - p.count || (p.value < q.value ? -1 : 1));
  return all.filter(({ value }, i) => i < MOST_FACET_VALUES || chosen.includes(value));
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
  const { sql, given } = whereOf(db, spec, query);
  return db
    .prepare<Raw[], number>(`SELECT ${spec.id} FROM ${spec.from} WHERE ${sql} AND ${spec.id} IN (SELECT value FROM json_each(?))`)
    .pluck()
    .all(...given, JSON.stringify(ids));
}

/** The numbers of a list's rows in its order, from one place to another. */
export function idsOf(db: Db, spec: ListSpec, query: ListQuery, from: number, count: number): number[] {
  const { sql, given } = whereOf(db, spec, query);
  return db
    .prepare<unknown[], number>(
      `SELECT ${spec.id} FROM ${spec.from} WHERE ${sql} ORDER BY ${orderOf(spec, query)} LIMIT ? OFFSET ?`
    )
    .pluck()
    .all(...given, Math.min(count, MOST_AT_ONCE), from);
}
