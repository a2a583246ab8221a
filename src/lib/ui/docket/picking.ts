import type { Preparation } from '$core/artwork/preparation';
import type { Point } from '$core/geometry/matrix';
import { PLAIN_STACK } from '$core/inks/stack';
import type { Docket } from '$lib/server/dockets/dockets';

/**
 * The colour of a docket’s picture at a place, mm of the finished size: as it is sent, or, for a layer of ink, as it will
 * print, since that is what the layer is told by.
 */
export async function colourAt(
  { artworkId, page, choices }: Pick<Docket, 'artworkId' | 'page' | 'choices'>,
  prepare: Preparation,
  printed: { conditionId: number | null } | null,
  at: Point
): Promise<[number, number, number]> {
  const { widthMm, heightMm, bleedMm, sources, colours, roles, intent, adjustment, tone } = choices;
  const piece = { widthMm, heightMm, bleedMm, sources, colours, prepare };
  const of = { piece, stack: PLAIN_STACK, roles, conditionId: printed?.conditionId ?? null, intent, adjustment, tone };
  const path = printed
    ? `layers?page=${page}&px=1200&show=1&of=${encodeURIComponent(JSON.stringify(of))}`
    : `piece?page=${page}&px=1200&piece=${encodeURIComponent(JSON.stringify(piece))}`;
  const reply = await fetch(`/api/artworks/${artworkId}/${path}`);
  if (!reply.ok) throw new Error('The picture could not be drawn, so no colour was picked. Try again.');
  const bitmap = await createImageBitmap(await reply.blob());
  const context = new OffscreenCanvas(bitmap.width, bitmap.height).getContext('2d');
  context?.drawImage(bitmap, 0, 0);
  const x = ((at.x + bleedMm) / (widthMm + 2 * bleedMm)) * bitmap.width;
  const y = ((at.y + bleedMm) / (heightMm + 2 * bleedMm)) * bitmap.height;
  const [r = 255, g = 255, b = 255] = context?.getImageData(Math.floor(x), Math.floor(y), 1, 1).data ?? [];
  return [r, g, b];
}
