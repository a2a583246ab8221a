import { execFile, execFileSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { createServer, request } from 'node:http';
import { connect, type Socket } from 'node:net';
import { networkInterfaces } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { promisify } from 'node:util';
import { deflateRawSync, gzipSync } from 'node:zlib';
import { Bonjour, type Service } from 'bonjour-service';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Arrival } from '$lib/arrivals';
import { NetworkPrinter } from '$lib/network-printer';
import { Shop } from '$lib/server/app/shop';
import { wayIn } from '$lib/server/automation/printers/printer-doors';
import {
  attribute,
  decodeResponse,
  encodeRequest,
  JOB_STATE,
  MORE_OPERATIONS,
  OPERATION,
  STATUS,
  TAG,
  valueOf,
  type Decoded,
  type IppAttribute
} from '$protocol/ipp';
import { modeOf, startStandIn, temporaryFolder, until, USUAL_MODE, type StandIn } from '../harness';
import { startCups } from '../made/cups';
import { cmykBox, madePdf } from '../made/pdf';

/** Printers of the shop's own, printed on by programs that we did not make. */

const GHOSTSCRIPT = existsSync('/usr/bin/gs');
const folder = temporaryFolder();
const outside = temporaryFolder();
/** A mode of fewer passes. */
const DRAFT_MODE = modeOf('Petrel 13/Harbour/calendered/360/4/both ways/draft');
const FILM = { name: 'Film', surface: 'gloss', widthMm: 1300, lengthMm: 900_000 };
let machine: StandIn;
let shop: Shop;
let conditionId: number;
let recipeId: number;
/** Opened before all tests, and nothing sent on it since. */
let silent: { socket: Socket; since: number; isClosed: boolean };
/** Below those that systems give out by themselves. */
let port = 16_310 + Math.floor(Math.random() * 15_000);
let count = 0;

beforeAll(async () => {
  machine = await startStandIn('printer', { MEDIA: JSON.stringify(FILM) });
  shop = new Shop(folder.path);
  const printerId = shop.machines.add('printer', 'Petrel 13', machine.url);
  shop.start();
  await shop.machines.lookNow();
  const media = shop.media.addNew({ name: 'Film', family: 'cast', widthMm: 1300 }).id;
  conditionId = shop.conditionEditing.add(printerId, media, USUAL_MODE);
  await until(() => shop.conditions.get(conditionId).hasProfile);
  recipeId = shop.recipes.add({ name: 'Film', note: '', on: null, sets: { copies: 5, media: { is: 'condition', conditionId }, priority: 'high' } }).id; // prettier-ignore
  await printerOf();
  silent = { socket: connect(port, '127.0.0.1'), since: Date.now(), isClosed: false };
  silent.socket.on('close', () => (silent.isClosed = true));
});
afterAll(async () => {
  await shop.close();
  machine.stop();
  folder.remove();
  outside.remove();
});

/** A document of its own. */
function document(): string {
  const path = join(outside.path, `Page ${(count += 1)}.pdf`);
  writeFileSync(path, madePdf({ width: 100, height: 60, content: cmykBox(`0.${count % 9} 0.2 0 0`, 10, 10, 50 + count, 30) }));
  return path;
}

async function printerOf(over: Partial<NetworkPrinter> = {}): Promise<{ id: number; uri: string }> {
  const printer = NetworkPrinter.parse({
    name: `Film ${(port += 1)}`,
    recipeId,
    way: 'make dockets',
    port,
    mostPerMinute: 1000,
    ...over
  });
  const { id } = shop.networkPrinters.add(printer);
  await shop.printerDoors.settled();
  return { id, uri: `ipp://127.0.0.1:${printer.port}/ipp/print` };
}
const arrivals = (printer: number): Arrival[] =>
  shop.arrivalStore.list({ most: 1000 }).filter(({ id }) => shop.arrivalStore.row(id).printer_id === printer);

