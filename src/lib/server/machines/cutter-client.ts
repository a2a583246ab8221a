import { connect } from 'node:net';
import { z } from 'zod';
import { CutterAbilities, CutterRoll, PLAIN_CUTTER } from '$protocol/cutter';
import { Problem } from '../platform/problem';
import { askBytes, askJson, type Asked } from './ask';

export const CutterStatus = z.object({
  name: z.string().max(100),
  hpglPort: z.int().min(1).max(65_535),
  /** What it calls the sheet that lies in it. */
  sheet: z.string().max(100).nullable().default(null),
  /** And where its lower left corner lies. */
  loaded: z
    .object({
      widthMm: z.number(),
      heightMm: z.number(),
      corner: z.object({ x: z.number(), y: z.number() }).default({ x: 0, y: 0 })
    })
    .nullable(),
  /** It moves, or has been told to. */
  busy: z.boolean().default(false),
  /** On the sheet or the roll that lies in it. */
  linesCut: z.int().min(0),
  abilities: CutterAbilities.default(PLAIN_CUTTER),
  roll: CutterRoll.nullable().default(null),
  /** How far its blade has gone since it was new, m. */
  bladeM: z.number().min(0).nullable().default(null)
});
export type CutterStatus = z.infer<typeof CutterStatus>;

const Points = z.array(z.object({ x: z.number(), y: z.number() }));
const MOST_LINES_BYTES = 100e6;

/** @throws Problem when it does not answer, or refuses */
async function ask<S extends z.ZodType>(url: string, path: string, schema: S, asked: Asked): Promise<z.output<S>> {
  let reply: { ok: boolean; value: unknown };
  try {
    reply = await askJson(`${url}${path}`, asked);
  } catch {
    throw new Problem(502, 'The cutter does not answer. Switch it on and try again.');
  }
  if (!reply.ok) {
    const said = z.object({ error: z.string().max(500) }).safeParse(reply.value);
    throw new Problem(502, said.data?.error ?? 'The cutter refused.');
  }
  const answer = schema.safeParse(reply.value);
  if (!answer.success) throw new Problem(502, 'The cutter answered with something that no cutter says.');
  return answer.data;
}

export const readCutter = (url: string): Promise<CutterStatus> => ask(url, '/state', CutterStatus, {});

/** What a person does at the machine: lays a print into it. @returns what it calls the sheet */
export const loadSheet = (url: string, png: Uint8Array<ArrayBuffer>): Promise<{ sheet: string }> =>
  ask(url, '/load', z.object({ sheet: z.string().max(100) }), {
    method: 'POST',
    body: png,
    headers: { 'content-type': 'image/png' },
    ms: 60_000
  });

const post = <S extends z.ZodType>(url: string, path: string, schema: S, body: object = {}): Promise<z.output<S>> =>
  ask(url, path, schema, { method: 'POST', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } });

/** What a person does at the machine: puts a roll in, its prints one after another as they come. */
export async function layRoll(url: string, backwards: boolean, pngs: AsyncIterable<Uint8Array<ArrayBuffer>>): Promise<void> {
  await post(url, '/roll', z.object({ roll: z.string().max(100) }), { backwards });
  const headers = { 'content-type': 'image/png' };
  for await (const body of pngs)
    await ask(url, '/roll/print', z.object({ print: z.int() }), { method: 'POST', body, headers, ms: 60_000 });
}

/** Has the cutter go along its roll. @param key that it asks the server with */
export const startRoll = (url: string, server: string, key: string): Promise<unknown> =>
  post(url, '/roll/start', z.unknown(), { server, key });
export const askRoll = (url: string, what: 'stop' | 'skip' | 'unload'): Promise<unknown> =>
  post(url, what === 'unload' ? '/unload' : `/roll/${what}`, z.unknown());
export const cutAgain = (url: string, place: number, code: string | null): Promise<unknown> =>
  post(url, '/roll/again', z.unknown(), { place, code });
export const newBlade = (url: string): Promise<unknown> => post(url, '/blade', z.unknown());

const MOST_PICTURE_BYTES = 20e6;
/** What the camera sees of a place of the roll, as PNG. */
export async function rollPicture(url: string, place: number): Promise<Buffer> {
  const reply = await askBytes(`${url}/roll/places/${place}.png`, { ms: 60_000, mostBytes: MOST_PICTURE_BYTES }).catch(
    () => undefined
  );
  if (!reply?.ok) throw new Problem(404, 'The camera has no picture of this place.');
  return reply.bytes;
}

/** Where the camera sees marks, in the machine's own coordinates. */
export async function seeMarks(url: string, diameter: number, shape: string): Promise<{ x: number; y: number }[]> {
  const path = `/camera?diameter=${diameter}&shape=${shape}`;
  return (await ask(url, path, z.object({ marks: Points }), { ms: 60_000, mostBytes: MOST_LINES_BYTES })).marks;
}

/** The lines that were cut of the sheet that lies in it, in the print's coordinates. */
export async function readCutLines(url: string): Promise<{ x: number; y: number }[][]> {
  return (await ask(url, '/cut', z.object({ lines: z.array(Points) }), { mostBytes: MOST_LINES_BYTES })).lines;
}

/**
 * Sends HPGL. A cutter takes it as fast as it cuts, so that there is no time that this may take: what becomes of it, its
 * state says.
 *
 * @throws Error when the line breaks before the other side has taken all of it
 */
export function sendHpgl(url: string, port: number, text: string, signal: AbortSignal): Promise<void> {
  return new Promise((resolve, reject) => {
    const socket = connect({ port, host: new URL(url).hostname, signal });
    socket.on('error', (error) => {
      socket.destroy();
      reject(error);
    });
    socket.on('connect', () => socket.end(text, 'latin1'));
    socket.on('close', (hadError) => {
      if (!hadError) resolve();
    });
    // A cutter that answers nothing on this line is not waited for.
    socket.resume();
  });
}
