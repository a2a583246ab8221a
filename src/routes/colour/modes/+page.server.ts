import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, url, depends }) => {
  depends('zing:conditions', 'zing:dockets', 'zing:machines');
  const { shop } = locals;
  const id = Number(url.searchParams.get('docket'));
  const docket = Number.isSafeInteger(id) && id > 0 && shop.dockets.lines([id]).length > 0 ? shop.dockets.get(id) : undefined;
  return {
    modes: shop.modes.list(),
    media: shop.media.list().map(({ id: mediaId, card }) => ({
      id: mediaId,
      name: card.name,
      family: card.family,
      costPerM2: card.costPerM2,
      machines: Object.keys(card.handling)
    })),
    docket: docket ? { id: docket.id, name: docket.name, version: docket.version, choices: docket.choices } : null
  };
};
