import { expect, type APIRequestContext } from '@playwright/test';

/** Asks the server for what no screen is needed for. @param path from `/api` on */
export async function call<T>(
  request: APIRequestContext,
  url: string,
  method: 'GET' | 'POST' | 'PUT',
  path: string,
  data?: object
): Promise<T> {
  const reply = await request.fetch(`${url}/api${path}`, { method, ...(data && { data }), headers: { origin: url } });
  expect(reply.ok(), `${method} ${path}: ${await reply.text()}`).toBe(true);
  return (await reply.json()) as T;
}
