import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { distanceTo } from '$core/geometry/path';
import { strokesOf } from '$core/cutting/blade';
import { DEFAULT_KNIVES } from '$core/media/knife';
import type { CutterRoll, RollPlace } from '$protocol/cutter';
import { Shop } from '$lib/server/app/shop';
import { layRoll, readCutter } from '$lib/server/machines/cutter-client';
import { oneChunk, startStandIn, temporaryFolder, until, USUAL_MODE, type StandIn } from '../harness';
import { openDoor } from '../made/cutter-door';
import { cmykBox, madePdf, spotStroke } from '../made/pdf';

/** Rolls that a cutter cuts by itself: what it finds on them, what it is told, and what becomes of what goes wrong. */

const folder = temporaryFolder();
const FILM = { name: 'Film', surface: 'gloss', widthMm: 300, lengthMm: 90_000 };
const SIZES = [[70, 40], [90, 60], [60, 80], [110, 50]] as const; // prettier-ignore
let printer: StandIn;
let cutter: StandIn;
let shop: Shop;
let door: Awaited<ReturnType<typeof openDoor>>;
let printerId: number;
let cutterId: number;
let mediaId: number;
let runs: number[];
let dockets: number[];

/** A docket of a size with a line around it. */
async function docketOf([width, height]: readonly [number, number], conditionId: number): Promise<number> {
  const line = `4 4 m ${width - 4} 4 l ${width - 4} ${height - 4} l ${width / 2} ${height - 12} l 4 ${height - 4} l h`;
  const bytes = madePdf({ width, height, spots: { Cut: [0, 1, 0, 0] }, content: `${cmykBox('0.3 0 0 0', 0, 0, width, height)}${spotStroke(line)}` }); // prettier-ignore
  const { id } = await shop.artworks.take(`tag-${width}.pdf`, oneChunk(bytes));
  await until(() => shop.artworks.get(id).state === 'ready');
  return shop.dockets.add(id, 0, { conditionId, copies: 3, bleedMm: 0, cut: true }).id;
}

/** A fresh print of a run. @returns its cut task */
async function printed(run: number): Promise<number> {
  const [print] = await shop.printing.start(run, printerId, 1);
  await until(() => shop.prints.get(print!.id).endedAt !== null);
  return shop.cuts.ofRun(run).find(({ printId }) => printId === print!.id)!.id;
}

beforeAll(async () => {
  printer = await startStandIn('printer', { MEDIA: JSON.stringify(FILM) });
  cutter = await startStandIn('cutter', { SEED: '7' });
  shop = new Shop(folder.path);
  door = await openDoor(shop);
  printerId = shop.machines.add('printer', 'Petrel 13', printer.url);
  cutterId = shop.machines.add('cutter', 'Tern 130', cutter.url);
  shop.start();
  await shop.machines.lookNow();
  mediaId = shop.media.addNew({ name: 'Film', widthMm: 300 }).id;
  const conditionId = shop.conditionEditing.add(printerId, mediaId, USUAL_MODE);
  await until(() => shop.conditions.get(conditionId).hasProfile);
  const lane = shop.lanes.ensure(conditionId);
  dockets = [];
  runs = [];
  for (const size of SIZES) {
    dockets.push(await docketOf(size, conditionId));
    const run = shop.layingOut.add([dockets.at(-1)!], lane)[0]!;
    expect((await shop.tasks.ended((await shop.ripping.rip(run)).id)).error).toBeNull();
    runs.push(run);
    // Printed once it takes no further dockets; that print is put aside.
    const first = await printed(run);
    shop.cuts.close([first], 'not to be cut');
  }
});
afterAll(async () => {
  door.close();
  await shop.close();
  [printer, cutter].forEach((one) => one.stop());
  folder.remove();
});

const control = async (path: string, body: unknown = {}, method = 'POST') =>
  (await fetch(`${cutter.url}${path}`, { method, ...(method === 'POST' && { body: JSON.stringify(body) }) })).json() as Promise<Record<string, unknown>>; // prettier-ignore
