import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { search } from '$lib/server/app/search';
import { Shop } from '$lib/server/app/shop';
import { MachineUrl } from '$lib/server/machines/machines';
import { modeOf, oneChunk, startStandIn, temporaryFolder, until, type StandIn } from '../harness';
import { cmykBox, madePdf, spotStroke } from '../made/pdf';

/** Machines and conditions that are added by mistake, move to another address, are had no more, and come back; and media. */

const folder = temporaryFolder();
const FILM = JSON.stringify({ name: 'Film', surface: 'gloss', widthMm: 600, lengthMm: 20_000 });
const BOARD = JSON.stringify({ name: 'Board', surface: 'matt', widthMm: 400, lengthMm: 0, sheetMm: 300, sheets: 9 });
let shop: Shop;
let petrel: StandIn;
let skua: StandIn;
let tern: StandIn;
const ids = { petrel: 0, tern: 0, film: 0, onFilm: 0, docket: 0 };

beforeAll(async () => {
  [petrel, skua, tern] = await Promise.all([
    startStandIn('printer', { MEDIA: FILM }),
    startStandIn('printer', { MODEL: 'Skua 25', MEDIA: BOARD }),
    startStandIn('cutter', { SEED: '3' })
  ]);
  shop = new Shop(folder.path);
  ids.petrel = shop.machines.add('printer', 'Petrel 13', petrel.url);
  ids.tern = shop.machines.add('cutter', 'Tern 130', tern.url);
  shop.start();
  await shop.machines.lookNow();
  ids.film = shop.media.addNew({ name: 'Film', widthMm: 600 }).id;
  ids.onFilm = shop.conditionEditing.add(ids.petrel, ids.film, modeOf('Petrel 13/Harbour/calendered/360/4/both ways/draft'));
  await until(() => shop.conditions.get(ids.onFilm).hasProfile);
  const content = `${cmykBox('0 0 0 1', 0, 0, 60, 40)}${spotStroke('5 5 m 55 5 l 55 35 l 5 35 l h')}`;
  const bytes = madePdf({ width: 60, height: 40, spots: { Cut: [0, 1, 0, 0] }, content });
  const artwork = await shop.artworks.take('tag.pdf', oneChunk(bytes));
  await until(() => shop.artworks.get(artwork.id).state === 'ready');
  ids.docket = shop.dockets.add(artwork.id, 0, { conditionId: ids.onFilm, cut: true, bleedMm: 0 }).id;
});
afterAll(async () => {
  await shop.close();
  for (const one of [petrel, skua, tern]) one.stop();
  folder.remove();
});

const names = () => shop.machines.list().map(({ name }) => name);
const OF_MACHINE = ['Condition', 'Lane', 'Machine'];
const found = (words: string) => search(shop.db, words).map(({ kind }) => kind).filter((kind) => OF_MACHINE.includes(kind)).sort(); // prettier-ignore

