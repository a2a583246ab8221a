import { EventEmitter, on } from 'node:events';
import { Readable } from 'node:stream';
import busboy from 'busboy';
import { Problem, sentence } from '../problem';

/** One part of a form: a text, or a file, which is read before the next part is asked for. */
export type FormPart = { name: string } & ({ text: string } | { fileName: string; source: AsyncIterable<Uint8Array> });

export const isForm = (request: Request): boolean => /^multipart\/form-data\b/i.test(request.headers.get('content-type') ?? '');

/** So many texts and files, and so long texts, have a form. */
const LIMITS = { fields: 10, files: 5, parts: 15, fieldSize: 20_000, fieldNameSize: 100, headerPairs: 50 };

/** The parts of a form as they come: none is held in memory. @throws Problem 400 for what is no form, or ends before its time */
export async function* partsOf(request: Request): AsyncGenerator<FormPart> {
  if (!request.body) throw new Problem(400, 'There is nothing in the request.');
  const found = new EventEmitter();
  const form = formOf(request);
  const wrong = (error: unknown) => found.emit('error', unreadable(error));
  form.on('field', (name, text, { valueTruncated }) =>
    valueTruncated ? wrong(new Error(`${name} is longer than ${LIMITS.fieldSize} signs`)) : found.emit('part', { name, text })
  );
  form.on('file', (name, source, { filename }) => {
    source.on('error', wrong);
    found.emit('part', { name, fileName: filename ?? '', source: told(source) });
  });
  for (const [event, what] of [
    ['fieldsLimit', 'texts'],
    ['filesLimit', 'files'],
    ['partsLimit', 'parts']
  ] as const)
    form.on(event, () => wrong(new Error(`it has too many ${what}`)));
  form.on('error', wrong);
  form.on('close', () => found.emit('close'));
  found.on('error', () => undefined);
  const parts = on(found, 'part', { close: ['close'] }) as AsyncIterable<[FormPart]>;
  const body = Readable.fromWeb(request.body as Parameters<typeof Readable.fromWeb>[0]);
  body.on('error', (error) => form.destroy(error));
  body.pipe(form);
  try {
    for await (const [part] of parts) yield part;
  } finally {
    body.unpipe(form);
    // What more is on its way is let go of.
    body.resume();
    form.destroy();
  }
}

const unreadable = (error: unknown) => new Problem(400, `The form cannot be read: ${sentence(error)}.`);

/** A file of it, whose end may not come. */
async function* told(source: Readable): AsyncGenerator<Uint8Array> {
  try {
    yield* source as AsyncIterable<Uint8Array>;
  } catch (error) {
    throw unreadable(error);
  }
}

function formOf(request: Request): busboy.Busboy {
  try {
    return busboy({ headers: { 'content-type': request.headers.get('content-type') ?? '' }, limits: LIMITS, defParamCharset: 'utf8' }); // prettier-ignore
  } catch {
    throw new Problem(400, 'The form says nothing of where its parts end.');
  }
}
