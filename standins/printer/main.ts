import { readFileSync } from 'node:fs';
import { mkdtemp, readFile } from 'node:fs/promises';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import sharp from 'sharp';
import { z } from 'zod';
import { message, readJson, sendJson, turnedAway } from '$protocol/http';
import { readIpp } from '$protocol/ipp-http';
import {
  attribute,
  encodeResponse,
  JOB_STATE,
  OPERATION,
  PRINTER_STATE,
  STATUS,
  TAG,
  valueOf,
  valuesOf,
  type Decoded
} from '$protocol/ipp';
import { xyzOf } from '$core/colour/stack-look';
import { BLACKS, BODIES, Handling, SURFACES } from '$core/media/card';
import { LaidOut, layDown, outlineOn, Shot, takePhoto } from './bed';
import { handlingOf as handlingTable } from './handling';
import { ALL_MODES } from './modes';
import { Physics } from './physics';
import type { DropVolumes } from '$core/inks/drops';
import { modelNamed } from './models';
import { page } from './page';
import { Printer, WrongMedia, type JobTicket, type PrinterJob } from './printer';
import { FARTHEST_HUE, WEAR } from './wear';

/**
 * The printer stand-in: IPP over HTTP at /ipp/print, and plain JSON for what a person would do at the machine.
 * Settings by environment: PORT (0 takes a free one), MODEL, SPEED (times faster than life, or "full"), FOLDER, MEDIA (JSON).
 */