/** Pages in one file. @returns its name */
async function manyPages(pages: number): Promise<string> {
  const images = Array.from(
    { length: pages },
    (_, i) => `<</PageSize[100 80]>>setpagedevice 0.${i} setgray 10 10 50 40 rectfill showpage`
  );
  writeFileSync(join(outside.path, 'pages.ps'), `%!PS\n${images.join('\n')}\n`);
  execFileSync('gs', ['-q', '-dBATCH', '-dNOPAUSE', '-sDEVICE=pdfwrite', `-sOutputFile=${join(outside.path, 'pages.pdf')}`, join(outside.path, 'pages.ps')]); // prettier-ignore
  return Promise.resolve('pages.pdf');
}

/** A page as ghostscript sends it to printers, 2 × 1 inch. */
const rasterOf = (): Buffer => {
  writeFileSync(join(outside.path, 'raster.ps'), '%!PS\n<</PageSize[144 72]>>setpagedevice 1 0 0 setrgbcolor 10 10 50 40 rectfill showpage\n'); // prettier-ignore
  const out = join(outside.path, 'raster.pwg');
  execFileSync('gs', ['-q', '-dBATCH', '-dNOPAUSE', '-sDEVICE=pwgraster', '-r150', '-dcupsColorSpace=19', '-dcupsBitsPerColor=8', `-sOutputFile=${out}`, join(outside.path, 'raster.ps')], { stdio: 'ignore' }); // prettier-ignore
  return readFileSync(out);
};

/** Asks a printer, as a program of berta's. */
async function ask(
  uri: string,
  operation: number,
  operationAttributes: IppAttribute[],
  job: IppAttribute[] = [],
  bytes?: Uint8Array,
  who: IppAttribute[] = [attribute(TAG.name, 'requesting-user-name', 'berta')]
): Promise<Decoded> {
  const head = encodeRequest(
    operation,
    7,
    [attribute(TAG.uri, 'printer-uri', uri), ...who, ...operationAttributes],
    job.length > 0 ? [{ tag: TAG.job, attributes: job }] : []
  );
  const reply = await fetch(uri.replace(/^ipp/, 'http'), {
    method: 'POST',
    headers: { 'content-type': 'application/ipp' },
    body: Buffer.concat([head, ...(bytes ? [bytes] : [])])
  });
  return decodeResponse(Buffer.from(await reply.arrayBuffer()));
}

const run = promisify(execFile);

/** Runs a test file of ipptool. @returns what failed */
async function conformance(uri: string, test: string, version: string): Promise<string[]> {
  const { stdout } = await run('ipptool', ['-t', '-V', version, '-f', document(), uri, `/usr/share/cups/ipptool/${test}`], {
    maxBuffer: 50e6
  }).catch((error: unknown) => error as { stdout: string });
  expect(stdout).toContain('[PASS]');
  return stdout.split('\n').flatMap((line, i, all) => (line.includes('[FAIL]') ? [all.slice(i, i + 4).join(' ')] : []));
}

