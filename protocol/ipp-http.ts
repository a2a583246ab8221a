import type { IncomingMessage } from 'node:http';
import { decodeRequest, NotIpp, Unfinished, type Decoded } from './ipp';

/** IPP in the body of a request of HTTP. */

/** The longest IPP head that is taken. */
const HEAD_BYTES = 65536;

/**
 * Reads the attributes at the start of a request.
 *
 * @returns them, and the document that follows, which is read as it is asked for
 * @throws NotIpp when the request begins with no IPP message
 */
export async function readIpp(request: IncomingMessage): Promise<{ head: Decoded; document: AsyncIterable<Buffer> }> {
  const source = request[Symbol.asyncIterator]() as AsyncIterator<Buffer>;
  let buffer = Buffer.alloc(0);
  for (;;) {
    const { value, done } = await source.next();
    if (done) throw new NotIpp('This is not a whole IPP message.');
    buffer = Buffer.concat([buffer, value]);
    const head = wholeHead(buffer);
    if (head) return { head, document: following(buffer.subarray(head.bytes), source) };
    if (buffer.length >= HEAD_BYTES) throw new NotIpp(`The attributes of an IPP message have at most ${HEAD_BYTES} bytes.`);
  }
}

/** @returns nothing while more of it is to come */
function wholeHead(buffer: Buffer): Decoded | undefined {
  try {
    return decodeRequest(buffer);
  } catch (error) {
    if (error instanceof Unfinished) return undefined;
    throw error;
  }
}

async function* following(rest: Buffer, source: AsyncIterator<Buffer>): AsyncGenerator<Buffer> {
  if (rest.length > 0) yield rest;
  for (;;) {
    const { value, done } = await source.next();
    if (done) return;
    yield value;
  }
}
