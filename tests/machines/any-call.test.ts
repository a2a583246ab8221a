import type { ChildProcess } from 'node:child_process';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startServer } from '../../scripts/stack.mjs';
import { startStandIn, temporaryFolder, type StandIn } from '../harness';
import { anyCalls, type Described } from '../made/any-call';
import { FULL_SHOP_FILM, makeFullShop } from '../made/full-shop';

/** Every call of the interface, as its own description has it and a little otherwise: it does it, or says in a sentence why not. */

const folder = temporaryFolder();
const machineFolder = temporaryFolder();
let printer: StandIn;
let url: string;
let child: ChildProcess;

beforeAll(async () => {
  printer = await startStandIn('printer', { FOLDER: machineFolder.path, MEDIA: JSON.stringify(FULL_SHOP_FILM) });
  await makeFullShop(folder.path, printer.url, { artworks: 20, dockets: 40, printedRuns: 6 });
  ({ url, child } = await startServer({ ZING_DATA: folder.path }));
});
afterAll(() => {
  child.kill('SIGKILL');
  printer.stop();
  folder.remove();
  machineFolder.remove();
});

/** Folders of this machine and addresses in its network are no business of a test; events go on for ever. */
const leave = (method: string, path: string): boolean =>
  path === '/api/events' || (method !== 'get' && /^\/api\/(folders|machines|printers)/.test(path));
const CALLS = 1200;
const AT_ONCE = 4;

describe('calls of any kind', () => {
  it('are answered, and what cannot be done is said in a sentence', async () => {
    const described = (await (await fetch(`${url}/api`)).json()) as Described;
    const calls = anyCalls(described, 20, leave);
    const statuses = new Map<number, number>();
    const broken: string[] = [];
    const made = async () => {
      for (let n = 0; n < CALLS / AT_ONCE; n++) {
        const { method, path, body, isJson } = calls.next().value!;
        const type = isJson ? 'application/json' : 'application/octet-stream';
        const reply = await fetch(url + path, { method, headers: { 'content-type': type, origin: url }, ...(body && { body }) });
        const text = await reply.text();
        statuses.set(reply.status, (statuses.get(reply.status) ?? 0) + 1);
        const call = `${method} ${path} ${body?.slice(0, 500)}`;
        if (reply.status === 500) broken.push(call);
        if (reply.ok) continue;
        if (!reply.headers.get('content-type')?.includes('json')) {
          // An address that there is none of, or that takes no such call.
          expect([call, reply.status]).toEqual([call, expect.toBeOneOf([404, 405])]);
          continue;
        }
        const { error } = JSON.parse(text) as { error: string };
        expect([call, error]).toEqual([call, expect.stringMatching(/^\S.{8,}/s)]);
        // A word of the program's own is no sentence for a person.
        expect([call, error]).toEqual([
          call,
          expect.not.stringMatching(/\bundefined\b|\bNaN\b|\[object|SQLITE|TypeError|at Object\./)
        ]);
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, made));
    expect(broken).toEqual([]);
    // Most kinds of answers have come: calls as they should be, others, and what is not there.
    for (const status of [200, 404, 409, 422]) expect(statuses.get(status) ?? 0).toBeGreaterThan(20);
    expect((await fetch(`${url}/api/floor`)).status).toBe(200);
  });
});
