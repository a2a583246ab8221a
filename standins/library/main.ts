import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { z } from 'zod';
import { HANDLING } from '$standins/printer/handling';
import { message, readJson, sendJson, turnedAway } from '$protocol/http';
import { offers } from './cards';

/** The media library stand-in: makers' cards over plain HTTP with JSON. Settings by environment: PORT, EDITION (1 or 2). */

let edition = Number(process.env.EDITION ?? 1);

async function answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
  const path = new URL(request.url ?? '/', 'http://library').pathname;
  if (request.method === 'GET' && path === '/cards')
    return sendJson(response, 200, { library: 'Signal Mast media library', cards: offers(HANDLING, edition) });
  if (request.method === 'POST' && path === '/edition') {
    ({ edition } = z.object({ edition: z.int().min(1).max(2) }).parse(await readJson(request)));
    return sendJson(response, 200, { edition });
  }
  sendJson(response, 404, { error: 'There is nothing here. Cards are at /cards.' });
}

const server = createServer((request, response) => {
  if (turnedAway(request, response)) return;
  answer(request, response).catch((error: unknown) => sendJson(response, 400, { error: message(error) }));
});

server.listen(Number(process.env.PORT ?? 0), '127.0.0.1', () => {
  const address = server.address();
  const port = typeof address === 'object' && address ? address.port : 0;
  process.stdout.write(`${JSON.stringify({ ready: 'library', port })}\n`);
});
process.on('SIGTERM', () => process.exit(0));