describe('a printer for every program', () => {
  for (const [test, version] of [
    ['ipp-1.1.test', '1.1'],
    ['ipp-2.0.test', '2.0'],
    ['ipp-everywhere.test', '2.0']
  ] as const)
    it.runIf(existsSync('/usr/bin/ipptool'))(`conforms by ${test}`, async () => {
      const { uri } = await printerOf({ way: 'release', despiteLooks: true });
      expect(await conformance(uri, test, version)).toEqual([]);
    });

  it.runIf(existsSync('/usr/sbin/cupsd'))(
    'is printed on from a print server: two copies, released, printed, and told so',
    { timeout: 200_000 },
    async () => {
      const cups = await startCups((port += 1));
      try {
        const { id, uri } = await printerOf({ way: 'release' });
        await cups.command('lpadmin', ['-p', 'zing', '-E', '-v', uri, '-m', 'everywhere']);
        await cups.command('lp', ['-d', 'zing', '-n', '2', '-t', 'Poster for the fair', '-U', 'anna', document()]);
        const [arrival] = await until(() =>
          arrivals(id).some(({ state }) => state === 'done' || state === 'waiting') ? arrivals(id) : undefined
        );
        expect(arrival).toMatchObject({ source: 'printer', customer: 'anna', copies: 2, way: 'release', reason: null });
        const docket = shop.dockets.get(arrival!.dockets[0]!.id);
        expect(docket).toMatchObject({ name: 'Poster for the fair', customer: 'anna', priority: 'high', choices: { copies: 2, conditionId } }); // prettier-ignore
        await until(() => shop.runs.get(docket.runId ?? arrivals(id)[0]!.dockets[0]!.runId!).state === 'printed');
        const [job] = await until(() =>
          shop.networkJobs.list(id, true).length > 0 ? shop.networkJobs.list(id, true) : undefined
        );
        expect(job).toMatchObject({ name: 'Poster for the fair', sender: 'anna', state: 9, copies: 2 });
        // The print server has seen it come out.
        await until(async () => (await cups.command('lpstat', ['-W', 'completed', '-o', 'zing'])).includes('zing-1'));
        expect(await cups.command('lpstat', ['-o', 'zing'])).toBe('');
      } finally {
        cups.stop();
      }
    }
  );

  it.runIf(GHOSTSCRIPT)('makes of each kind of document what was asked for with it', async () => {
    const draftId = shop.conditionEditing.add(shop.machines.list()[0]!.id, shop.media.list()[0]!.id, DRAFT_MODE);
    const { id, uri } = await printerOf({ draftId });
    const picture = sharp({ create: { width: 400, height: 200, channels: 3, background: '#c03020' } });
    const sheet: IppAttribute = { tag: TAG.keyword, name: 'media', values: ['iso_a5_148x210mm'] };
    const print = (format: string, bytes: Buffer, job: IppAttribute[], more: IppAttribute[] = []) =>
      ask(uri, OPERATION.printJob, [attribute(TAG.mimeType, 'document-format', format), attribute(TAG.name, 'job-name', format), ...more], job, bytes); // prettier-ignore
    const answers = [
      await print('image/jpeg', await picture.clone().jpeg().toBuffer(), [sheet]),
      await print('image/png', await picture.clone().png().toBuffer(), [sheet, attribute(TAG.keyword, 'print-scaling', 'none')]),
      await print('image/pwg-raster', rasterOf(), [attribute(TAG.enum, 'print-quality', 3)]),
      await print('application/pdf', gzipSync(readFileSync(document())), [attribute(TAG.keyword, 'print-color-mode', 'monochrome'), attribute(TAG.integer, 'copies', 7)], [attribute(TAG.keyword, 'compression', 'gzip')]), // prettier-ignore
      await print('application/octet-stream', deflateRawSync(readFileSync(document())), [], [attribute(TAG.keyword, 'compression', 'deflate')]) // prettier-ignore
    ];
    expect(answers.map(({ code }) => code)).toEqual([0, 0, 0, 0, 0]);
    const made = await until(() => {
      const all = arrivals(id);
      return all.length === 5 && all.every(({ state }) => state === 'done') ? all.reverse() : undefined;
    });
    const [jpeg, png, pwg, pdf, packed] = made.map(({ dockets }) => shop.dockets.get(dockets[0]!.id));
    // 400 × 200 dots, as large as the sheet takes, and as large as they say.
    expect([jpeg!.choices.widthMm, jpeg!.choices.heightMm]).toEqual([148, 74]);
    expect(png!.choices.widthMm).toBeCloseTo((400 / 150) * 25.4, 3);
    expect(pwg!.choices).toMatchObject({ conditionId: draftId, widthMm: expect.closeTo(50.8, 3), heightMm: expect.closeTo(25.4, 3) }); // prettier-ignore
    expect(pwg!.artwork.facts).toMatchObject({ widthMm: expect.closeTo(50.8, 3) });
    expect(pdf!.choices).toMatchObject({ copies: 7, conditionId, adjustment: { saturation: -1 } });
    // Nothing was said of copies: the recipe's count.
    expect(packed!.choices).toMatchObject({ copies: 5, conditionId, adjustment: { saturation: 0 } });
    expect([jpeg!.customer, jpeg!.name]).toEqual(['berta', 'image/jpeg']);
  });

  it.runIf(GHOSTSCRIPT)('takes the pages that are asked for, and not more than it takes', async () => {
    const { id, uri } = await printerOf({ mostPages: 2 });
    const pages = readFileSync(join(outside.path, await manyPages(4)));
    const print = (job: IppAttribute[]) => ask(uri, OPERATION.printJob, [], job, pages);
    await print([attribute(TAG.range, 'page-ranges', [{ from: 2, to: 2 }, { from: 4, to: 9 }])]); // prettier-ignore
    await print([]);
    await print([attribute(TAG.range, 'page-ranges', { from: 8, to: 9 })]);
    const [none, all, some] = await until(() => (arrivals(id).filter(({ state }) => state !== 'reading').length === 3 ? arrivals(id) : undefined)); // prettier-ignore
    expect(some!.dockets.map(({ name }) => name)).toEqual(['Untitled, page 2', 'Untitled, page 4']);
    expect([all!.state, all!.reason]).toEqual(['waiting', expect.stringMatching(/4 pages; 2 are the most/)]);
    expect([none!.state, none!.reason]).toEqual(['waiting', expect.stringMatching(/it has 4/)]);
    // A person may mean all of them.
    shop.arrivals.again(all!.id);
    await until(() => arrivals(id).find((one) => one.id === all!.id)!.state === 'done');
    expect(arrivals(id).find((one) => one.id === all!.id)!.dockets).toHaveLength(4);
    const states = shop.networkJobs.list(id, false).map(({ state, message }) => [state, message]);
    expect(states).toEqual([
      [JOB_STATE.held, null],
      [JOB_STATE.held, null],
      [JOB_STATE.held, none!.reason]
    ]);
  });

  it('lets a job be cancelled by who sent it until it is printed, and keeps what became of it', async () => {
    const { id, uri } = await printerOf({ way: 'lay out' });
    const sent = await ask(uri, OPERATION.printJob, [], [], readFileSync(document()));
    const job = attribute(TAG.integer, 'job-id', valueOf(sent, 'job-id')!);
    await until(() => arrivals(id)[0]?.state === 'done');
    const { runId } = arrivals(id)[0]!.dockets[0]!;
    expect(runId).not.toBeNull();
    const other = attribute(TAG.name, 'requesting-user-name', 'someone else');
    expect((await ask(uri, OPERATION.cancelJob, [job], [], undefined, [other])).code).toBe(STATUS.notAuthorized);
    // In a run with others it stays: the operator has it in hand.
    const [beside] = shop.networkJobs.list(id, false);
    const cancelled = await ask(uri, OPERATION.cancelJob, [job]);
    expect(cancelled.code).toBe(STATUS.ok);
    expect(arrivals(id)[0]).toMatchObject({ state: 'undone', dockets: [] });
    expect(valueOf(await ask(uri, OPERATION.getJob, [job]), 'job-state')).toBe(JOB_STATE.cancelled);
    expect((await ask(uri, OPERATION.cancelJob, [job])).code).toBe(STATUS.notPossible);
    expect(beside!.state).toBe(JOB_STATE.held);
    // One that was opened, and whose document has not come.
    const opened = await ask(uri, OPERATION.createJob, []);
    expect(valueOf(opened, 'job-state')).toBe(JOB_STATE.pending);
    expect((await ask(uri, MORE_OPERATIONS.cancelMyJobs, [])).code).toBe(STATUS.ok);
    const late = attribute(TAG.integer, 'job-id', valueOf(opened, 'job-id')!);
    const again = await ask(uri, OPERATION.sendDocument, [late, attribute(TAG.boolean, 'last-document', true)], [], readFileSync(document())); // prettier-ignore
    expect(again.code).toBe(STATUS.notPossible);
  });

  it('says what it does not do, and does nothing of it where all or nothing is asked for', async () => {
    const { id, uri } = await printerOf();
    const job = [attribute(TAG.keyword, 'sides', 'two-sided-long-edge'), attribute(TAG.integer, 'number-up', 2), attribute(TAG.keyword, 'media', 'custom_wall_9000x9000mm')]; // prettier-ignore
    const answer = await ask(uri, OPERATION.validateJob, [], job);
    expect(answer.code).toBe(STATUS.okIgnored);
    const ignored = answer.groups.find(({ tag }) => tag === TAG.unsupported)!.attributes;
    expect(ignored.map(({ name }) => name).sort()).toEqual(['media', 'number-up', 'sides']);
    const strict = [attribute(TAG.boolean, 'ipp-attribute-fidelity', true)];
    expect((await ask(uri, OPERATION.printJob, strict, job, readFileSync(document()))).code).toBe(STATUS.attributesUnknown);
    const unknown = [attribute(TAG.mimeType, 'document-format', 'application/postscript')];
    expect((await ask(uri, OPERATION.printJob, unknown, [], readFileSync(document()))).code).toBe(STATUS.formatUnknown);
    expect(arrivals(id)).toEqual([]);
    expect((await ask(uri, 0x4001, [])).code).toBe(STATUS.unsupported);
  });

  it('whose recipe is gone says so, and what is printed on it waits', async () => {
    const gone = shop.recipes.add({ name: 'Gone', note: '', on: null, sets: { media: { is: 'condition', conditionId: 999 } } }).id; // prettier-ignore
    const { id, uri } = await printerOf({ recipeId: gone });
    const said = await ask(uri, OPERATION.getPrinter, []);
    expect(valueOf(said, 'printer-state')).toBe(5);
    expect(valueOf(said, 'printer-state-message')).toMatch(/are gone/);
    await ask(uri, OPERATION.printJob, [], [], readFileSync(document()));
    await until(() => arrivals(id)[0]?.state === 'waiting');
    expect(arrivals(id)[0]).toMatchObject({ dockets: [], reason: expect.stringMatching(/are gone/) });
  });
});

