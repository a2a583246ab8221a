import { z } from 'zod';
import { MOST_ON_ROLL } from '$lib/server/cutting/rolls';
import { call, idOf } from '$lib/server/platform/http/call';

const Lay = z.object({
  tasks: z
    .array(z.int())
    .min(1, 'Say which prints the roll has.')
    .max(MOST_ON_ROLL, `A roll has ${MOST_ON_ROLL} prints at most.`),
  backwards: z.boolean().default(false)
});
const Act = z.object({ act: z.enum(['start', 'stop', 'skip', 'unload']) });

export const PUT = call({ summary: 'Put a roll into a cutter', body: Lay }, ({ shop, event, body }) =>
  shop.rolls.lay(idOf(event), body.tasks, body.backwards)
);
export const POST = call(
  { summary: 'Cut the roll to its end, stop, skip a print, or take the roll out', body: Act },
  ({ shop, event, body }) =>
    body.act === 'start' ? shop.rolls.start(idOf(event), event.url.origin) : shop.rolls.ask(idOf(event), body.act)
);
