import { spawn, type ChildProcess } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { once } from 'node:events';
import { request } from 'node:http';
import { join } from 'node:path';
import { setTimeout } from 'node:timers/promises';
import Database from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { freePort, startServer } from '../../scripts/stack.mjs';
import type { Print } from '$lib/server/printing/print';
import { startStandIn, temporaryFolder, until, type StandIn } from '../harness';
import { FULL_SHOP_FILM, makeFullShop } from '../made/full-shop';

/** The server as it is built, asked over the wire: what pages that are open, slow lines and long bodies do to it. */

const folder = temporaryFolder();
const machineFolder = temporaryFolder();
let printer: StandIn;
let url: string;
let child: ChildProcess;
let runId: number;
let machineId: number;

beforeAll(async () => {
  printer = await startStandIn('printer', { FOLDER: machineFolder.path, MEDIA: JSON.stringify(FULL_SHOP_FILM) });
  ({ machineId, runId } = await makeFullShop(folder.path, printer.url, { artworks: 500, dockets: 2000, printedRuns: 100 }));
  await start();
});
afterAll(() => {
  child.kill('SIGKILL');
  printer.stop();
  folder.remove();
  machineFolder.remove();
});

async function start() {
  ({ url, child } = await startServer({ ZING_DATA: folder.path, ZING_SILENCE_MS: '6000' }));
}
const call = async <T>(method: string, path: string, body?: unknown) => {
  const headers = { 'content-type': 'application/json' };
  const reply = await fetch(url + path, { method, headers, ...(body !== undefined && { body: JSON.stringify(body) }) });
  return { status: reply.status, body: (await reply.json()) as T & { error?: string } };
};

/** Sends a body in parts, with pauses. @returns the answer, or what broke the line */
function sendSlowly(path: string, parts: Iterable<Buffer>, pauseMs: number, length?: number) {
  const headers = { 'content-type': 'application/json', ...(length !== undefined && { 'content-length': length }) };
  const sent = request(url + path, { method: 'POST', headers });
  const answer = new Promise<{ status: number; body: string }>((resolve, reject) => {
    sent.on('error', reject);
    sent.on('response', (reply) => {
      let body = '';
      reply.on('data', (bytes: Buffer) => (body += bytes.toString()));
      reply.on('end', () => resolve({ status: reply.statusCode ?? 0, body }));
    });
  });
  let answered = false;
  sent.once('response', () => (answered = true));
  const write = async () => {
    for (const part of parts) {
      if (sent.destroyed || answered) break;
      if (!sent.write(part)) await Promise.race([once(sent, 'drain'), once(sent, 'close'), once(sent, 'response')]);
      await setTimeout(pauseMs);
    }
    sent.end();
  };
  void write().catch(() => undefined);
  return answer;
}

/** A page that listens to what happens, and loads itself anew whenever something changes. */
function openPage(path: string) {
  const end = new AbortController();
  const page = { loaded: 0, failed: 0, close: () => end.abort() };
  const live = async () => {
    const { body } = await fetch(`${url}/api/events`, { signal: end.signal });
    let stale = true;
    const load = async () => {
      while (!end.signal.aborted) {
        if (!stale) {
          await setTimeout(20);
          continue;
        }
        stale = false;
        const reply = await fetch(`${url}${path}`, { signal: end.signal });
        await reply.text();
        if (reply.ok) page.loaded++;
        else page.failed++;
      }
    };
    void load().catch(() => page.failed++);
    for await (const bytes of body!) if (Buffer.from(bytes).includes('"changed"')) stale = true;
  };
  void live().catch(() => undefined);
  return page;
}

describe('a body', () => {
  it('that says how long it is, and is longer than its call takes, is refused before it comes', async () => {
    const answer = await sendSlowly('/api/dockets', [Buffer.from('{')], 1, 50e6);
    expect(answer).toMatchObject({ status: 413, body: expect.stringMatching(/larger than 1 MB, the most that is taken/) });
  });

  it('that does not say so is read no further than what its call takes', async () => {
    let sent = 0;
    function* endless() {
      for (; sent < 400; sent++) yield Buffer.alloc(100_000, ' ');
    }
    // The answer may be lost to a sender that goes on sending.
    const answer = await sendSlowly('/api/dockets', endless(), 1).catch(() => undefined);
    expect(answer?.status ?? 413).toBe(413);
    expect(sent).toBeLessThan(400);
    expect((await call('GET', '/api/settings')).status).toBe(200);
  });

  it.runIf(process.env.ZING_LONG)(
    'that comes for longer than five minutes is taken, for only silence ends it',
    async () => {
      function* drops() {
        for (let i = 0; i < 340; i++) yield Buffer.alloc(1000, ' ');
      }
      const began = Date.now();
      const answer = await sendSlowly(`/api/artworks?name=slow.pdf`, drops(), 1000);
      expect(Date.now() - began).toBeGreaterThan(330_000);
      expect(answer.status).toBe(200);
    },
    600_000
  );
});

describe('open pages', () => {
  it('twenty Floors of a full shop beside a print: it prints, and nobody is told that its machine is silent', async () => {
    const pages = Array.from({ length: 20 }, () => openPage('/api/floor'));
    await until(() => pages.every((page) => page.loaded > 0));
    await fetch(`${printer.url}/speed`, { method: 'POST', body: JSON.stringify({ speed: 20 }) });
    const started = await call<Print[]>('POST', `/api/runs/${runId}/print`, { machineId, times: 1, request: randomUUID() });
    const id = started.body[0]!.id;
    const db = new Database(join(folder.path, 'shop.sqlite'), { readonly: true });
    const row = db.prepare<[number], { state: string; reason: string | null }>('SELECT state, reason FROM print WHERE id = ?');
    const reasons = new Set<string | null>();
    await until(() => {
      const { state, reason } = row.get(id)!;
      reasons.add(reason);
      return state === 'done' || state === 'failed';
    });
    expect(row.get(id)!.state).toBe('done');
    expect([...reasons]).toEqual([null]);
    db.close();
    for (const page of pages) expect(page).toMatchObject({ failed: 0 });
    for (const page of pages) page.close();
  });

  it('do not keep the server from stopping, and find the next one', async () => {
    const pages = [openPage('/api/floor'), openPage('/dockets')];
    await until(() => pages.every((page) => page.loaded > 0));
    const gone = once(child, 'exit');
    child.kill('SIGTERM');
    expect(await Promise.race([gone, setTimeout(5000, 'still there')])).not.toBe('still there');
    await start();
    expect((await call('GET', '/api/settings')).status).toBe(200);
  });
});

describe('a second server', () => {
  it('on the same folder is refused with a sentence, and the first goes on', async () => {
    const port = String(await freePort());
    const second = spawn(process.execPath, ['build/index.js'], {
      env: { ...process.env, ZING_DATA: folder.path, PORT: port },
      stdio: ['ignore', 'ignore', 'pipe']
    });
    let said = '';
    second.stderr.on('data', (bytes: Buffer) => (said += bytes.toString()));
    const [code] = (await once(second, 'exit')) as [number];
    expect(code).toBe(1);
    expect(said).toMatch(/\p{Lu}.*folder.*\./u);
    expect((await call('GET', '/api/settings')).status).toBe(200);
  });
});
