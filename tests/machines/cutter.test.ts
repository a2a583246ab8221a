import { connect } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Shop } from '$lib/server/app/shop';
import { readCutter } from '$lib/server/machines/cutter-client';
import { turnedStrokes } from '$core/cutting/blade';
import { bounds, contains, distanceTo } from '$core/geometry/path';
import { readHpgl, writeHpgl } from '$core/cutting/hpgl';
import { DEFAULT_KNIVES } from '$core/media/knife';
import { ALL_MODES } from '$standins/printer/modes';
import { oneChunk, startStandIn, temporaryFolder, until, type StandIn } from '../harness';
import { cmykBox, madePdf, spotStroke } from '../made/pdf';

/** The cutter: what it finds, what breaks on the way to it, and what is known of the cut afterwards. */

const folder = temporaryFolder();
const FILM = { name: 'Film', surface: 'gloss', widthMm: 400, lengthMm: 90_000 };
const COPIES = 6;
let printer: StandIn;
let cutter: StandIn;
let shop: Shop;
let machineId: number;
let artworkId: number;
let mediaId: number;

beforeAll(async () => {
  printer = await startStandIn('printer', { MEDIA: JSON.stringify(FILM) });
  cutter = await startStandIn('cutter', { SEED: '3' });
  shop = new Shop(folder.path);
  machineId = shop.machines.add('printer', 'Petrel 13', printer.url);
  shop.machines.add('cutter', 'Tern 130', cutter.url);
  shop.start();
  await shop.machines.lookNow();
  mediaId = shop.media.addNew({ name: 'Film', widthMm: 400 }).id;
  const bytes = madePdf({
    width: 60,
    height: 40,
    spots: { Cut: [0, 1, 0, 0] },
    content: `${cmykBox('0.3 0 0 0', 0, 0, 60, 40)}${spotStroke('5 5 m 55 5 l 55 35 l 5 35 l h')}`
  });
  artworkId = (await shop.artworks.take('tag.pdf', oneChunk(bytes))).id;
  await until(() => shop.artworks.get(artworkId).state === 'ready');
});
afterAll(async () => {
  await shop.close();
  [printer, cutter].forEach((one) => one.stop());
  folder.remove();
});

const control = (path: string, body: unknown) => fetch(`${cutter.url}${path}`, { method: 'POST', body: JSON.stringify(body) });
const runs = new Map<string, number>();

/** A run of the docket in a print mode, RIPped once. */
async function ripped(code: string): Promise<number> {
  const known = runs.get(code);
  if (known !== undefined) return known;
  const conditionId = shop.conditionEditing.add(
    machineId,
    mediaId,
    ALL_MODES.find((mode) => mode.code === code)!
  );
  await until(() => shop.conditions.get(conditionId).hasProfile);
  const docket = shop.dockets.add(artworkId, 0, { conditionId, copies: COPIES, bleedMm: 0, cut: true });
  const lane = shop.lanes.ensure(conditionId);
  shop.lanes.change(lane, { conditionId });
  const runId = shop.layingOut.add([docket.id], lane)[0]!;
  expect((await shop.tasks.ended((await shop.ripping.rip(runId)).id)).error).toBeNull();
  runs.set(code, runId);
  return runId;
}

const CODES = [...new Set(ALL_MODES.filter(({ machine }) => machine === 'Petrel 13').map(({ dpi }) => dpi))].map((dpi) =>
  ALL_MODES.find((mode) => mode.machine === 'Petrel 13' && mode.dpi === dpi && mode.code.includes('/calendered/'))!
);
/** Codes and fine lines are seen in it. */
const FINE = CODES.find(({ dpi }) => dpi === 720)!.code;
const DRAFT = 'Petrel 13/Harbour/calendered/360/4/both ways/draft';
/** A fresh print that lies in the cutter, its marks found. @returns its cut task */
async function registered(code = DRAFT): Promise<number> {
  const runId = await ripped(code);
  const [print] = await shop.printing.start(runId, machineId, 1);
  await until(() => shop.prints.get(print!.id).endedAt !== null);
  const task = shop.cuts.ofRun(print!.runId).find((cut) => cut.printId === print!.id)!;
  await shop.cutting.load(task.id);
  await shop.cutting.findMarks(task.id);
  return task.id;
}
const state = (id: number) => shop.cuts.get(id).state;
const linesCut = async () => (await readCutter(cutter.url)).linesCut;

