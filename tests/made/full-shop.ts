import { Shop } from '$lib/server/app/shop';
import { ALL_MODES } from '$standins/printer/modes';
import { oneChunk, until } from '../harness';
import { fillShop } from './many';
import { cmykBox, madePdf, spotStroke } from './pdf';

/** What the printer stand-in of such a shop has on it. */
export const FULL_SHOP_FILM = { name: 'Film', surface: 'gloss', widthMm: 300, lengthMm: 90_000 };
const CLOTH = 'Cloth';

/**
 * A shop with a printer, two media and a run that is RIPped, and then as many artworks, dockets and printed runs as are asked
 * for. The folder is free afterwards, for a server to be started on.
 *
 * @param printerUrl of a stand-in with `FULL_SHOP_FILM` on it
 */
export async function makeFullShop(
  folder: string,
  printerUrl: string,
  many: { artworks: number; dockets: number; printedRuns?: number }
): Promise<{ machineId: number; runId: number }> {
  const shop = new Shop(folder);
  try {
    const machineId = shop.machines.add('printer', 'Petrel 13', printerUrl);
    shop.start();
    await shop.machines.lookNow();
    const modes = [720, 360].map((dpi) =>
      ALL_MODES.find((mode) => mode.machine === 'Petrel 13' && mode.family === 'calendered' && mode.dpi === dpi)!
    );
    const conditions = ['Film', CLOTH].map((name, i) => {
      const card = shop.media.addNew({ name, widthMm: FULL_SHOP_FILM.widthMm });
      return shop.conditionEditing.add(machineId, card.id, modes[i === 0 ? 1 : 0]!);
    });
    await until(() => conditions.every((id) => shop.conditions.get(id).hasProfile));
    const pdf = madePdf({
      width: 90,
      height: 60,
      spots: { Cut: [0, 1, 0, 0] },
      content: `${cmykBox('0.6 0.2 0 0', 0, 0, 90, 60)}${cmykBox('0 0 0 1', 20, 20, 50, 20)}${spotStroke('5 5 m 85 5 l 85 55 l 5 55 l h')}`
    });
    const { id } = await shop.artworks.take('Berth tag.pdf', oneChunk(pdf));
    await until(() => shop.artworks.get(id).state === 'ready');
    const [pattern, laid] = [1, 9].map((copies) =>
      shop.dockets.add(id, 0, { conditionId: conditions[0]!, copies, bleedMm: 0, cut: false }, 'Harbour Trading')
    );
    const [runId] = shop.layingOut.add([laid!.id]);
    const { error } = await shop.tasks.ended((await shop.ripping.rip(runId!)).id);
    if (error) throw new Error(error);
    fillShop(shop.db, pattern!.id, many);
    return { machineId, runId: runId! };
  } finally {
    await shop.close();
  }
}
