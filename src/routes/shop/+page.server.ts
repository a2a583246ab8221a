import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('zing:settings', 'zing:runs', 'zing:machines');
  // Sizes are asked of the disk: the page does not wait for it.
  return {
    keptSettings: locals.shop.settings.kept,
    plates: { room: locals.shop.plateKeeping.room() },
    inks: locals.shop.machines.pricedInks(),
    away: locals.shop.machineShelf.away(),
    sources: locals.shop.sources.list(),
    fonts: locals.shop.fonts.list()
  };
};
