import { z } from 'zod';
import { Tone } from '$core/colour/tone';
import { call, idOf } from '$lib/server/platform/http/call';

export const PUT = call(
  { summary: 'Set the tone curves of a condition, which go after those of a docket', body: z.object({ tone: Tone }) },
  ({ shop, event, body }) => shop.conditions.setTone(idOf(event), body.tone)
);
