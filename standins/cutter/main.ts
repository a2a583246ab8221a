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

/**
 * The cutter stand-in: HPGL on a TCP socket, and plain HTTP for what a person does at it. A sheet that is loaded lies a
 * little shifted and turned. Without a sheet it does not move. Settings by environment: PORT (HTTP), HPGL_PORT (0 takes free
 * ones), SEED.
 */

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
  .object({ linesPerSecond: z.number().min(0).max(1000), silentForSeconds: z.number().min(0).max(600) })
  .partial();

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

async function load(request: IncomingMessage): Promise<{ sheet: string; widthMm: number; heightMm: number }> {
  const picture = sharp(await readBody(request), { limitInputPixels: false });
  const { density } = await picture.metadata();
  const { data, info } = await picture.removeAlpha().greyscale().raw().toBuffer({ resolveWithObject: true });
  const dpi = density ?? 90;
  const widthMm = (info.width / dpi) * 25.4;
  const heightMm = (info.height / dpi) * 25.4;
  // By hand: up to half a degree askew, 15 to 30 mm from the corner.
  const turn = (random() - 0.5) * 1;
  const flip: Matrix = [1, 0, 0, -1, 0, heightMm];
  const about = chain(chain(translation(-widthMm / 2, -heightMm / 2), rotation(turn)), translation(widthMm / 2, heightMm / 2));
  const askew = (Math.max(widthMm, heightMm) / 2) * Math.sin((0.5 * Math.PI) / 180);
  const shift = translation(15 + askew + 15 * random(), 15 + askew + 15 * random());
  queue.length = 0;
  sheet = {
    id: randomUUID(),
    image: { pixels: new Uint8Array(data.buffer, data.byteOffset, data.length), width: info.width, height: info.height, dpi },
    widthMm,
    heightMm,
    lies: chain(chain(flip, about), shift)
  };
  state = newHpglState();
  return { sheet: sheet.id, widthMm, heightMm };
}

async function answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const url = new URL(request.url ?? '/', 'http://cutter');
  const route = `${request.method} ${url.pathname}`;
  if (route === 'GET /state') {
    return sendJson(response, 200, {
      name: 'Tern 130',
      hpglPort: portOf(plotter),
      sheet: sheet?.id ?? null,
      loaded: sheet ? { widthMm: sheet.widthMm, heightMm: sheet.heightMm } : null,
      busy: moving,
      linesCut: state.lines.length,
      speed: state.speed,
      force: state.force,
      unknown: state.unknown
    });
  }
  if (route === 'POST /load') return sendJson(response, 200, await load(request));
  if (route === 'POST /faults') {
    Object.assign(faults, FaultChange.parse(await readJson(request)));
    return sendJson(response, 200, faults);
  }
  if (route === 'POST /unload') {
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
