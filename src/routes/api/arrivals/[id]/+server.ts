import { z } from 'zod';
import { WAYS } from '$lib/arrivals';
import { laneOffers } from '$lib/server/production/lane-offers';
import { call, idOf } from '$lib/server/platform/http/call';

const Body = z.discriminatedUnion('act', [
  z.object({ act: z.literal('again'), recipeId: z.int().nullable().optional(), way: z.enum(WAYS).optional() }),
  z.object({ act: z.literal('undo') }),
  z.object({ act: z.literal('settle') })
]);

/** Of each docket its price and time on the lane that it is for, alone. */
export const GET = call(
  { summary: 'What came, what was made of it, its checks, its price and its time' },
  async ({ shop, event }) => {
    const arrival = shop.arrivalStore.get(idOf(event));
    const dockets = [];
    for (const docket of arrival.dockets) {
      const { choices } = shop.dockets.get(docket.id);
      const lane = choices.conditionId === null ? undefined : shop.lanes.ensure(choices.conditionId);
      const [offer] = lane === undefined ? [] : await laneOffers(shop, [docket.id], lane);
      const run = docket.runId === null ? null : shop.runs.get(docket.runId);
      dockets.push({
        ...docket,
        check: shop.docketChecking.worst(docket.id),
        runState: run?.state ?? null,
        lengthMm: offer?.lengthMm ?? null,
        seconds: offer?.seconds ?? null,
        mediaCost: offer?.mediaCost ?? null,
        inkCost: offer?.inkCost ?? null,
        timeCost: offer?.timeCost ?? null,
        cost: offer?.cost ?? null
      });
    }
    return { ...arrival, dockets };
  }
);
export const POST = call(
  { summary: 'Make what came again, take back what was made of it, or say that it is seen to', body: Body },
  async ({ shop, event, body }) => {
    const id = idOf(event);
    if (body.act === 'again') shop.arrivals.again(id, body);
    else if (body.act === 'undo') await shop.arrivals.undo(id);
    else shop.arrivals.settle(id);
  }
);