describe('the camera', () => {
  it.each(CODES.map(({ dpi, code }) => [dpi, code]))(
    'finds the marks of a print at %i dpi, where they are',
    async (_dpi, code) => {
      const id = await registered(code);
      const { registration } = shop.cuts.get(id);
      expect(registration!.matched.length).toBe((await shop.cutPaths.detail(id)).marks.length);
      expect(registration!.worst).toBeLessThan(0.15);
    }
  );
});

/** A fresh open run of the docket in the fine mode, by a rule of its own. */
function openRun(rule: object): number {
  const conditionId = shop.conditions.list().find(({ mode }) => mode.code === FINE)!.id;
  const docket = shop.dockets.add(artworkId, 0, { conditionId, copies: COPIES, bleedMm: 0, cut: true });
  const id = shop.layingOut.add([docket.id])[0]!;
  const run = shop.runs.get(id);
  shop.runEditing.change(id, run.version, { rule: { ...run.rule, ...rule } });
  return id;
}

describe('a run', () => {
  it('is cut out of plain film without being printed, from its corner on', async () => {
    await registered(FINE);
    const run = openRun({});
    await until(() => !shop.runs.get(run).provisional);
    const task = shop.plainFilm.cut(run);
    expect(shop.runs.get(run)).toMatchObject({ state: 'printed', hasPlates: false });
    expect(() => shop.plainFilm.cut(run)).toThrow(/has been printed/);
    // It lies on no roll from a printer, and carries no code.
    expect(shop.rolls.waiting().flatMap(({ prints }) => prints.map(({ id }) => id))).not.toContain(task);
    await shop.cutting.load(task);
    await shop.cutting.findMarks(task);
    await shop.cutting.cut(task);
    await until(() => state(task) === 'cut');
    const { lines } = await shop.cutPaths.detail(task);
    // What is cut of it stays what it was, whatever becomes of its run.
    const frozen = shop.runs.frozen(run);
    shop.runs.keepPlan(run, { ...frozen, cuts: frozen.cuts.slice(1) });
    expect(shop.cuts.plan(task).cuts).toEqual(frozen.cuts);
    expect((await shop.cutPaths.detail(task)).lines).toEqual(lines);
    const [turning, ...cut] = await shop.cutting.asCut(task);
    expect(cut).toHaveLength(COPIES);
    for (const p of turning!) expect(lines.some((line) => contains(line.points, p))).toBe(false);
    // Film is askew in the cutter by up to half a degree, and nothing on it says so.
    for (const way of cut)
      expect(Math.min(...lines.map((line) => Math.max(...way.map((p) => distanceTo(line, p)))))).toBeLessThan(4);
  });

  it('is cut straight along its pieces where it is asked to be, each piece free at its finished size', async () => {
    await registered(FINE);
    const run = openRun({ cutAlong: 'pieces', gapX: 5, gapY: 5 });
    expect((await shop.tasks.ended((await shop.ripping.rip(run)).id)).error).toBeNull();
    const { cuts, inOrder, code } = shop.runs.frozen(run);
    expect([inOrder, code?.text.length]).toEqual([true, 10]);
    const [print] = await shop.printing.start(run, machineId, 1);
    await until(() => shop.prints.get(print!.id).endedAt !== null);
    const task = shop.cuts.ofRun(run)[0]!.id;
    const lines = await shop.cutPaths.lines(task);
    // In the order of the layout, though another way would be shorter.
    expect(lines.map(({ points }) => points)).toEqual(
      cuts.map(({ path }) => path.flatMap((segment) => ('to' in segment ? [segment.to] : [])))
    );
    const copies = shop.runs.get(run).layout.parts[0]!.copies;
    for (const { x, y, width, height } of copies)
      for (const p of [
        { x, y: y + height / 2 },
        { x: x + width, y: y + height / 2 },
        { x: x + width / 2, y },
        { x: x + width / 2, y: y + height }
      ])
        expect(Math.min(...lines.map((line) => distanceTo(line, p)))).toBeLessThan(1e-6);
  });
});

