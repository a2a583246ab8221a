import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEFAULT_CUT } from '$core/artwork/cut-choices';
import { pageLine } from '$core/checks/cut-lines';
import { NO_ADJUSTMENT } from '$core/colour/adjustment';
import { newLayer } from '$core/inks/stack';
import { NO_FINISHING } from '$core/marks/finishing';
import { NO_RECORDS } from '$core/records/choices';
import { newWall } from '$core/panels/wall';
import { USUAL_IN_POCKET } from '$lib/in-jig';
import { DocketChoices } from '$lib/docket-choices';
import type { Shop } from '$lib/server/app/shop';
import { openFlatbedShop } from '../flatbed-shop';
import { oneChunk, temporaryFolder, until, type StandIn } from '../harness';
import { cmykBox, madePdf, spotStroke } from '../made/pdf';

/** Plates are those of their dockets: whatever is chosen otherwise since, and changes what prints, is told. */

const folder = temporaryFolder();
let printer: StandIn;
let shop: Shop;
let condition: number;
let artwork: number;

beforeAll(async () => {
  ({ printer, shop, condition } = await openFlatbedShop(folder.path));
  const line = spotStroke('8 8 m 50 8 l 50 34 l 8 34 l h');
  const page = madePdf({ width: 60, height: 40, trim: [4, 4, 52, 32], spots: { Cut: [0, 1, 0, 0] }, content: `${cmykBox('0.3 .7 0.2 0', 0, 0, 60, 40)} ${line}` }); // prettier-ignore
  const { id } = await shop.artworks.take('sign.pdf', oneChunk(page));
  await until(() => shop.artworks.get(id).state === 'ready');
  artwork = id;
});
afterAll(async () => {
  await shop.close();
  printer.stop();
  folder.remove();
});

/** By choice another one than usual that changes what prints of this page, or may of another. */
const CHANGES: Partial<DocketChoices> = {
  widthMm: 61,
  heightMm: 35,
  box: 'media',
  crop: { left: 1, top: 0, right: 0, bottom: 0 },
  turn: 180,
  mirror: true,
  bleedMm: 5,
  bleedFrom: 'mirror',
  roles: { Cut: 'prints' },
  fieldsOff: true,
  enlarged: 'smooth',
  blackText: true,
  blackPictures: true,
  overprint: false,
  richBlack: true,
  thinnestMm: 0.5,
  stack: { seen: 'front', layers: [newLayer(1, 'white'), newLayer(2, 'colour')] },
  cut: false,
  lines: { ...DEFAULT_CUT, made: [pageLine()] },
  copies: 2,
  mayTurn: false,
  intent: 'saturation',
  adjustment: { ...NO_ADJUSTMENT, contrast: 0.4 },
  tone: { all: { points: [[0, 0], [1, 0.8]], mayFall: false } }, // prettier-ignore
  finishing: { ...NO_FINISHING, crop: { length: 4, offset: 2, weight: 0.25 } },
  wall: newWall()
};
/** What changes nothing of it: names that the page does not have, colours that are not used, and what is no matter of plates. */
const CHANGES_NOTHING: Partial<DocketChoices> = {
  bleedColour: '#102030',
  layersOff: ['Notes'],
  colours: [{ what: { spot: 'Gold' }, to: null }],
  sources: { rgb: 'shop', cmyk: '', grey: '' },
  records: { ...NO_RECORDS, each: 2 },
  jig: { id: 1, lies: USUAL_IN_POCKET },
  platesKept: 9,
  viewingMm: 4000,
  conditionId: null
};

describe('plates', () => {
  it('are old once a choice is another that changes what prints, right again once it is taken back, and by no other', async () => {
    const all = { ...CHANGES, ...CHANGES_NOTHING };
    expect(Object.keys(DocketChoices.shape).filter((key) => !(key in all))).toEqual([]);
    const { id } = shop.dockets.add(artwork, 0, { conditionId: condition, cut: true, bleedMm: 2 });
    const [run] = shop.layingOut.add([id], undefined, true);
    expect((await shop.tasks.ended((await shop.ripping.rip(run!)).id)).error).toBeNull();
    const told: string[] = [];
    for (const [key, other] of Object.entries(all)) {
      const { version, choices } = shop.dockets.get(id);
      const changed = shop.docketEditing.change(id, version, { choices: { ...choices, [key]: other } });
      if (shop.runs.get(run!).stale) told.push(key);
      shop.docketEditing.go(id, changed.version, -1);
      expect([key, shop.runs.get(run!).stale]).toEqual([key, false]);
    }
    expect(told).toEqual(Object.keys(CHANGES));
  });

  it('are old too where the shop says otherwise of what they are made of', async () => {
    const { id } = shop.dockets.add(artwork, 0, { conditionId: condition, cut: true, bleedMm: 2 });
    const [run] = shop.layingOut.add([id], undefined, true);
    const ripped = async () => expect((await shop.tasks.ended((await shop.ripping.rip(run!)).id)).error).toBeNull();
    await ripped();
    const { rules, limits } = shop.settings.current;
    shop.settings.change({ limits: { ...limits, totalInk: 1.2 }, shopName: 'Lantern Signs' });
    expect(shop.runs.get(run!).stale).toBe(false);
    shop.settings.change({ rules: [{ pattern: 'Cut', role: 'prints' }] });
    expect(shop.runs.get(run!).stale).toBe(true);
    shop.settings.change({ rules });
    expect(shop.runs.get(run!).stale).toBe(false);
    shop.conditions.setTone(condition, { all: { points: [[0, 0], [1, 0.7]], mayFall: false } }); // prettier-ignore
    expect(shop.runs.get(run!).stale).toBe(true);
    await ripped();
    expect(shop.runs.get(run!).stale).toBe(false);
  });
});
