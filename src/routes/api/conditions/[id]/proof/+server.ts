import { call, idOf } from '$lib/server/platform/http/call';

export const GET = call(
  { summary: 'What a condition is to the eye: its tables from inks to colours and back', answers: 'application/octet-stream' },
  async ({ shop, event }) => {
    const figures = await shop.colourMaking.proofTables(idOf(event));
    return new Response(new Uint8Array(figures.buffer as ArrayBuffer, figures.byteOffset, figures.byteLength), {
      headers: { 'content-type': 'application/octet-stream' }
    });
  }
);
