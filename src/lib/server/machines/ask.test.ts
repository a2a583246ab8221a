import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterEach, describe, expect, it } from 'vitest';
import { askBytes, askJson } from './ask';

const servers: Server[] = [];
afterEach(() => {
  for (const server of servers.splice(0)) {
    server.closeAllConnections();
    server.close();
  }
});

/** A machine that answers each request in turn. @returns its address, and how often it was asked */
async function machine(...answers: ((request: IncomingMessage, response: ServerResponse) => void)[]) {
  const asked: string[] = [];
  const server = createServer((request, response) => {
    asked.push(request.method!);
    (answers[asked.length - 1] ?? answers.at(-1)!)(request, response);
  });
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}/state`, asked };
}
const breaks = (request: IncomingMessage) => void request.socket.destroy();
const says = (_: IncomingMessage, response: ServerResponse) => void response.end('{"ready":true}');

describe('a machine', () => {
  it('is asked once more where the line breaks before it answers, and not a third time', async () => {
    const { url, asked } = await machine(breaks, says);
    expect(await askJson(url)).toMatchObject({ ok: true, value: { ready: true } });
    expect(asked).toHaveLength(2);
    const dead = await machine(breaks);
    await expect(askBytes(dead.url)).rejects.toThrow();
    expect(dead.asked).toHaveLength(2);
  });

  it('is told once what it is to do, also where the line breaks: it may have done it', async () => {
    const { url, asked } = await machine(breaks, says);
    await expect(askJson(url, { method: 'POST', body: '{}' })).rejects.toThrow();
    expect(asked).toEqual(['POST']);
  });

  it('that is late, or is not to be waited for, is not asked again', async () => {
    const late = await machine(() => undefined, says);
    await expect(askBytes(late.url, { ms: 200 })).rejects.toThrow();
    expect(late.asked.length).toBeLessThan(2);
    const stop = new AbortController();
    const { url, asked } = await machine(() => stop.abort(new Error('The server stops.')), says);
    await expect(askBytes(url, { signal: stop.signal })).rejects.toThrow('The server stops.');
    expect(asked).toHaveLength(1);
  });

  it('that says more than is taken, or leads elsewhere, is not listened to', async () => {
    const { url } = await machine((_, response) => void response.end('x'.repeat(2000)));
    await expect(askBytes(url, { mostBytes: 1000 })).rejects.toThrow('The answer is longer than 1 kB.');
    const other = await machine((_, response) => void response.writeHead(302, { location: 'http://127.0.0.1:9/' }).end());
    await expect(askBytes(other.url)).rejects.toThrow();
  });
});
