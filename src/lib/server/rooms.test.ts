import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import pino from 'pino';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { NEW_JIG } from '$core/layout/jig';
import { NEW_CARD } from '$core/media/card';
import { ALL_MODES } from '$standins/printer/modes';
import { temporaryFolder, until } from '../../../tests/harness';
import { Charts } from './calibration/charts';
import { Conditions } from './conditions/conditions';
import { ConditionEditing } from './conditions/condition-editing';
import { Modes } from './conditions/modes';
import { Cuts } from './cutting/cut-store';
import { JIG_FORMAT, Jigs } from './machines/jigs';
import { Machines, type LoadedMedia, type Machine } from './machines/machines';
import { MediaCards } from './media/cards';
import { openDatabase, type Db } from './platform/db/open';
import { Events } from './platform/events';
import { FileStore } from './platform/files';
import { Settings } from './platform/settings';
import { TaskRunner } from './platform/tasks/runner';
import { Loading } from './printing/loading';
import { Prints } from './printing/print-store';
import type { Releasing } from './printing/releasing';
import { Lanes } from './production/lanes';
import type { Runs } from './production/run-store';

/** Each room alone, with what stands above it and nothing of what stands below. */

const log = pino({ level: 'silent' });
const [mode] = ALL_MODES.filter(({ machine }) => machine === 'Petrel 13');
let folder: ReturnType<typeof temporaryFolder>;
let db: Db;
let events: Events;
let tasks: TaskRunner;

beforeEach(() => {
  folder = temporaryFolder();
  db = openDatabase(folder.path);
  events = new Events();
  tasks = new TaskRunner(db, events, log);
});
afterEach(() => {
  tasks.close();
  db.close();
  folder.remove();
});

/** Machines, media and conditions: one of each. */
function shopWith() {
  const machines = new Machines({ db, events, log });
  const machineId = machines.add('printer', 'Petrel 13', 'http://127.0.0.1:1');
  const media = new MediaCards({ db, events, machines });
  const files = new FileStore(folder.path);
  const conditions = new Conditions({ db, events, files, machines });
  const profilePool = { run: vi.fn() } as never;
  const editing = new ConditionEditing({ db, files, events, tasks, profilePool, machines, media, conditions });
  const mediaId = media.add({ ...NEW_CARD, name: 'Film' }).id;
  return { machines, machineId, media, mediaId, conditions, editing };
}

