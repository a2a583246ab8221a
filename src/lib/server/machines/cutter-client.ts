import { connect } from 'node:net';
import { z } from 'zod';
import { Problem } from '../platform/problem';
import { askJson, type Asked } from './ask';

export const CutterStatus = z.object({
  name: z.string().max(100),
  hpglPort: z.int().min(1).max(65_535),
  /** What it calls the sheet that lies in it. */
  sheet: z.string().max(100).nullable().default(null),
  loaded: z.object({ widthMm: z.number(), heightMm: z.number() }).nullable(),
  /** It moves, or has been told to. */
  busy: z.boolean().default(false),
  /** On the sheet that lies in it. */
  linesCut: z.int().min(0)
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
