import { z } from 'zod';
import { Problem, sentence } from '../platform/problem';
import { askText } from './ask';

export const InstrumentStatus = z.object({ name: z.string(), apertureMm: z.number() });
export type InstrumentStatus = z.infer<typeof InstrumentStatus>;

/** Has the instrument look at what lies under it. @returns CGATS text */
export const readSample = (url: string): Promise<string> => asked(`${url}/sample`, {}, 'measure the sample again');

/** Has the instrument look at places of a print. @returns CGATS text */
export async function readStrip(
  url: string,
  request: { printer: string; job: number; patchMm: number; places: { id: string; x: number; y: number }[] }
): Promise<string> {
  return asked(`${url}/read`, request, 'read the strip again');
}

async function asked(address: string, request: object, then: string): Promise<string> {
  let reply: { ok: boolean; status: number; text: string };
  try {
    reply = await askText(address, { method: 'POST', body: JSON.stringify(request), ms: 60_000 });
  } catch (error) {
    throw new Problem(502, `The instrument does not answer: ${sentence(error)} Switch it on, then ${then}.`);
  }
  if (!reply.ok) {
    const said = z.object({ error: z.string() }).safeParse(parse(reply.text));
    throw new Problem(502, `The instrument could not read: ${said.data?.error ?? `status ${reply.status}`}`);
  }
  return reply.text;
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    return undefined;
  }
}
