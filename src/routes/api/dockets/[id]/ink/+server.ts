import { call, idOf } from '$lib/server/api';
import { Problem } from '$lib/server/problem';

export const GET = call(
  { summary: 'Mean ink of a docket’s page in its condition, C, M, Y, K in 0…1' },
  async ({ shop, event }) => {
    const docket = shop.dockets.get(idOf(event));
    const { conditionId } = docket.choices;
    if (conditionId === null) throw new Problem(422, 'Choose a media and print mode first.');
    return { means: await shop.conditions.pageInk(docket.artworkId, docket.page, conditionId) };
  }
);
