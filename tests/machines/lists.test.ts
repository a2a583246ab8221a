import { gunzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { search } from '$lib/server/app/search';
import { fourInks, type InkSet } from '$core/inks/ink-set';
import { Shop } from '$lib/server/app/shop';
import { laneOffers } from '$lib/server/production/lane-offers';
import { ALL, oneChunk, startStandIn, temporaryFolder, until, type StandIn } from '../harness';
import { FULL_SHOP_FILM, makeFullShop } from '../made/full-shop';
import { cmykBox, madePdf } from '../made/pdf';

/** Lists, the Floor and search of a shop that works: what they show follows what happens. */

const folder = temporaryFolder();
const machineFolder = temporaryFolder();
let printer: StandIn;
let shop: Shop;

beforeAll(async () => {
  printer = await startStandIn('printer', { FOLDER: machineFolder.path, MEDIA: JSON.stringify(FULL_SHOP_FILM) });
  await makeFullShop(folder.path, printer.url, { artworks: 20, dockets: 40, printedRuns: 5 });
  shop = new Shop(folder.path);
  shop.start();
  await shop.machines.lookNow();
});
afterAll(async () => {
  await shop.close();
  printer.stop();
  folder.remove();
  machineFolder.remove();
});

const asked = (text: string) => new URLSearchParams(text);
const dockets = (text = '') => shop.lists.page('dockets', asked(text));
const found = (text: string) => search(shop.db, text).map(({ kind, title, href }) => [kind, title, href]);

describe('a list', () => {
  it('is looked up once for many who ask the same, and anew when something changed', () => {
    const first = dockets('sort=customer');
    expect(dockets('sort=customer')).toBe(first);
    // Twenty of the forty are printed and done.
    expect([first.count, first.all]).toEqual([22, 42]);
    const docket = shop.dockets.get(first.rows[0]!.id);
    shop.docketEditing.change(docket.id, docket.version, { customer: 'Aardvark & Sons' });
    const after = dockets('sort=customer');
    expect(after).not.toBe(first);
    expect(after.rows[0]).toMatchObject({ id: docket.id, customer: 'Aardvark & Sons' });
    expect(after.facets.customer).toContainEqual({ value: 'Aardvark & Sons', count: 1 });
  });

  it('of artwork has a row for each page, says where it is used, and which files wait to be taken', async () => {
    const pages = Array.from({ length: 3 }, () => ({ width: 70, height: 50, content: cmykBox('0 0 0 1', 5, 5, 20, 20) }));
    const { id } = await shop.artworks.take('Three sheets.pdf', oneChunk(madePdf(...pages)));
    expect(shop.lists.page('artwork', asked('state=being+read')).rows).toMatchObject([
      { artworkId: id, brief: null, widthMm: null }
    ]);
    expect(shop.artworks.pagesOf(shop.lists.ids('artwork', asked('q=three+sheets'), 10))).toEqual([]);
    await until(() => shop.artworks.get(id).state === 'ready');
    const lines = () => shop.lists.page('artwork', asked('q=three+sheets')).rows;
    expect(lines().map(({ page, widthMm, brief }) => [page, widthMm, brief!.pages])).toEqual(
      [0, 1, 2].map((page) => [page, expect.closeTo(70, 2), 3])
    );
    const [docket] = shop.dockets.addMany(shop.artworks.pagesOf([lines()[1]!.id]));
    expect(lines().map(({ newest, ofFile }) => [newest, ofFile])).toEqual([
      [[], 1],
      [[docket], 1],
      [[], 1]
    ]);
    expect(() => shop.artworks.remove(id)).toThrow(/used by 1 docket/);
    shop.docketShelf.remove([docket!]);
    shop.artworks.remove(id);
    expect(lines()).toEqual([]);
    expect(() => shop.docketShelf.restore([docket!])).toThrow(/its artwork was deleted meanwhile/);
  });

  it('tells the worst check of each docket a moment after it changed', async () => {
    await until(() => dockets('check=not+looked+at+yet').count === 0);
    const { id } = dockets().rows[0]!;
    const { version, choices } = shop.dockets.get(id);
    const worst = () => shop.dockets.lines([id])[0]!.worst;
    // Wider than the roll: that stops.
    shop.docketEditing.change(id, version, { choices: { ...choices, widthMm: 900, heightMm: 600 } });
    expect(worst()).toBeNull();
    await until(() => worst() === 2);
    shop.docketEditing.go(id, shop.dockets.get(id).version, -1);
    await until(() => worst() !== null && worst()! < 2);
  });
});

it('dockets are looked at again where their machine has other inks, and not when it first says its colours', async () => {
  await until(() => dockets('check=not+looked+at+yet').count === 0);
  const unchecked = () => shop.db.prepare('SELECT count(*) FROM docket WHERE worst IS NULL AND away = 0').pluck().get();
  const say = (inks: InkSet | null) => {
    shop.db.prepare("UPDATE machine SET inks = ? WHERE kind = 'printer'").run(inks && JSON.stringify(inks));
    return unchecked();
  };
  const colours = fourInks([6, 13, 21]);
  expect([say(null), say(colours)]).toEqual([0, 0]);
  expect(say([...colours, { ...colours[0]!, name: 'White', role: 'white', channel: 'White' }])).toBeGreaterThan(0);
  say(colours);
});

it('a change says which rows it is of, as long as they are few', () => {
  const heard: string[] = [];
  const quiet = shop.events.listen((event) => {
    if (event.kind === 'changed') heard.push(`${event.what} ${event.ids?.join() ?? 'any'}`);
  });
  const [first, second] = dockets().rows;
  const docket = shop.dockets.get(first!.id);
  shop.docketEditing.change(docket.id, docket.version, { note: 'by the door' });
  shop.docketShelf.putAway([first!.id, second!.id], true);
  shop.docketShelf.putAway([first!.id, second!.id], false);
  // Nothing came of it: nobody is told.
  shop.docketShelf.putAway([first!.id, second!.id], false);
  shop.lanes.change(shop.lanes.list()[0]!.id, {});
  shop.events.changed(
    'dockets',
    Array.from({ length: 500 }, (_, i) => i)
  );
  quiet();
  const both = [first!.id, second!.id].sort((p, q) => p - q).join();
  expect(
    heard.map((line) =>
      line.replace(/[\d,]+$/, (ids) =>
        ids
          .split(',')
          .map(Number)
          .sort((p, q) => p - q)
          .join()
      )
    )
  ).toEqual([
    `dockets ${first!.id}`,
    `dockets ${both}`,
    `dockets ${both}`,
    `lanes ${shop.lanes.list()[0]!.id}`,
    'runs any',
    'dockets any'
  ]);
});

it('a docket that was deleted comes back under its own number, whatever was made since', () => {
  const artworkId = shop.dockets.get(dockets().rows[0]!.id).artworkId;
  const gone = shop.dockets.add(artworkId, 0, { copies: 3 });
  shop.docketShelf.remove([gone.id]);
  const made = shop.dockets.add(artworkId, 0, { copies: 4 });
  expect(made.id).not.toBe(gone.id);
  expect(shop.docketShelf.restore([gone.id])).toEqual([gone.id]);
  expect(shop.dockets.get(gone.id).choices.copies).toBe(3);
  shop.docketShelf.remove([gone.id, made.id]);
});

describe('search', () => {
  it('finds anything of the shop by its words, grouped, whatever their accents', () => {
    expect(found('')).toEqual([]);
    expect(found('machine petrel')).toEqual([['Machine', 'Petrel 13', '/shop#machine-1']]);
    expect(found('lane cloth').map(([kind]) => kind)).toEqual(['Lane']);
    expect(found('condition film')).toHaveLength(1);
    expect(found('print mode 720').every(([kind]) => kind === 'Print mode')).toBe(true);
    expect(found('run 3')[0]).toEqual(['Run', 'Run 3', '/runs/3']);
    expect(found('lodz').map(([kind]) => kind)).toContain('Docket');
    expect(found("'; DROP TABLE docket; --")).toEqual([]);
    // A few of each kind.
    expect(found('film').filter(([kind]) => kind === 'Run').length).toBeLessThanOrEqual(5);
  });
});

describe('the Floor', () => {
  it('is written and packed once for all who have it open, until something changes', async () => {
    const look = async () => ({
      changes: shop.events.changes,
      packed: await shop.floor.packed(),
      again: await shop.floor.packed(),
      text: await shop.floor.text(),
      floor: await shop.floor.now()
    });
    // Dockets that changed are checked meanwhile, which is a change too.
    const { packed, again, text, floor } = await until(async () => {
      const seen = await look();
      return seen.changes === shop.events.changes ? seen : undefined;
    });
    expect(again).toBe(packed);
    expect(gunzipSync(packed).toString()).toBe(text);
    expect(JSON.parse(text)).toEqual(JSON.parse(JSON.stringify(floor)));
    const docket = shop.dockets.get((await shop.floor.now()).tray.rows[0]!.id);
    shop.docketEditing.change(docket.id, docket.version, { customer: 'Lamplighters' });
    expect(gunzipSync(await shop.floor.packed()).toString()).toContain('Lamplighters');
  });

  it('has what lies in the lanes and the first of the tray; what is sent leaves the tray', async () => {
    const before = await shop.floor.now();
    // The open run, and of five that are printed the newest two.
    expect(before.runs.map(({ state }) => state).sort()).toEqual(['printed', 'printed', 'ripped']);
    expect(before.ready).toBe(before.tray.count);
    const { laidOut, waiting } = shop.layingOut.addWaiting();
    expect([laidOut, waiting]).toEqual([before.tray.count, 0]);
    expect((await shop.floor.now()).tray.count).toBe(0);
    expect(shop.layingOut.addWaiting()).toEqual({ laidOut: 0, waiting: 0 });
  });

  it('says what would change, moves dockets together or not at all, and keeps no run that is empty', async () => {
    const run = (await shop.floor.now()).runs.find(({ state }) => state !== 'printed')!;
    const cloth = shop.lanes.list().find(({ media }) => media === 'Cloth')!;
    const ids = run.dockets.map(({ id }) => id);
    const [offer] = await laneOffers(shop, ids, cloth.id);
    expect(offer).toMatchObject({ laneId: cloth.id, here: 0, tooLarge: '' });
    expect(offer!.lengthMm).toBeGreaterThan(0);
    const before = shop.dockets.list(ALL, 0).rows;
    expect(() => shop.layingOut.move([...ids, 99_999], cloth.id)).toThrow(/no such docket/);
    expect(shop.dockets.list(ALL, 0).rows).toEqual(before);
    const moved = shop.layingOut.move(ids, cloth.id);
    expect(
      shop.runs
        .get(moved)
        .dockets.map(({ id }) => id)
        .sort()
    ).toEqual([...ids].sort());
    expect(shop.runs.inLanes()).not.toContain(run.id);
    expect(shop.dockets.get(ids[0]!).choices.conditionId).toBe(cloth.condition.id);
    // They can be taken back one by one, each with the step of its own.
    expect(shop.dockets.get(ids[0]!).canUndo).toBe(true);
  });
});
