import { call } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'Names of the fonts that fields can be lettered in' }, ({ shop }) =>
  shop.fonts.faces().map(({ name }) => name)
);
