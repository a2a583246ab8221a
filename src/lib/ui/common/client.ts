import { toast } from 'svelte-sonner';

/** A refusal of the server, with a sentence for the screen and what is wrong field by field. */
export class Refusal extends Error {
  readonly status: number;
  readonly fields: Record<string, string>;

  constructor(status: number, sentence: string, fields: Record<string, string>) {
    super(sentence);
    this.status = status;
    this.fields = fields;
  }
}

export const SERVER_AWAY = 'The server does not answer. Is Zing Mast still running?';

/** Whether the server did not get to an answer, so that the same call may go through later. */
export const isAway = (error: unknown): boolean => !(error instanceof Refusal) || error.status === 0 || error.status >= 500;

/** In characters, which may take two bytes. */
const KEPT_ALIVE = 30_000;

/** One call of the JSON interface. @param signal gives it up @throws Refusal */
export async function send<T = unknown>(
  method: 'GET' | 'POST' | 'PUT' | 'DELETE',
  path: string,
  body?: unknown,
  signal?: AbortSignal
): Promise<T> {
  let reply: Response;
  const text = body === undefined ? undefined : JSON.stringify(body);
  try {
    reply = await fetch(path, {
      method,
      ...(signal && { signal }),
      // What is being saved when a page is left still arrives; browsers refuse to do that for more than 64 kB.
      keepalive: method === 'PUT' && text !== undefined && text.length < KEPT_ALIVE,
      ...(text !== undefined && { body: text, headers: { 'content-type': 'application/json' } })
    });
  } catch {
    throw new Refusal(0, SERVER_AWAY, {});
  }
  const answer = (await reply.json().catch(() => ({}))) as { error?: string; fields?: Record<string, string> };
  if (!reply.ok) throw new Refusal(reply.status, answer.error ?? `The server answered ${reply.status}.`, answer.fields ?? {});
  return answer as T;
}

/** The address of a docket's picture as it will print, bleed included. */
export const docketPicture = (docket: { id: number; version: number }, px: 240 | 1200): string =>
  `/api/dockets/${docket.id}/preview?px=${px}&version=${docket.version}`;

/** The same as it reads, where it is printed mirrored: what lies over it is placed and read there. */
export const readPicture = (docket: { id: number; version: number }, px: 240 | 1200): string =>
  `${docketPicture(docket, px)}&reads=yes`;

/** The address of what a record has over its docket’s artwork; its longer side has at most so many pixels. */
export function recordPicture(
  { id, version }: { id: number; version: number },
  record: number,
  { widthMm, heightMm }: { widthMm: number; heightMm: number },
  most: number
): string {
  const px = Math.max(20, Math.round(most * Math.min(1, widthMm / heightMm)));
  return `/api/dockets/${id}/records/pictures?of=${record}&px=${px}&version=${version}`;
}

/** A name for something that is asked for, so that asked twice it is done once. Also where the page came over plain HTTP. */
export function newKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  // Version 4, variant 1: RFC 9562.
  bytes[6] = (bytes[6]! & 0x0f) | 0x40;
  bytes[8] = (bytes[8]! & 0x3f) | 0x80;
  const hex = Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('');
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-');
}

/** Does something and shows the sentence when it is refused. @returns whether it was done */
export async function attempt(action: () => Promise<unknown>, done?: string): Promise<boolean> {
  try {
    await action();
    if (done) toast.success(done);
    return true;
  } catch (error) {
    toast.error(error instanceof Error ? error.message : String(error));
    return false;
  }
}

export function duration(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  return `${Math.floor(seconds / 3600)} h ${Math.round((seconds % 3600) / 60)} min`;
}

export function fileSize(bytes: number): string {
  if (bytes < 1e6) return `${Math.max(1, Math.round(bytes / 1e3))} kB`;
  return bytes < 1e9 ? `${(bytes / 1e6).toFixed(1)} MB` : `${(bytes / 1e9).toFixed(2)} GB`;
}
