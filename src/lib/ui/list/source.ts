import { localPage, readListQuery, localShape, type ListPage, type LocalSpec } from '$lib/listing';
import { send } from '$lib/ui/common/client';

/** Where a table gets its rows from: the server, or what the page has. */
export interface ListSource<Row> {
  page: (params: URLSearchParams, from: number) => Promise<ListPage<Row>>;
  /** Numbers of rows in their order, from one place on. */
  ids: (params: URLSearchParams, from: number, count: number) => Promise<number[]>;
  /** Those of some rows that are still in the list. */
  known: (params: URLSearchParams, ids: readonly number[]) => Promise<number[]>;
}

const withMore = (params: URLSearchParams, more: Record<string, number>): string => {
  const all = new URLSearchParams(params);
  for (const [name, value] of Object.entries(more)) all.set(name, String(value));
  return all.toString();
};

export const fromServer = <Row>(name: 'dockets' | 'artwork' | 'runs' | 'cuts' | 'colours'): ListSource<Row> => ({
  page: (params, from) => send('GET', `/api/lists/${name}?${withMore(params, { from })}`),
  ids: async (params, from, count) =>
    (await send<{ ids: number[] }>('GET', `/api/lists/${name}/ids?${withMore(params, { from, count })}`)).ids,
  known: async (params, ids) =>
    (await send<{ ids: number[] }>('POST', `/api/lists/${name}/ids?${params.toString()}`, { ids })).ids
});

export function fromRows<Row>(rows: () => readonly Row[], spec: LocalSpec<Row>): ListSource<Row> {
  const page = (params: URLSearchParams) => localPage(rows(), spec, readListQuery(params, localShape(spec)));
  const ids = (params: URLSearchParams) => page(params).rows.map(spec.id);
  return {
    page: (params) => Promise.resolve(page(params)),
    ids: (params, from, count) => Promise.resolve(ids(params).slice(from, from + count)),
    known: (params, asked) => Promise.resolve(ids(params).filter((id) => asked.includes(id)))
  };
}
