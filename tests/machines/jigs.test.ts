import * as fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { xyzToLab, type Triple } from '$core/colour/lab';
import type { Point } from '$core/geometry/matrix';
import { Jig, NEW_JIG, pocketsOf } from '$core/layout/jig';
import { isJig } from '$core/layout/placement';
import { NO_RECORDS } from '$core/records/choices';
import { newText } from '$core/records/new-field';
import { JobTicket } from '$lib/arrivals';
import { USUAL_IN_POCKET } from '$lib/in-jig';
import type { DocketChoices } from '$lib/docket-choices';
import type { RunRule } from '$lib/run-rule';
import { search } from '$lib/server/app/search';
import type { Shop } from '$lib/server/app/shop';
import { JIG_FORMAT } from '$lib/server/machines/jigs';
import { waitsFor } from '$lib/server/printing/releasing';
import { laneOffers } from '$lib/server/production/lane-offers';
import { artworkOf, openFlatbedShop } from '../flatbed-shop';
import { oneChunk, temporaryFolder, until, type StandIn } from '../harness';
import { smallPage } from '../made/small-page';

/** Things that lie in a jig on a flatbed: told once, filled load after load, printed on the things alone. */

let printer: StandIn;
let shop: Shop;
let condition: number;
const folder = temporaryFolder();

const TAGS = Jig.parse({
  ...NEW_JIG,
  name: 'Round tags',
  bed: { widthMm: 400, lengthMm: 300 },
  thing: { widthMm: 20, heightMm: 20, outline: { kind: 'ellipse' } },
  columns: 3,
  rows: 2,
  gapX: 10,
  gapY: 10,
  startX: 30,
  startY: 40,
  nudges: { '2.1': { dx: 1.5, dy: -0.5, turn: 0 } }
});

beforeAll(async () => {
  ({ printer, shop, condition } = await openFlatbedShop(folder.path));
});
afterAll(async () => {
  await shop.close();
  printer.stop();
  folder.remove();
});

/** A docket that is a full colour all over, and prints 2 mm beyond its size. */
async function docketOf(name: string, cmyk: string, copies: number): Promise<number> {
  const id = await artworkOf(shop, name, `${cmyk} k 0 0 20 20 re f`);
  return shop.dockets.add(id, 0, { conditionId: condition, copies, cut: true, bleedMm: 2 }).id;
}
async function seenOn(printId: number, places: Point[]): Promise<Triple[]> {
  const { job } = shop.prints.row(printId);
  const reply = await fetch(`${printer.url}/output/${job}/look`, {
    method: 'POST',
    body: JSON.stringify({ apertureMm: 3, places })
  });
  return ((await reply.json()) as Triple[]).map((xyz) => xyzToLab(xyz));
}

describe('the shop’s jigs', () => {
  it('are kept, copied, and come back from a file as they were', () => {
    const kept = shop.jigs.add(TAGS);
    expect(shop.jigs.copy(kept.id).jig).toEqual({ ...TAGS, name: 'Round tags 2' });
    expect(shop.jigs.bring({ format: JIG_FORMAT, version: 1, jig: TAGS }).jig).toEqual({ ...TAGS, name: 'Round tags 3' });
    expect(shop.jigs.list().map(({ name, pockets, faults }) => [name, pockets, faults])).toEqual([
      ['Round tags', 6, 0],
      ['Round tags 2', 6, 0],
      ['Round tags 3', 6, 0]
    ]);
    expect(search(shop.db, 'round tag').map(({ kind, href }) => [kind, href])).toContainEqual(['Jig', `/shop/jigs/${kept.id}`]);
    for (const { id } of shop.jigs.list().slice(1)) shop.jigs.remove(id);
  });

  it('that are none, or cannot be, are refused with the figure', () => {
    const { id } = shop.jigs.list()[0]!;
    expect(() => shop.jigs.bring({ jig: TAGS })).toThrow('This file is no jig');
    expect(() => shop.jigs.bring(null)).toThrow('This file is no jig');
    expect(() => shop.jigs.bring({ format: JIG_FORMAT, jig: { ...TAGS, gapX: -3 } })).toThrow('The gap across is 0 to 2,000 mm');
    expect(() => shop.jigs.add(TAGS)).toThrow('There is a jig Round tags already');
    expect(() => shop.jigs.add({ ...TAGS, name: 'Much', columns: 900, rows: 900 })).toThrow('810,000 places');
    const { version } = shop.jigs.get(id);
    shop.jigs.change(id, version, { ...TAGS, note: 'Brass look.' });
    expect(() => shop.jigs.change(id, version, TAGS)).toThrow('changed in another window');
  });
});