describe('a machine', () => {
  it('at an address that was mistyped is deleted, and its number is given to none after it', () => {
    const wrong = shop.machines.add('printer', 'Petrl', 'http://127.0.0.1:1');
    expect(shop.machineShelf.remove(wrong)).toEqual({ is: 'deleted', dockets: 0 });
    expect(() => shop.machines.get(wrong)).toThrow('There is no such machine.');
    const next = shop.machines.add('printer', 'Petrel', 'http://127.0.0.1:1');
    expect(next).toBeGreaterThan(wrong);
    shop.machineShelf.remove(next);
    expect(shop.machineShelf.away()).toEqual([]);
  });

  it('is not added as another kind than it is, which would be taken without a word', () => {
    expect(() => shop.machines.add('cutter', 'Tern 60', petrel.url)).toThrow(/Petrel 13 is at http.*: it is a printer/);
    expect(names()).toEqual(['Petrel 13', 'Tern 130']);
  });

  it('gets another name and another address, but not that of another machine', async () => {
    await shop.machineShelf.change(ids.petrel, { name: 'Petrel by the door' });
    expect(shop.conditions.get(ids.onFilm).machine).toBe('Petrel by the door');
    await expect(shop.machineShelf.change(ids.petrel, { url: tern.url })).rejects.toThrow('Tern 130 is at');
    await expect(shop.machineShelf.change(ids.petrel, { name: 'X', url: skua.url })).rejects.toThrow(
      `At ${skua.url} answers a Skua 25, and Petrel by the door is a Petrel 13. Add it as a machine of its own.`
    );
    expect(shop.machines.get(ids.petrel)).toMatchObject({ name: 'Petrel by the door', url: petrel.url });
    // One that is switched off is moved all the same, and seen again when it is there.
    await shop.machineShelf.change(ids.petrel, { name: 'Petrel 13', url: 'http://127.0.0.1:1' });
    expect(shop.machines.get(ids.petrel)).toMatchObject({ name: 'Petrel 13', online: false, printer: null });
    await shop.machineShelf.change(ids.petrel, { url: petrel.url });
    expect(shop.machines.get(ids.petrel)).toMatchObject({ online: true, printer: { model: 'Petrel 13' } });
    expect(MachineUrl.parse('http://10.0.0.7:631/')).toBe('http://10.0.0.7:631');
    for (const url of ['ftp://10.0.0.7', 'petrel', `http://${'a'.repeat(400)}`])
      expect(MachineUrl.safeParse(url).success).toBe(false);
  });

  it('for which something waits stays; then it is put away with all that is known of it, and comes back', async () => {
    const [run] = shop.layingOut.add([ids.docket]);
    expect(() => shop.machineShelf.remove(ids.petrel)).toThrow(
      `Run ${run} waits for Petrel 13. Move its dockets to another lane`
    );
    await shop.tasks.ended((await shop.ripping.rip(run!)).id);
    const [print] = await shop.printing.start(run!, ids.petrel, 1);
    expect(() => shop.machineShelf.remove(ids.petrel)).toThrow('Petrel 13 is printing.');
    await until(() => shop.prints.get(print!.id).endedAt !== null);
    const { artworkId } = shop.dockets.get(ids.docket);
    const other = shop.dockets.add(artworkId, 0, { conditionId: ids.onFilm, cut: true, bleedMm: 0 }).id;
    expect(found('petrel')).toEqual(OF_MACHINE);
    expect(shop.modes.list().some(({ here }) => here)).toBe(true);
    expect(shop.machineShelf.remove(ids.petrel)).toEqual({ is: 'put away', dockets: 1 });
    expect(names()).toEqual(['Tern 130']);
    expect(shop.media.tables()).toEqual([]);
    expect([shop.conditions.list(), shop.lanes.list(), found('petrel')]).toEqual([[], [], []]);
    expect(shop.modes.list().some(({ here }) => here)).toBe(false);
    // What it printed is known, and nothing new comes to where nobody sees it.
    expect(shop.prints.list(run!)[0]!.machine).toBe('Petrel 13');
    expect(shop.runs.get(run!).condition.machine).toBe('Petrel 13');
    const why =
      'Petrel 13 was put away, so that nothing is printed on its Film. Choose other media, or bring it back under Shop.';
    expect(() => shop.layingOut.add([other])).toThrow(why);
    const { copies } = shop.runs.get(run!).layout.parts[0]!;
    expect(() => shop.runCopies.again(run!, copies)).toThrow(why);
    expect(() => shop.conditionEditing.add(ids.petrel, ids.film, shop.conditions.get(ids.onFilm).mode)).toThrow(
      'needs a machine'
    );
    expect(shop.dockets.get(other).runId).toBeNull();
    // Nobody looks at it: it may be switched off, or somebody else's by now.
    await shop.machines.lookNow();
    expect(shop.machines.get(ids.petrel).online).toBe(false);
    expect(shop.machineShelf.away()).toEqual([{ id: ids.petrel, name: 'Petrel 13', kind: 'printer', url: petrel.url }]);
    expect(shop.printing.hindrance(shop.runs.get(run!), shop.machines.get(ids.petrel), 1)).toBe(
      'Petrel 13 was put away. Bring it back under Shop, or lay the dockets out for another machine.'
    );
    await expect(shop.printing.output(print!.id)).rejects.toThrow('The machine does not answer');
    // Another has its address by now: it is a machine of its own, and the first one comes back elsewhere, where that answers.
    const heir = shop.machines.add('cutter', 'Tern 60', petrel.url);
    expect(heir).not.toBe(ids.petrel);
    await expect(shop.machineShelf.bringBack(ids.petrel)).rejects.toThrow(`Tern 60 is at ${petrel.url}. Give another address.`);
    shop.machineShelf.remove(heir);
    await expect(shop.machineShelf.bringBack(ids.petrel, skua.url)).rejects.toThrow(/answers a Skua 25, and Petrel 13 is a/);
    expect(names()).toEqual(['Tern 130']);
    await shop.machineShelf.bringBack(ids.petrel);
    await shop.machineShelf.bringBack(ids.petrel, 'http://127.0.0.1:1');
    expect([names(), shop.conditions.list().map(({ id }) => id), shop.machineShelf.away()]).toEqual([
      ['Petrel 13', 'Tern 130'],
      [ids.onFilm],
      []
    ]);
    expect(shop.machines.get(ids.petrel)).toMatchObject({ online: true, url: petrel.url });
    expect(shop.layingOut.add([other])).toHaveLength(1);
  });

  it('that cuts lets go of what lies in it', async () => {
    const task = shop.cuts.ofRun(shop.dockets.get(ids.docket).runId!)[0]!.id;
    await shop.cutting.load(task);
    expect(shop.cuts.get(task).state).toBe('loaded');
    shop.db.prepare("UPDATE cut_task SET state = 'cutting' WHERE id = ?").run(task);
    expect(() => shop.machineShelf.remove(ids.tern)).toThrow('Something lies in Tern 130.');
    shop.db.prepare("UPDATE cut_task SET state = 'loaded' WHERE id = ?").run(task);
    expect(shop.machineShelf.remove(ids.tern)).toEqual({ is: 'put away', dockets: 0 });
    expect(shop.cuts.get(task)).toMatchObject({ state: 'waiting', machineId: ids.tern });
    await expect(shop.cutting.load(task)).rejects.toThrow('The shop has no cutter.');
    expect((await shop.cutPaths.detail(task)).lines).toHaveLength(1);
    await shop.machineShelf.bringBack(ids.tern);
    // What it cut is shown, whether it is there still or not.
    shop.db.prepare("UPDATE cut_task SET state = 'cut', sheet = 'S1' WHERE id = ?").run(task);
    shop.machineShelf.remove(ids.tern);
    expect(await shop.cutting.asCut(task)).toEqual([]);
    expect(shop.cuts.get(task).state).toBe('cut');
    shop.db.prepare("UPDATE cut_task SET state = 'waiting', sheet = NULL WHERE id = ?").run(task);
    await shop.machineShelf.bringBack(ids.tern);
    await shop.cutting.load(task);
    expect(shop.cuts.get(task).state).toBe('loaded');
  });
});