describe('at a printer’s port', () => {
  const post = (uri: string, body: string | Buffer<ArrayBuffer>, headers: Record<string, string> = {}) =>
    fetch(uri.replace(/^ipp/, 'http'), { method: 'POST', body, headers: { 'content-type': 'application/ipp', ...headers } });

  it('only printing is answered, and no page elsewhere', async () => {
    const { uri } = await printerOf();
    const http = uri.replace(/^ipp/, 'http');
    expect((await post(uri, 'x', { origin: 'http://evil.example' })).status).toBe(403);
    expect((await post(uri, 'x', { 'content-type': 'text/plain' })).status).toBe(415);
    expect((await fetch(http.replace('/ipp/print', '/api/shop'))).status).toBe(404);
    expect(await (await fetch(http.replace('/ipp/print', '/'))).text()).toMatch(/a printer of Zing Mast/);
    const icon = await fetch(http.replace('/ipp/print', '/icon.png'));
    expect((await sharp(Buffer.from(await icon.arrayBuffer())).metadata()).width).toBe(128);
  });

  it('lies, broken documents and what is too large get their status, and leave nothing', async () => {
    const { id, uri } = await printerOf({ mostMb: 1 });
    const lying = Buffer.from(encodeRequest(OPERATION.printJob, 1, [attribute(TAG.uri, 'printer-uri', uri)]));
    lying.writeUInt16BE(0xffff, 10);
    for (const body of ['', 'not at all', lying, Buffer.alloc(100_000, 0x41)]) {
      const reply = decodeResponse(Buffer.from(await (await post(uri, body)).arrayBuffer()));
      expect(reply.code).toBe(STATUS.badRequest);
    }
    const large = await ask(uri, OPERATION.printJob, [], [], randomBytes(1_200_000));
    expect([large.code, valueOf(large, 'status-message')]).toEqual([STATUS.tooLarge, expect.stringMatching(/1 MB/)]);
    const bomb = gzipSync(Buffer.alloc(50_000_000));
    const packed = [attribute(TAG.keyword, 'compression', 'gzip')];
    expect((await ask(uri, OPERATION.printJob, packed, [], bomb)).code).toBe(STATUS.tooLarge);
    expect((await ask(uri, OPERATION.printJob, packed, [], randomBytes(1000))).code).toBe(STATUS.compressionError);
    expect((await ask(uri, OPERATION.printJob, [], [], undefined)).code).toBe(STATUS.badRequest);
    expect(arrivals(id)).toEqual([]);
    expect(shop.networkJobs.list(id, false)).toEqual([]);
    expect(shop.networkJobs.list(id, true).map(({ state }) => state)).toEqual(Array(4).fill(JOB_STATE.aborted));
  });

  it('a document that never ends is cut off, and one that breaks off is no job', async () => {
    const { id, uri } = await printerOf({ mostMb: 2 });
    const head = encodeRequest(OPERATION.printJob, 1, [
      attribute(TAG.uri, 'printer-uri', uri),
      attribute(TAG.name, 'job-name', 'endless')
    ]);
    const endless = async function* () {
      yield head;
      for (;;) yield await Promise.resolve(Buffer.alloc(65_536, 7));
    };
    const reply = await new Promise<Buffer>((resolve, reject) => {
      const outgoing = request(uri.replace(/^ipp/, 'http'), { method: 'POST', headers: { 'content-type': 'application/ipp' } });
      outgoing.on('response', (incoming) => {
        const chunks: Buffer[] = [];
        incoming.on('data', (chunk: Buffer) => chunks.push(chunk)).on('end', () => resolve(Buffer.concat(chunks)));
      });
      outgoing.on('error', reject);
      Readable.from(endless())
        .on('error', () => undefined)
        .pipe(outgoing);
    });
    expect(decodeResponse(reply).code).toBe(STATUS.tooLarge);
    const broken = request(uri.replace(/^ipp/, 'http'), { method: 'POST', headers: { 'content-type': 'application/ipp', 'content-length': 1e6 } }); // prettier-ignore
    broken.on('error', () => undefined);
    broken.write(Buffer.concat([head, Buffer.alloc(1000)]));
    await until(() => shop.networkJobs.list(id, false).length === 1);
    broken.destroy();
    await until(() => shop.networkJobs.list(id, true).length === 2);
    expect(arrivals(id)).toEqual([]);
  });

  it('a thousand jobs at once are taken or told to come again, and the server goes on', async () => {
    const { id, uri } = await printerOf({ mostPerMinute: 150 });
    const bytes = readFileSync(document());
    const codes = await Promise.all(
      Array.from({ length: 1000 }, () =>
        ask(uri, OPERATION.printJob, [], [], bytes).then(
          ({ code }) => code,
          () => -1
        )
      )
    );
    const counted = (code: number) => codes.filter((one) => one === code).length;
    expect(counted(STATUS.ok) + counted(STATUS.busy) + counted(-1)).toBe(1000);
    expect(counted(STATUS.ok)).toBeGreaterThan(5);
    expect(counted(STATUS.ok)).toBeLessThanOrEqual(150);
    expect(arrivals(id)).toHaveLength(counted(STATUS.ok));
    // A connection of those before may just be closed.
    await until(() =>
      ask(uri, OPERATION.getPrinter, []).then(
        ({ code }) => code === STATUS.ok,
        () => false
      )
    );
  });

  it('whoever is on the list may print, or knows the key; nobody else', () => {
    const of = (over: Partial<NetworkPrinter>) => ({ printer: NetworkPrinter.parse({ name: 'P', recipeId: null, way: 'lay out', port: 7000, isOpen: true, ...over }) }); // prettier-ignore
    const listed = of({ addresses: ['10.1.0.0/16', '192.168.7.9', 'fd00::/8'] });
    const key = 'k'.repeat(20);
    const keyed = of({ key });
    for (const [printer, from, path, way] of [
      [listed, '10.1.44.3', '/ipp/print', '/ipp/print'],
      [listed, '::ffff:10.1.44.3', '/ipp/print', '/ipp/print'],
      [listed, '10.2.44.3', '/ipp/print', undefined],
      [listed, '192.168.7.9', '/', '/ipp/print'],
      [listed, 'fd12::3', '/ipp/print', '/ipp/print'],
      [listed, 'fe80::3', '/ipp/print', undefined],
      [keyed, '203.0.113.5', '/ipp/print', undefined],
      [keyed, '203.0.113.5', `/ipp/print/${key}`, `/ipp/print/${key}`],
      [keyed, '203.0.113.5', `/ipp/print/${key}/7`, `/ipp/print/${key}`],
      [keyed, '203.0.113.5', `/ipp/print/${key}x`, undefined],
      [listed, '203.0.113.5', '/ipp/print/', undefined],
      [keyed, '127.0.0.1', '/ipp/print', '/ipp/print']
    ] as const)
      expect([from, path, wayIn(printer, from, path)]).toEqual([from, path, way]);
  });

  it('nothing listens beyond this machine unless it is said so', async () => {
    const outer = Object.values(networkInterfaces()).flat().find((one) => one && !one.internal && one.family === 'IPv4')?.address; // prettier-ignore
    const reach = async (uri: string): Promise<number> =>
      fetch(uri.replace(/^ipp/, 'http').replace('127.0.0.1', outer!).replace('/ipp/print', '/')).then(
        ({ status }) => status,
        () => 0
      );
    if (outer === undefined) return;
    const shut = await printerOf();
    expect(await reach(shut.uri)).toBe(0);
    const open = await printerOf({ isOpen: true, addresses: ['203.0.113.1'] });
    expect(await reach(open.uri)).toBe(403);
    // However many strangers hold the line, who may print can.
    const door = Number(new URL(open.uri.replace(/^ipp/, 'http')).port);
    const hold = () => connect(door, outer).on('error', () => undefined).resume(); // prettier-ignore
    const strangers = Array.from({ length: 220 }, hold);
    await until(() => strangers.filter(({ closed }) => closed).length >= 120);
    const late = hold();
    await until(() => late.closed);
    expect((await fetch(open.uri.replace(/^ipp/, 'http').replace('/ipp/print', '/'))).status).toBe(200);
    for (const one of strangers) one.destroy();
    await until(async () => (await reach(open.uri)) === 403);
    const kept = shop.networkPrinters.get(open.id);
    shop.networkPrinters.change(open.id, kept.version, { ...kept.printer, addresses: [outer] });
    await shop.printerDoors.settled();
    expect(await reach(open.uri)).toBe(200);
    shop.networkPrinters.remove(open.id);
    await shop.printerDoors.settled();
    expect(await reach(open.uri)).toBe(0);
  });

  it('a port that is taken is said, and the next that is free is told', async () => {
    const { id } = await printerOf();
    const { printer } = shop.networkPrinters.get(id);
    expect(() => shop.networkPrinters.add({ ...printer, name: 'Other' })).toThrow(/is free/);
    expect(() => shop.networkPrinters.add({ ...printer, port: 7 })).toThrow(/There is a printer/);
    const taken = createServer().listen((port += 1), '127.0.0.1');
    const other = shop.networkPrinters.add({ ...printer, name: 'Taken', port });
    await shop.printerDoors.settled();
    const state = shop.printerDoors.states().find((one) => one.id === other.id);
    expect(state).toMatchObject({ isThere: false, trouble: expect.stringMatching(/taken by another program/) });
    taken.close();
  });

  it('a printer that is announced is found by who looks around', async () => {
    const { id } = await printerOf({ isOpen: true, addresses: ['10.0.0.0/8'], isAnnounced: true });
    const { printer, uuid } = shop.networkPrinters.get(id);
    // Where not even this one is heard, the network takes no messages to many.
    const [looking, speaking] = [new Bonjour({}, () => undefined), new Bonjour({}, () => undefined)];
    const control = `Control ${port}`;
    speaking.publish({ name: control, type: 'ipp', subtypes: ['print'], port: 9 });
    const heard: Service[] = [];
    looking.find({ type: 'ipp', subtypes: ['print'] }, (one) => heard.push(one));
    const of = (name: string) => until(() => heard.find((one) => one.name === name), 20);
    const isHeard = await of(control).then(Boolean, () => false);
    const found = isHeard ? await of(printer.name) : undefined;
    for (const one of [looking, speaking]) one.destroy();
    if (!found) return;
    expect(found).toMatchObject({ name: printer.name, txt: { rp: 'ipp/print', UUID: uuid } });
    expect(String((found.txt as Record<string, string>)['pdl'])).toContain('image/pwg-raster');
  });

  // Programs connect, print something else meanwhile, and do not try again when they were let go. What is due is
  // looked at each half minute.
  it('a program that has connected may wait with what it asks', async () => {
    const { socket, since } = silent;
    while (!silent.isClosed && Date.now() - since < 45_000) await new Promise((resolve) => setTimeout(resolve, 500));
    let answer = '';
    socket.on('data', (chunk: Buffer) => (answer += chunk.toString()));
    socket.end('GET / HTTP/1.1\r\nHost: printer\r\n\r\n');
    await until(() => silent.isClosed);
    expect(answer).toMatch(/^HTTP\/1.1 200 OK/);
  });
});
