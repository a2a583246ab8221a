import type { Handle, HandleServerError, ServerInit } from '@sveltejs/kit';
import { building } from '$app/environment';
import { refusal } from '$protocol/gate';
import { Problem } from '$lib/server/platform/problem';
import { defaultDataFolder, Shop } from '$lib/server/app/shop';

let shop: Shop | undefined;

/** Further names that this machine is asked by. */
const HOSTS = (process.env.ZING_HOSTS ?? '').toLowerCase().split(',').filter(Boolean);
const PLAIN = { 'content-type': 'application/json' };

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
  process.once('sveltekit:shutdown', () => {
    // What was acknowledged is written down already: what hangs is not waited for.
    setTimeout(() => process.exit(0), 5000).unref();
    void shop?.close().finally(() => process.exit(0));
  });
};

export const handle: Handle = async ({ event, resolve }) => {
  if (!shop) throw new Error('The shop is not open.');
  event.locals.shop = shop;
  const { method, headers } = event.request;
  // What a page asks of its own server while it is made was asked for with the page.
  const why = event.isSubRequest ? undefined : refusal(method, event.url.pathname, headers, HOSTS);
  if (why !== undefined) return new Response(JSON.stringify({ error: why }), { status: 403, headers: PLAIN });
  const response = await resolve(event);
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('x-frame-options', 'DENY');
  response.headers.set('referrer-policy', 'same-origin');
  response.headers.set('cross-origin-resource-policy', 'same-origin');
  response.headers.set('cross-origin-opener-policy', 'same-origin');
  // Pages have a policy of their own; anything else is never run as one, whatever a customer put into it.
  if (!response.headers.has('content-security-policy'))
    response.headers.set('content-security-policy', "default-src 'none'; style-src 'unsafe-inline'; sandbox");
  return response;
};

export const handleError: HandleServerError = ({ error, status }) => {
  if (error instanceof Problem) return { message: error.message };
  if (status === 404) return { message: 'There is nothing at this address.' };
  shop?.log.error({ error: error instanceof Error ? error.stack : String(error) }, 'request failed');
  return { message: 'Something went wrong on the server. What you had saved is kept.' };
};