const roll = async (): Promise<CutterRoll> => (await readCutter(cutter.url)).roll!;
const state = (id: number) => shop.cuts.get(id).state;
const fates = ({ places }: CutterRoll) => places.map((place) => place.state);
const start = () => shop.rolls.start(cutterId, door.url);
const ended = () =>
  until(async () => {
    const now = await roll();
    return now.state === 'done' || now.state === 'stopped' ? now : undefined;
  });
/** Soils a place of a print: its code, or a mark. */
const soil = (print: number, { x, y }: { x: number; y: number }, radius: number) =>
  control('/roll/dirt', { print, x, y, radius });
const codeOf = (task: number, which: number) => {
  const box = shop.cuts.plan(task).codes![which]!;
  return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
};

/** The blade's ways of a print, each held against the lines that it was printed with. @returns the farthest off, mm */
async function farOff(print: number, task: number): Promise<number> {
  const { lines } = (await control('/roll/cut', {}, 'GET')) as { lines: { print: number; points: { x: number; y: number }[] }[] };
  const planned = await shop.cutPaths.lines(task);
  const ways = lines.filter((one) => one.print === print).map(({ points }) => points);
  const off = ways.map((way) => Math.min(...planned.map((line) => Math.max(...way.map((p) => distanceTo(line, p))))));
  // The stroke in the waste that turns the knife lies on no line.
  const cut = off.slice(1);
  expect(cut).toHaveLength(planned.length);
  return Math.max(...cut);
}

beforeEach(async () => {
  await control('/faults', { linesPerSecond: 0, lostForSeconds: 0, bluntAfterM: 4000 });
  for (const { id, sheet } of shop.cuts.cutting()) shop.cuts.unloaded(id, sheet, 'Between tests.');
  // The first that waits is cut: what other tests printed is put aside.
  shop.db.exec("UPDATE cut_task SET state = 'cut'");
});

/** Those that wait on rolls for a cutter. */
const waits = () => shop.rolls.waiting().flatMap(({ prints }) => prints.map(({ id }) => id));

