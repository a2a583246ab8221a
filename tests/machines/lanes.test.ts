import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import sharp from 'sharp';
import { DEFAULT_CROP, NO_FINISHING } from '$core/marks/finishing';
import { flatten } from '$core/geometry/path';
import { rectangle, type StockJig } from '$core/layout/placement';
import type { DocketChoices } from '$lib/docket-choices';
import type { RunRule } from '$lib/run-rule';
import { isDue } from '$lib/server/printing/releasing';
import { Shop } from '$lib/server/app/shop';
import { costsOf } from '$lib/server/printing/costs';
import { reportCsv, reportOf } from '$lib/server/printing/report';
import { laneOffers } from '$lib/server/production/lane-offers';
import { Problem } from '$lib/server/platform/problem';
import { modeOf, oneChunk, startStandIn, temporaryFolder, until, type StandIn } from '../harness';
import { cmykBox, madePdf, spotStroke } from '../made/pdf';

const folder = temporaryFolder();
let shop: Shop;
let standIns: StandIn[] = [];
const ids = { petrel: 0, skua: 0, film: 0, cloth: 0, board: 0, onFilm: 0, onCloth: 0, onBoard: 0 };

beforeAll(async () => {
  standIns = await Promise.all([
    startStandIn('printer', { MEDIA: JSON.stringify({ name: 'Film', surface: 'gloss', widthMm: 600, lengthMm: 20_000 }) }),
    startStandIn('printer', {
      MODEL: 'Skua 25',
      MEDIA: JSON.stringify({ name: 'Board', surface: 'matt', widthMm: 400, lengthMm: 0, sheetMm: 300, sheets: 9 })
    })
  ]);
  shop = new Shop(folder.path);
  ids.petrel = shop.machines.add('printer', 'Petrel 13', standIns[0]!.url);
  ids.skua = shop.machines.add('printer', 'Skua 25', standIns[1]!.url);
  shop.start();
  await shop.machines.lookNow();
  ids.film = shop.media.addNew({ name: 'Film', widthMm: 600, rolls: [{ widthMm: 500, lengthMm: 8000 }] }).id;
  ids.cloth = shop.media.addNew({
    name: 'Cloth',
    family: 'banner',
    surface: 'matt',
    widthMm: 600,
    rolls: [{ widthMm: 700, lengthMm: 30_000 }]
  }).id;
  ids.board = shop.media.addNew({ name: 'Board', family: 'rigid', surface: 'matt', widthMm: 400, thicknessMm: 5 }).id;
  ids.onFilm = shop.conditionEditing.add(ids.petrel, ids.film, modeOf('Petrel 13/Harbour/calendered/360/4/both ways/draft'));
  ids.onCloth = shop.conditionEditing.add(ids.petrel, ids.cloth, modeOf('Petrel 13/Harbour/banner/360/4/both ways/draft'));
  ids.onBoard = shop.conditionEditing.add(ids.skua, ids.board, modeOf('Skua 25/Skerry/rigid/360/4/both ways/draft'));
  await shop.machines.lookNow();
  await until(() => shop.conditions.list().every((condition) => condition.hasProfile));
});

afterAll(async () => {
  await shop.close();
  standIns.forEach((one) => one.stop());
  folder.remove();
});

/** A page of black on the left half and nothing on the right, 100 × 60 mm, cut along a slanted shape when `cut`. */
async function page(name: string, over: Partial<DocketChoices>, cut = false) {
  const bytes = madePdf({
    width: 100,
    height: 60,
    content: `${cmykBox('0 0 0 1', 0, 0, 50, 60)}${cut ? spotStroke('10 5 m 95 5 l 95 20 l 10 55 l h') : ''}`,
    ...(cut && { spots: { 'Cut Line': [0, 1, 0, 0] as [number, number, number, number] } })
  });
  const artwork = await shop.artworks.take(`${name}.pdf`, oneChunk(bytes));
  await until(() => shop.artworks.get(artwork.id).state === 'ready');
  return shop.dockets.add(artwork.id, 0, { conditionId: ids.onFilm, cut, ...over }, name);
}
const rule = (id: number, part: Partial<RunRule>) => {
  const run = shop.runs.get(id);
  return shop.runEditing.change(id, run.version, { rule: { ...run.rule, ...part } });
};
const printedWith = (id: number) => until(() => (shop.runs.get(id).state === 'printed' ? shop.prints.list(id)[0] : undefined));

