import { randomUUID } from 'node:crypto';
import { createServer } from 'node:http';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { createServer as createSocketServer } from 'node:net';
import { setTimeout } from 'node:timers/promises';
import sharp from 'sharp';
import { z } from 'zod';
import { newHpglState, runHpgl } from '$core/cutting/hpgl';
import { apply, chain, invert, rotation, translation, type Matrix } from '$core/geometry/matrix';
import { MARK_SHAPES } from '$core/marks/print-list';
import { seededRandom } from '$core/geometry/random';
import { message, readJson, sendJson, turnedAway } from '$protocol/http';
import { bladeWays } from './tip';
import { findMarks, type GreyImage } from './camera';
import { Computer, REACH_MM, type Wear } from './computer';
import { MOVES } from './motion';
import { Roll, USUAL_ROLL } from './roll';

/**
 * The cutter stand-in: HPGL on a TCP socket for sheets, a computer of its own that asks the server for rolls, and plain HTTP
 * for what a person does at it. A sheet that is loaded lies a little shifted and turned, prints on a roll are askew, stretched
 * and bowed too. Empty it does not move. Settings by environment: PORT (HTTP), HPGL_PORT (0 takes free ones), SEED, SPEED
 * (times faster than life, or "full"), MODEL.
 */

/** What it is: Terns draw rolls, the Avocet is a bed. */
const MODELS = {
  'Tern 130': { bed: 'roll', widthMm: 1370, reachMm: REACH_MM, blades: ['drag knife', 'crease wheel', 'pen'] },
  'Avocet 25': { bed: 'flat', widthMm: 2500, reachMm: 3200, blades: ['drag knife', 'tangential knife', 'crease wheel', 'perforating wheel', 'pen'] } // prettier-ignore
} as const;
const MODEL = (process.env.MODEL ?? 'Tern 130') as keyof typeof MODELS;
const SPEED = !process.env.SPEED || process.env.SPEED === 'full' ? Infinity : Number(process.env.SPEED);

interface Sheet {
  /** Another for each that is laid in. */
  id: string;
  image: GreyImage;
  widthMm: number;
  heightMm: number;
  /** Sheet (mm, y down, from the print's top left) → bed (mm, y up). */
  lies: Matrix;
}

const random = seededRandom(Number(process.env.SEED ?? '1'));
let sheet: Sheet | undefined;
let state = newHpglState();
/** What has come and is not carried out yet. */
const queue: string[] = [];
let moving = false;
let silentUntil = 0;
const faults = { linesPerSecond: 0, silentForSeconds: 0 };
const FaultChange = z
  .object({
    linesPerSecond: z.number().min(0).max(1000),
    silentForSeconds: z.number().min(0).max(600),
    lostForSeconds: z.number().min(0).max(600),
    bluntAfterM: z.number().min(0).max(1e6)
  })
  .partial();
const wear: Wear = { lostUntil: 0, bladeMm: 0, bluntAfterM: 4000 };
let computer: Computer | undefined;
let rolls = 0;

const figure = (least: number, most: number, usual: number) => z.number().min(least).max(most).default(usual);
const NewRoll = z.object({
  backwards: z.boolean().default(false),
  skew: figure(0, 2, USUAL_ROLL.most.skew),
  stretch: figure(0, 0.01, USUAL_ROLL.most.stretch),
  bow: figure(0, 10, USUAL_ROLL.most.bow),
  noise: figure(0, 60, USUAL_ROLL.noise),
  endsAtMm: z.number().min(10).optional()
});
const Dirt = z.object({ print: z.int().min(0), x: z.number(), y: z.number(), radius: z.number().min(0.1).max(200) });
const Start = z.object({ server: z.url({ protocol: /^https?$/ }), key: z.string().min(1).max(200) });
const Again = z.object({ place: z.int().min(1), code: z.string().max(20).nullable().default(null) });

const MOST_BYTES = 400e6;

async function readBody(request: IncomingMessage): Promise<Buffer> {
  const chunks: Buffer[] = [];
  let bytes = 0;
  for await (const chunk of request as AsyncIterable<Buffer>) {
    bytes += chunk.length;
    if (bytes > MOST_BYTES) throw new Error('The picture of the sheet is larger than 400 MB.');
    chunks.push(chunk);
  }
  return Buffer.concat(chunks);
}

async function readPicture(request: IncomingMessage): Promise<GreyImage> {
  const picture = sharp(await readBody(request), { limitInputPixels: false });
  const { density } = await picture.metadata();
  const { data, info } = await picture.removeAlpha().greyscale().raw().toBuffer({ resolveWithObject: true });
  const pixels = new Uint8Array(data.buffer, data.byteOffset, data.length);
  return { pixels, width: info.width, height: info.height, dpi: density ?? 90 };
}

