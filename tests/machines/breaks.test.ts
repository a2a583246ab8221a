import { randomUUID } from 'node:crypto';
import { createServer } from 'node:net';
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import { askedFor } from '$lib/came-out';
import { Shop } from '$lib/server/app/shop';
import type { Usage } from '$lib/server/printing/usage';
import { createJob, findJob, readJob, sendPlates } from '$lib/server/machines/printer-client';
import { JOB_STATE } from '$protocol/ipp';
import { ALL_MODES } from '$standins/printer/modes';
import { oneChunk, startStandIn, temporaryFolder, until, type StandIn } from '../harness';
import { cmykBox, madePdf } from '../made/pdf';

/** What breaks between a server and its machine, and what is known of the print afterwards. */

const folder = temporaryFolder();
const machineFolder = temporaryFolder();
const FILM = { name: 'Film', surface: 'gloss', widthMm: 300, lengthMm: 90_000 };
const DRAFT = ALL_MODES.find(({ code }) => code === 'Petrel 13/Harbour/calendered/360/4/both ways/draft')!;
let printer: StandIn;
let shop: Shop;
let machineId: number;
let runId: number;

beforeAll(async () => {
  printer = await startStandIn('printer', { FOLDER: machineFolder.path, MEDIA: JSON.stringify(FILM) });
  shop = new Shop(folder.path);
  machineId = shop.machines.add('printer', 'Petrel 13', printer.url);
  shop.start();
  await shop.machines.lookNow();
  const media = shop.media.addNew({ name: 'Film', widthMm: 300 });
  const conditionId = shop.conditionEditing.add(machineId, media.id, DRAFT);
  await until(() => shop.conditions.get(conditionId).hasProfile);
  const { id } = await shop.artworks.take(
    'a.pdf',
    oneChunk(madePdf({ width: 90, height: 60, content: cmykBox('0 0 0 1', 0, 0, 90, 60) }))
  );
  await until(() => shop.artworks.get(id).state === 'ready');
  const docket = shop.dockets.add(id, 0, { conditionId, copies: 9, bleedMm: 0, cut: false });
  runId = shop.layingOut.add([docket.id])[0]!;
  expect((await shop.tasks.ended((await shop.ripping.rip(runId)).id)).error).toBeNull();
});
afterAll(async () => {
  await shop.close();
  printer.stop();
  folder.remove();
  machineFolder.remove();
});
afterEach(async () => {
  vi.restoreAllMocks();
  vi.useRealTimers();
  await control('/speed', { speed: 1e6 });
  await control('/media', FILM);
});

const control = (path: string, body: unknown) => fetch(`${printer.url}${path}`, { method: 'POST', body: JSON.stringify(body) });
const ended = (id: number) =>
  until(() => {
    const print = shop.prints.get(id);
    return print.endedAt === null || print.givenUp ? undefined : print;
  });
const start = async (times = 1) => (await shop.printing.start(runId, machineId, times)).map(({ id }) => id);
const roll = async () => {
  await shop.machines.look(machineId);
  return shop.machines.get(machineId).printer!.media.lengthMm;
};
const length = () => shop.runs.frozen(runId).plan.lengthMm;
/** A print as it stands in the database of a server that died, and what it would have told the machine. */
function begun() {
  const [id] = shop.prints.add(randomUUID(), { runId, machineId, lengthMm: length(), fromMm: 0, restOf: null }, 1);
  const { key } = shop.prints.row(id!);
  const { plan } = shop.runs.frozen(runId);
  const media = { name: 'Film', widthMm: plan.widthMm, lengthMm: length() };
  return {
    id: id!,
    ticket: {
      key: key!,
      name: 'Run',
      inks: plan.inks,
      layers: [],
      black: 'gloss' as const,
      mode: { passes: 8, direction: 'both ways' as const },
      handling: undefined,
      media,
      thicknessMm: null,
      onBed: false
    }
  };
}
const plates = () => ({ path: shop.runs.plates(runId).plates, signal: new AbortController().signal, onSent: () => undefined });

