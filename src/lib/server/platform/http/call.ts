import { json, type RequestEvent } from '@sveltejs/kit';
import { z } from 'zod';
import { issueSentence } from '../issue-sentence';
import { Problem } from '../problem';
import { bytesOf } from './body';

/** What one call of the JSON interface is: for checking what comes in, and for the list at /api. */
export interface CallSpec {
  summary: string;
  body?: z.ZodType;
  query?: z.ZodType;
  /** The longest body, bytes. */
  most?: number;
  /** What comes back when it is not JSON. */
  answers?: string;
}

export type Call = ((event: RequestEvent) => Promise<Response>) & { spec: CallSpec };

/** What a call takes that says nothing else. */
const MOST_BODY_BYTES = 1e6;
/** What a call takes that has outlines in it. */
export const WITH_OUTLINES = 10e6;

/** A handler whose body and query are checked by their schemas, and whose problems become sentences. */
export function call<B extends z.ZodType = z.ZodUndefined, Q extends z.ZodType = z.ZodUndefined>(
  spec: { summary: string; body?: B; query?: Q; most?: number; answers?: string },
  handle: (given: { shop: App.Locals['shop']; body: z.output<B>; query: z.output<Q>; event: RequestEvent }) => unknown
): Call {
  const respond = async (event: RequestEvent): Promise<Response> => {
    try {
      const body = spec.body ? check(spec.body, await readBody(event.request, spec.most ?? MOST_BODY_BYTES)) : undefined;
      const query = spec.query ? check(spec.query, Object.fromEntries(event.url.searchParams)) : undefined;
      const result = await handle({ shop: event.locals.shop, body: body as z.output<B>, query: query as z.output<Q>, event });
      return result instanceof Response ? result : json(result ?? { ok: true });
    } catch (error) {
      if (error instanceof Problem) {
        // What more is on its way is not waited for.
        const headers = error.status === 413 ? { connection: 'close' } : undefined;
        return json({ error: error.message, fields: error.fields }, { status: error.status, ...(headers && { headers }) });
      }
      event.locals.shop.log.error(
        { path: event.url.pathname, error: error instanceof Error ? error.stack : String(error) },
        'call failed'
      );
      return json({ error: 'Something went wrong on the server. Nothing was changed.' }, { status: 500 });
    }
  };
  return Object.assign(respond, { spec });
}

async function readBody(request: Request, most: number): Promise<unknown> {
  if (!request.body) return undefined;
  const bytes = await bytesOf(request, most, 'request');
  if (bytes.length === 0) return undefined;
  try {
    return JSON.parse(new TextDecoder().decode(bytes)) as unknown;
  } catch {
    throw new Problem(400, 'The request is not JSON.');
  }
}

function check<S extends z.ZodType>(schema: S, value: unknown): z.output<S> {
  const result = schema.safeParse(value, { error: issueSentence });
  if (result.success) return result.data;
  const fields = Object.fromEntries(result.error.issues.map((issue) => [issue.path.join('.') || 'request', issue.message]));
  throw new Problem(422, Object.values(fields)[0] ?? 'The request is not as it should be.', fields);
}

/** The number in an address. @throws Problem 404 for anything else */
export function idOf(event: RequestEvent, name = 'id'): number {
  const id = Number((event.params as Record<string, string | undefined>)[name]);
  if (!Number.isSafeInteger(id) || id < 1) throw new Problem(404, 'There is nothing with this number.');
  return id;
}