async function load(request: IncomingMessage): Promise<{ sheet: string; widthMm: number; heightMm: number }> {
  if (computer?.isRunning) throw new Error('A roll is being cut.');
  const image = await readPicture(request);
  const { dpi } = image;
  const widthMm = (image.width / dpi) * 25.4;
  const heightMm = (image.height / dpi) * 25.4;
  // By hand: up to half a degree askew, 15 to 30 mm from the corner.
  const turn = (random() - 0.5) * 1;
  const flip: Matrix = [1, 0, 0, -1, 0, heightMm];
  const about = chain(chain(translation(-widthMm / 2, -heightMm / 2), rotation(turn)), translation(widthMm / 2, heightMm / 2));
  const askew = (Math.max(widthMm, heightMm) / 2) * Math.sin((0.5 * Math.PI) / 180);
  const shift = translation(15 + askew + 15 * random(), 15 + askew + 15 * random());
  queue.length = 0;
  computer = undefined;
  sheet = {
    id: randomUUID(),
    image,
    widthMm,
    heightMm,
    lies: chain(chain(flip, about), shift)
  };
  state = newHpglState();
  return { sheet: sheet.id, widthMm, heightMm };
}

/** Where the edges of a sheet are felt, near its lower left corner: right of it and above it lies the sheet, askew as it is. */
function cornerOf({ lies, widthMm, heightMm }: Sheet): { x: number; y: number } {
  const [foot, head, right] = [[0, heightMm], [0, 0], [widthMm, heightMm]].map(([x, y]) => apply(lies, { x: x!, y: y! })); // prettier-ignore
  return { x: Math.max(foot!.x, head!.x), y: Math.max(foot!.y, right!.y) };
}

async function answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const url = new URL(request.url ?? '/', 'http://cutter');
  const route = `${request.method} ${url.pathname}`;
  if (route === 'GET /state') {
    return sendJson(response, 200, {
      name: MODEL,
      abilities: { ...MODELS[MODEL], moves: MOVES, codes: ['datamatrix', 'qrcode'], marks: MARK_SHAPES, languages: ['HPGL'], cutsRolls: MODELS[MODEL].bed === 'roll' }, // prettier-ignore
      hpglPort: portOf(plotter),
      sheet: sheet?.id ?? null,
      loaded: sheet ? { widthMm: sheet.widthMm, heightMm: sheet.heightMm, corner: cornerOf(sheet) } : null,
      roll: computer?.status ?? null,
      bladeM: Math.round(wear.bladeMm / 1000),
      busy: moving || computer?.isRunning === true,
      linesCut: computer ? computer.linesCut : state.lines.length,
      speed: state.speed,
      force: state.force,
      unknown: state.unknown
    });
  }
  if (route === 'POST /load') return sendJson(response, 200, await load(request));
  if (route === 'POST /faults') {
    const { lostForSeconds, bluntAfterM, ...change } = FaultChange.parse(await readJson(request));
    Object.assign(faults, change);
    if (lostForSeconds !== undefined) wear.lostUntil = Date.now() + lostForSeconds * 1000;
    if (bluntAfterM !== undefined) wear.bluntAfterM = bluntAfterM;
    return sendJson(response, 200, { ...faults, ...wear });
  }
  if (url.pathname.startsWith('/roll')) return answerRoll(route, request, response);
  if (route === 'POST /blade') {
    wear.bladeMm = 0;
    return sendJson(response, 200, {});
  }
  if (route === 'POST /unload') {
    if (computer?.isRunning) return sendJson(response, 409, { error: 'A roll is being cut. Stop it first.' });
    computer = undefined;
    sheet = undefined;
    state = newHpglState();
    return sendJson(response, 200, {});
  }
  if (!sheet) return sendJson(response, 409, { error: 'No sheet is loaded in the cutter.' });
  const { lies, image } = sheet;
  if (route === 'GET /camera') {
    const diameter = Number(url.searchParams.get('diameter') ?? 6);
    if (!(diameter >= 1 && diameter <= 50)) return sendJson(response, 400, { error: 'A mark is between 1 and 50 mm.' });
    const shape = MARK_SHAPES.find((one) => one === (url.searchParams.get('shape') ?? 'disc'));
    if (!shape) return sendJson(response, 400, { error: `Marks are ${MARK_SHAPES.join(', ')}.` });
    return sendJson(response, 200, { marks: findMarks(image, diameter, shape).map((p) => apply(lies, p)) });
  }
  if (route === 'GET /cut') {
    const back = invert(lies);
    const cut = bladeWays(state.lines, state.pens).flatMap((line, i) =>
      line.length > 1 ? [{ pen: state.pens[i] ?? 0, points: line.map((p) => apply(back, p)) }] : []
    );
    return sendJson(response, 200, { lines: cut.map(({ points }) => points), pens: cut.map(({ pen }) => pen) });
  }
  sendJson(response, 404, { error: 'There is nothing here.' });
}

