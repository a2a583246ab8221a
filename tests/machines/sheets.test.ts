import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Shop } from '$lib/server/app/shop';
import type { RunLine } from '$lib/server/production/run-list';
import type { DocketChoices } from '$lib/docket-choices';
import type { RunRule } from '$lib/run-rule';
import { openFlatbedShop, type FlatbedShop } from '../flatbed-shop';
import { oneChunk, temporaryFolder, until } from '../harness';
import { cmykBox, madePdf } from '../made/pdf';

const folder = temporaryFolder();
let opened: FlatbedShop;
let shop: Shop;
let machineId: number;

beforeAll(async () => {
  opened = await openFlatbedShop(folder.path);
  ({ shop } = opened);
  ({ machineId } = shop.conditions.get(opened.condition));
});
afterAll(async () => {
  await shop.close();
  opened.printer.stop();
  folder.remove();
});

/** A docket of 100 × 60 mm, of which 3 × 4 lie on a sheet. */
async function page(name: string, over: Partial<DocketChoices>) {
  const bytes = madePdf({ width: 100, height: 60, content: cmykBox('0 0 0 1', 0, 0, 50, 60) });
  const artwork = await shop.artworks.take(`${name}.pdf`, oneChunk(bytes));
  await until(() => shop.artworks.get(artwork.id).state === 'ready');
  return shop.dockets.add(artwork.id, 0, { conditionId: opened.condition, cut: false, mayTurn: false, ...over }, name);
}
const rule = (id: number, part: Partial<RunRule>) => {
  const run = shop.runs.get(id);
  return shop.runEditing.change(id, run.version, { rule: { ...run.rule, ...part } });
};
const printedWith = (id: number) => until(() => (shop.runs.get(id).state === 'printed' ? shop.prints.list(id)[0] : undefined));

