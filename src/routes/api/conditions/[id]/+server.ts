import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'A printing condition with its results and charts' }, ({ shop, event }) => {
  const id = idOf(event);
  return {
    condition: shop.conditions.get(id),
    results: shop.conditions.results(id),
    charts: shop.charts.of(id),
    states: shop.conditions.states(id)
  };
});
export const DELETE = call(
  { summary: 'Delete a printing condition that nothing was done with; else put it away, with all that is known of it' },
  ({ shop, event }) => shop.conditionEditing.remove(idOf(event))
);