describe('lanes', () => {
  it('gather dockets by their media, the urgent first, and let held ones stay behind', async () => {
    const [a, b, c, d] = [
      await page('a', { copies: 2 }),
      await page('b', { copies: 3 }),
      await page('c', { copies: 1, conditionId: ids.onBoard }),
      await page('d', { copies: 1 })
    ];
    shop.docketEditing.change(d.id, d.version, { priority: 'high' });
    const runs = shop.layingOut.add([a.id, b.id, c.id, d.id]);
    expect(runs).toHaveLength(2);
    const [onFilm, onBoard] = runs.map((id) => shop.runs.get(id));
    expect(onFilm!.dockets.map((docket) => docket.id)).toEqual([d.id, a.id, b.id]);
    expect(onBoard!.stock).toEqual({ kind: 'sheet', width: 400, height: 300, corner: 'front left' });

    const held = shop.runEditing.change(onFilm!.id, onFilm!.version, { held: [b.id] });
    expect(held.layout.parts[0]!.copies).toHaveLength(3);
    expect(held.layout.length).toBeLessThan(onFilm!.layout.length);
    await shop.ripping.release(onFilm!.id);
    const print = await printedWith(onFilm!.id);
    expect(print.machineId).toBe(ids.petrel);
    // The held one is alone in a run that still waits.
    const rest = shop.runs.get(shop.dockets.get(b.id).runId!);
    expect(rest).toMatchObject({ state: 'laying out', releasedAt: null });
    expect(rest.dockets.map((docket) => docket.id)).toEqual([b.id]);

    await shop.ripping.release(onBoard!.id);
    expect((await printedWith(onBoard!.id)).machineId).toBe(ids.skua);
    await shop.machines.lookNow();
    expect(shop.machines.get(ids.skua).printer?.media).toMatchObject({ sheets: 8, sheetMm: 300 });
    await shop.runEditing.remove(rest.id);
  });

  it('divide a run past its longest length, and say which copies are where', async () => {
    const docket = await page('long', { copies: 30, finishing: { ...NO_FINISHING, numbered: true } });
    const [id] = shop.layingOut.add([docket.id]);
    rule(id!, { longest: 300, align: 'left' });
    const { parts } = shop.runs.get(id!).layout;
    expect(parts.length).toBeGreaterThan(1);
    expect(Math.max(...parts.map((part) => part.length))).toBeLessThanOrEqual(300);
    await shop.tasks.ended((await shop.ripping.rip(id!)).id);
    const of = shop.runs.open().filter((run) => run.dockets.some((one) => one.id === docket.id));
    expect(of).toHaveLength(parts.length);
    const entries = of.map((run) => run.entries[0]!).sort((p, q) => p.first - q.first);
    let next = 0;
    for (const { first, copies } of entries) {
      expect(first).toBe(next);
      next += copies!;
    }
    expect(next).toBe(30);
    // Each is numbered on from where the one before it ended.
    const last = of.find((run) => run.entries[0]!.first === entries.at(-1)!.first)!;
    expect(shop.runs.frozen(last.id).plan.letters!.map(({ text }) => text)).toContain('30 of 30');
    for (const run of of) {
      await until(() => shop.runs.get(run.id).state === 'ripped');
      expect(shop.runs.get(run.id).stale).toBe(false);
    }
    // What is taken out of one comes back as the part that it was there, not as all of its copies.
    const [one] = of;
    const change = (docketIds: number[]) =>
      shop.runEditing.change(one!.id, shop.runs.get(one!.id).version, { docketIds }).entries;
    expect(change([])).toEqual([]);
    expect(change([docket.id])).toEqual(one!.entries);
    // Nor where all of it was laid out anew meanwhile.
    change([]);
    for (const run of of.slice(1)) await shop.runEditing.remove(run.id);
    const [anew] = shop.layingOut.add([docket.id], undefined, true);
    expect(() => change([docket.id])).toThrow(`All copies of long lie in run ${anew} by now`);
    await shop.runEditing.remove(anew!);
    await shop.runEditing.remove(one!.id);
  });

  it('leave what lies in a run where it is, and take of what is printed in part the rest alone', async () => {
    const [a, b] = [await page('released', { copies: 2 }), await page('new', { copies: 1 })];
    const [first] = shop.layingOut.add([a.id], undefined, true);
    shop.db.prepare('UPDATE run SET released_at = 1 WHERE id = ?').run(first);
    expect(shop.layingOut.lying([a.id, b.id])).toBe(1);
    const [second, other, ...more] = shop.layingOut.add([a.id, b.id]);
    expect([other, more]).toEqual([first, []]);
    expect(shop.runs.get(second!).entries.map(({ docketId }) => docketId)).toEqual([b.id]);
    expect(shop.layingOut.add([a.id])).toEqual([first]);
    shop.db.prepare('UPDATE run SET released_at = NULL WHERE id = ?').run(first);

    // It is printed, half of it was spoilt, and that half goes to another machine.
    const docket = await page('half', { copies: 12 });
    const [whole] = shop.layingOut.add([docket.id], undefined, true);
    const { copies } = shop.runs.get(whole!).layout.parts[0]!;
    const rest = shop.runCopies.again(whole!, copies.slice(6));
    shop.db.prepare("UPDATE run SET state = 'printed' WHERE id = ?").run(whole);
    expect(shop.dockets.get(docket.id).runId).toBe(rest);
    const lane = shop.lanes.list().find(({ condition }) => condition.id === ids.onBoard)!;
    const moved = shop.layingOut.move([docket.id], lane.id);
    const entry = shop.runs.get(moved).entries.find(({ docketId }) => docketId === docket.id)!;
    expect(entry).toMatchObject({ first: 6, copies: 6 });
    for (const id of [first, second, moved]) await shop.runEditing.remove(id!);
  });

  it('take back what was taken out of a run, but not twice, and not what is gone or printed otherwise', async () => {
    const [a, b] = [await page('one', { copies: 2 }), await page('two', { copies: 3 })];
    const [id] = shop.layingOut.add([a.id, b.id]);
    const change = (docketIds: number[]) => shop.runEditing.change(id!, shop.runs.get(id!).version, { docketIds });
    change([a.id]);
    expect(change([a.id, b.id]).entries.map(({ docketId }) => docketId)).toEqual([a.id, b.id]);
    // It went elsewhere meanwhile.
    change([a.id]);
    const [other] = shop.layingOut.add([b.id], undefined, true);
    expect(() => change([a.id, b.id])).toThrow(`two lies in run ${other} by now. Take it out of there first.`);
    await shop.runEditing.remove(other!);
    const { version, choices } = shop.dockets.get(b.id);
    const onBoard = shop.docketEditing.change(b.id, version, { choices: { ...choices, conditionId: ids.onBoard } });
    expect(() => change([a.id, b.id])).toThrow('two is for Board on Skua 25 by now');
    shop.docketEditing.change(b.id, onBoard.version, { choices });
    shop.docketShelf.remove([b.id]);
    expect(() => change([a.id, b.id])).toThrow(Problem);
    expect(shop.runs.get(id!).entries.map(({ docketId }) => docketId)).toEqual([a.id]);
    await shop.runEditing.remove(id!);
  });

  it('have the rest of a divided docket whose copies became more, and all of it anew where they became fewer', async () => {
    const docket = await page('more', { copies: 12, finishing: { ...NO_FINISHING, numbered: true } });
    const [id] = shop.layingOut.add([docket.id], undefined, true);
    expect(shop.docketParts.divided(docket.id)).toBeNull();
    expect(() => shop.layingOut.addRest(docket.id)).toThrow('All copies of more lie in runs');
    rule(id!, { longest: 200 });
    await shop.tasks.ended((await shop.ripping.rip(id!)).id);
    const runsOf = () => shop.runs.open().filter((run) => run.dockets.some((one) => one.id === docket.id));
    await until(() => runsOf().every(({ state }) => state === 'ripped'));
    expect(runsOf().length).toBeGreaterThan(1);
    const asked = (copies: number) => {
      const { version, choices } = shop.dockets.get(docket.id);
      shop.docketEditing.change(docket.id, version, { choices: { ...choices, copies } });
    };
    expect(shop.docketParts.divided(docket.id)).toMatchObject({ missing: 0, over: 0 });
    asked(15);
    expect(shop.docketParts.divided(docket.id)).toEqual({ missing: 3, over: 0, isPrinted: false });
    const rest = shop.runs.get(shop.layingOut.addRest(docket.id));
    expect(rest.entries).toMatchObject([{ docketId: docket.id, copies: 3, first: 12 }]);
    expect(shop.docketParts.divided(docket.id)).toMatchObject({ missing: 0, over: 0 });
    expect(() => shop.layingOut.addRest(docket.id)).toThrow('All copies of more lie in runs');
    // What was taken out of one run and laid out anew does not come back there: it would be printed twice.
    const [first] = runsOf();
    const change = (docketIds: number[]) => shop.runEditing.change(first!.id, shop.runs.get(first!.id).version, { docketIds });
    change([]);
    const out = first!.entries[0]!.copies!;
    expect(shop.docketParts.divided(docket.id)).toMatchObject({ missing: out, over: 0 });
    const instead = shop.layingOut.addRest(docket.id);
    expect(shop.runs.get(instead).entries).toMatchObject([{ docketId: docket.id, copies: out }]);
    expect(() => change([docket.id])).toThrow('was laid out anew since');
    await shop.runEditing.remove(first!.id);
    // Fewer again: what lies in runs is laid out anew as one, and follows its ticket from then on.
    asked(5);
    expect(shop.docketParts.divided(docket.id)).toEqual({ missing: 0, over: 10, isPrinted: false });
    const anew = shop.layingOut.move([docket.id], rest.laneId!);
    expect(runsOf().map((run) => run.id)).toEqual([anew]);
    expect(shop.runs.get(anew).entries).toMatchObject([{ docketId: docket.id, copies: null, first: 0 }]);
    await shop.runEditing.remove(anew);
  });

  it('change the media in one step, with what is left going into stock, and print what waited for it', async () => {
    const docket = await page('banner', { copies: 1, conditionId: ids.onCloth });
    const [id] = shop.layingOut.add([docket.id]);
    await shop.ripping.release(id!);
    await until(() => shop.runs.get(id!).state === 'ripped');
    expect(shop.printing.hindrance(shop.runs.get(id!), shop.machines.get(ids.petrel), 1)).toContain('has Film loaded');
    const left = shop.machines.get(ids.petrel).printer!.media.lengthMm;

    await load(ids.cloth, 0);
    expect(shop.media.get(ids.cloth).card.rolls).toEqual([]);
    expect(shop.media.get(ids.film).card.rolls).toEqual([
      { widthMm: 500, lengthMm: 8000 },
      { widthMm: 600, lengthMm: expect.closeTo(left, 1) as number }
    ]);
    await until(() => shop.runs.get(id!).state === 'printed');
    await load(ids.film, 1);
    expect(shop.media.get(ids.cloth).card.rolls[0]!.lengthMm).toBeLessThan(30_000);
    await expect(load(ids.film, 7)).rejects.toThrow(/has changed meanwhile/);
  });

  const load = (mediaId: number, which: number, version = shop.media.get(mediaId).version) =>
    shop.loading.load(ids.petrel, { mediaId, version, which });
  /** All film that there is, on the machine, in stock and on its way, mm. */
  const allFilm = async () => {
    await shop.machines.look(ids.petrel);
    const { media } = shop.machines.get(ids.petrel).printer!;
    const inStock = shop.media.list().flatMap(({ card }) => card.rolls.map(({ lengthMm }) => lengthMm));
    return inStock.reduce((sum, mm) => sum + mm, media.lengthMm);
  };

  it('conserve film: asked twice at once, from a stock of before, or with a break in the middle', async () => {
    const before = await allFilm();
    const both = await Promise.allSettled([load(ids.cloth, 0), load(ids.cloth, 0)]);
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await allFilm()).toBeCloseTo(before, 0);
    const { version } = shop.media.get(ids.film);
    await load(ids.film, 1);
    await expect(load(ids.film, 0, version)).rejects.toThrow(/has changed meanwhile/);
    expect(await allFilm()).toBeCloseTo(before, 0);

    // The server died between the machine's yes and its own note of it, and before the machine heard of it.
    const real = shop.machines.load.bind(shop.machines);
    const lost = vi.spyOn(shop.machines, 'load');
    const asked = vi.spyOn(shop.machines, 'lastLoad').mockRejectedValue(new Error('It is off.'));
    lost.mockImplementationOnce(async (...given) => {
      await real(...given);
      throw new Error('The line broke.');
    });
    await expect(load(ids.cloth, 0)).rejects.toThrow(/The line broke. What is on it is asked when it answers again/);
    await expect(load(ids.film, 0)).rejects.toThrow(/not settled yet/);
    asked.mockRestore();
    await until(async () => Math.abs((await allFilm()) - before) < 1);
    expect(shop.machines.get(ids.petrel).printer!.media.name).toBe('Cloth');
    lost.mockRejectedValueOnce(new Error('It is off.'));
    await expect(load(ids.film, 0)).rejects.toThrow(/It is off. Nothing was changed in stock/);
    expect(await allFilm()).toBeCloseTo(before, 0);
    expect(shop.machines.get(ids.petrel).printer!.media.name).toBe('Cloth');
    await load(
      ids.film,
      shop.media.get(ids.film).card.rolls.findIndex(({ widthMm }) => widthMm === 600)
    );
  });

  it('release by themselves when nothing new comes', async () => {
    const docket = await page('quiet', { copies: 1 });
    const lane = shop.lanes.of(docket);
    shop.lanes.change(lane, { release: { kind: 'quiet', minutes: 0.05 } });
    const [id] = shop.layingOut.add([docket.id]);
    await printedWith(id!);
    expect(shop.lanes.get(lane).quietMs).toBeGreaterThanOrEqual(3000);

    // What a person takes back is not released again behind their back.
    const other = await page('taken back', { copies: 1, conditionId: ids.onCloth });
    const cloth = shop.lanes.of(other);
    shop.lanes.change(cloth, { release: { kind: 'quiet', minutes: 0.05 } });
    const [waits] = shop.layingOut.add([other.id]);
    await until(() => shop.runs.get(waits!).state === 'ripped');
    expect(shop.runs.get(waits!).releasedAt).not.toBeNull();
    shop.ripping.unrelease(waits!);
    await new Promise((resolve) => setTimeout(resolve, 2500));
    expect(shop.runs.get(waits!).releasedAt).toBeNull();
    shop.lanes.change(cloth, { release: { kind: 'hand' } });
    await shop.runEditing.remove(waits!);
    shop.lanes.change(lane, { release: { kind: 'hand' } });
  });

  it('release when they are full, or at their time', () => {
    const run = (length: number, usedM2: number, sheet: boolean) => ({
      provisional: false,
      stock: sheet
        ? ({ kind: 'sheet', width: 1000, height: 1000, corner: 'front left' } as const)
        : ({ kind: 'roll', width: 1000 } as const),
      layout: { length, parts: [{ usedM2 }] } as never
    });
    const full = { quietMs: 0, releasedOn: '', release: { kind: 'full', share: 0.8, lengthMm: 4000 } as const };
    const noon = new Date(2027, 7, 20, 12, 0);
    expect([isDue(full, run(3999, 0, false), noon), isDue(full, run(4000, 0, false), noon)]).toEqual([false, true]);
    expect([isDue(full, run(1000, 0.79, true), noon), isDue(full, run(1000, 0.8, true), noon)]).toEqual([false, true]);
    // A jig is full when its pockets are, however little of the bed they take.
    const thing = { width: 20, height: 10, outline: rectangle(20, 10) };
    const jig = { thing, pockets: Array.from({ length: 10 }, () => ({})) } as unknown as StockJig;
    const load = (things: number) => ({ ...run(1000, (things * 200) / 1e6, true), stock: { ...run(0, 0, true).stock, jig } });
    expect([7, 8].map((things) => isDue(full, load(things), noon))).toEqual([false, true]);
    const at = (time: string, releasedOn = '') =>
      isDue({ quietMs: 0, releasedOn, release: { kind: 'at', time } }, run(1, 1, false), noon);
    expect([at('12:01'), at('12:00'), at('11:59', '2027-08-20'), at('11:59', '2027-08-19')]).toEqual([false, true, false, true]);
  });

  it('make no plates of what was changed while they were prepared', async () => {
    const docket = await page('changed', { copies: 30, finishing: { ...NO_FINISHING, numbered: true } });
    const [id] = shop.layingOut.add([docket.id], undefined, true);
    rule(id!, { longest: 300, align: 'left' });
    const freeze = shop.freezing.freeze.bind(shop.freezing);
    /** Others have their turn once all is frozen. */
    const meanwhile = async (change: () => void) => {
      const frozen = vi.spyOn(shop.freezing, 'freeze').mockImplementationOnce((...of) => {
        queueMicrotask(change);
        return freeze(...of);
      });
      const refused = await shop.ripping.rip(id!).then(
        () => null,
        (error: unknown) => (error as Error).message
      );
      expect(frozen, String(refused)).toHaveBeenCalled();
      frozen.mockRestore();
      return refused;
    };
    const change = (over: Partial<DocketChoices>) => {
      const { version, choices } = shop.dockets.get(docket.id);
      shop.docketEditing.change(docket.id, version, { choices: { ...choices, ...over } });
    };
    const changed = 'The run was changed while it was laid out. RIP it again.';
    expect(await meanwhile(() => change({ mirror: true }))).toBe(changed);
    expect(await meanwhile(() => rule(id!, { longest: 280 }))).toBe(changed);
    expect(await meanwhile(() => shop.runEditing.change(id!, shop.runs.get(id!).version, { held: [docket.id] }))).toBe(changed);
    shop.runEditing.change(id!, shop.runs.get(id!).version, { held: [] });
    // Colours belong to no run and no docket.
    const limit = (total: number) =>
      shop.db.prepare("UPDATE condition SET mode = json_set(mode, '$.limits.total', ?) WHERE id = ?").run(total, ids.onFilm);
    const { total } = shop.conditions.get(ids.onFilm).mode.limits;
    expect(await meanwhile(() => limit(total / 2))).toBe(
      'The colours of the run were changed while it was laid out. RIP it again.'
    );
    limit(total);
    // None of it was divided, and nothing is made of it.
    const made = () => shop.runs.open().filter(({ entries }) => entries.some(({ docketId }) => docketId === docket.id));
    expect(made()).toMatchObject([{ id, state: 'laying out', task: null }]);
    const parts = shop.runs.get(id!).layout.parts.length;
    expect(parts).toBeGreaterThan(1);
    // Of two who press at once, one makes them.
    const both = await Promise.allSettled([shop.ripping.rip(id!), shop.ripping.rip(id!)]);
    expect(both.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
    expect(both.find(({ status }) => status === 'rejected')).toMatchObject({
      reason: { message: 'The run is being RIPped. Cancel that first.' }
    });
    expect(made()).toHaveLength(parts);
    await until(() => made().every(({ state }) => state === 'ripped'));
    for (const run of made()) await shop.runEditing.remove(run.id);
  });

  it('do not print what was given another media since it was laid out, until it is moved, or has theirs again', async () => {
    const [stays, goes] = [await page('stays', { copies: 1 }), await page('goes', { copies: 2 })];
    const [id] = shop.layingOut.add([stays.id, goes.id], undefined, true);
    await shop.tasks.ended((await shop.ripping.rip(id!)).id);
    expect(shop.runs.get(id!)).toMatchObject({ state: 'ripped', hindrance: null });
    const given = (conditionId: number | null) => {
      const { version, choices } = shop.dockets.get(goes.id);
      return shop.docketEditing.change(goes.id, version, { choices: { ...choices, conditionId } });
    };
    given(ids.onBoard);
    const why = /^goes is for Board on Skua 25 by now, and this run prints on Film on Petrel 13\. Move it to its lane/;
    expect(shop.runs.get(id!).hindrance).toMatch(why);
    await expect(shop.ripping.release(id!)).rejects.toThrow(why);
    await expect(shop.ripping.rip(id!)).rejects.toThrow(why);
    await expect(shop.printing.start(id!, ids.petrel, 1)).rejects.toThrow(why);
    // It lies in the lane of the film, whatever it is for.
    const lying = async () => (await laneOffers(shop, [goes.id])).filter((offer) => offer.lying === 1).map(({ media }) => media);
    expect(await lying()).toEqual(['Film']);
    // Held back it is in nobody's way.
    const held = shop.runEditing.change(id!, shop.runs.get(id!).version, { held: [goes.id] });
    expect(held.hindrance).toBeNull();
    shop.runEditing.change(id!, held.version, { held: [] });
    given(null);
    expect(shop.runs.get(id!).hindrance).toMatch(/^goes has no media chosen any more/);
    const { version } = shop.dockets.get(goes.id);
    shop.docketEditing.go(goes.id, version, -1);
    shop.docketEditing.go(goes.id, version + 1, -1);
    expect(shop.runs.get(id!).hindrance).toBeNull();

    given(ids.onBoard);
    const board = shop.lanes.ensure(ids.onBoard);
    const moved = shop.layingOut.move([goes.id], board);
    expect(shop.runs.get(moved)).toMatchObject({ laneId: board, hindrance: null, condition: { id: ids.onBoard } });
    expect(shop.runs.get(id!)).toMatchObject({ hindrance: null, entries: [{ docketId: stays.id }] });
    expect(await lying()).toEqual(['Board']);
    for (const run of [id!, moved]) await shop.runEditing.remove(run);
  });

  it('say what changes before a docket is moved, and move it', async () => {
    const docket = await page('moved', { copies: 4, widthMm: 640, heightMm: 500, mayTurn: false });
    const offers = await laneOffers(shop, [docket.id]);
    expect(offers.find((offer) => offer.media === 'Film')).toMatchObject({
      tooLarge: 'moved is 640.0 mm wide; 590.0 mm of the roll can be used.',
      here: 1,
      lengthMm: null
    });
    const cloth = offers.find((offer) => offer.media === 'Cloth')!;
    expect(cloth).toMatchObject({ tooLarge: '', here: 0 });
    expect(cloth.lengthMm!).toBeGreaterThan(2000);
    // Drawing it takes a while the first time; who asks again then is told.
    const measured = await until(async () => {
      const [offer] = await laneOffers(shop, [docket.id], cloth.laneId);
      return offer!.awaited ? undefined : offer;
    });
    expect(measured).toMatchObject({ outOfGamut: expect.any(Number), measured: 1, mediaCost: cloth.mediaCost });
    expect(measured.inkCost!).toBeGreaterThan(0);
    expect(measured.timeCost!).toBeCloseTo((measured.seconds! / 3600) * shop.machines.get(ids.petrel).costPerHour, 9);
    const runId = shop.layingOut.move([docket.id], cloth.laneId);
    expect(shop.runs.get(runId).condition.media).toBe('Cloth');
    expect(shop.dockets.get(docket.id).choices.conditionId).toBe(ids.onCloth);
    await shop.runEditing.remove(runId);
  });
});

