import { outlineOf, type Field } from '$core/cutting/trace-outline';
import { pathData } from '$core/geometry/path';
import type { LineSource } from '$core/artwork/cut-choices';
import { Refusal, send } from '$lib/ui/common/client';

type Found = Extract<LineSource, { kind: 'found' }>;

/** Fields by docket, way and background: a slider traces the same one again and again. */
const fields = new Map<string, Promise<Field>>();
const MOST_FIELDS = 4;

async function fetchField(id: number, version: number, from: Found): Promise<Field> {
  const background = from.background ? `&background=${JSON.stringify(from.background)}` : '';
  const reply = await fetch(`/api/dockets/${id}/field?how=${from.how}${background}&version=${version}`);
  if (!reply.ok) {
    const { error } = (await reply.json().catch(() => ({}))) as { error?: string };
    throw new Refusal(reply.status, error ?? `The server answered ${reply.status}.`, {});
  }
  const head = JSON.parse(reply.headers.get('x-field') ?? '{}') as Omit<Field, 'samples'>;
  return { ...head, samples: new Uint8Array(await reply.arrayBuffer()) };
}

/** A coarse outline at once, traced here. */
export async function traceCoarse(id: number, version: number, from: Found): Promise<string> {
  if (from.how === 'shapes') return from.outline;
  const key = JSON.stringify([id, from.how, from.background]);
  let field = fields.get(key);
  if (!field) {
    field = fetchField(id, version, from);
    fields.set(key, field);
    field.catch(() => fields.delete(key));
    const [oldest] = fields.keys();
    if (fields.size > MOST_FIELDS && oldest !== undefined) fields.delete(oldest);
  }
  return pathData(outlineOf(await field, from.how, from.threshold), 4);
}

/** The outline fine enough to cut, traced by the server. */
export async function traceFine(id: number, from: Found): Promise<string> {
  const { how, threshold, background } = from;
  return (await send<{ outline: string }>('POST', `/api/dockets/${id}/trace`, { how, threshold, background })).outline;
}

/** What was traced of an artwork that is no longer the same. */
export const forgetFields = (): void => fields.clear();
