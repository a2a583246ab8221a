import { ARRIVAL_STATES, CameFrom, type ArrivalState } from '$lib/arrivals';
import { outerAddress } from '$lib/server/automation/printers/printer-doors';
import type { PageServerLoad } from './$types';

const PAGE = 100;

export const load: PageServerLoad = ({ locals, depends, url }) => {
  depends('zing:arrivals', 'zing:recipes', 'zing:dockets');
  const { arrivalStore, folderWatching, networkPrinters, printerDoors, recipes, watchedFolders } = locals.shop;
  const show = url.searchParams.get('show');
  const known = ARRIVAL_STATES.find((state) => state === show);
  const states: readonly ArrivalState[] | undefined =
    show === 'person' ? ['waiting', 'refused'] : show === 'under way' ? ['reading', 'made', 'laid out'] : known && [known];
  const asked = Number(url.searchParams.get('before') ?? NaN);
  const before = Number.isSafeInteger(asked) ? asked : undefined;
  const words = (url.searchParams.get('q') ?? '').slice(0, 200);
  const cameFrom = url.searchParams.get('from') ?? '';
  const from = CameFrom.safeParse(cameFrom).data;
  return {
    arrivals: arrivalStore.list({ states, words, from, before, most: PAGE }),
    /** Whether there may be older ones, and whether these are not the newest. */
    page: PAGE,
    isOlder: before !== undefined,
    counts: arrivalStore.counts(),
    show: states ? show! : 'all',
    words,
    from: from ? cameFrom : '',
    folders: watchedFolders.list(),
    folderStates: folderWatching.states(),
    printers: networkPrinters.list(),
    printerStates: printerDoors.states(),
    freePort: networkPrinters.freePort(),
    reachedAt: outerAddress(),
    recipes: recipes.list().map(({ id, recipe }) => ({ id, name: recipe.name }))
  };
};
