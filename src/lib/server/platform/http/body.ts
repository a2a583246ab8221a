import { Problem } from '../problem';

/** The whole body of an upload that is small enough to hold. @throws Problem 413 */
export async function bytesOf(request: Request, most: number): Promise<Uint8Array<ArrayBuffer>> {
  const chunks: Uint8Array[] = [];
  let length = 0;
  for await (const chunk of (request.body ?? []) as AsyncIterable<Uint8Array>) {
    length += chunk.length;
    if (length > most) throw new Problem(413, `The file is larger than ${Math.round(most / 1e6)} MB, the most that is taken.`);
    chunks.push(chunk);
  }
  if (length === 0) throw new Problem(400, 'The file is empty.');
  const bytes = new Uint8Array(length);
  let at = 0;
  for (const chunk of chunks) {
    bytes.set(chunk, at);
    at += chunk.length;
  }
  return bytes;
}
