import { mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { once } from 'node:events';
import type { ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { afterAll, expect, it } from 'vitest';
import { startServer } from '../../scripts/stack.mjs';
import type { Arrival } from '$lib/arrivals';
import { seededRandom } from '$core/geometry/random';
import { temporaryFolder, until } from '../harness';
import { cmykBox, madePdf } from '../made/pdf';

/** Files that arrive while the server is killed again and again. `ZING_KILLS=100` for as many as one has time for. */

const KILLS = Number(process.env['ZING_KILLS'] ?? 12);
const FILES = 200;
/** How long a server lives, ms: from before it looks at the folder to some dozens of files. */
const LIFE = { least: 20, most: 1200 };

const folder = temporaryFolder();
const inbox = temporaryFolder();
const ENV = { ZING_DATA: folder.path, ZING_STILL_MS: '50', ZING_FOLDERS_AGAIN_MS: '500' };
let server: { url: string; child: ChildProcess };
afterAll(() => {
  server.child.kill('SIGKILL');
  folder.remove();
  inbox.remove();
});

const call = async <T>(method: string, path: string, body?: unknown): Promise<T> =>
  (await (
    await fetch(`${server.url}/api${path}`, {
      method,
      headers: { origin: server.url, 'content-type': 'application/json' },
      ...(body !== undefined && { body: JSON.stringify(body) })
    })
  ).json()) as T;

it(
  `become one docket each, whenever it is killed (${KILLS} times while ${FILES} files come)`,
  { timeout: 1_200_000 },
  async () => {
    const path = join(inbox.path, 'in');
    mkdirSync(path);
    server = await startServer(ENV);
    await call('POST', '/folders', { path, recipeId: null, way: 'make dockets' });
    const random = seededRandom(11);
    const names = Array.from({ length: FILES }, (_, i) => `File ${i}.pdf`);
    let put = 0;
    const putSome = (until: number) => {
      for (; put < Math.min(FILES, until); put++)
        writeFileSync(
          join(path, names[put]!),
          madePdf({ width: 60 + (put % 90), height: 40 + (put % 7), content: cmykBox(`0.${put % 9} 0.1 0 0`, 5, 5, 20, 10) })
        );
    };
    for (let kill = 0; kill < KILLS; kill++) {
      putSome(Math.ceil((FILES * (kill + 1)) / KILLS));
      await new Promise((resolve) => setTimeout(resolve, LIFE.least + random() * (LIFE.most - LIFE.least)));
      const gone = once(server.child, 'exit');
      server.child.kill('SIGKILL');
      await gone;
      server = await startServer(ENV);
    }
    await until(() => readdirSync(path).join() === 'taken' && readdirSync(join(path, 'taken')).length >= FILES);
    await until(async () => {
      const { counts } = await call<{ counts: Partial<Record<Arrival['state'], number>> }>('GET', '/arrivals');
      return (counts.reading ?? 0) + (counts.made ?? 0) === 0;
    });
    expect(readdirSync(join(path, 'taken')).sort()).toEqual([...names].sort());
    const dockets: string[] = [];
    for (let before: number | undefined; ;) {
      const { rows } = await call<{ rows: Arrival[] }>('GET', `/arrivals${before === undefined ? '' : `?before=${before}`}`);
      if (rows.length === 0) break;
      for (const { name, state, reason, dockets: made } of rows) {
        expect([name, state, reason, made.length]).toEqual([name, 'done', null, 1]);
        dockets.push(`${made[0]!.name}.pdf`);
      }
      before = rows.at(-1)!.id;
    }
    expect(dockets.sort()).toEqual([...names].sort());
    const { all } = await call<{ all: number }>('GET', '/lists/dockets');
    expect(all).toBe(FILES);
  }
);
