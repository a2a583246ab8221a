import { call } from '$lib/server/platform/http/call';
import { bytesOf } from '$lib/server/platform/http/body';
import { MOST_FONT_BYTES } from '$lib/server/artwork/fonts';

export const GET = call({ summary: 'Fonts of the shop, for lettering that comes without its font' }, ({ shop }) =>
  shop.fonts.list()
);
export const PUT = call({ summary: 'Take a font file: TrueType, OpenType, WOFF or WOFF2' }, async ({ shop, event }) =>
  shop.fonts.take(await bytesOf(event.request, MOST_FONT_BYTES))
);