describe('what is placed by its shape', () => {
  it('prints to the middle of the gap and not on its neighbours, at any angle, and is cut where it is printed', async () => {
    const docket = await page('slanted', { copies: 12 }, true);
    const [id] = shop.layingOut.add([docket.id]);
    const apart = shop.runs.get(id!).layout.length;
    rule(id!, { placing: 'shapes', turnStep: 90, gapX: 3, gapY: 3, effort: 'quick' });
    const { version } = shop.runs.get(id!);
    shop.runEditing.change(id!, version, { pins: [{ id: String(docket.id), copy: 0, part: 0, x: 220, y: 70, turn: 30 }] });
    const { result } = await shop.tasks.ended((await shop.ripping.rip(id!)).id).then(() => shop.runs.get(id!));
    expect(result).not.toBeNull();
    const run = shop.runs.get(id!);
    expect(run.layout.length).toBeLessThan(apart);
    const { plan, cuts } = shop.runs.frozen(id!);
    expect(plan.pieces.some((piece) => piece.turn % 90 !== 0)).toBe(true);
    const [print] = await shop.printing.start(id!, ids.petrel, 1);
    await printedWith(id!);
    const { data, info } = await sharp(await shop.printing.output(print!.id))
      .greyscale()
      .raw()
      .toBuffer({ resolveWithObject: true });
    const perMm = info.width / plan.widthMm;
    const dark = (x: number, y: number) => data[Math.round(y * perMm) * info.width + Math.round(x * perMm)]! < 128;
    // Every piece's own black half is black within its cut line, and its other half is white, however it lies on its neighbours' boxes.
    expect(cuts).toHaveLength(12);
    for (const cut of cuts) {
      const points = flatten(cut.path, 0.1)[0]!.points;
      const [a, b, , d] = points as [
        { x: number; y: number },
        { x: number; y: number },
        { x: number; y: number },
        { x: number; y: number }
      ];
      // The line as drawn: 10,5 → 95,5 → 95,20 → 10,55 from the bottom, so that d is the far corner of the black side.
      const at = (u: number, v: number) => ({
        x: a.x + ((b.x - a.x) * u) / 85 + ((d.x - a.x) * v) / 50,
        y: a.y + ((b.y - a.y) * u) / 85 + ((d.y - a.y) * v) / 50
      });
      for (const [u, v, black] of [
        [5, 5, true],
        [30, 5, true],
        [5, 40, true],
        [50, 5, false],
        [75, 5, false]
      ] as const) {
        const p = at(u, v);
        expect([cut.docket, u, v, dark(p.x, p.y)]).toEqual([cut.docket, u, v, black]);
      }
    }
  });

  it('prints crop marks in the inks chosen', async () => {
    const docket = await page('marks', {
      copies: 1,
      finishing: { ...NO_FINISHING, crop: DEFAULT_CROP, ink: 'black', caption: true }
    });
    const [id] = shop.layingOut.add([docket.id]);
    await shop.tasks.ended((await shop.ripping.rip(id!)).id);
    const { plan } = shop.runs.frozen(id!);
    expect(plan.flats).toHaveLength(8);
    expect(plan.flats!.every((flat) => flat.inks.join() === '0,0,0,1')).toBe(true);
    expect(plan.letters!.map(({ text }) => text)).toEqual([
      expect.stringMatching(new RegExp(`^Docket ${docket.id} · marks · marks · Film · \\d{4}-\\d{2}-\\d{2} · 1 of 1$`))
    ]);
    const [print] = await shop.printing.start(id!, ids.petrel, 1);
    await printedWith(id!);
    const { data, info } = await sharp(await shop.printing.output(print!.id))
      .greyscale()
      .raw()
      .toBuffer({ resolveWithObject: true });
    const perMm = info.width / plan.widthMm;
    const [bar] = plan.flats!;
    const darkest = Math.min(
      ...[-1, 0, 1].flatMap((dx) =>
        [-1, 0, 1].map(
          (dy) =>
            data[
              (Math.round((bar!.y + bar!.height / 2) * perMm) + dy) * info.width +
                Math.round((bar!.x + bar!.width / 2) * perMm) +
                dx
            ]!
        )
      )
    );
    expect(darkest).toBeLessThan(200);
  });
});