describe('a room', () => {
  it('of machines has them off until they answer', async () => {
    const { machines, machineId } = shopWith();
    await machines.look(machineId);
    expect(machines.get(machineId)).toMatchObject({ name: 'Petrel 13', online: false });
    expect(() => machines.cutter()).toThrow(/no cutter/);
  });

  it('of machines believes what was asked for last, and not what comes last', async () => {
    const { machines } = shopWith();
    const waiting: (() => void)[] = [];
    const server = createServer((_, response) => {
      const sheet = `S${waiting.length}`;
      waiting.push(() => response.end(JSON.stringify({ name: 'Tern 130', hpglPort: 9100, sheet, loaded: null, linesCut: 0 })));
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const cutter = machines.add('cutter', 'Tern 130', `http://127.0.0.1:${(server.address() as AddressInfo).port}`);
    const seen: (string | null | undefined)[] = [];
    events.on('cutter seen', () => seen.push(machines.get(cutter).cutter?.sheet));
    const first = machines.look(cutter);
    await until(() => waiting.length === 1);
    const second = machines.look(cutter);
    await until(() => waiting.length === 2);
    waiting[1]!();
    await second;
    waiting[0]!();
    await first;
    expect([machines.get(cutter).cutter?.sheet, seen]).toEqual(['S1', ['S1']]);
    server.closeAllConnections();
    server.close();
  });

  it('of media keeps a white that was measured while a card was open elsewhere', () => {
    const { media, mediaId } = shopWith();
    const open = media.get(mediaId);
    media.measuredWhite(mediaId, [95.123, 0.456, -1]);
    expect(() => media.change(mediaId, open.version, { ...open.card, maker: 'Gull' })).toThrow(/changed in another window/);
    expect(media.get(mediaId).card.white).toEqual([95.12, 0.46, -1]);
  });

  it('of media has a white of any colour, and nothing that would keep its cards from being read', () => {
    const { media, mediaId } = shopWith();
    // A film of bright yellow.
    media.measuredWhite(mediaId, [86.2, -4, 94.7]);
    expect(media.list()).toMatchObject([{ card: { white: [86.2, -4, 94.7] } }]);
    expect(() => media.measuredWhite(mediaId, [400, 0, 0])).toThrow('read as L* 400, a* 0, b* 0: no media is like that');
    const roll = { widthMm: 1370, lengthMm: 40_000 };
    media.stock(mediaId, { rolls: [roll], sheets: [] });
    expect(() => media.stock(mediaId, { rolls: [{ ...roll, lengthMm: 5e6 }], sheets: [] })).toThrow('The length of a roll is');
    expect(() => media.stock(mediaId, { rolls: Array.from({ length: 201 }, () => roll), sheets: [] })).toThrow(
      'At most 200 rolls'
    );
    expect(media.list()).toMatchObject([{ card: { white: [86.2, -4, 94.7], rolls: [roll], sheets: [] } }]);
  });

  it('of machines copies a jig whose name is as long as names may be, and the list can be read', () => {
    const jigs = new Jigs({ db, events });
    const { id } = jigs.add({ ...NEW_JIG, name: 'J'.repeat(80) });
    expect(jigs.copy(id).jig.name).toBe(`${'J'.repeat(78)} 2`);
    expect(jigs.bring({ format: JIG_FORMAT, jig: jigs.get(id).jig }).jig.name).toBe(`${'J'.repeat(78)} 3`);
    expect(jigs.list().map(({ name }) => name.length)).toEqual([80, 80, 80]);
  });

  it('of printing puts what comes off a machine into stock, and says what cannot be kept there', async () => {
    const { machines, machineId, media, mediaId } = shopWith();
    media.stock(mediaId, { rolls: [{ widthMm: 1370, lengthMm: 40_000 }], sheets: [] });
    const heard: string[] = [];
    events.listen((event) => void (event.kind === 'said' && heard.push(event.text)));
    const printer = { media: { name: 'Film', widthMm: 1370, sheetMm: null } } as Machine['printer'];
    vi.spyOn(machines, 'look').mockResolvedValue();
    vi.spyOn(machines, 'get').mockReturnValue({ id: machineId, name: 'Petrel 13', printer } as Machine);
    const prints = { busyMachines: () => new Set<number>() } as Prints;
    const releasing = { look: () => undefined } as Releasing;
    const loading = new Loading({ db, events, log, machines, media, prints, releasing });
    const came = async (was: Partial<LoadedMedia>) => {
      vi.spyOn(machines, 'load').mockResolvedValue({ name: 'Film', surface: 'gloss', widthMm: 1370, lengthMm: 9000, ...was });
      await loading.load(machineId, { mediaId, version: media.get(mediaId).version, which: 0 });
      return media.get(mediaId).card.rolls;
    };
    expect(await came({ batch: 'B 7' })).toEqual([{ widthMm: 1370, lengthMm: 9000, batch: 'B 7' }]);
    expect(heard).toEqual([]);
    // It has been called otherwise since.
    expect(await came({ name: 'Old film' })).toEqual([]);
    expect(heard).toEqual(['What came off Petrel 13 is not in stock: there is no card of Old film.']);
    media.stock(mediaId, { rolls: [{ widthMm: 1370, lengthMm: 40_000 }], sheets: [] });
    expect(await came({ lengthMm: 9e6 })).toEqual([]);
    expect(heard[1]).toBe('What came off Petrel 13 is not in stock: The length of a roll is 0 to 1000000 mm.');
    media.stock(mediaId, { rolls: [{ widthMm: 1370, lengthMm: 40_000 }], sheets: [] });
    expect(await came({ lengthMm: 0 })).toEqual([]);
    expect(heard).toHaveLength(2);
  });

  it('of conditions tells those below of what comes and goes, in the same transaction', () => {
    const { machines, machineId, mediaId, conditions, editing } = shopWith();
    const id = editing.add(machineId, mediaId, mode!);
    expect(conditions.get(id)).toMatchObject({ media: 'Film', hasProfile: false });
    events.on('condition goes', () => {
      throw new Error('It is needed.');
    });
    expect(() => editing.remove(id)).toThrow('It is needed.');
    expect(conditions.get(id).id).toBe(id);
    // Modes are taken from whoever tells them.
    const modes = new Modes({ db, events, machines, conditions });
    events.tell('modes told', [mode!]);
    expect(modes.get(mode!.code)).toEqual(mode);
  });

  it('of production has lanes for conditions that came, and lets go of those that go', () => {
    const { machines, machineId, mediaId, conditions, editing } = shopWith();
    const lanes = new Lanes({ db, events, machines, conditions });
    const id = editing.add(machineId, mediaId, mode!);
    expect(lanes.list()).toMatchObject([{ media: 'Film', loaded: false }]);
    events.tell('media seen', { machineId, name: 'Film', widthMm: 1370, sheetMm: null });
    expect(conditions.get(id).rollWidthMm).toBe(1370);
    editing.remove(id);
    expect(lanes.list()).toEqual([]);
  });

  it('of printing writes prints down before anybody hears of them, each with a key of its own', () => {
    const { machines, machineId, mediaId, editing } = shopWith();
    const conditionId = editing.add(machineId, mediaId, mode!);
    const runId = Number(
      db.prepare("INSERT INTO run (condition_id, rule, state, added_at) VALUES (?, '{}', 'ripped', 0)").run(conditionId)
        .lastInsertRowid
    );
    const prints = new Prints({ db, events, settings: new Settings(db, events), machines, runs: {} as Runs });
    const ids = prints.add('asked', { runId, machineId, lengthMm: 100, fromMm: 0, restOf: null }, 3);
    expect(new Set(ids.map((id) => prints.row(id).key)).size).toBe(3);
    expect(prints.ofRequest('asked').map(({ id }) => id)).toEqual(ids);
    expect([...prints.busyMachines()]).toEqual([machineId]);
    expect(prints.progress(ids[0]!, 'printing', null, 10, [1])).toBe(true);
    expect(prints.progress(ids[0]!, 'printing', null, 10, [1])).toBe(false);
  });

  it('of cutting has a task for each print that is to be cut, and one claim of it', () => {
    const { machines, machineId, media, mediaId, editing } = shopWith();
    const conditionId = editing.add(machineId, mediaId, mode!);
    const cutter = machines.add('cutter', 'Tern 130', 'http://127.0.0.1:2');
    db.exec(`INSERT INTO run (id, condition_id, rule, state, added_at) VALUES (1, ${conditionId}, '{}', 'printed', 0);
      INSERT INTO print (id, run_id, machine_id, state, length_mm, started_at) VALUES (1, 1, ${machineId}, 'done', 9, 0)`);
    let cut = ['one'];
    const runs = { frozen: () => ({ plan: { widthMm: 20, lengthMm: 30, marks: [] }, cuts: cut }) } as unknown as Runs;
    const cuts = new Cuts({ db, events, machines, media, runs });
    events.tell('print done', { printId: 1, runId: 1 });
    const [task] = cuts.ofRun(1);
    expect(task).toMatchObject({ state: 'waiting', code: expect.stringMatching(/^CUT-[0-9A-F]{6}$/) });
    // Its lines are those that it was printed with, though it carries no code.
    cut = ['another'];
    expect(cuts.plan(task!.id)).toEqual({ widthMm: 20, lengthMm: 30, marks: [], cuts: ['one'] });
    const claim = { sheet: 'sheet', knife: task!.knife, hpglHash: '', from: 0, offset: 0 };
    expect(cuts.claim(task!.id, claim)).toBe(false);
    cuts.loaded(task!.id, 'sheet', cutter);
    cuts.loaded(task!.id, 'sheet', cutter);
    cuts.registered(task!.id, { map: [1, 0, 0, 1, 0, 0], matched: [], worst: 0, rms: 0 } as never, 'sheet');
    expect([cuts.claim(task!.id, claim), cuts.claim(task!.id, claim)]).toEqual([true, false]);
    cuts.ended(task!.id, 'cut', 1, null);
    cuts.unloaded(task!.id, 'another', 'Not this one.');
    expect(cuts.row(task!.id).sheet).toBe('sheet');
    cuts.unloaded(task!.id, 'sheet', 'Another sheet.');
    expect(cuts.get(task!.id)).toMatchObject({ state: 'cut', reason: null, linesCut: 1 });
    cuts.loaded(task!.id, 'again', cutter);
    expect(cuts.get(task!.id)).toMatchObject({ state: 'loaded', linesCut: 0 });
    // Lines that no print is cut by go at the next start; those of others stay.
    const codes = () => db.prepare<[], string>('SELECT code FROM print_code ORDER BY code').pluck().all();
    db.exec("INSERT INTO print_code (code, run_id, plan, made_at) VALUES ('GONE1', 9, '{}', 0)");
    expect(codes()).toEqual([task!.code, 'GONE1'].sort());
    const again = new Cuts({ db, events: new Events(), machines, media, runs });
    expect([codes(), again.plan(task!.id).cuts]).toEqual([[task!.code], ['one']]);
  });

  it('of calibration has no charts where none were made', () => {
    const { conditions } = shopWith();
    const charts = new Charts({ db, tasks, conditions });
    expect(charts.of(1)).toEqual([]);
    expect(() => charts.get(1)).toThrow(/no such chart/);
  });
});
