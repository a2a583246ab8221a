import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { z } from 'zod';
import { writeCgats } from '$core/colour/cgats';
import { xyzToLab, type Triple } from '$core/colour/lab';
import { message, readJson, sendJson, turnedAway } from '$protocol/http';

/**
 * The instrument stand-in: looks at what the printer stand-in printed, at the places where it is told, and gives CGATS
 * text. Settings by environment: PORT, SPEED (times faster than life, or "full"), SEED, NOISE (ΔE of one axis).
 */

const APERTURE_MM = 4;
const NAME = 'Plover S2';
const speed = process.env.SPEED === 'full' ? Infinity : Number(process.env.SPEED ?? '5');

const Settings = z.object({
  /** Standard deviation of each of L*, a*, b*. */
  noise: z.number().min(0).max(5),
  /** How often a strip goes wrong, 0…1: read backwards, or shifted by half a patch. */
  badStrips: z.number().min(0).max(1),
  /** What goes wrong with the next strip, whatever the share is. */
  next: z.enum(['', 'backwards', 'shifted'])
});
/** What lies under it when it is not led along a chart: a customer's sample, which can be exchanged. */
const Sample = z.object({
  lab: z.tuple([z.number().min(0).max(100), z.number().min(-128).max(128), z.number().min(-128).max(128)])
});
let sample: Triple = [46.2, 58.4, 27.9];
const settings: z.infer<typeof Settings> = { noise: Number(process.env.NOISE ?? 0.06), badStrips: 0, next: '' };

const place = z.object({ id: z.string().max(40), x: z.number(), y: z.number() });
const ReadRequest = z.object({
  /** The printer whose print lies under the instrument, and which print. */
  printer: z.url(),
  job: z.int().min(1),
  places: z.array(place).min(1).max(200),
  patchMm: z.number().min(2).max(50)
});

let state = Number(process.env.SEED ?? 20_270_820) % 2_147_483_647;
/** Park & Miller's generator, so that a seed gives the same day again. */
function random(): number {
  state = (state * 48_271) % 2_147_483_647;
  return state / 2_147_483_647;
}
const normal = () => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());

/** A strip is read in one go; what goes wrong, goes wrong for the whole of it. */
async function read({ printer, job, places, patchMm }: z.infer<typeof ReadRequest>): Promise<string> {
  const strip = places.length > 1;
  const wrong = settings.next || (strip && random() < settings.badStrips ? (random() < 0.5 ? 'backwards' : 'shifted') : '');
  settings.next = '';
  const seen = wrong === 'backwards' ? [...places].reverse() : places;
  const shift = wrong === 'shifted' ? patchMm * 0.6 : 0;
  const reply = await fetch(`${printer}/output/${job}/look`, {
    method: 'POST',
    body: JSON.stringify({ apertureMm: APERTURE_MM, places: seen.map(({ x, y }) => ({ x: x + shift, y })) }),
    signal: AbortSignal.timeout(20_000)
  });
  if (!reply.ok) throw new Error('There is no such print under the instrument.');
  const colours = z.array(z.tuple([z.number(), z.number(), z.number()])).parse(await reply.json());
  const seconds = strip ? 2 + places.length * 0.15 : 1.2;
  if (Number.isFinite(speed)) await new Promise((resolve) => setTimeout(resolve, (seconds * 1000) / speed));
  return told(places.map(({ id }, i) => ({ id, lab: xyzToLab(colours[i] as Triple) })));
}

/** Readings with their noise, as CGATS. */
function told(seen: readonly { id: string; lab: Triple }[]): string {
  return writeCgats({
    head: {
      ORIGINATOR: NAME,
      INSTRUMENTATION: NAME,
      MEASUREMENT_SOURCE: 'Illumination=D50 ObserverAngle=2',
      CREATED: new Date().toISOString()
    },
    patches: seen.map(({ id, lab }) => ({ id, inks: null, lab: lab.map((v) => v + settings.noise * normal()) as Triple }))
  });
}

async function answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const path = new URL(request.url ?? '/', 'http://instrument').pathname;
  if (request.method === 'GET' && path === '/state')
    return sendJson(response, 200, { name: NAME, apertureMm: APERTURE_MM, ...settings });
  if (request.method === 'POST' && path === '/settings') {
    Object.assign(settings, Settings.partial().parse(await readJson(request)));
    return sendJson(response, 200, settings);
  }
  if (request.method === 'POST' && path === '/read') {
    const text = await read(ReadRequest.parse(await readJson(request)));
    response.writeHead(200, { 'content-type': 'text/plain; charset=utf-8' }).end(text);
    return;
  }
  if (path === '/sample') {
    if (request.method === 'PUT') {
      sample = Sample.parse(await readJson(request)).lab;
      return sendJson(response, 200, { lab: sample });
    }
    if (request.method === 'POST') {
      response.writeHead(200, { 'content-type': 'text/plain; charset=utf-8' }).end(told([{ id: 'sample', lab: sample }]));
      return;
    }
  }
  sendJson(response, 404, { error: 'There is nothing here. Readings are at /read.' });
}

const server = createServer((request, response) => {
  if (turnedAway(request, response)) return;
  answer(request, response).catch((error: unknown) => {
    if (!response.headersSent) sendJson(response, 400, { error: message(error) });
    else response.destroy();
  });
});

server.listen(Number(process.env.PORT ?? 0), '127.0.0.1', () => {
  const address = server.address();
  const port = typeof address === 'object' && address ? address.port : 0;
  process.stdout.write(`${JSON.stringify({ ready: 'instrument', port })}\n`);
});
process.on('SIGTERM', () => process.exit(0));
