import { readFile } from 'node:fs/promises';
import { KERNELS_FILE } from '$lib/server/platform/tasks/pool';
import type { RequestHandler } from './$types';

/** The compiled loops, for workers of the browser. */
export const GET: RequestHandler = async () =>
  new Response(await readFile(KERNELS_FILE), {
    headers: { 'content-type': 'application/wasm', 'cache-control': 'private, max-age=600' }
  });
