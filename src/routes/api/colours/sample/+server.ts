import { call } from '$lib/server/platform/http/call';

export const POST = call({ summary: 'Measure the sample that lies under the instrument' }, async ({ shop }) => ({
  lab: await shop.colourInks.sample()
}));
