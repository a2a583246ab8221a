import { createServer, type Server } from 'node:http';
import { once } from 'node:events';
import { Claim, Failed, Progress } from '$protocol/cutter';
import { readJson, sendJson } from '$protocol/http';
import type { Shop } from '$lib/server/app/shop';
import { Problem } from '$lib/server/platform/problem';

/** What a cutter asks, answered by a shop without its pages. */
export async function openDoor(shop: Shop): Promise<{ url: string; close: () => void }> {
  const server: Server = createServer((request, response) => {
    const answer = async (): Promise<unknown> => {
      const [, , , code = '', act] = (request.url ?? '').split('/');
      const machine = shop.cutterKeys.machineOf({ headers: new Headers({ authorization: request.headers.authorization ?? '' }) });
      if (request.method === 'GET') return shop.asking.job(code);
      const body = await readJson(request);
      if (act === 'claim') return shop.asking.claim(machine, code, Claim.parse(body));
      if (act === 'progress') return shop.asking.progress(machine, code, Progress.parse(body));
      if (act === 'done') return shop.asking.done(machine, code, Progress.parse(body));
      return shop.asking.failed(machine, code, Failed.parse(body));
    };
    answer().then(
      (value) => sendJson(response, 200, value ?? { ok: true }),
      (error: unknown) =>
        error instanceof Problem
          ? sendJson(response, error.status, { error: error.message, fields: error.fields })
          : sendJson(response, 500, { error: String(error) })
    );
  });
  await once(server.listen(0, '127.0.0.1'), 'listening');
  const { port } = server.address() as { port: number };
  return { url: `http://127.0.0.1:${port}`, close: () => server.close() };
}
