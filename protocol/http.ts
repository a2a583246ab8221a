import type { IncomingMessage, ServerResponse } from 'node:http';
import { refusal } from './gate';

/** Small helpers for the stand-ins' own controls: plain HTTP with JSON. */

const MOST_BYTES = 1 << 20;

export async function readJson(request: IncomingMessage): Promise<unknown> {
  const chunks: Buffer[] = [];
  let bytes = 0;
  for await (const chunk of request as AsyncIterable<Buffer>) {
    bytes += chunk.length;
    if (bytes > MOST_BYTES) throw new Error('The request is larger than 1 MB.');
    chunks.push(chunk);
  }
  return chunks.length > 0 ? (JSON.parse(Buffer.concat(chunks).toString('utf8')) as unknown) : {};
}

/** Turns away what a page elsewhere asks for. @returns whether it was */
export function turnedAway(request: IncomingMessage, response: ServerResponse): boolean {
  const headers = { get: (name: string) => [request.headers[name]].flat().join() || null };
  const why = refusal(request.method ?? 'GET', '/api', headers);
  if (why === undefined) return false;
  sendJson(response, 403, { error: why });
  return true;
}

export function sendJson(response: ServerResponse, status: number, body: unknown): void {
  response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body));
}

export const message = (error: unknown): string => (error instanceof Error ? error.message : String(error));
