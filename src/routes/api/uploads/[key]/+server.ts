import { call } from '$lib/server/platform/http/call';

export const GET = call({ summary: 'How much of an upload has come, and what became of it' }, async ({ shop, event }) => {
  const { key = '' } = event.params as Record<string, string | undefined>;
  return { bytes: await shop.files.uploaded(key), artwork: shop.artworks.ofUpload(key) ?? null };
});
