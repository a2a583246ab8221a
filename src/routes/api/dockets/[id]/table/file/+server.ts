import { Readable } from 'node:stream';
import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'A docket’s table as a CSV file' }, async ({ shop, event }) => {
  const { name, csv } = await shop.docketRecords.written(idOf(event));
  return new Response(Readable.toWeb(Readable.from(csv)) as ReadableStream, {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      // As it is: what packs answers keeps a listener for each part of a long one.
      'cache-control': 'no-store, no-transform',
      'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}`
    }
  });
});
