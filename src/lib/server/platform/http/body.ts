import { Problem, tooLarge } from '../problem';

/**
 * The whole body of a request that is small enough to hold. One that is too long is not read to its end.
 *
 * @throws Problem 413, or 400 for a file that is empty
 */
export async function bytesOf(
  request: Request,
  most: number,
  what: 'file' | 'request' = 'file'
): Promise<Uint8Array<ArrayBuffer>> {
  const tooLong = () => tooLarge(what, most);
  if (Number(request.headers.get('content-length') ?? 0) > most) throw tooLong();
  const chunks: Uint8Array[] = [];
  let length = 0;
  // Leaving a loop over it would cut the line before the sentence is sent.
  const reader = request.body?.getReader();
  for (let part = await reader?.read(); part && !part.done; part = await reader?.read()) {
    length += part.value.length;
    if (length > most) throw tooLong();
    chunks.push(part.value);
  }
  if (length === 0 && what === 'file') throw new Problem(400, 'The file is empty.');
  const bytes = new Uint8Array(length);
  let at = 0;
  for (const chunk of chunks) {
    bytes.set(chunk, at);
    at += chunk.length;
  }
  return bytes;
}