describe('a condition', () => {
  const mode = modeOf('Petrel 13/Harbour/calendered/720/8/both ways/quality');
  const listed = () => shop.conditions.list().map(({ id }) => id);
  const lane = () => shop.lanes.list().find(({ mediaId }) => mediaId === ids.film);

  it('that nothing was done with is deleted, and its lane takes another or goes', async () => {
    for (const { id } of shop.runs.open()) await shop.runEditing.remove(id);
    const slip = shop.conditionEditing.add(ids.petrel, ids.film, mode);
    shop.lanes.change(lane()!.id, { conditionId: slip });
    expect(shop.conditionEditing.remove(slip)).toEqual({ is: 'deleted', dockets: 0 });
    expect(() => shop.conditions.get(slip)).toThrow();
    expect(lane()?.condition.id).toBe(ids.onFilm);
    expect(shop.conditions.away()).toEqual([]);
    // What was measured in it, or what a recipe says, is not thrown away with it.
    const measured = shop.conditionEditing.add(ids.petrel, ids.film, mode);
    shop.db
      .prepare("INSERT INTO condition_result (condition_id, step, document, made_at) VALUES (?, 'limits', '{}', 0)")
      .run(measured);
    const { is } = shop.conditionEditing.remove(measured);
    shop.db.prepare('DELETE FROM condition_result WHERE condition_id = ?').run(measured);
    expect(is).toBe('put away');
    shop.db
      .prepare("INSERT INTO recipe (name, document, changed_at) VALUES ('Tags', ?, 0)")
      .run(JSON.stringify({ sets: { media: { is: 'condition', conditionId: measured } } }));
    expect(shop.conditionEditing.remove(measured).is).toBe('put away');
    shop.db.exec('DELETE FROM recipe');
    expect(shop.conditionEditing.remove(measured).is).toBe('deleted');
  });

  it('that was printed in is put away, offered nowhere, and made anew it is itself again', async () => {
    const { artworkId } = shop.dockets.get(ids.docket);
    const docket = shop.dockets.add(artworkId, 0, { conditionId: ids.onFilm, cut: true, bleedMm: 0 }).id;
    const [run] = shop.layingOut.add([docket]);
    expect(() => shop.conditionEditing.remove(ids.onFilm)).toThrow(`Run ${run} prints in this condition, Film on Petrel 13.`);
    await shop.runEditing.remove(run!);
    const { is, dockets } = shop.conditionEditing.remove(ids.onFilm);
    expect(is).toBe('put away');
    expect(dockets).toBeGreaterThan(0);
    expect([listed(), lane(), found('petrel')]).toEqual([[], undefined, ['Machine']]);
    expect(shop.conditions.away().map(({ id, media }) => [id, media])).toEqual([[ids.onFilm, 'Film']]);
    const why = 'Its condition of Film on Petrel 13 was put away. Choose other media, or bring it back under Colour.';
    expect(() => shop.layingOut.add([docket])).toThrow(why);
    // What is begun meanwhile is printed in another condition, in a lane that is seen.
    const other = shop.conditionEditing.add(ids.petrel, ids.film, mode);
    expect(lane()?.condition.id).toBe(other);
    expect(() => shop.layingOut.add([docket], lane()!.id)).not.toThrow();
    await shop.runEditing.remove(shop.dockets.get(docket).runId!);
    // Put away one after the other, the one that comes back has the lane.
    shop.conditionEditing.remove(other);
    expect(shop.conditionEditing.add(ids.petrel, ids.film, shop.conditions.get(ids.onFilm).mode)).toBe(ids.onFilm);
    expect([listed(), lane()?.condition.id, shop.conditions.away()]).toEqual([[ids.onFilm], ids.onFilm, []]);
    expect(shop.conditions.get(ids.onFilm)).toMatchObject({ away: null, hasProfile: true });
    expect(shop.layingOut.add([docket])).toHaveLength(1);
  });
});

