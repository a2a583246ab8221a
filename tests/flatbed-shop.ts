import { Shop } from '$lib/server/app/shop';
import { modeOf, oneChunk, startStandIn, until, type StandIn } from './harness';
import { smallPage } from './made/small-page';

/** A shop whose one machine is a flatbed with boards of 400 × 300 mm. */
export interface FlatbedShop {
  printer: StandIn;
  shop: Shop;
  condition: number;
}

export async function openFlatbedShop(folder: string): Promise<FlatbedShop> {
  const printer = await startStandIn('printer', {
    MODEL: 'Skua 25',
    MEDIA: JSON.stringify({ name: 'Board', surface: 'matt', widthMm: 400, lengthMm: 0, sheetMm: 300, sheets: 30 })
  });
  const shop = new Shop(folder);
  const skua = shop.machines.add('printer', 'Skua 25', printer.url);
  await shop.machines.lookNow();
  const media = shop.media.addNew({ name: 'Board', family: 'rigid', surface: 'matt', widthMm: 400, thicknessMm: 3 }).id;
  shop.start();
  const condition = shop.conditionEditing.add(skua, media, modeOf('Skua 25/Skerry/rigid/360/4/both ways/draft'));
  await until(() => shop.conditions.get(condition).hasProfile && shop.conditions.get(condition).sheetMm === 300);
  return { printer, shop, condition };
}

/** Artwork of a small page. @returns its number */
export async function artworkOf(shop: Shop, name: string, content: string): Promise<number> {
  const { id } = await shop.artworks.take(`${name}.pdf`, oneChunk(smallPage(content)));
  await until(() => shop.artworks.get(id).state === 'ready');
  return id;
}
