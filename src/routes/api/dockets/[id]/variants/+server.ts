import { StripRequest } from '$lib/variants';
import { call, idOf } from '$lib/server/platform/http/call';

export const POST = call(
  { summary: 'Lay out a part of a docket in variants of its tone, lettered, and have its plates made', body: StripRequest },
  ({ shop, event, body }) => shop.variantStrips.make(idOf(event), body)
);