/** What becomes of a roll. */
async function answerRoll(route: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
  if (route === 'POST /roll') {
    if (computer?.isRunning || moving) return sendJson(response, 409, { error: 'It is cutting. Stop it first.' });
    if (MODELS[MODEL].bed !== 'roll') return sendJson(response, 409, { error: `${MODEL} takes sheets.` });
    const { backwards, noise, endsAtMm = Infinity, ...most } = NewRoll.parse(await readJson(request));
    const roll = new Roll({ backwards, noise, endsAtMm, most }, Number(process.env.SEED ?? '1') + ++rolls);
    sheet = undefined;
    computer = new Computer(roll, wear, paceOf);
    return sendJson(response, 200, { roll: roll.id });
  }
  if (!computer) return sendJson(response, 409, { error: 'No roll lies in the cutter.' });
  const { roll } = computer;
  switch (route) {
    case 'POST /roll/print': {
      if (computer.isRunning) return sendJson(response, 409, { error: 'The roll is being cut.' });
      roll.lay(await readPicture(request));
      return sendJson(response, 200, { print: roll.prints.length - 1, lengthMm: roll.lengthMm });
    }
    case 'POST /roll/dirt': {
      const { print, ...dirt } = Dirt.parse(await readJson(request));
      if (!roll.prints[print]) return sendJson(response, 404, { error: 'There is no such print on the roll.' });
      roll.soil(print, dirt);
      return sendJson(response, 200, {});
    }
    case 'POST /roll/start': {
      const { server, key } = Start.parse(await readJson(request));
      computer.start(server, key);
      return sendJson(response, 200, {});
    }
    case 'POST /roll/stop':
    case 'POST /roll/skip':
      computer.ask(route === 'POST /roll/stop' ? 'stop' : 'skip');
      return sendJson(response, 200, {});
    case 'POST /roll/again': {
      const { place, code } = Again.parse(await readJson(request));
      computer.again(place, code);
      return sendJson(response, 200, {});
    }
    case 'GET /roll/cut': {
      const ways = bladeWays(computer.cut.map(({ points }) => points), computer.cut.map(({ pen }) => pen)); // prettier-ignore
      const lines = ways.flatMap((way, i) => {
        const print = roll.placeOn(way[0]!)?.print;
        const points = way.flatMap((p) => roll.placeOn(p)?.p ?? []);
        return print === undefined || points.length < 2 ? [] : [{ print, pen: computer!.cut[i]!.pen, points }];
      });
      return sendJson(response, 200, { lines, seconds: computer.seconds });
    }
  }
  const picture = /^GET \/roll\/places\/(\d{1,4})\.png$/.exec(route);
  const view = picture && computer.view(Number(picture[1]));
  if (!view) return sendJson(response, 404, { error: 'There is nothing here.' });
  const mm = Math.max(0.25, Math.max(view.width, view.height) / MOST_PICTURE_PIXELS);
  const { pixels, width, height } = roll.look(view, mm);
  const png = await sharp(pixels, { raw: { width, height, channels: 1 } })
    .png()
    .toBuffer();
  response.writeHead(200, { 'content-type': 'image/png' }).end(png);
}
const MOST_PICTURE_PIXELS = 1000;

/** Lets so much of the machine's time go by. */
async function paceOf(seconds: number): Promise<void> {
  if (faults.linesPerSecond > 0) await setTimeout(1000 / faults.linesPerSecond);
  else if (SPEED !== Infinity) await setTimeout((seconds * 1000) / SPEED);
  else await new Promise((resolve) => setImmediate(resolve));
}

const control = createServer((request, response) => {
  if (turnedAway(request, response)) return;
  // One that hangs says nothing, and cuts on.
  if (Date.now() < silentUntil) return;
  answer(request, response).catch((error: unknown) => sendJson(response, 400, { error: message(error) }));
});

/** Carries out what has come, line by line. A new job starts with IN: what was cut before stays cut. */
async function move(): Promise<void> {
  if (moving) return;
  moving = true;
  while (queue.length > 0 && sheet) {
    if (faults.silentForSeconds > 0) {
      silentUntil = Date.now() + faults.silentForSeconds * 1000;
      faults.silentForSeconds = 0;
    }
    const before = state.lines.length;
    runHpgl(state, queue.shift() ?? '');
    if (faults.linesPerSecond > 0 && state.lines.length > before) await setTimeout(1000 / faults.linesPerSecond);
  }
  queue.length = 0;
  moving = false;
}

/** An instruction longer than this is not one. */
const MOST_INSTRUCTION = 1 << 16;

const plotter = createSocketServer((socket) => {
  let waiting = '';
  socket.setEncoding('latin1');
  socket.on('data', (text: string) => {
    const parts = (waiting + text).split(';');
    waiting = (parts.pop() ?? '').slice(-MOST_INSTRUCTION);
    queue.push(...parts);
    void move();
  });
  socket.on('end', () => socket.end());
  socket.on('error', () => socket.destroy());
});

function portOf(server: { address(): unknown }): number {
  const address = server.address() as { port: number } | null;
  return address?.port ?? 0;
}

plotter.listen(Number(process.env.HPGL_PORT ?? 0), '127.0.0.1', () => {
  control.listen(Number(process.env.PORT ?? 0), '127.0.0.1', () =>
    process.stdout.write(`${JSON.stringify({ ready: 'cutter', port: portOf(control), hpglPort: portOf(plotter) })}\n`)
  );
});
process.on('SIGTERM', () => process.exit(0));