describe('a run in a jig', () => {
  let runId: number;
  let jigId: number;
  const change = (rule: Partial<Parameters<Shop['runs']['create']>[2]>) => {
    const run = shop.runs.get(runId);
    return shop.runEditing.change(runId, run.version, { rule: { ...run.rule, ...rule } });
  };

  it('falls into its pockets, load after load', async () => {
    jigId = shop.jigs.list()[0]!.id;
    const [cyan, magenta] = [await docketOf('Cyan', '1 0 0 0', 5), await docketOf('Magenta', '0 1 0 0', 3)];
    runId = shop.layingOut.add([cyan, magenta])[0]!;
    const { layout, stock } = change({ jig: jigId });
    expect(isJig(stock) && stock.jig.pockets.length).toBe(6);
    expect(layout.parts.map(({ copies }) => copies.map(({ id, pocket }) => `${id}:${pocket}`))).toEqual([
      [1, 2, 3, 4, 5].map((n) => `${cyan}:${n}`).concat(`${magenta}:6`),
      [1, 2].map((n) => `${magenta}:${n}`)
    ]);
    expect(() => change({ jig: 99 })).toThrow('There is no such jig');
  });

  it('prints equal loads one by one, each once a person has laid it in', async () => {
    const docket = await docketOf('Many', '0 0 1 0', 12);
    const [equal] = shop.layingOut.add([docket], undefined, true);
    const { rule, version, condition } = shop.runs.get(equal!);
    shop.runEditing.change(equal!, version, { rule: { ...rule, jig: jigId } });
    await shop.tasks.ended((await shop.ripping.rip(equal!)).id);
    const run = () => shop.runs.get(equal!);
    expect(run()).toMatchObject({ times: 2, came: 0 });
    await expect(shop.printing.start(equal!, condition.machineId, 2)).rejects.toThrow('One load at a time');
    // Released it waits for a person: the things of the first would be printed on twice.
    await shop.ripping.release(equal!);
    expect(waitsFor(shop.printing, run(), shop.machines.get(condition.machineId))).toContain('laid into Round tags by hand');
    // Things are laid in by hand: no sheet is taken for them, and none need be there.
    const media = (sheets: number) =>
      fetch(`${printer.url}/media`, {
        method: 'POST',
        body: JSON.stringify({ name: 'Board', surface: 'matt', widthMm: 400, lengthMm: 0, sheetMm: 300, sheets })
      });
    await media(0);
    await until(() => shop.machines.get(condition.machineId).printer?.media.sheets === 0);
    for (const came of [1, 2]) {
      const prints = await shop.printing.start(equal!, condition.machineId);
      expect(prints).toHaveLength(1);
      await until(() => shop.prints.get(prints[0]!.id).endedAt !== null && run().came === came);
      expect(run()).toMatchObject({ state: came === 1 ? 'ripped' : 'printed', releasedAt: expect.any(Number) });
    }
    expect(shop.prints.list(equal!)).toHaveLength(2);
    await media(30);
    await until(() => shop.machines.get(condition.machineId).printer?.media.sheets === 30);
  });

  it('prints on the things alone, each where its pocket is, and no marks beside them', async () => {
    await shop.tasks.ended((await shop.ripping.rip(runId)).id);
    const first = runId;
    const second = shop.runs.nextLoad(shop.runs.get(first))!;
    const { plan, cuts, code } = shop.runs.frozen(first);
    expect([plan.marks, cuts, code]).toEqual([[], [], undefined]);
    expect(shop.runs.get(second).layout.parts.map(({ copies }) => copies.map(({ pocket }) => pocket))).toEqual([[1, 2]]);
    const [print] = await shop.printing.start(first, shop.runs.get(first).condition.machineId, 1);
    await until(() => shop.prints.get(print!.id).state === 'done');
    const pockets = pocketsOf(TAGS);
    const labs = await seenOn(
      print!.id,
      pockets.flatMap(({ x, y }) => [
        { x, y },
        // Within its square, and off the round thing; and above its upper edge.
        { x: x + 9.5, y: y + 9.5 },
        { x, y: y + 8 },
        { x, y: y + 12.5 }
      ])
    );
    pockets.forEach((_, i) => {
      const [middle, corner, inside, beyond] = labs.slice(4 * i, 4 * i + 4);
      if (i < 5) expect(middle![1]).toBeLessThan(-15);
      else expect(middle![1]).toBeGreaterThan(30);
      expect(Math.abs(inside![1] - middle![1])).toBeLessThan(6);
      for (const bare of [corner, beyond]) expect(Math.abs(bare![1])).toBeLessThan(4);
    });
  });

  it('is older than its jig once that is changed; what was printed stays as it was', async () => {
    const second = shop.runs.nextLoad(shop.runs.get(runId))!;
    // The lane RIPs its loads one after another; the first may be printed before the second has plates.
    await until(() => shop.runs.get(second).state === 'ripped');
    expect(shop.runs.get(second).stale).toBe(false);
    const { version, jig, runs } = shop.jigs.get(jigId);
    expect(runs).toEqual([second]);
    expect(() => shop.jigs.change(jigId, version, { ...jig, nudges: { '1.1': { dx: 25, dy: 0, turn: 0 } } })).toThrow(
      /cannot have pockets that lie on each other/
    );
    const before = shop.runs.get(runId).layout;
    shop.jigs.change(jigId, version, { ...jig, startX: 31 });
    expect(shop.runs.get(second).stale).toBe(true);
    expect(shop.runs.get(runId).layout).toEqual(before);
    expect(() => shop.jigs.remove(jigId)).toThrow(`Round tags is used by run ${second}.`);
    await shop.runEditing.remove(second);
    shop.jigs.remove(jigId);
    expect(shop.runs.get(runId).layout).toEqual(before);
    expect(() => shop.runCopies.again(runId, before.parts[0]!.copies.slice(0, 1))).toThrow('There is no such jig');
  });

  it('keeps what was put into a pocket by hand there, whatever is switched off or filled before it', async () => {
    const { id: jig } = shop.jigs.add({ ...TAGS, name: 'By hand', columns: 4, nudges: {} });
    const docket = await docketOf('Pinned', '0 1 1 0', 3);
    runId = shop.layingOut.add([docket], undefined, true)[0]!;
    const { id, version, rule } = change({ jig });
    const keys = pocketsOf(shop.jigs.get(jig).jig).map(({ key }) => key);
    const pin = (copy: number, pocket: number) => ({ id: String(docket), copy, part: 0, x: 0, y: 0, turn: 0, pocket });
    shop.runEditing.change(id, version, {
      rule: { ...rule, pockets: { ...rule.pockets, sharing: 'by hand' } },
      pins: [pin(0, 7), pin(1, 2), pin(2, 5)]
    });
    const placeOf = new Map([[0, keys[6]!], [1, keys[1]!], [2, keys[4]!]]); // prettier-ignore
    const lieNow = () => {
      const pockets = pocketsOf(shop.jigs.get(jig).jig);
      const { copies } = shop.runs.get(id).layout.parts[0]!;
      for (const [copy, key] of placeOf)
        expect(copies.find((one) => one.copy === copy)!.pocket).toBe(pockets.find((one) => one.key === key)!.number);
    };
    lieNow();
    fc.assert(
      fc.property(
        fc.subarray(keys, { maxLength: 4 }),
        fc.constantFrom('rows', 'columns'),
        fc.constantFrom('front left', 'back right'),
        (off, along, from) => {
          const { version: of, jig: now } = shop.jigs.get(jig);
          shop.jigs.change(jig, of, { ...now, off, order: { ...now.order, along, from } });
          // One whose place is filled no more has none of its own.
          for (const [copy, key] of placeOf) if (off.includes(key)) placeOf.delete(copy);
          expect(shop.runs.get(id).layout.parts.flatMap(({ copies }) => copies)).toHaveLength(3);
          lieNow();
        }
      ),
      { numRuns: 12, seed: 3 }
    );
    expect(placeOf.size).toBeLessThan(3);
    await shop.runEditing.remove(id);
  });

  it('prints names in whichever pockets they lie, before those of others or cut off otherwise', async () => {
    const { id: jig } = shop.jigs.add({ ...TAGS, name: 'Names' });
    const plain = await docketOf('Plain', '0 1 0 0', 1);
    const place = { x: 2, y: 2, width: 16, height: 8, turn: 0 };
    const named = shop.dockets.add(await artworkOf(shop, 'Named', '1 0 0 0 k 0 0 20 20 re f'), 0, {
      conditionId: condition,
      cut: false,
      records: { ...NO_RECORDS, fields: [newText([], place, '{name}')] }
    });
    const bytes = new TextEncoder().encode('name\nAda\nZoe\nLi\n');
    await shop.docketRecords.take(named.id, named.version, { bytes, name: 'crew.csv', how: {}, key: undefined });
    runId = shop.layingOut.add([plain, named.id], undefined, true)[0]!;
    const { id, version, rule } = change({ jig });
    const pin = (docket: number, copy: number, pocket: number, turn = 0) => ({ id: String(docket), copy, part: 0, x: 0, y: 0, turn, pocket }); // prettier-ignore
    shop.runEditing.change(id, version, {
      rule: { ...rule, pockets: { ...rule.pockets, sharing: 'by hand' } },
      pins: [pin(named.id, 0, 1), pin(plain, 0, 2), pin(named.id, 1, 3, 45), pin(named.id, 2, 4, 20)]
    });
    await shop.tasks.ended((await shop.ripping.rip(id)).id);
    const { plan } = shop.runs.frozen(id);
    const { copies } = shop.runs.get(id).layout.parts[0]!;
    expect(new Set(plan.pieces.map(({ source }) => source)).size).toBeGreaterThanOrEqual(2);
    const drawn = plan.pieces.map(({ source, overlay }, i) => [copies[i]!.id, overlay !== undefined, plan.sources[source]!.overlays !== undefined]); // prettier-ignore
    expect(drawn).toHaveLength(4);
    for (const [of, hasRecord, isDrawn] of drawn)
      expect([of, hasRecord, isDrawn]).toEqual([of, of === String(named.id), hasRecord]);
    await shop.runEditing.remove(id);
  });

  it('is refused on a roll, and where pockets lie off the sheet', async () => {
    const far = shop.jigs.add({
      ...TAGS,
      name: 'Too wide',
      bed: { widthMm: 900, lengthMm: 300, origin: 'front left' },
      startX: 390
    });
    const docket = await docketOf('Far', '0 0 1 0', 1);
    runId = shop.layingOut.add([docket])[0]!;
    expect(change({ jig: far.id }).layout.refusal).toMatch(
      /Pocket 1 of Too wide lies off what is printed on, which is 400 × 300 mm/
    );
    await expect(shop.ripping.rip(runId)).rejects.toThrow(/lies off what is printed on/);
  });
});

