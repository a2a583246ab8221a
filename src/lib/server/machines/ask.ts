/** Plain JSON from machines and libraries: never longer, later or from elsewhere than was asked for. */

export interface Asked {
  method?: 'GET' | 'POST';
  body?: string | Uint8Array<ArrayBuffer>;
  headers?: Record<string, string>;
  /** How long the whole answer may take. */
  ms?: number;
  mostBytes?: number;
  signal?: AbortSignal;
}

const MS = 5000;
const MOST_BYTES = 1e6;

/** @throws Error where there is no answer, or more of one than is taken */
export async function askBytes(
  url: string,
  { method = 'GET', body, headers, ms = MS, mostBytes = MOST_BYTES, signal }: Asked = {}
): Promise<{ ok: boolean; status: number; bytes: Buffer }> {
  const late = AbortSignal.timeout(ms);
  const until = signal ? AbortSignal.any([signal, late]) : late;
  const ask = () =>
    fetch(url, { method, redirect: 'error', signal: until, ...(headers && { headers }), ...(body !== undefined && { body }) });
  const reply = await ask().catch((error: unknown) => {
    // A line that was kept open may be closed at the other end just as it is used again: what only asks is asked once more.
    if (method !== 'GET' || until.aborted) throw error;
    return ask();
  });
  const chunks: Uint8Array[] = [];
  let length = 0;
  for await (const chunk of (reply.body ?? []) as AsyncIterable<Uint8Array>) {
    length += chunk.length;
    if (length > mostBytes) throw new Error(`The answer is longer than ${Math.round(mostBytes / 1000)} kB.`);
    chunks.push(chunk);
  }
  return { ok: reply.ok, status: reply.status, bytes: Buffer.concat(chunks) };
}

/** The same as text. */
export async function askText(url: string, asked: Asked = {}): Promise<{ ok: boolean; status: number; text: string }> {
  const { bytes, ...reply } = await askBytes(url, asked);
  return { ...reply, text: bytes.toString('utf8') };
}

/** The same as JSON; nothing where it is none. */
export async function askJson(url: string, asked: Asked = {}): Promise<{ ok: boolean; status: number; value: unknown }> {
  const { text, ...reply } = await askText(url, asked);
  try {
    return { ...reply, value: JSON.parse(text) as unknown };
  } catch {
    return { ...reply, value: undefined };
  }
}
