import { z } from 'zod';
import { call, idOf } from '$lib/server/platform/http/call';

const Asked = z.object({ words: z.string().max(200).default('') });

export const GET = call(
  { summary: 'Numbers of a docket’s records with some words in them', query: Asked },
  ({ shop, event, query }) => shop.docketRecords.matching(idOf(event), query.words)
);