describe('a roll', () => {
  it('does not wait while it lies in a cutter; others do, as long as it is known which it is', async () => {
    const [inside, outside] = [await printed(runs[0]!), await printed(runs[1]!)];
    // Asked for twice at once it is put in once.
    const asked = await Promise.allSettled([1, 2].map(() => shop.rolls.lay(cutterId, [inside], false)));
    expect(asked.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(waits()).toEqual([outside]);
    await shop.rolls.ask(cutterId, 'unload');
    expect(waits()).toEqual([inside, outside]);
    // Somebody put one in by another way: it may be either.
    const picture = await shop.printing.output(shop.cuts.row(inside).print_id);
    await layRoll(cutter.url, false, oneChunk(new Uint8Array(picture)) as AsyncGenerator<Uint8Array<ArrayBuffer>>);
    await shop.machines.lookNow();
    expect(waits()).toEqual([]);
  });

  it('put in backwards, with a wrong print, a smudged code and a smudged mark, is cut to its end by one word', async () => {
    const tasks = [];
    for (const run of runs) tasks.push(await printed(run));
    // A print that the shop knows nothing of lies among them: the tail is first, so it comes third.
    const [stray] = await shop.printing.start(runs[0]!, printerId, 1);
    await until(() => shop.prints.get(stray!.id).endedAt !== null);
    const other = shop.cuts.ofRun(runs[0]!).find(({ printId }) => printId === stray!.id)!;
    await shop.rolls.lay(cutterId, [tasks[0]!, tasks[1]!, other.id, tasks[2]!, tasks[3]!], true);
    shop.db.prepare('DELETE FROM cut_task WHERE id = ?').run(other.id);
    shop.db.prepare('UPDATE cut_task SET state = ? WHERE id = ?').run('cut', tasks[0]!);
    await soil(1, codeOf(tasks[2]!, 1), 8);
    await soil(3, shop.cuts.plan(tasks[1]!).marks[0]!, 2);
    expect(waits()).toEqual([]);
    const said: string[] = [];
    const deaf = shop.events.listen((event) => event.kind === 'said' && said.push(event.text));
    await start();
    await expect(start()).rejects.toThrow(/is cutting the roll already/);
    const end = await ended();
    expect([end.state, fates(end)]).toEqual(['done', ['cut', 'cut', 'refused', 'cut', 'refused']]);
    expect(end.places.every(({ isTurned }, i) => i === 2 || isTurned)).toBe(true);
    expect(end.places[2]!.reason).toMatch(/have been cut already/);
    await until(() => said.some((text) => text.endsWith('has cut its roll: 3 of 5 prints.')));
    deaf();
    for (const [i, task] of [
      [0, tasks[3]!],
      [1, tasks[2]!],
      [3, tasks[1]!]
    ] as const) {
      expect(state(task)).toBe('cut');
      expect(await farOff(i, task)).toBeLessThan(0.2);
    }
    expect(await (await fetch(`${cutter.url}/roll/places/3.png`)).blob().then(({ type }) => type)).toBe('image/png');
  });

  it('has a print whose codes are both smudged cut by its number, and nothing guessed', async () => {
    const task = await printed(runs[1]!);
    await shop.rolls.lay(cutterId, [task], false);
    for (const which of [0, 1]) await soil(0, codeOf(task, which), 8);
    await start();
    const [place] = (await ended()).places;
    expect(place).toMatchObject({ state: 'refused', refused: 'unread', code: null });
    expect(state(task)).toBe('waiting');
    await expect(shop.rolls.again(cutterId, 1, { code: 'HELLO' }, door.url)).rejects.toThrow(/no number of a print/);
    await expect(shop.rolls.again(cutterId, 1, {}, door.url)).rejects.toThrow(/Give the number/);
    // The number of another print: its marks are not these.
    const wrong = shop.cuts.get(await printed(runs[3]!)).code;
    await shop.rolls.again(cutterId, 1, { code: wrong }, door.url);
    await until(async () => (await roll()).places[0]!.refused === 'marks');
    await shop.rolls.again(cutterId, 1, { code: shop.cuts.get(task).code.toLowerCase() }, door.url);
    await until(() => state(task) === 'cut');
    expect(await farOff(0, task)).toBeLessThan(0.2);
  });

  it('is not cut twice unless somebody asks', async () => {
    const task = await printed(runs[0]!);
    await shop.rolls.lay(cutterId, [task], false);
    shop.db
      .prepare(
        "UPDATE cut_task SET state = 'cut', lines_cut = 3 WHERE print_code = (SELECT print_code FROM cut_task WHERE id = ?)"
      )
      .run(task);
    await start();
    const [place] = (await ended()).places;
    expect(place).toMatchObject({ state: 'refused', refused: 'cut' });
    expect(await readCutter(cutter.url)).toMatchObject({ linesCut: 0 });
    await shop.rolls.again(cutterId, 1, { allSame: true }, door.url);
    await until(async () => fates(await roll())[0] === 'cut');
    expect((await readCutter(cutter.url)).linesCut).toBe(1 + 3);
  });

  it('is told that a docket was changed since, and cut all the same when asked', async () => {
    const task = await printed(runs[2]!);
    const docket = shop.dockets.get(dockets[2]!);
    const change = (choices: object) =>
      shop.docketEditing.change(docket.id, shop.dockets.get(docket.id).version, { choices: { ...docket.choices, ...choices } });
    change({ heightMm: 90, widthMm: 67.5 });
    await shop.rolls.lay(cutterId, [task], false);
    await start();
    expect((await ended()).places[0]).toMatchObject({ state: 'refused', refused: 'changed', reason: expect.stringMatching(/before its docket was changed/) }); // prettier-ignore
    await shop.rolls.again(cutterId, 1, { allSame: true }, door.url);
    await until(() => state(task) === 'cut');
    expect(await farOff(0, task)).toBeLessThan(0.2);
    change({});
  });

  it('is stopped and goes on with the rest; a print is skipped', async () => {
    const tasks = [await printed(runs[0]!), await printed(runs[1]!)];
    const same = await printed(runs[0]!);
    await shop.rolls.lay(cutterId, tasks, false);
    await control('/faults', { linesPerSecond: 4 });
    await start();
    await until(() => shop.cuts.get(tasks[0]!).linesCut >= 1);
    await shop.rolls.ask(cutterId, 'stop');
    const end = await ended();
    expect(end).toMatchObject({ state: 'stopped', places: [{ state: 'refused', reason: 'It was stopped.' }] });
    const { linesCut, reason } = shop.cuts.get(tasks[0]!);
    expect(reason).toMatch(new RegExp(`${linesCut} of 3 lines were cut`));
    const strokes = (await readCutter(cutter.url)).linesCut;
    // Though another that looks the same waits, it is known by where it lies.
    await start();
    await until(() => state(tasks[0]!) === 'cut');
    // A stroke in the waste, and the lines that were not cut: none twice.
    expect((await readCutter(cutter.url)).linesCut).toBeGreaterThanOrEqual(strokes + 1 + 3 - linesCut);
    await until(() => state(tasks[1]!) === 'cutting');
    await shop.rolls.ask(cutterId, 'skip');
    expect(fates(await ended())).toEqual(['cut', 'skipped']);
    expect([state(tasks[1]!), state(same)]).toEqual(['waiting', 'waiting']);
  });

  it('that is stopped while it is looked at has not come to its end, and goes on', async () => {
    const task = await printed(runs[0]!);
    await shop.rolls.lay(cutterId, [task], false);
    await start();
    await shop.rolls.ask(cutterId, 'stop');
    expect(await ended()).toMatchObject({ state: 'stopped', reason: 'It was stopped.' });
    await start();
    await until(async () => (await roll()).state === 'done');
    if (state(task) !== 'cut') await shop.rolls.again(cutterId, 1, {}, door.url);
    await until(() => state(task) === 'cut');
  });

  it('whose line to the server breaks is cut on, and told when it is there again', async () => {
    const task = await printed(runs[0]!);
    await shop.rolls.lay(cutterId, [task], false);
    await control('/faults', { linesPerSecond: 4 });
    await start();
    await until(() => state(task) === 'cutting');
    await control('/faults', { lostForSeconds: 3 });
    await until(async () => (await readCutter(cutter.url)).linesCut === 4);
    expect(state(task)).toBe('cutting');
    await until(() => state(task) === 'cut');
    expect((await ended()).state).toBe('done');
  });

  it('that ends in the middle of a print is not cut beyond its end, and says why', async () => {
    const task = await printed(runs[2]!);
    const { print_id: print } = shop.cuts.row(task);
    const endsAtMm = 130;
    // As it comes, but for the noise: laid in by hand, so that it can be too short.
    await control('/roll', { endsAtMm, noise: 0 });
    const png = new Uint8Array(await shop.printing.output(print));
    await fetch(`${cutter.url}/roll/print`, { method: 'POST', body: png, headers: { 'content-type': 'image/png' } });
    await start();
    const [place] = (await ended()).places;
    expect(place).toMatchObject({ state: 'refused', reason: expect.stringMatching(/The roll ends at 130 mm|marks/) });
    expect(shop.cuts.get(task)).toMatchObject({ state: 'waiting', reason: expect.stringMatching(/The roll ends|marks/) });
    const { lengthMm } = shop.cuts.plan(task);
    expect(lengthMm).toBeGreaterThan(endsAtMm - 60);
    expect((await readCutter(cutter.url)).linesCut).toBeLessThan(1 + 3);
  });

  it('is stopped by a blunt blade, and goes on with another', async () => {
    const task = await printed(runs[2]!);
    await shop.rolls.lay(cutterId, [task], false);
    await shop.rolls.newBlade(cutterId);
    await control('/faults', { bluntAfterM: 0.1 });
    await start();
    expect(await ended()).toMatchObject({ state: 'stopped', reason: expect.stringMatching(/blade is blunt/) });
    expect(state(task)).toBe('cut');
    await shop.rolls.newBlade(cutterId);
    await start();
    expect((await ended()).state).toBe('done');
  });

  it('that the cutter is switched off in is not taken for cut: the rest is cut when it lies there again', async () => {
    const task = await printed(runs[3]!);
    await shop.rolls.lay(cutterId, [task], false);
    await control('/faults', { linesPerSecond: 3 });
    await start();
    await until(() => shop.cuts.get(task).linesCut >= 1);
    cutter.stop('SIGKILL');
    // It may be given up as soon as it does not answer, and not before.
    expect(() => shop.cutting.giveUp(task)).toThrow(/answers: stop it there/);
    cutter = await startStandIn('cutter', { SEED: '7', PORT: cutter.port, HPGL_PORT: String(cutter.hpglPort) });
    await until(() => state(task) === 'waiting');
    const { linesCut, reason } = shop.cuts.get(task);
    expect(reason).toMatch(/switched off or emptied while it cut .*: \d lines were cut when it last told/);
    await shop.rolls.lay(cutterId, [task], false);
    await start();
    await until(() => state(task) === 'cut');
    const { lines } = (await control('/roll/cut', {}, 'GET')) as { lines: unknown[] };
    expect(lines).toHaveLength(1 + 3 - linesCut);
  });
});

describe('a print whose cutter does not answer', () => {
  it('is given up by a person, and the rest of it is cut elsewhere', async () => {
    const task = await printed(runs[2]!);
    const gone = shop.machines.add('cutter', 'Tern 132', 'http://127.0.0.1:8');
    const { print_code: code } = shop.cuts.row(task);
    const seen = shop.cuts.plan(task).marks.map(({ x, y }) => ({ x: y + 100, y: x + 20 }));
    await shop.asking.claim(gone, code!, { sheet: 'roll/1', seen, code: null });
    await shop.asking.progress(gone, code!, { task, strokes: 3 });
    await expect(shop.cutting.load(task)).rejects.toThrow(/is cutting/);
    shop.cutting.giveUp(task);
    expect(shop.cuts.get(task)).toMatchObject({
      state: 'waiting',
      linesCut: 2,
      reason: expect.stringMatching(/2 lines were cut/)
    });
    await expect(shop.asking.done(gone, code!, { task, strokes: 4 })).rejects.toThrow(/not being cut by this cutter/);
    await shop.rolls.lay(cutterId, [task], false);
    await start();
    await until(() => state(task) === 'cut');
    expect((await readCutter(cutter.url)).linesCut).toBe(1 + 1);
  });
});

describe('what a cutter asks', () => {
  const seen: { x: number; y: number }[] = [];
  const claim = { sheet: 'roll/1', seen, code: null };

  it('is answered with the key of a cutter alone, the newest', async () => {
    const [{ print_code: code }] = shop.db.prepare('SELECT print_code FROM cut_task ORDER BY id').all() as [
      { print_code: string }
    ];
    const ask = (key: string) => fetch(`${door.url}/api/cutter/${code}`, { headers: { authorization: `Bearer ${key}` } });
    const first = shop.cutterKeys.make(cutterId, 'given');
    expect((await ask(first)).status).toBe(200);
    const second = shop.cutterKeys.make(cutterId, 'given');
    expect([(await ask(first)).status, (await ask(second)).status, (await ask('x'.repeat(32))).status]).toEqual([401, 200, 401]);
    expect((await fetch(`${door.url}/api/cutter/${code}`)).status).toBe(401);
  });

  it('about a code that is none, or none of the shop’s, is refused', () => {
    expect(() => shop.asking.job('../../etc')).toThrow(/no code of a print/);
    expect(() => shop.asking.job('7K3QW-9XZ0B')).toThrow(/no code of a print|No print of/);
  });

  it('to cut by two at once is given to one', async () => {
    const task = await printed(runs[0]!);
    // Ones that are not looked at: what lies in them is what is said here.
    const both = ['Tern 131', 'Tern 133'].map((name) => shop.machines.add('cutter', name, 'http://127.0.0.1:9'));
    shop.db.prepare("UPDATE cut_task SET state = 'cut' WHERE id != ?").run(task);
    const { print_code: code } = shop.cuts.row(task);
    const lies = shop.cuts.plan(task).marks.map(({ x, y }) => ({ x: y + 100, y: x + 20 }));
    const ways = await Promise.allSettled(
      both.map((id) => shop.asking.claim(id, code!, { ...claim, seen: lies, sheet: `${id}` }))
    );
    expect(ways.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    const told = ways.find((way) => way.status === 'rejected')!.reason as Error;
    expect(told.message).toMatch(/is cut elsewhere since|another cutter/);
    const winner = shop.cuts.row(task).machine_id!;
    const loser = both.find((id) => id !== winner)!;
    await expect(shop.asking.done(loser, code!, { task, strokes: 99 })).rejects.toThrow(/not being cut by this cutter/);
    await shop.asking.done(winner, code!, { task, strokes: 99 });
    expect(state(task)).toBe('cut');
  });

  it('about half cut prints of which several look the same is asked back', async () => {
    const tasks = [await printed(runs[1]!), await printed(runs[1]!)];
    shop.db.prepare("UPDATE cut_task SET state = 'cut' WHERE print_code = (SELECT print_code FROM cut_task WHERE id = ?) AND id NOT IN (?, ?)").run(tasks[0]!, ...tasks); // prettier-ignore
    shop.db.prepare('UPDATE cut_task SET lines_cut = 2 WHERE id = ?').run(tasks[1]!);
    await shop.rolls.lay(cutterId, [tasks[1]!], false);
    await start();
    expect((await ended()).places[0]).toMatchObject({ refused: 'half cut', reason: expect.stringMatching(/2 lines/) });
    await shop.rolls.again(cutterId, 1, { isHalfCut: true }, door.url);
    await until(() => state(tasks[1]!) === 'cut');
    expect((await readCutter(cutter.url)).linesCut).toBe(1 + 1);
    expect(state(tasks[0]!)).toBe('waiting');
  });

  it('to cut with a blade that it has not is refused with what it lacks', async () => {
    const task = await printed(runs[1]!);
    const knife = { ...DEFAULT_KNIVES, 'kiss cut': { ...DEFAULT_KNIVES['kiss cut'], blade: 'tangential knife' as const } };
    shop.cuts.setKnife(task, knife);
    // Kept with the media card: the next print of it is cut so too.
    expect(shop.media.get(mediaId).card.knives['Tern 130']).toEqual(knife);
    await shop.rolls.lay(cutterId, [task], false);
    await start();
    const place = (await ended()).places[0] as RollPlace;
    expect(place.reason).toMatch(/Tern 130 has no tangential knife/);
    shop.cuts.setKnife(task, DEFAULT_KNIVES);
  });
});

describe('the time that a cut takes', () => {
  it('is told beforehand within 5 % of what the cutter takes', async () => {
    const task = await printed(runs[3]!);
    shop.db.prepare("UPDATE cut_task SET state = 'cut' WHERE id != ?").run(task);
    await shop.rolls.lay(cutterId, [task], false);
    await start();
    await ended();
    expect(state(task)).toBe('cut');
    const { secondsAtSpeed, lines } = await shop.cutPaths.detail(task);
    expect(strokesOf(lines, DEFAULT_KNIVES)).toHaveLength(3);
    const { seconds } = (await control('/roll/cut', {}, 'GET')) as { seconds: number };
    expect(Math.abs(secondsAtSpeed / seconds - 1)).toBeLessThan(0.05);
  });
});

describe('a print that broke off', () => {
  const inPrinter = (path: string, body: object) =>
    fetch(`${printer.url}${path}`, { method: 'POST', body: JSON.stringify(body) });
  const COPIES = 24;
  let conditionId: number;

  /** A run of many rows, with marks beside each. */
  async function longRun(): Promise<number> {
    conditionId = shop.conditions.list()[0]!.id;
    const docket = await docketOf([70, 40], conditionId);
    shop.dockets.get(docket);
    const { version, choices } = shop.dockets.get(docket);
    await shop.docketEditing.change(docket, version, { choices: { ...choices, copies: COPIES } });
    const run = shop.layingOut.add([docket], undefined, true)[0]!;
    const { version: now, rule } = shop.runs.get(run);
    shop.runEditing.change(run, now, { rule: { ...rule, marks: { ...rule.marks, pitch: 100 } } });
    expect((await shop.tasks.ended((await shop.ripping.rip(run)).id)).error).toBeNull();
    return run;
  }

  /** Cancelled when some of it was printed. */
  async function broken(run: number) {
    await inPrinter('/speed', { speed: 6 });
    const { id } = (await shop.printing.start(run, printerId, 1))[0]!;
    const { lengthMm } = shop.runs.frozen(run).plan;
    await until(() => shop.prints.get(id).printedMm > 0.4 * lengthMm);
    // However late the cancelling comes, it comes before the end.
    await inPrinter('/speed', { speed: 1 });
    await until(() => shop.prints.get(id).printedMm > 0.55 * lengthMm);
    shop.printing.cancel(id);
    await until(() => shop.prints.get(id).endedAt !== null);
    await inPrinter('/speed', { speed: 1e6 });
    const print = shop.prints.get(id);
    expect(print.state).toBe('cancelled');
    expect(print.printedMm).toBeLessThan(0.97 * lengthMm);
    return print;
  }

  it('is not taken for the one that was printed after it, though its code and marks are those', async () => {
    const run = await longRun();
    const { id, printedMm } = await broken(run);
    const task = await printed(run);
    const { print_code: code } = shop.cuts.row(task);
    const { marks } = shop.cuts.plan(task);
    const lie = ({ x, y }: { x: number; y: number }) => ({ x: y + 100, y: x + 20 });
    // One that is not looked at: what lies in it is what is said here.
    const silent = shop.machines.add('cutter', 'Tern 132', 'http://127.0.0.1:9');
    const claim = (seen: typeof marks, sheet: string) =>
      shop.asking.claim(silent, code!, { sheet, seen: seen.map(lie), code: null });
    const part = marks.filter(({ y }) => y < printedMm);
    expect(part.length).toBeLessThan(marks.length);
    await expect(claim(part, 'roll/7')).rejects.toMatchObject({
      fields: { refused: 'broken' },
      message: expect.stringMatching(/may be the print that broke off after 0\.\d+ m/)
    });
    expect(shop.cuts.get(task)).toMatchObject({ state: 'waiting', reason: expect.stringMatching(/broke off/) });
    // Nor is one that broke off so early that its marks would not do for the whole.
    const early = shop.runs.frozen(run).plan.lengthMm * 0.42;
    const farBroken = (mm: number) => shop.db.prepare('UPDATE print SET printed_mm = ? WHERE id = ?').run(mm, id);
    const few = marks.filter(({ y }) => y < early - 4);
    expect(few.length).toBeLessThan(marks.length / 2);
    farBroken(early);
    await expect(claim(few, 'roll/7')).rejects.toMatchObject({ fields: { refused: 'broken' } });
    farBroken(printedMm);
    // Somebody looked, and says that it is whole.
    shop.cuts.allow(task);
    await claim(part, 'roll/8');
    await shop.asking.failed(silent, code!, { task, strokes: 0, reason: 'Stopped.' });
    shop.db.prepare('UPDATE cut_task SET allowed = 0 WHERE id = ?').run(task);
    const { of } = await claim(marks, 'roll/9');
    expect(of).toBe(COPIES);
    await shop.asking.done(silent, code!, { task, strokes: 9999 });
    // On a roll it is left alone, and what lies behind it is cut.
    shop.db.prepare("UPDATE cut_task SET state = 'waiting', lines_cut = 0 WHERE id = ?").run(task);
    const behind = await printed(runs[1]!);
    const pictures = [id, shop.cuts.row(behind).print_id];
    await layRoll(
      cutter.url,
      false,
      (async function* () {
        for (const print of pictures) yield new Uint8Array(await shop.printing.output(print));
      })()
    );
    await shop.machines.lookNow();
    await start();
    const { places } = await ended();
    expect(places).toMatchObject([{ state: 'refused', refused: 'broken' }, { state: 'cut', task: behind }]); // prettier-ignore
    expect(state(task)).toBe('waiting');
    // By hand too, where only that much is seen of the sheet that lies there.
    await shop.rolls.ask(cutterId, 'unload');
    const output = vi.spyOn(shop.printing, 'output').mockResolvedValueOnce(await shop.printing.output(id));
    await shop.cutting.load(task, cutterId);
    output.mockRestore();
    await expect(shop.cutting.findMarks(task)).rejects.toThrow(/broke off/);
    expect((await shop.cutting.findMarks(task, true)).matched).toHaveLength(part.length);
    // Nothing of a run that came out whole is kept beside.
    await expect(shop.partPrints.keep(id)).rejects.toThrow(/Nothing of this print can be kept/);
  });

  it('is kept and cut as far as its copies are whole, and the rest is printed in a run of its own', async () => {
    const run = await longRun();
    const { dockets } = shop.runs.get(run);
    const print = await broken(run);
    const { whole, missing, toMm } = shop.partPrints.look(print)!;
    expect(whole.length + missing.length).toBe(COPIES);
    expect(toMm).toBeLessThanOrEqual(print.printedMm);
    const usageOf = () => JSON.parse(shop.prints.row(print.id).usage!) as { m2: number; wasteM2: number; dockets: { copies: number; m2: number; wasteM2: number }[] }; // prettier-ignore
    const before = usageOf();
    expect(before).toMatchObject({ wasteM2: before.m2, dockets: [{ copies: 0 }] });

    const rest = await shop.partPrints.keep(print.id);
    expect(shop.runs.get(run)).toMatchObject({ state: 'printed', came: 1, hasPlates: false });
    expect(shop.runs.get(run).layout.parts[0]!.copies).toEqual(whole);
    expect(shop.runs.get(run).entries[0]!.copies).toBe(whole.length);
    expect(shop.runs.get(run).layout.length).toBe(print.printedMm);
    expect(shop.db.prepare('SELECT length_mm FROM run WHERE id = ?').pluck().get(run)).toBe(print.printedMm);
    expect(shop.runs.get(rest)).toMatchObject({ state: 'laying out', entries: [{ copies: missing.length }] });
    expect(shop.docketParts.divided(dockets[0]!.id)).toMatchObject({ missing: 0, over: 0, isPrinted: true });
    const after = usageOf();
    expect(after.dockets[0]!.copies).toBe(whole.length);
    expect(after.m2).toBe(before.m2);
    expect(after.dockets[0]!.m2 + after.dockets[0]!.wasteM2).toBeCloseTo(before.m2, 9);
    expect(after.wasteM2).toBeLessThan(0.8 * before.wasteM2);
    // Pressed twice, or asked to go on as well, it is kept once.
    await expect(shop.partPrints.keep(print.id)).rejects.toThrow(/can be kept/);
    await expect(shop.printing.goOn(print.id)).rejects.toThrow(/cannot go on/);

    const [task] = shop.cuts.ofRun(run);
    const plan = shop.cuts.plan(task!.id);
    expect(plan.cuts).toHaveLength(whole.length);
    // As long as its picture, which is laid under the lines.
    expect(plan.lengthMm).toBe(print.printedMm);
    expect(Math.max(...plan.marks.map(({ y, diameter }) => y + diameter / 2))).toBeCloseTo(toMm, 6);
    await shop.rolls.lay(cutterId, [task!.id], false);
    await start();
    const { places } = await ended();
    expect(places).toMatchObject([{ state: 'cut', task: task!.id }]);
    expect(await farOff(0, task!.id)).toBeLessThan(0.2);

    expect((await shop.tasks.ended((await shop.ripping.rip(rest)).id)).error).toBeNull();
    const other = await printed(rest);
    expect(shop.cuts.plan(other).cuts).toHaveLength(missing.length);
    expect(shop.docketParts.divided(dockets[0]!.id)).toMatchObject({ missing: 0, over: 0 });
  });

  it('of plates that were made anew since is not kept', async () => {
    const run = await longRun();
    const print = await broken(run);
    const { version, rule } = shop.runs.get(run);
    shop.runEditing.change(run, version, { rule: { ...rule, marks: { ...rule.marks, pitch: 150 } } });
    expect(shop.partPrints.look(print)).toBeUndefined();
    expect((await shop.tasks.ended((await shop.ripping.rip(run)).id)).error).toBeNull();
    expect(shop.partPrints.look(print)).toBeUndefined();
  });
});
