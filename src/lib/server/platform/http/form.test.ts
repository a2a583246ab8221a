import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isForm, partsOf } from './form';

/** A request whose body comes in pieces of so many bytes. */
function sent(body: Uint8Array, type: string, piece = 64_000): Request {
  let at = 0;
  const stream = new ReadableStream<Uint8Array>({
    pull(controller) {
      if (at >= body.length) return controller.close();
      controller.enqueue(body.subarray(at, (at += piece)));
    }
  });
  const more = { duplex: 'half' } as RequestInit;
  return new Request('http://shop/', { method: 'POST', body: stream, headers: { 'content-type': type }, ...more });
}
const formOf = async (form: FormData) => {
  const whole = new Response(form);
  return { type: whole.headers.get('content-type')!, body: new Uint8Array(await whole.arrayBuffer()) };
};
/** All parts, files as their bytes. */
async function readAll(request: Request): Promise<{ name: string; file?: string; bytes: Buffer }[]> {
  const all = [];
  for await (const part of partsOf(request)) {
    if ('text' in part) all.push({ name: part.name, bytes: Buffer.from(part.text) });
    else {
      const chunks: Uint8Array[] = [];
      for await (const chunk of part.source) chunks.push(chunk);
      all.push({ name: part.name, file: part.fileName, bytes: Buffer.concat(chunks) });
    }
  }
  return all;
}

describe('a form', () => {
  it('comes as it was sent, in its order, however its bytes are cut', async () => {
    const part = fc.record({
      name: fc.constantFrom('ticket', 'table', 'file'),
      file: fc.option(fc.constantFrom('Sign.pdf', 'Gäste.csv', '看板 3.pdf'), { nil: undefined }),
      // What looks like its boundaries is none.
      text: fc.oneof(fc.string({ maxLength: 300 }), fc.constant('\r\n--'), fc.constant('-'.repeat(5000)))
    });
    await fc.assert(
      fc.asyncProperty(fc.array(part, { minLength: 1, maxLength: 5 }), fc.integer({ min: 1, max: 900 }), async (parts, piece) => {
        const form = new FormData();
        for (const { name, file, text } of parts)
          if (file === undefined) form.append(name, text);
          else form.append(name, new Blob([text]), file);
        const { type, body } = await formOf(form);
        const got = await readAll(sent(body, type, piece));
        // Forms end lines of texts in their own way.
        const asSent = (text: string) => text.replace(/\r\n|\r|\n/g, '\r\n');
        expect(got.map(({ name, file, bytes }) => [name, file, bytes.toString()])).toEqual(
          parts.map(({ name, file, text }) => [name, file, file === undefined ? asSent(text) : text.toWellFormed()])
        );
      }),
      { numRuns: 60 }
    );
  });

  it('that is large is not held: what is not read yet is not asked for', async () => {
    const form = new FormData();
    form.append('file', new Blob([new Uint8Array(8e6).fill(7)]), 'Large.tif');
    const { type, body } = await formOf(form);
    let given = 0;
    const stream = new ReadableStream<Uint8Array>({
      pull(controller) {
        if (given >= body.length) return controller.close();
        controller.enqueue(body.subarray(given, (given += 64_000)));
      }
    });
    const more = { duplex: 'half' } as RequestInit;
    const request = new Request('http://shop/', { method: 'POST', body: stream, headers: { 'content-type': type }, ...more });
    for await (const part of partsOf(request)) {
      if ('text' in part) throw new Error('no text was sent');
      let read = 0;
      for await (const chunk of part.source) {
        read += chunk.length;
        expect(given - read).toBeLessThan(1e6);
      }
      expect(read).toBe(8e6);
    }
  });

  it('that is none, is cut, or has too much in it is refused with a sentence', async () => {
    const form = new FormData();
    form.append('ticket', '{}');
    form.append('file', new Blob(['x'.repeat(5000)]), 'Sign.pdf');
    const { type, body } = await formOf(form);
    const why = (bytes: Uint8Array, said = type) => readAll(sent(bytes, said)).then(() => 'taken', (error: Error) => `${error.name}: ${error.message}`); // prettier-ignore
    for (const share of [0.05, 0.5, 0.9]) expect(await why(body.subarray(0, body.length * share))).toMatch(/^Problem: The form cannot be read: Unexpected end of form/); // prettier-ignore
    expect(await why(body, 'multipart/form-data')).toBe('Problem: The form says nothing of where its parts end.');
    expect(await why(Buffer.from('Dear printers'))).toMatch(/^Problem: The form cannot be read/);
    const many = new FormData();
    for (let i = 0; i < 30; i++) many.append(`t${i}`, 'x');
    const crowded = await formOf(many);
    expect(await why(crowded.body, crowded.type)).toMatch(/^Problem: The form cannot be read: it has too many/);
    const long = new FormData();
    long.append('ticket', 'x'.repeat(30_000));
    const lengthy = await formOf(long);
    expect(await why(lengthy.body, lengthy.type)).toBe('Problem: The form cannot be read: ticket is longer than 20000 signs.');
    expect([isForm(sent(body, type)), isForm(sent(body, 'application/pdf'))]).toEqual([true, false]);
  });
});
