import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Step = z.object({ version: z.int(), by: z.union([z.literal(-1), z.literal(1)]) });

export const POST = call({ summary: 'Go a step back, or forward again', body: Step }, ({ shop, event, body }) =>
  shop.docketEditing.go(idOf(event), body.version, body.by)
);