describe('a server that dies', () => {
  it('before the machine heard of a print has printed nothing, and says so', async () => {
    const { id } = begun();
    shop.printing.resume();
    expect(await ended(id)).toMatchObject({
      state: 'failed',
      printedMm: 0,
      reason: expect.stringMatching(/Nothing was printed/)
    });
    expect(shop.runs.get(runId).state).toBe('ripped');
  });

  it('after the machine took the plates, and before it wrote that down, finds the print by its key', async () => {
    const { id, ticket } = begun();
    const job = await createJob(printer.url, ticket);
    await sendPlates(printer.url, job.id, plates());
    expect(shop.prints.row(id).job).toBeNull();
    const before = await roll();
    shop.printing.resume();
    expect(await ended(id)).toMatchObject({ state: 'done', reason: null });
    expect(shop.prints.get(id).printedMm).toBeCloseTo(length(), 0);
    // It may have been printed while the roll was looked at.
    expect(before - (await roll())).toBeLessThan(length() + 1);
    expect(shop.runs.get(runId).state).toBe('printed');
  });

  it('while the plates were on their way has the machine let go of the job', async () => {
    const { id, ticket } = begun();
    const job = await createJob(printer.url, ticket);
    shop.printing.resume();
    expect(await ended(id)).toMatchObject({ state: 'failed', reason: expect.stringMatching(/Nothing was printed/) });
    expect((await readJob(printer.url, job.id))!.state).toBe(JOB_STATE.cancelled);
  });
});

describe('a print that was cancelled', () => {
  it('goes on to its end once, and is one of those that were asked for', async () => {
    await control('/speed', { speed: 2 });
    const [id, next] = await start(2);
    // The second row of copies has begun, and is not whole.
    await until(() => shop.prints.get(id!).printedMm > 90);
    shop.printing.cancel(id!);
    const broken = await ended(id!);
    expect(broken).toMatchObject({ state: 'cancelled' });
    expect(broken.printedMm).toBeLessThan(length());
    await ended(next!);
    const usage = (print: number) => JSON.parse(shop.prints.row(print).usage!) as Usage;
    expect(usage(id!)).toMatchObject({ wasteM2: usage(id!).m2, dockets: [{ copies: 0, m2: 0 }] });
    await control('/speed', { speed: 1e6 });
    const from = shop.printing.restFrom(broken)!;
    expect(from).toBeLessThan(broken.printedMm);
    // RIPped anew its copies may lie elsewhere.
    const { plates: printed } = shop.prints.row(id!);
    expect(printed).toBe(shop.runs.platesName(runId));
    const ofPlates = (name: string | null) => shop.db.prepare('UPDATE print SET plates = ? WHERE id = ?').run(name, id);
    ofPlates('others');
    expect(shop.printing.restFrom(broken)).toBeUndefined();
    ofPlates(printed);
    const request = randomUUID();
    const [rest, again] = await Promise.all([shop.printing.goOn(id!, request), shop.printing.goOn(id!, request)]);
    expect(again.id).toBe(rest.id);
    await ended(rest.id);
    expect(shop.prints.get(rest.id)).toMatchObject({ state: 'done', restOf: id, fromMm: from });
    await expect(shop.printing.goOn(id!)).rejects.toThrow('cannot go on');
    expect(askedFor(shop.prints.list(runId))[0]).toEqual({ asked: 2, done: 1, open: 0 });
    // All copies came out, each of them once.
    const [good, end] = [usage(id!), usage(rest.id)];
    expect(good.dockets[0]!.copies + end.dockets[0]!.copies).toBe(9);
    expect(good.dockets[0]!.m2 + end.dockets[0]!.m2).toBeCloseTo(9 * 0.0054, 7);
    expect(good.dockets[0]!.copies).toBe(shop.runs.get(runId).layout.parts[0]!.copies.filter(({ y }) => y < from).length);
  });
});

