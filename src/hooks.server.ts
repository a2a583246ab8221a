import type { Handle, HandleServerError, ServerInit } from '@sveltejs/kit';
import { building } from '$app/environment';
import { Problem } from '$lib/server/platform/problem';
import { defaultDataFolder, Shop } from '$lib/server/app/shop';

let shop: Shop | undefined;

export const init: ServerInit = () => {
  if (building) return;
  try {
    shop = new Shop(defaultDataFolder());
  } catch (problem) {
    if (!(problem instanceof Problem)) throw problem;
    console.error(problem.message);
    process.exit(1);
  }
  shop.start();
  // One request or job that goes wrong must not take the shop down.
  process.on('unhandledRejection', (error) =>
    shop?.log.error({ error: error instanceof Error ? error.stack : String(error) }, 'unhandled')
  );
  process.once('sveltekit:shutdown', () => void shop?.close());
};

export const handle: Handle = async ({ event, resolve }) => {
  if (!shop) throw new Error('The shop is not open.');
  event.locals.shop = shop;
  // Only pages of this very server may change something: a page from elsewhere is told no.
  const origin = event.request.headers.get('origin');
  if (
    event.request.method !== 'GET' &&
    event.request.method !== 'HEAD' &&
    origin &&
    new URL(origin).host !== event.request.headers.get('host')
  ) {
    return new Response(JSON.stringify({ error: 'Requests from other sites are not taken.' }), {
      status: 403,
      headers: { 'content-type': 'application/json' }
    });
  }
  const response = await resolve(event);
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('x-frame-options', 'DENY');
  response.headers.set('referrer-policy', 'same-origin');
  return response;
};

export const handleError: HandleServerError = ({ error, status }) => {
  if (error instanceof Problem) return { message: error.message };
  if (status === 404) return { message: 'There is nothing at this address.' };
  shop?.log.error({ error: error instanceof Error ? error.stack : String(error) }, 'request failed');
  return { message: 'Something went wrong on the server. What you had saved is kept.' };
};