describe('a cut', () => {
  it('asked for twice at once is carried out once', async () => {
    const id = await registered();
    const asked = await Promise.allSettled([shop.cutting.cut(id), shop.cutting.cut(id)]);
    expect(asked.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    await until(() => state(id) === 'cut');
    // One stroke in the waste turned the knife.
    expect(await linesCut()).toBe(1 + COPIES);
    await expect(shop.cutting.cut(id)).rejects.toThrow(/has been cut/);
  });

  it('is begun with the knife that is asked for', async () => {
    const id = await registered();
    const knife = { ...DEFAULT_KNIVES, 'kiss cut': { ...DEFAULT_KNIVES['kiss cut'], speed: 7 } };
    await shop.cutting.cut(id, { knife });
    await until(() => state(id) === 'cut');
    expect(await (await fetch(`${cutter.url}/state`)).json()).toMatchObject({ speed: 7 });
  });

  it('is tried in the waste beforehand, off all lines, and no line counts as cut by it', async () => {
    const id = await registered(FINE);
    await expect(shop.cutting.test(id, 'kiss cut')).resolves.toBeUndefined();
    await until(async () => (await readCutter(cutter.url)).linesCut === 3);
    const { lines } = await shop.cutPaths.detail(id);
    // What turns the knife, a square and a triangle.
    const tried = await shop.cutting.asCut(id);
    expect(tried).toHaveLength(3);
    for (const p of tried.flat()) expect(lines.some((line) => contains(line.points, p))).toBe(false);
    expect(shop.cuts.get(id)).toMatchObject({ state: 'registered', linesCut: 0 });
    // Another is cut beside it.
    await shop.cutting.test(id, 'kiss cut', { ...DEFAULT_KNIVES, 'kiss cut': { ...DEFAULT_KNIVES['kiss cut'], force: 120 } });
    await until(async () => (await readCutter(cutter.url)).linesCut === 6);
    const [, first, , , second] = (await shop.cutting.asCut(id)).map((way) => bounds([{ points: way, closed: false }])!);
    expect(Math.abs(first!.x - second!.x) > first!.width || Math.abs(first!.y - second!.y) > first!.height).toBe(true);
    await shop.cutting.cut(id);
    await until(() => state(id) === 'cut');
    expect(shop.cuts.get(id).linesCut).toBe(COPIES);
    const [, ...cut] = (await shop.cutting.asCut(id)).slice(6);
    expect(cut).toHaveLength(COPIES);
    // The blade goes along the lines, as the print has them, though its tip trails the head.
    for (const way of cut)
      expect(Math.min(...lines.map((line) => Math.max(...way.map((p) => distanceTo(line, p)))))).toBeLessThan(0.1);
  });

  it('lies in one cutter while another is loaded, tried and cuts', async () => {
    const second = await startStandIn('cutter', { SEED: '4' });
    const secondId = shop.machines.add('cutter', 'Tern 60', second.url);
    await shop.machines.lookNow();
    const first = await registered();
    const [print] = await shop.printing.start(shop.cuts.get(first).runId, machineId, 1);
    await until(() => shop.prints.get(print!.id).endedAt !== null);
    const other = shop.cuts.ofRun(print!.runId).find((cut) => cut.printId === print!.id)!.id;
    await Promise.all([shop.cutting.load(first), shop.cutting.load(other, secondId)]);
    await Promise.all([shop.cutting.findMarks(first), shop.cutting.findMarks(other)]);
    const tries = [first, other, first, other];
    for (const id of tries) {
      const { url } = id === first ? cutter : second;
      const { linesCut: before } = await readCutter(url);
      await shop.cutting.test(id, 'kiss cut');
      await until(async () => (await readCutter(url)).linesCut === before + 3);
    }
    // In each the second lies beside the first, though another cutter was tried between.
    for (const id of [first, other]) {
      const [, one, , , next] = (await shop.cutting.asCut(id)).map((way) => bounds([{ points: way, closed: false }])!);
      expect(Math.abs(one!.x - next!.x) > one!.width || Math.abs(one!.y - next!.y) > one!.height).toBe(true);
    }
    // Both are sent their lines at the same moment.
    await Promise.all([shop.cutting.cut(first), shop.cutting.cut(other)]);
    await until(() => state(first) === 'cut' && state(other) === 'cut');
    expect([first, other].map((id) => shop.cuts.get(id).linesCut)).toEqual([COPIES, COPIES]);
    expect(shop.machineShelf.remove(secondId).is).toBe('put away');
    second.stop();
    expect(await shop.cutting.asCut(other)).toEqual([]);
  });

  it('is said to be cut elsewhere, or not to be cut, and waits no longer until it is put back', async () => {
    const id = await registered();
    const { runId, code } = shop.cuts.get(id);
    const others = shop.cuts.ofRun(runId).map((cut) => cut.id).filter((other) => other !== id); // prettier-ignore
    const [docketId] = shop.runs.get(runId).dockets.map((docket) => docket.id);
    const stage = () => shop.dockets.lines([docketId!])[0]!.stage;
    const listed = (how: string) =>
      (shop.lists.page('cuts', new URLSearchParams({ list: 'cut', stage: how })).rows as { id: number }[]).map((row) => row.id);
    expect(stage()).toBe('printed');
    // It is cut in part, and what is being cut is left alone.
    shop.db.prepare("UPDATE cut_task SET state = 'cutting', lines_cut = 2 WHERE id = ?").run(id);
    expect(shop.cuts.close([id], 'cut elsewhere')).toEqual([]);
    shop.cuts.ended(id, 'registered', 2, null);
    expect(shop.cuts.close([id, id, 999_999, ...others], 'not to be cut')).toContain(id);
    expect(shop.cuts.close([id], 'cut elsewhere')).toEqual([]);
    expect(shop.cuts.get(id)).toMatchObject({ state: 'cut', closed: 'not to be cut', linesCut: 2, registration: null });
    expect([stage(), listed('not to be cut').includes(id), listed('cut elsewhere'), listed('cut').includes(id)]).toEqual(['done', true, [], false]); // prettier-ignore
    await expect(shop.cutting.load(id)).rejects.toThrow(`${code} was put down as not to be cut. Put it back`);
    // Put back, it goes on where it was.
    expect(shop.cuts.putBack([id, ...others])).toContain(id);
    expect(shop.cuts.putBack([id])).toEqual([]);
    expect(shop.cuts.get(id)).toMatchObject({ state: 'waiting', closed: null, linesCut: 2, cutAt: null });
    expect(stage()).toBe('printed');
    await shop.cutting.load(id);
    await shop.cutting.findMarks(id);
    await shop.cutting.cut(id);
    await until(() => state(id) === 'cut');
    const cut = await shop.cutting.asCut(id);
    // The stroke in the waste that turns the knife is one of them.
    expect(cut.length).toBeLessThanOrEqual(COPIES - 2 + 1);
    // What a cutter cut is no saying of a person's.
    expect(shop.cuts.putBack([id])).toEqual([]);
    expect(shop.cuts.get(id)).toMatchObject({ state: 'cut', closed: null, linesCut: COPIES });
    shop.cuts.close(others, 'not to be cut');
    expect(stage()).toBe('done');
  });

  it('is written as a file for another cutter, in each form', async () => {
    const id = await registered(FINE);
    const text = async (as: 'svg' | 'dxf' | 'pdf' | 'hpgl') => Buffer.from(await shop.cutPaths.file(id, as)).toString('latin1');
    expect((await text('svg')).match(/<path /g)).toHaveLength(COPIES);
    expect((await text('dxf')).match(/LWPOLYLINE/g)).toHaveLength(COPIES);
    expect(await text('pdf')).toMatch(/^%PDF-1[^]*\/Separation[^]*kiss/);
    expect(readHpgl(await text('hpgl'))).toHaveLength(COPIES);
  });

  it('by a cutter that hangs and cuts on is followed to its end', async () => {
    const id = await registered();
    await control('/faults', { silentForSeconds: 8, linesPerSecond: 20 });
    await shop.cutting.cut(id);
    await until(() => shop.cuts.get(id).reason?.includes('does not answer'));
    expect(state(id)).toBe('cutting');
    await until(() => state(id) === 'cut');
    expect(shop.cuts.get(id)).toMatchObject({ reason: null, linesCut: COPIES });
    await control('/faults', { linesPerSecond: 0 });
  });

  it('whose line broke goes on with the rest, and what is cut is not cut again', async () => {
    const id = await registered();
    // As a server leaves it that died while it sent: claimed, and three lines of six on the way.
    const task = shop.cuts.get(id);
    const before = await readCutter(cutter.url);
    const claim = { sheet: before.sheet!, knife: task.knife, hpglHash: '', from: 0, offset: before.linesCut };
    // One that lies otherwise since, or elsewhere, is not cut by these lines, nor found by these marks.
    expect(shop.cuts.claim(id, { ...claim, sheet: 'another' })).toBe(false);
    expect(shop.cuts.registered(id, task.registration!, 'another')).toBe(false);
    expect(shop.cuts.claim(id, claim)).toBe(true);
    expect(shop.cuts.claim(id, claim)).toBe(false);
    // The stroke that turns the knife, and three lines.
    const lines = (await shop.cutPaths.lines(id)).slice(0, 3);
    const half = writeHpgl(turnedStrokes(lines, task.knife, [{ x: 0, y: 0 }, { x: 5, y: 0 }]), task.knife); // prettier-ignore
    await new Promise<void>((resolve) => {
      const socket = connect(before.hpglPort, '127.0.0.1', () => socket.end(half)).on('close', () => resolve());
      socket.resume();
    });
    shop.cutting.resume();
    await until(() => state(id) === 'registered');
    // The third may have been half done.
    expect(shop.cuts.get(id)).toMatchObject({
      linesCut: 2,
      reason: expect.stringMatching(/2 of 6 lines were cut. Cut the rest/)
    });
    await shop.cutting.cut(id);
    await until(() => state(id) === 'cut');
    expect(await linesCut()).toBe(1 + 3 + 1 + 4);
  });

  it('that the cutter was switched off in is not taken for cut', async () => {
    const id = await registered();
    await control('/faults', { linesPerSecond: 4 });
    await shop.cutting.cut(id);
    await until(() => shop.cuts.get(id).linesCut > 0);
    // Strokes are counted by the knife that it is cut with.
    expect(() => shop.cuts.setKnife(id, DEFAULT_KNIVES)).toThrow(/is being cut/);
    await expect(shop.cutting.load(id)).rejects.toThrow(/is cutting [0-9A-Z]{5}-[0-9A-Z]{5}\/\d/);
    cutter.stop('SIGKILL');
    cutter = await startStandIn('cutter', { SEED: '3', PORT: cutter.port, HPGL_PORT: String(cutter.hpglPort) });
    await until(() => state(id) === 'waiting');
    expect(shop.cuts.get(id).reason).toMatch(/switched off or emptied while it cut .{11}\/\d+: .*of 6 lines were cut/);
    expect(await shop.cutting.asCut(id)).toEqual([]);
  });

  it('is not sent to a cutter that has no sheet, or another one', async () => {
    const id = await registered();
    await control('/unload', {});
    await expect(shop.cutting.cut(id)).rejects.toThrow(/does not lie in Tern 130 any more/);
    expect(state(id)).toBe('waiting');
    const first = await registered();
    const second = await registered();
    expect(state(first)).toBe('waiting');
    await expect(shop.cutting.cut(first)).rejects.toThrow(/Find the marks first/);
    expect(state(second)).toBe('registered');
    expect(await linesCut()).toBe(0);
  });
});