describe('a machine', () => {
  it('that hangs while it prints on is waited for: what it printed is what it says, once', async () => {
    await control('/faults', { silentForSeconds: 8 });
    const before = await roll();
    const [id] = await start();
    await until(() => shop.prints.get(id!).reason?.includes('does not answer'));
    expect(shop.prints.get(id!).state).toBe('stopped');
    expect(await ended(id!)).toMatchObject({ state: 'done', reason: null });
    expect(before - (await roll())).toBeCloseTo(length(), 0);
  });

  it('that was given up is believed when it answers after all', async () => {
    await control('/faults', { silentForSeconds: 9 });
    const [id, next] = await start(2);
    expect(() => shop.printing.giveUp(id!)).toThrow(/answers. Cancel the print/);
    await until(() => shop.printing.isSilent(id!));
    shop.printing.giveUp(id!);
    expect(shop.prints.get(id!)).toMatchObject({ state: 'failed', givenUp: true, reason: expect.stringMatching(/Given up/) });
    expect(shop.prints.get(next!)).toMatchObject({ state: 'cancelled', printedMm: 0 });
    // It can be printed elsewhere, or again.
    expect(shop.runs.get(runId).state).toMatch(/ripped|printed/);
    expect(await ended(id!)).toMatchObject({ state: 'done', reason: null });
    expect(shop.prints.get(id!).printedMm).toBeCloseTo(length(), 0);
  });

  it('whose current fails in the middle says how far it came, and its roll is that much shorter', async () => {
    await control('/speed', { speed: 8 });
    const before = await roll();
    const [id] = await start();
    await until(() => shop.prints.get(id!).printedMm > 10);
    printer.stop('SIGKILL');
    await until(() => !shop.machines.get(machineId).online);
    printer = await startStandIn('printer', { FOLDER: machineFolder.path, PORT: printer.port, MEDIA: JSON.stringify(FILM) });
    const print = await ended(id!);
    expect(print).toMatchObject({ state: 'failed', reason: expect.stringMatching(/gave the job up when/) });
    expect(print.printedMm).toBeGreaterThan(10);
    expect(print.printedMm).toBeLessThan(length());
    expect(before - (await roll())).toBeCloseTo(print.printedMm, 1);
  });

  it('that drips its answers holds up no other', async () => {
    const dripping = createServer((socket) => {
      const drip = setInterval(() => socket.write('H'), 300);
      socket.on('close', () => clearInterval(drip)).on('error', () => clearInterval(drip));
    });
    await new Promise<void>((resolve) => dripping.listen(0, '127.0.0.1', resolve));
    const { port } = dripping.address() as { port: number };
    const slow = shop.machines.add('printer', 'Dripping', `http://127.0.0.1:${port}`);
    await control('/media', { ...FILM, lengthMm: 1234 });
    await until(() => shop.machines.get(machineId).printer?.media.lengthMm === 1234, 4);
    // It is off after the time that any answer has, and asked again.
    await shop.machines.look(slow);
    expect(shop.machines.get(slow).online).toBe(false);
    shop.db.prepare('DELETE FROM machine WHERE id = ?').run(slow);
    dripping.close();
  });

  it('with another media refuses the job, whatever the shop believes', async () => {
    const look = vi.spyOn(shop.machines, 'look').mockResolvedValue();
    await control('/media', { ...FILM, name: 'Banner' });
    const [id] = await start();
    expect(await ended(id!)).toMatchObject({
      state: 'failed',
      printedMm: 0,
      reason: expect.stringMatching(/Banner is loaded; the job is for Film.*Nothing was printed/)
    });
    expect(await findJob(printer.url, shop.prints.row(id!).key!)).toBeUndefined();
    // Asked at once, the shop knows better.
    look.mockRestore();
    await expect(start()).rejects.toThrow(/has Banner loaded/);
  });
});

