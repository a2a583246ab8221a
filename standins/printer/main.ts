import { readFileSync } from 'node:fs';
import { mkdtemp, readFile } from 'node:fs/promises';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { z } from 'zod';
import { xyzOf } from '$core/colour/stack-look';
import { BLACKS, BODIES, SURFACES } from '$core/media/card';
import { message, readJson, sendJson, turnedAway } from '$protocol/http';
import { LaidOut, layDown, Shot, takePhoto } from './bed';
import { handlingOf } from './handling';
import { answerIpp } from './ipp';
import { ALL_MODES } from './modes';
import { modelNamed } from './models';
import { page } from './page';
import { Physics } from './physics';
import { drawnThings, isPlainLook, look, onThings, picture } from './printed';
import { Printer } from './printer';
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

async function answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const path = new URL(request.url ?? '/', 'http://printer').pathname;
  if (request.method === 'POST' && path.startsWith('/ipp/print')) {
    const body = await answerIpp(printer, port(), request);
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
      : await picture(job, from === 'gloss' ? from : { from, backing: xyzOf(backing) });
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
  if (request.method === 'GET' && path === '/handling') return sendJson(response, 200, handlingOf(model));
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
    return sendJson(response, 200, await look(job, places, apertureMm));
  }
  const lies = /^\/output\/(\d+)\/things$/.exec(path);
  if (lies && request.method === 'GET') {
    const job = printer.jobs.find((j) => j.id === Number(lies[1]));
    if (!job || job.rows === 0) return sendJson(response, 404, { error: 'Nothing has come out for this job.' });
    return sendJson(response, 200, await onThings(job));
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