const Colour = z.string().regex(/^#[0-9a-f]{6}$/i);
const Media = z.object({
  name: z.string().min(1).max(100),
  surface: z.enum(SURFACES),
  body: z.enum(BODIES).optional(),
  colour: Colour.optional(),
  widthMm: z.number().min(50).max(6000),
  lengthMm: z.number().min(0).max(1e6),
  sheetMm: z.number().min(50).max(10_000).optional(),
  sheets: z.int().min(0).max(10_000).optional(),
  batch: z.string().max(40).optional()
});
const FaultChange = z
  .object({
    mediaOut: z.boolean(),
    inkOut: z.boolean(),
    coverOpen: z.boolean(),
    lostForSeconds: z.number().min(0).max(600),
    silentForSeconds: z.number().min(0).max(600)
  })
  .partial();

const Drops = z.tuple([z.number().positive(), z.number().positive(), z.number().positive()]);
const StartQuery = z.object({
  surface: z.enum(SURFACES),
  dpi: z.coerce.number().min(90).max(2880),
  drop: z.coerce.number().min(1).max(200),
  black: z.enum(BLACKS).default('gloss')
});
const four = z.array(z.number().min(0.3).max(1.5)).length(4);
const UnitChange = z.object({
  gain: four,
  strength: four,
  hue: z.array(z.number().min(-FARTHEST_HUE).max(FARTHEST_HUE)).length(4).optional(),
  blocked: z.array(z.int().min(0).max(8)).length(4).optional()
});
const WearChange = z.object({ what: z.enum(WEAR), seed: z.int().min(0).optional() });
const Look = z.object({
  places: z.array(z.object({ x: z.number().min(-100).max(1e4), y: z.number().min(-100).max(1e6) })).max(500),
  apertureMm: z.number().min(0.5).max(20)
});

/** How a print is looked at: from which side, and what is behind it. */
const Seen = z.object({ from: z.enum(['front', 'behind', 'gloss']).default('front'), backing: Colour.default('#ffffff') });

const model = modelNamed(process.env.MODEL ?? 'Petrel 13');
const media = Media.parse(
  JSON.parse(process.env.MEDIA ?? '{"name":"Gloss white film","surface":"gloss","widthMm":1300,"lengthMm":38200}')
);
const speed = process.env.SPEED === 'full' ? Infinity : Number(process.env.SPEED ?? '20');
const folder = process.env.FOLDER ?? (await mkdtemp(join(tmpdir(), 'zing-printer-')));
const kernels = new WebAssembly.Module(readFileSync(new URL('./kernels.wasm', import.meta.url)));
const printer = new Printer(model, folder, kernels, media, speed);

function printerAttributes() {
  const working = printer.jobs.some((job) => job.state === JOB_STATE.processing || job.state === JOB_STATE.stopped);
  const { stops } = printer;
  const state = stops.length > 0 ? PRINTER_STATE.stopped : working ? PRINTER_STATE.processing : PRINTER_STATE.idle;
  return {
    tag: TAG.printer,
    attributes: [
      attribute(TAG.uri, 'printer-uri-supported', `ipp://127.0.0.1:${port()}/ipp/print`),
      attribute(TAG.uri, 'printer-more-info', `http://127.0.0.1:${port()}/`),
      attribute(TAG.keyword, 'uri-security-supported', 'none'),
      attribute(TAG.keyword, 'uri-authentication-supported', 'none'),
      attribute(TAG.name, 'printer-name', model.name),
      attribute(TAG.text, 'printer-make-and-model', `${model.name} (simulated)`),
      attribute(TAG.enum, 'printer-state', state),
      attribute(TAG.keyword, 'printer-state-reasons', stops.length > 0 ? stops : ['none']),
      attribute(TAG.boolean, 'printer-is-accepting-jobs', true),
      attribute(TAG.integer, 'queued-job-count', printer.jobs.filter((job) => job.state < JOB_STATE.cancelled).length),
      attribute(TAG.integer, 'printer-up-time', Math.max(1, Math.round(process.uptime()))),
      attribute(TAG.keyword, 'ipp-versions-supported', ['1.1']),
      attribute(TAG.enum, 'operations-supported', Object.values(OPERATION)),
      attribute(TAG.charset, 'charset-configured', 'utf-8'),
      attribute(TAG.charset, 'charset-supported', ['utf-8']),
      attribute(TAG.language, 'natural-language-configured', 'en'),
      attribute(TAG.language, 'generated-natural-language-supported', ['en']),
      attribute(TAG.mimeType, 'document-format-default', 'image/tiff'),
      attribute(TAG.mimeType, 'document-format-supported', ['image/tiff']),
      attribute(TAG.keyword, 'compression-supported', ['none']),
      attribute(TAG.keyword, 'pdl-override-supported', 'not-attempted'),
      attribute(
        TAG.name,
        'marker-names',
        model.inks.map(({ name }) => name)
      ),
      attribute(
        TAG.name,
        'marker-colors',
        model.inks.map(({ colour }) => colour)
      ),
      attribute(
        TAG.keyword,
        'zing-ink-roles',
        model.inks.map(({ role }) => role)
      ),
      attribute(
        TAG.name,
        'zing-ink-channels',
        model.inks.map(({ channel }) => channel)
      ),
      // Femtolitres, three an ink; thousandths of the mask, two an ink.
      attribute(
        TAG.integer,
        'zing-ink-drops',
        model.inks.flatMap(({ drops }) => drops.map((pl) => Math.round(pl * 1000)))
      ),
      attribute(
        TAG.integer,
        'zing-ink-shifts',
        model.inks.flatMap(({ shift }) => shift.map((part) => Math.round(part * 1000)))
      ),
      attribute(TAG.integer, 'zing-layers', model.layers),
      attribute(
        TAG.integer,
        'marker-levels',
        printer.inkMl.map((ml) => Math.round((100 * ml) / model.cartridgeMl))
      ),
      attribute(
        TAG.keyword,
        'marker-types',
        model.inks.map(() => 'ink-cartridge')
      ),
      // Hundredths of a millimetre, as IPP counts sizes.
      attribute(TAG.name, 'zing-media-name', printer.media.name),
      ...(printer.media.batch ? [attribute(TAG.name, 'zing-media-batch', printer.media.batch)] : []),
      attribute(TAG.integer, 'zing-media-width', Math.round(printer.media.widthMm * 100)),
      attribute(TAG.integer, 'zing-media-length-left', Math.round(printer.media.lengthMm * 100)),
      ...(model.flatbed
        ? [
            attribute(TAG.integer, 'zing-sheet-length', Math.round((printer.media.sheetMm ?? 1000) * 100)),
            attribute(TAG.integer, 'zing-sheets-left', printer.media.sheets ?? 0),
            attribute(TAG.integer, 'zing-thing-height', Math.round(model.mostThingMm * 100))
          ]
        : []),
      attribute(TAG.integer, 'zing-drop-volumes', [...model.inks[0]!.drops]),
      attribute(TAG.integer, 'zing-head-height', Math.round(model.speed.headMm * 100)),
      attribute(TAG.integer, 'zing-carriage-speed', model.speed.carriageMmPerS),
      attribute(TAG.integer, 'zing-turn-time', Math.round(model.speed.turnS * 1000))
    ]
  };
}

/** What the plates were made for, three drops an ink; its own for an ink of which nothing is said. */
function dropsOf(head: Decoded): DropVolumes[] {
  const all = valuesOf(head, 'zing-drop-volumes').map((fl) => Number(fl) / 1000);
  return model.inks.map(({ drops }, i) => Drops.safeParse(all.slice(i * 3, i * 3 + 3)).data ?? drops);
}

/** How the media is to be treated, as the program that sends the job says. */
function handlingOf(head: Decoded): Handling | null {
  const said = valueOf(head, 'zing-handling');
  return typeof said === 'string' ? Handling.parse(JSON.parse(said)) : null;
}

function jobAttributes(job: PrinterJob) {
  return {
    tag: TAG.job,
    attributes: [
      attribute(TAG.integer, 'job-id', job.id),
      attribute(TAG.uri, 'job-uri', `ipp://127.0.0.1:${port()}/ipp/print/${job.id}`),
      attribute(TAG.name, 'job-name', job.name),
      ...(job.key ? [attribute(TAG.name, 'zing-job-key', job.key)] : []),
      attribute(TAG.enum, 'job-state', job.state),
      attribute(TAG.keyword, 'job-state-reasons', [job.reason.slice(0, 200)]),
      attribute(TAG.integer, 'zing-length', Math.round(job.lengthMm * 100)),
      attribute(TAG.integer, 'zing-length-printed', Math.round(job.printedMm * 100)),
      attribute(TAG.integer, 'zing-time-printing', Math.round(job.seconds * 1000)),
      // Microlitres.
      attribute(
        TAG.integer,
        'zing-ink-used',
        job.inkMl.map((ml) => Math.round(ml * 1000))
      ),
      ...(job.handling ? [attribute(TAG.text, 'zing-handling', JSON.stringify(job.handling))] : [])
    ]
  };
}

function ticketOf(head: Decoded): JobTicket {
  const text = (name: string) => {
    const value = valueOf(head, name);
    return typeof value === 'string' ? value.slice(0, 200) : null;
  };
  const hundredths = (name: string) => Number(valueOf(head, name) ?? 0) / 100;
  const media = text('zing-media-name');
  return {
    name: text('job-name') ?? 'untitled',
    key: text('zing-job-key'),
    drops: dropsOf(head),
    handling: handlingOf(head),
    thicknessMm: valueOf(head, 'media-thickness') === undefined ? null : hundredths('media-thickness'),
    onBed: valueOf(head, 'media-source') === 'manual',
    black: z.enum(BLACKS).catch('gloss').parse(valueOf(head, 'zing-black')),
    passes: z
      .int()
      .min(1)
      .max(64)
      .nullable()
      .catch(null)
      .parse(valueOf(head, 'zing-passes') ?? null),
    oneWay: valueOf(head, 'zing-direction') === 'one-way',
    curing: z
      .array(z.enum(['gloss', 'matt']))
      .max(16)
      .catch([])
      .parse(valuesOf(head, 'zing-varnish-curing')),
    media: media === null ? null : { name: media, widthMm: hundredths('zing-media-width'), lengthMm: hundredths('zing-length') }
  };
}

/** Colour alone on white media, from the front, is drawn as it is printed. */
const isPlainLook = ({ layers, body = 'opaque', colour = '#ffffff' }: PrinterJob, from: string): boolean =>
  from === 'front' && (layers?.length ?? 1) === 1 && layers?.[0]?.ink !== 'white' && body === 'opaque' && colour === '#ffffff';

/** Outlines of what lay on the bed, over what was printed on it. */
function drawnThings({ things = [], cellMm }: PrinterJob, width: number, height: number): Buffer | undefined {
  if (things.length === 0) return undefined;
  const path = (ring: { x: number; y: number }[]) =>
    `M${ring.map(({ x, y }) => `${(x / cellMm.x).toFixed(2)} ${(y / cellMm.y).toFixed(2)}`).join('L')}Z`;
  const paths = things.map((thing) => `<path d="${outlineOn(thing).map(path).join('')}"/>`);
  return Buffer.from(
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><g fill="none" stroke="#c00" stroke-width="1">${paths.join('')}</g></svg>`
  );
}

/** Answers with the job that comes of it, or with why none does. */
async function answerFor(head: Decoded, work: () => PrinterJob | Promise<PrinterJob>): Promise<Buffer> {
  try {
    return encodeResponse(STATUS.ok, head.requestId, 'successful-ok', [jobAttributes(await work())]);
  } catch (error) {
    const status = error instanceof WrongMedia ? STATUS.notPossible : STATUS.formatUnknown;
    return encodeResponse(status, head.requestId, message(error).slice(0, 200));
  }
}

async function answerIpp(request: IncomingMessage): Promise<Buffer> {
  let head: Decoded;
  let document: Readable;
  try {
    const read = await readIpp(request);
    head = read.head;
    document = Readable.from(read.document);
  } catch (error) {
    return encodeResponse(STATUS.badRequest, 1, message(error));
  }
  const job = () => {
    const uri = valueOf(head, 'job-uri');
    const id = Number(valueOf(head, 'job-id') ?? (typeof uri === 'string' ? uri.split('/').at(-1) : NaN));
    return printer.jobs.find((j) => j.id === id);
  };
  switch (head.code) {
    case OPERATION.getPrinter:
      return encodeResponse(STATUS.ok, head.requestId, 'successful-ok', [printerAttributes()]);
    case OPERATION.validateJob:
      return encodeResponse(STATUS.ok, head.requestId, 'successful-ok');
    case OPERATION.createJob:
      return answerFor(head, () => printer.create(ticketOf(head)));
    case OPERATION.sendDocument: {
      const found = job();
      if (!found) return encodeResponse(STATUS.notFound, head.requestId, 'There is no such job.');
      if (found.state !== JOB_STATE.held)
        return encodeResponse(STATUS.notPossible, head.requestId, 'The job has its document, or has ended.');
      return answerFor(head, () => printer.accept(found, document));
    }
    case OPERATION.printJob:
      return answerFor(head, () => printer.accept(printer.create(ticketOf(head)), document));
    case OPERATION.getJob: {
      const found = job();
      return found
        ? encodeResponse(STATUS.ok, head.requestId, 'successful-ok', [jobAttributes(found)])
        : encodeResponse(STATUS.notFound, head.requestId, 'There is no such job.');
    }
    case OPERATION.getJobs: {
      // All, those that have ended, or those that have not: as the RFC has it where nothing is said.
      const which = valueOf(head, 'which-jobs') ?? 'not-completed';
      const ended = (one: PrinterJob) => one.state >= JOB_STATE.cancelled;
      const key = valueOf(head, 'zing-job-key');
      const jobs = printer.jobs.filter(
        (one) => (which === 'all' || ended(one) === (which === 'completed')) && (key === undefined || one.key === key)
      );
      return encodeResponse(STATUS.ok, head.requestId, 'successful-ok', jobs.map(jobAttributes));
    }
    case OPERATION.cancelJob: {
      const found = job();
      if (!found) return encodeResponse(STATUS.notFound, head.requestId, 'There is no such job.');
      return printer.cancel(found.id)
        ? encodeResponse(STATUS.ok, head.requestId, 'successful-ok')
        : encodeResponse(STATUS.notPossible, head.requestId, 'The job has ended already.');
    }
    default:
      return encodeResponse(STATUS.unsupported, head.requestId, 'This operation is not known here.');
  }
}

async function answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const path = new URL(request.url ?? '/', 'http://printer').pathname;
  if (request.method === 'POST' && path.startsWith('/ipp/print')) {
    const body = await answerIpp(request);
    response.writeHead(200, { 'content-type': 'application/ipp' }).end(body);
    return;
  }
  const output = /^\/output\/(\d+)\.png$/.exec(path);
  if (output) {
    const job = printer.jobs.find((j) => j.id === Number(output[1]));
    if (!job || job.rows === 0) return sendJson(response, 404, { error: 'Nothing has come out for this job.' });
    const { from, backing } = Seen.parse(Object.fromEntries(new URL(request.url ?? '', 'http://printer').searchParams));
    const { rgb, columns, rows } = isPlainLook(job, from)
      ? { rgb: (await readFile(job.output)).subarray(0, job.rows * job.columns * 3), columns: job.columns, rows: job.rows }
      : await printer.picture(job, from === 'gloss' ? from : { from, backing: xyzOf(backing) });
    const things = from === 'front' ? drawnThings(job, columns, rows) : undefined;
    const png = await sharp(rgb, { raw: { width: columns, height: rows, channels: 3 }, limitInputPixels: false })
      .composite(things ? [{ input: things, left: 0, top: 0 }] : [])
      // Pixels are cells of the plates, whatever print mode those are for.
      .withMetadata({ density: 25.4 / job.cellMm.x })
      .png({ compressionLevel: 3 })
      .toBuffer();
    response.writeHead(200, { 'content-type': 'image/png' }).end(png);
    return;
  }
  if (request.method === 'GET' && path === '/start') {
    const { surface, dpi, drop, black } = StartQuery.parse(
      Object.fromEntries(new URL(request.url ?? '', 'http://printer').searchParams)
    );
    return sendJson(response, 200, new Physics(surface, drop * dpi * dpi, undefined, black).start());
  }
  if (request.method === 'GET' && path === '/modes')
    return sendJson(
      response,
      200,
      ALL_MODES.filter((mode) => mode.machine === model.name)
    );
  if (request.method === 'GET' && path === '/handling') return sendJson(response, 200, handlingTable(model));
  if (request.method === 'GET' && path === '/unit') return sendJson(response, 200, printer.unit);
  if (request.method === 'POST' && path === '/unit') {
    printer.unit = UnitChange.parse(await readJson(request));
    printer.keep();
    return sendJson(response, 200, printer.unit);
  }
  if (request.method === 'POST' && path === '/wear') {
    const { what, seed = Date.now() } = WearChange.parse(await readJson(request));
    return sendJson(response, 200, printer.wear(what, seed));
  }
  if (request.method === 'GET' && path === '/') {
    response.writeHead(200, { 'content-type': 'text/html; charset=utf-8' }).end(page(printer));
    return;
  }
  const looked = /^\/output\/(\d+)\/look$/.exec(path);
  if (looked && request.method === 'POST') {
    const job = printer.jobs.find((j) => j.id === Number(looked[1]));
    if (!job || job.rows === 0) return sendJson(response, 404, { error: 'Nothing has come out for this job.' });
    const { places, apertureMm } = Look.parse(await readJson(request));
    return sendJson(response, 200, await printer.look(job, places, apertureMm));
  }
  const lies = /^\/output\/(\d+)\/things$/.exec(path);
  if (lies && request.method === 'GET') {
    const job = printer.jobs.find((j) => j.id === Number(lies[1]));
    if (!job || job.rows === 0) return sendJson(response, 404, { error: 'Nothing has come out for this job.' });
    return sendJson(response, 200, await printer.onThings(job));
  }
  if (path === '/bed' && request.method === 'GET') return sendJson(response, 200, printer.bed);
  if (path === '/bed' && request.method === 'POST') {
    const laid = LaidOut.parse(await readJson(request));
    printer.bed = layDown(laid);
    printer.bedColour = laid.colour;
    printer.keep();
    return sendJson(response, 200, printer.bed);
  }
  if (path === '/bed/photo.png' && request.method === 'GET') {
    const shot = Shot.parse(Object.fromEntries(new URL(request.url ?? '', 'http://printer').searchParams));
    const bed = { widthMm: printer.media.widthMm, lengthMm: printer.media.sheetMm ?? 1000 };
    const { rgb, width, height } = takePhoto(printer.bed, printer.bedColour, bed, shot);
    const png = await sharp(rgb, { raw: { width, height, channels: 3 } })
      .png({ compressionLevel: 3 })
      .toBuffer();
    response.writeHead(200, { 'content-type': 'image/png' }).end(png);
    return;
  }
  if (request.method === 'POST' && path === '/media') {
    const { key = null, ...given } = Media.extend({ key: z.string().max(100).optional() }).parse(await readJson(request));
    return sendJson(response, 200, printer.load(given, key));
  }
  if (request.method === 'GET' && path === '/state') return sendJson(response, 200, printer.media);
  if (request.method === 'GET' && path === '/jobs')
    return sendJson(
      response,
      200,
      printer.jobs.map(({ id, key, name, state, printedMm }) => ({ id, key, name, state, printedMm }))
    );
  if (request.method === 'GET' && path === '/media') return sendJson(response, 200, printer.change ?? null);
  if (request.method === 'POST' && path === '/speed') {
    printer.speedUp = z.object({ speed: z.number().min(0.1).max(1e6) }).parse(await readJson(request)).speed;
    return sendJson(response, 200, {});
  }
  if (request.method === 'POST' && path === '/faults') {
    Object.assign(printer.faults, FaultChange.parse(await readJson(request)));
    return sendJson(response, 200, printer.faults);
  }
  sendJson(response, 404, { error: 'There is nothing here. IPP is at /ipp/print.' });
}

const server = createServer((request, response) => {
  if (turnedAway(request, response)) return;
  if (Date.now() < printer.lostUntil) {
    request.socket.destroy();
    return;
  }
  // One that hangs takes what is sent and says nothing.
  if (Date.now() < printer.silentUntil) return;
  answer(request, response).catch((error: unknown) => {
    if (!response.headersSent) sendJson(response, 400, { error: message(error) });
    else response.destroy();
  });
});
// A long run streams for a long time.
server.requestTimeout = 0;

function port(): number {
  const address = server.address();
  return typeof address === 'object' && address ? address.port : 0;
}

server.listen(Number(process.env.PORT ?? 0), '127.0.0.1', () =>
  process.stdout.write(`${JSON.stringify({ ready: 'printer', port: port() })}\n`)
);
process.on('SIGTERM', () => {
  printer.keep();
  process.exit(0);
});
