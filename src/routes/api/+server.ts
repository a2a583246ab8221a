import { json } from '@sveltejs/kit';
import { z } from 'zod';
import type { Call } from '$lib/server/platform/http/call';
import type { RequestHandler } from './$types';

const modules = import.meta.glob<Record<string, Partial<Call>>>('./**/+server.ts');

/** The interface in OpenAPI 3.1, made from the schemas that check it. */
export const GET: RequestHandler = async () => {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const [file, load] of Object.entries(modules).sort(([p], [q]) => p.localeCompare(q))) {
    if (file === './+server.ts') continue;
    const path = `/api${file.slice(1).replace('/+server.ts', '')}`.replace(/\[([^\]]+)\]/g, '{$1}');
    const module = await load();
    for (const method of ['GET', 'POST', 'PUT', 'DELETE']) {
      const spec = module[method]?.spec;
      if (!spec) continue;
      const inPath = [...path.matchAll(/\{([^}]+)\}/g)].map((match) => ({
        name: match[1],
        in: 'path',
        required: true,
        schema: { type: 'string' }
      }));
      const query = spec.query
        ? (z.toJSONSchema(spec.query, { io: 'input', unrepresentable: 'any' }) as {
            properties?: Record<string, unknown>;
            required?: string[];
          })
        : undefined;
      const inQuery = Object.entries(query?.properties ?? {}).map(([name, schema]) => ({
        name,
        in: 'query',
        required: query?.required?.includes(name) ?? false,
        schema
      }));
      (paths[path] ??= {})[method.toLowerCase()] = {
        summary: spec.summary,
        parameters: [...inPath, ...inQuery],
        ...(spec.body && {
          requestBody: {
            content: { 'application/json': { schema: z.toJSONSchema(spec.body, { io: 'input', unrepresentable: 'any' }) } }
          }
        }),
        responses: {
          200: { description: 'Done', content: { [spec.answers ?? 'application/json']: {} } },
          default: { description: 'A sentence in “error”, and in “fields” what is wrong with each field' }
        }
      };
    }
  }
  return json({ openapi: '3.1.0', info: { title: 'Zing Mast', version: '0.1.0' }, paths });
};
