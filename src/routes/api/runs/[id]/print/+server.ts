import { z } from 'zod';
import { MOST_TIMES } from '$lib/came-out';
import { call, idOf } from '$lib/server/platform/http/call';

const Order = z.object({
  machineId: z.int(),
  /** Of the screen's own making: the same request is carried out once. */
  request: z.uuid().optional(),
  /** As often as it is to come out still, where that is not said. */
  times: z
    .int('Count in whole numbers.')
    .min(1, 'Print at least once.')
    .max(MOST_TIMES, `At most ${MOST_TIMES} times at once.`)
    .optional()
});

export const POST = call({ summary: 'Print a RIPped run, once or several times', body: Order }, ({ shop, event, body }) =>
  shop.printing.start(idOf(event), body.machineId, body.times, body.request)
);