describe('sheets', () => {
  it('RIP equal sheets once and print them as often as there are', async () => {
    const docket = await page('sheets', { copies: 20 });
    const [id] = shop.layingOut.add([docket.id]);
    // 3 × 4 on a sheet; 20 are one full sheet and one with 8.
    rule(id!, { gapX: 0, gapY: 0, fill: 'all' });
    const run = shop.runs.get(id!);
    expect(run.layout.parts).toHaveLength(2);
    expect(run.layout.parts.map((part) => part.copies.length)).toEqual([12, 12]);
    await shop.tasks.ended((await shop.ripping.rip(id!)).id);
    expect(shop.runs.get(id!).times).toBe(2);
    // RIPped once more in another halftone it is still both sheets.
    rule(id!, { method: 'error-diffusion' });
    await shop.ripping.release(id!);
    await printedWith(id!);
    expect(shop.runs.get(id!).times).toBe(2);
    expect(shop.prints.list(id!)).toHaveLength(2);
    await until(() => shop.prints.list(id!).every((print) => print.state === 'done'));
  });

  it('know of equal sheets how many came out, print what is left, and change nothing of them meanwhile', async () => {
    const docket = await page('three', { copies: 36 });
    const [id] = shop.layingOut.add([docket.id]);
    rule(id!, { gapX: 0, gapY: 0 });
    await shop.tasks.ended((await shop.ripping.rip(id!)).id);
    expect(shop.runs.get(id!)).toMatchObject({ times: 3, came: 0, state: 'ripped' });
    // What comes in is printed once, and not on all of them; what goes out of them goes with all of its copies.
    const other = await page('beside', { copies: 2 });
    const put = (...docketIds: number[]) => shop.runEditing.change(id!, shop.runs.get(id!).version, { docketIds });
    expect(put(docket.id, other.id)).toMatchObject({ times: 1, entries: [{ copies: 36 }, { copies: null }] });
    expect(put(docket.id).times).toBe(1);
    await shop.tasks.ended((await shop.ripping.rip(id!)).id);
    expect(shop.runs.get(id!).times).toBe(3);
    put();
    expect(put(docket.id)).toMatchObject({ times: 1, entries: [{ copies: 36 }] });
    await shop.tasks.ended((await shop.ripping.rip(id!)).id);
    expect(shop.runs.get(id!)).toMatchObject({ times: 3, stale: false });
    // What is held back would count as printed with what is on the plates.
    put(docket.id, other.id);
    shop.runEditing.change(id!, shop.runs.get(id!).version, { held: [other.id] });
    expect(shop.runs.get(id!)).toMatchObject({ stale: true });
    await shop.tasks.ended((await shop.ripping.rip(id!)).id);
    expect(shop.runs.get(id!)).toMatchObject({ times: 3, stale: false });
    const [apart] = shop.layingOut.add([other.id]);
    expect(apart).not.toBe(id);
    await shop.runEditing.remove(apart!);
    const [first] = await shop.printing.start(id!, machineId, 1);
    await until(() => shop.prints.get(first!.id).state === 'done' && shop.runs.get(id!).state !== 'printing');
    expect(shop.runs.get(id!)).toMatchObject({ times: 3, came: 1, state: 'ripped' });
    const line = (shop.lists.page('runs', new URLSearchParams('q=three')).rows as RunLine[]).find((row) => row.id === id);
    expect(line).toMatchObject({ names: '36 × three', sheets: 3, inJig: 0 });
    // Two thirds of its copies wait still: it is neither changed nor moved, and nothing comes into it.
    expect(() => rule(id!, { gapX: 5 })).toThrow('It came out 1 of 3 times. Print what is left');
    expect(() => shop.layingOut.move([docket.id], shop.runs.get(id!).laneId!)).toThrow('came out 1 of 3 times');
    const [beside] = shop.layingOut.add([other.id]);
    expect(beside).not.toBe(id);
    await shop.runEditing.remove(beside!);
    await shop.ripping.release(id!);
    await printedWith(id!);
    expect(shop.prints.list(id!).map(({ state }) => state)).toEqual(['done', 'done', 'done']);
    expect(shop.runs.get(id!)).toMatchObject({ times: 3, came: 3, releasedAt: expect.any(Number) });
    expect(() => shop.runEditing.leave(id!)).toThrow('Nothing of this run');
  });

  it('leave equal sheets at those that came out, and say then what lies in no run', async () => {
    const docket = await page('two', { copies: 24 });
    const [id] = shop.layingOut.add([docket.id]);
    rule(id!, { gapX: 0, gapY: 0 });
    expect(() => shop.runEditing.leave(id!)).toThrow('Nothing of this run');
    await shop.tasks.ended((await shop.ripping.rip(id!)).id);
    const [first] = await shop.printing.start(id!, machineId, 1);
    await until(() => shop.prints.get(first!.id).state === 'done' && shop.runs.get(id!).state !== 'printing');
    expect(shop.docketParts.divided(docket.id)).toMatchObject({ missing: 0, over: 0 });
    // A RIP that was given up has left it without plates.
    shop.db.prepare("UPDATE run SET state = 'laying out', result = NULL, plates_name = NULL WHERE id = ?").run(id);
    expect(() => rule(id!, { gapX: 5 })).toThrow('came out 1 of 2 times');
    expect(shop.runEditing.leave(id!)).toEqual([{ name: 'two', copies: 12 }]);
    expect(shop.runs.get(id!)).toMatchObject({ state: 'printed', times: 1, came: 1 });
    expect(shop.docketParts.divided(docket.id)).toEqual({ missing: 12, over: 0, isPrinted: true });
    const rest = shop.layingOut.addRest(docket.id);
    expect(shop.runs.get(rest).entries).toMatchObject([{ copies: 12 }]);
    await shop.runEditing.remove(rest);
  });

  it('release the sheets that are full, while what is begun waits for more', async () => {
    const docket = await page('full', { copies: 15 });
    const lane = shop.lanes.of(docket);
    // 12 of 100 × 60 mm are 60 % of a sheet.
    const before = shop.lanes.get(lane).rule;
    shop.lanes.change(lane, { rule: { ...before, gapX: 0, gapY: 0 }, release: { kind: 'full', share: 0.5, lengthMm: 0 } });
    const [id] = shop.layingOut.add([docket.id]);
    await printedWith(id!);
    shop.lanes.change(lane, { rule: before, release: { kind: 'hand' } });
    expect(shop.runs.get(id!).entries).toEqual([{ docketId: docket.id, copies: 12, first: 0, held: false, pieces: null }]);
    const rest = shop.runs.get(shop.dockets.get(docket.id).runId!);
    expect(rest).toMatchObject({
      state: 'laying out',
      entries: [{ docketId: docket.id, copies: 3, first: 12, held: false, pieces: null }]
    });
    // Something new joins it.
    const other = await page('joins', { copies: 1 });
    expect(shop.layingOut.add([other.id])).toEqual([rest.id]);
    await shop.runEditing.remove(rest.id);
  });

  it('are spent once a print begins on them: what broke off goes on on another', async () => {
    const tell = (path: string, what: object) =>
      fetch(`${opened.printer.url}${path}`, { method: 'POST', body: JSON.stringify(what) });
    const sheetsLeft = async () => {
      await shop.machines.lookNow();
      return shop.machines.get(machineId).printer!.media.sheets;
    };
    const before = await sheetsLeft();
    const [id] = shop.layingOut.add([(await page('broken', { copies: 12 })).id]);
    rule(id!, { gapX: 0, gapY: 0 });
    await shop.tasks.ended((await shop.ripping.rip(id!)).id);
    await tell('/speed', { speed: 4 });
    const [first] = await shop.printing.start(id!, machineId, 1);
    await until(() => shop.prints.get(first!.id).printedMm > 70);
    expect(await sheetsLeft()).toBe(before - 1);
    await shop.printing.cancel(first!.id);
    await until(() => shop.prints.get(first!.id).endedAt !== null);
    expect(shop.printing.restFrom(shop.prints.get(first!.id))).toBeGreaterThan(0);
    await tell('/speed', { speed: 1e6 });
    await shop.printing.goOn(first!.id);
    await printedWith(id!);
    expect(shop.prints.list(id!).map(({ state }) => state)).toEqual(['done', 'cancelled']);
    expect(await sheetsLeft()).toBe(before - 2);
    await expect(shop.printing.goOn(first!.id)).rejects.toThrow('cannot go on in the middle');
    // The last one is enough for the print that begins on it, and no more are left then.
    await tell('/media', { name: 'Board', surface: 'matt', widthMm: 400, lengthMm: 0, sheetMm: 300, sheets: 1 });
    await sheetsLeft();
    const [last] = await shop.printing.start(id!, machineId, 1);
    await until(() => shop.prints.get(last!.id).state === 'done');
    expect(await sheetsLeft()).toBe(0);
    await expect(shop.printing.start(id!, machineId, 1)).rejects.toThrow('0 sheets are left; 1 is needed.');
  });
});