it('costs are written down print by print, and come docket by docket, also as CSV', () => {
  const days = costsOf(shop.db, 1);
  const film = days.find((day) => day.media === 'Film')!;
  expect(film.prints).toBeGreaterThan(2);
  expect(film.m2).toBeCloseTo(film.metres * 0.6, 1);
  expect(film.wasteM2).toBeLessThan(film.m2);
  expect(film.mediaCost).toBeCloseTo(film.m2 * shop.media.get(ids.film).card.costPerM2, 6);
  const report = reportOf(shop.db, 0, Date.now());
  const lines = reportCsv(report).trim().split('\n');
  expect(lines[0]).toBe(
    'ended,started,seconds,print,run,state,reason,machine,media,docket,name,customer,copies,m2,waste_m2,ink_ml,cost'
  );
  expect(lines).toHaveLength(report.length + 1);
  for (const line of report) {
    expect(Date.parse(line.started)).toBeLessThanOrEqual(Date.parse(line.ended));
    expect(line.seconds).toBeGreaterThanOrEqual(0);
    expect(['done', 'cancelled', 'failed']).toContain(line.state);
  }
  expect(report.map(({ ended }) => ended)).toEqual(report.map(({ ended }) => ended).sort());
  const sum = report.reduce((total, { cost }) => total + cost, 0);
  expect(sum).toBeCloseTo(
    days.reduce((total, day) => total + day.mediaCost + day.inkCost + day.timeCost, 0),
    1
  );
  // From a time to a time, both with them.
  const middle = Date.parse(report[Math.floor(report.length / 2)]!.ended);
  const [before, after] = [reportOf(shop.db, 0, middle), reportOf(shop.db, middle + 1, Date.now())];
  expect([...before, ...after]).toEqual(report);
  expect(before.length).toBeGreaterThan(0);
  expect(() => costsOf(shop.db, 0)).toThrow(/1 to 520 weeks/);
});