describe('a media', () => {
  const mode = modeOf('Petrel 13/Harbour/calendered/720/8/both ways/quality');
  const kinds = (words: string) => search(shop.db, words).map(({ kind }) => kind).sort(); // prettier-ignore

  it('that nothing was done with is deleted, one that came locked too, and its number is given to none after it', () => {
    const slip = shop.media.addNew({ name: 'Wovenex', widthMm: 500 });
    expect(shop.media.remove(slip.id)).toEqual({ is: 'deleted', dockets: 0 });
    expect(() => shop.media.get(slip.id)).toThrow('There is no such media.');
    const again = shop.media.add(slip.card, { locked: true });
    expect(again.id).toBeGreaterThan(slip.id);
    expect(shop.media.remove(again.id).is).toBe('deleted');
    expect(shop.media.away()).toEqual([]);
    // What lies in stock of it, or was measured, comes back with it.
    const stock = { rolls: [{ widthMm: 500, lengthMm: 20_000 }], sheets: [] };
    for (const known of [stock, { white: [95, 0, 1] as [number, number, number] }]) {
      const { id } = shop.media.addNew({ name: 'Wovenex', ...known });
      expect(shop.media.remove(id).is).toBe('put away');
      expect(shop.media.bringBack(id).card).toMatchObject(known);
      shop.db.prepare('DELETE FROM media WHERE id = ?').run(id);
    }
  });

  it('that lies on a machine, or that a run waits for, stays; then it is put away with its conditions, and comes back', async () => {
    expect(() => shop.media.remove(ids.film)).toThrow('Film lies on Petrel 13. Load other media there first.');
    // Another name would make it another media than the one that the machine says it has.
    const film = shop.media.get(ids.film);
    expect(() => shop.media.change(film.id, film.version, { ...film.card, name: 'Film, gloss' })).toThrow(
      'Film lies on Petrel 13, which knows it by this name. Load other media there first.'
    );
    expect(() => shop.media.replace(film.id, { ...film.card, name: 'Film, gloss' }, null)).toThrow('and is Film, gloss now');
    shop.media.change(film.id, film.version, { ...film.card, note: 'From the quay.' });
    const { id: banner, card } = shop.media.addNew({ name: 'Wovenex', widthMm: 500 });
    const onBanner = shop.conditionEditing.add(ids.petrel, banner, mode);
    await until(() => shop.conditions.get(onBanner).hasProfile);
    const { artworkId } = shop.dockets.get(ids.docket);
    const docket = shop.dockets.add(artworkId, 0, { conditionId: onBanner, bleedMm: 0 }).id;
    const [run] = shop.layingOut.add([docket]);
    expect(() => shop.media.remove(banner)).toThrow(`Run ${run} waits for Wovenex. Print or delete it first.`);
    await shop.runEditing.remove(run!);
    const seen = () => ({
      media: shop.media.list().some(({ id }) => id === banner),
      condition: shop.conditions.list().some(({ id }) => id === onBanner),
      lane: shop.lanes.list().some(({ mediaId }) => mediaId === banner),
      found: kinds('wovenex')
    });
    const before = seen();
    expect(before).toEqual({ media: true, condition: true, lane: true, found: ['Condition', 'Lane', 'Media'] });
    expect(shop.media.remove(banner)).toEqual({ is: 'put away', dockets: 1 });
    expect(seen()).toEqual({ media: false, condition: false, lane: false, found: ['Media'] });
    expect([shop.media.away(), shop.conditions.away()]).toEqual([[{ id: banner, name: 'Wovenex' }], []]);
    expect(shop.conditions.get(onBanner)).toMatchObject({ away: 'media', hasProfile: true });
    // Nothing new is printed on it, it is measured in no other condition, and its name is its own.
    expect(() => shop.layingOut.add([docket])).toThrow('Wovenex was put away. Choose other media, or bring it back under Media.');
    expect(() => shop.conditionEditing.add(ids.petrel, banner, mode)).toThrow('Wovenex was put away. Bring it back');
    const { version } = shop.media.get(banner);
    await expect(shop.loading.load(ids.petrel, { mediaId: banner, version, which: 0 })).rejects.toThrow('Wovenex was put away');
    expect(() => shop.media.add(card)).toThrow('Wovenex was put away. Bring it back under Media, or give this one another name.');
    expect(shop.media.bringBack(banner).card).toEqual(card);
    expect([seen(), shop.media.away()]).toEqual([before, []]);
    expect(shop.layingOut.add([docket])).toHaveLength(1);
    await shop.runEditing.remove(shop.dockets.get(docket).runId!);
  });

  it('comes back with a file of its card', async () => {
    const banner = shop.media.named('Wovenex')!;
    const file = await shop.cardFiles.write([banner.id]);
    shop.media.remove(banner.id);
    const [taken] = await shop.cardFiles.take(file, [{ index: 0, replace: true }]);
    expect(taken).toMatchObject({ id: banner.id, away: false });
    expect(shop.conditions.list().filter(({ mediaId }) => mediaId === banner.id)).toHaveLength(1);
  });
});