describe('a docket that is to lie in a jig', () => {
  const lies = USUAL_IN_POCKET;
  const runOf = (docketId: number) => shop.runs.get(shop.dockets.get(docketId).runId!);
  let jig: number;

  /** A docket that says where it lies. */
  async function lying(name: string, more: Partial<DocketChoices> = {}): Promise<number> {
    const id = await docketOf(name, '1 0 0 0', 4);
    const { version, choices } = shop.dockets.get(id);
    shop.docketEditing.change(id, version, { choices: { ...choices, jig: { id: jig, lies }, ...more } });
    return id;
  }

  it('comes into a run in that jig, with those that lie alike, and with no others', async () => {
    jig = shop.jigs.add({ ...TAGS, name: 'More tags' }).id;
    const [first, plain, turned] = [
      await lying('First'),
      await docketOf('Plain', '1 0 0 0', 2),
      await lying('Turned', { jig: { id: jig, lies: { ...lies, turn: 90 } } })
    ];
    shop.layingOut.add([first, plain, turned]);
    expect([first, plain, turned].map((id) => runOf(id).rule.jig)).toEqual([jig, null, jig]);
    expect(new Set([first, plain, turned].map((id) => runOf(id).id)).size).toBe(3);
    const second = await lying('Second');
    shop.layingOut.add([second]);
    expect(runOf(second).id).toBe(runOf(first).id);
    expect(runOf(second).layout.parts.map(({ copies }) => copies.map(({ pocket }) => pocket))).toEqual([
      [1, 2, 3, 4, 5, 6],
      [1, 2]
    ]);
    expect(runOf(turned).rule.pockets.turn).toBe(90);
    const [offer] = await laneOffers(shop, [turned], shop.lanes.ensure(condition));
    expect(offer).toMatchObject({ cannot: '', tooLarge: '', lengthMm: 300 });
  });

  it('is held against the jig of the run that it waits in, where it says none itself', async () => {
    const id = await docketOf('Large', '1 0 0 0', 1);
    const { version, choices } = shop.dockets.get(id);
    shop.docketEditing.change(id, version, { choices: { ...choices, widthMm: 40, heightMm: 40, cut: false } });
    /** As lists have it, once it was looked at. */
    const found = () =>
      until(() => shop.db.prepare<[number], number>('SELECT worst + 1 FROM docket WHERE id = ?').pluck().get(id) ?? undefined);
    const onSheet = await found();
    const [run] = shop.layingOut.add([id], undefined, true);
    const place = (rule: Partial<RunRule>) => {
      const { version, rule: before } = shop.runs.get(run!);
      shop.runEditing.change(run!, version, { rule: { ...before, ...rule } });
    };
    expect(await found()).toBe(onSheet);
    const { pockets } = shop.runs.get(run!).rule;
    place({ jig, pockets: { ...pockets, edge: 'inside' } });
    expect(shop.dockets.get(id)).toMatchObject({ choices: { jig: null }, runJig: { id: jig, lies: { edge: 'inside' } } });
    expect(shop.docketChecking.worst(id)).toMatchObject({ level: 'stop', sentence: expect.stringContaining('a place in More tags 20') }); // prettier-ignore
    expect(await found()).toBeGreaterThan(onSheet);
    place({ pockets: { ...pockets, size: 'fit' } });
    expect(await found()).toBe(onSheet);
    // Its own word goes before, and in no run it lies on the sheet.
    place({ pockets: { ...pockets, edge: 'inside' } });
    expect(await found()).toBeGreaterThan(onSheet);
    await shop.runEditing.remove(run!);
    expect(shop.dockets.get(id).runJig).toBeNull();
    expect(await found()).toBe(onSheet);
  });

  it('comes there by itself, where its recipe says so', async () => {
    const { id } = shop.recipes.add({ name: 'Tags', note: '', on: null, sets: { jig: { is: 'jig', id: jig, lies }, media: { is: 'condition', conditionId: condition }, copies: 6, plates: 3 } }); // prettier-ignore
    const ticket = JobTicket.parse({ recipe: id, way: 'lay out', despiteLooks: true });
    const came = await shop.arrivals.take('Tag.pdf', ticket, oneChunk(smallPage('0 1 0 0 k 0 0 20 20 re f')), null);
    await until(() => shop.arrivalStore.get(came).state !== 'reading' && shop.arrivalStore.get(came).state !== 'made');
    expect(shop.arrivalStore.get(came)).toMatchObject({ state: 'done', reason: null });
    const [docket] = shop.arrivalStore.get(came).dockets;
    expect(runOf(docket!.id).rule.jig).toBe(jig);
    expect(shop.dockets.get(docket!.id).choices.platesKept).toBe(3);
    // To another shop it goes by its name, and to this one it comes back as what it was.
    const file = shop.recipeFiles.write(id);
    expect(file.sets.jig).toEqual({ is: 'named', name: 'More tags', lies });
    expect(shop.recipeFiles.bring(file).recipe.sets.jig).toEqual({ is: 'jig', id: jig, lies });
    const elsewhere = { ...file, sets: { ...file.sets, jig: { is: 'named', name: 'Cups', lies } } };
    expect(shop.recipeFiles.bring(elsewhere).recipe.sets.jig).toEqual({ is: 'named', name: 'Cups', lies });
    expect(() => shop.recipeFiles.bring({ ...file, sets: { jig: { is: 'jig', id: 1, lies } } })).toThrow(
      'a number of another shop'
    );
  });

  it('is not laid out where that cannot be, and its jig stays as long as it waits', async () => {
    const waits = await lying('Waits');
    const level = () => shop.docketChecking.worst(waits).level;
    expect(level()).not.toBe('stop');
    const { version, jig: kept } = shop.jigs.get(jig);
    expect(() => shop.jigs.remove(jig)).toThrow('is used by run');
    const other = shop.jigs.add({ ...kept, name: 'Lone tags' });
    const docket = shop.dockets.get(waits);
    shop.docketEditing.change(waits, docket.version, { choices: { ...docket.choices, jig: { id: other.id, lies } } });
    expect(() => shop.jigs.remove(other.id)).toThrow(`Docket ${waits} is to lie in Lone tags`);
    shop.jigs.change(other.id, other.version, { ...other.jig, off: pocketsOf(other.jig).map(({ key }) => key) });
    expect(level()).toBe('stop');
    expect(() => shop.layingOut.add([waits])).toThrow(/^Waits.*All pockets of Lone tags are switched off/);
    expect(shop.layingOut.addWaiting().waiting).toBeGreaterThan(0);
    expect(shop.dockets.get(waits).runId).toBeNull();
    shop.docketShelf.putAway([waits], true);
    shop.jigs.remove(other.id);
    expect(() => shop.layingOut.add([waits])).toThrow('was deleted. Choose another one');
    expect(version).toBe(1);
    // Its number is nobody else's, and it comes back with it, though another has its name.
    expect(shop.jigs.add({ ...kept, name: 'Lone tags' }).id).toBeGreaterThan(other.id);
    expect(() => shop.layingOut.add([waits])).toThrow('was deleted. Choose another one');
    expect(shop.jigs.bringBack(other.id)).toMatchObject({ id: other.id, jig: { name: 'Lone tags 2' }, runs: [] });
    expect(() => shop.layingOut.add([waits])).toThrow('All pockets of Lone tags 2 are switched off');
    expect(() => shop.jigs.bringBack(other.id)).toThrow('no such deleted jig');
  });
});