describe('a print', () => {
  it('asked for twice at once is printed once', async () => {
    const request = randomUUID();
    const [first, second] = await Promise.all([
      shop.printing.start(runId, machineId, 1, request),
      shop.printing.start(runId, machineId, 1, request)
    ]);
    expect(first!.map(({ id }) => id)).toEqual(second!.map(({ id }) => id));
    await ended(first![0]!.id);
    // Also when the answer was lost and it is asked for again later.
    expect(await shop.printing.start(runId, machineId, 1, request)).toMatchObject([{ id: first![0]!.id, state: 'done' }]);
    // Two people at once are two requests: the later is told that it prints.
    const both = await Promise.allSettled([start(), start()]);
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    await until(() => shop.prints.busyMachines().size === 0);
  });

  it('of five of which one came out is not printed; what is left is printed when asked for', async () => {
    // As if nothing had come out of this run yet. No row is taken away: a print before may be settling still.
    shop.db.prepare("UPDATE print SET state = 'failed' WHERE ended_at IS NOT NULL").run();
    shop.db.prepare("UPDATE run SET state = 'ripped' WHERE id = ?").run(runId);
    // Slowly from the first on, so that there is time to cancel the second.
    await control('/speed', { speed: 2 });
    const ids = await start(5);
    await until(() => shop.prints.get(ids[0]!).endedAt !== null);
    await until(() => shop.prints.get(ids[1]!).printedMm > 0);
    shop.printing.cancel(ids[1]!);
    await until(() => shop.prints.busyMachines().size === 0);
    await control('/speed', { speed: 1e6 });
    expect(ids.map((id) => shop.prints.get(id).state)).toEqual(['done', 'cancelled', 'cancelled', 'cancelled', 'cancelled']);
    expect(shop.runs.get(runId).state).toBe('ripped');
    for (const id of await start(4)) await ended(id);
    expect(shop.runs.get(runId).state).toBe('printed');
  });

  it('whose end meets a full disk is written down when there is room, without a restart', async () => {
    const full = Object.assign(new Error('database or disk is full'), { code: 'SQLITE_FULL' });
    const end = vi.spyOn(shop.prints, 'end');
    for (let i = 0; i < 2; i++)
      end.mockImplementationOnce(() => {
        throw full;
      });
    const [id] = await start();
    expect(await ended(id!)).toMatchObject({ state: 'done', reason: null });
    expect(end).toHaveBeenCalledTimes(3);
  });

  it('cancelled before its turn is never sent', async () => {
    await control('/speed', { speed: 1 });
    const [first, second] = await start(2);
    await until(() => shop.prints.get(first!).printedMm > 0);
    shop.printing.cancel(second!);
    await control('/speed', { speed: 1e6 });
    expect(await ended(first!)).toMatchObject({ state: 'done' });
    expect(await ended(second!)).toMatchObject({ state: 'cancelled', printedMm: 0 });
    expect(await findJob(printer.url, shop.prints.row(second!).key!)).toBeUndefined();
  });

  it('cancelled while its plates are sent is cancelled at the machine too', async () => {
    const [id] = await start();
    shop.printing.cancel(id!);
    const print = await ended(id!);
    const job = await findJob(printer.url, shop.prints.row(id!).key!);
    expect(print.printedMm).toBeCloseTo(job?.printedMm ?? 0, 1);
    if (print.state === 'cancelled') expect(print.printedMm).toBeLessThan(length());
    else expect(print).toMatchObject({ state: 'done' });
    expect(() => shop.printing.cancel(id!)).toThrow(/has ended already/);
  });

  it('does not end before it began when the clock is set back, and costs the time that the machine took', async () => {
    vi.useFakeTimers({ toFake: ['Date'] });
    const [id] = await start();
    vi.setSystemTime(Date.now() - 3_600_000);
    const print = await ended(id!);
    expect(print.endedAt).toBeGreaterThanOrEqual(print.startedAt);
    const { hours } = JSON.parse(shop.prints.row(id!).usage!) as { hours: number };
    expect(hours).toBeGreaterThan(0);
    expect(hours).toBeLessThan(0.05);
  });
});
