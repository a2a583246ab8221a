import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { request } from 'node:http';
import type { IppAttribute } from 'ipp-encoder';
import { attribute, decodeResponse, encodeRequest, OPERATION, STATUS, TAG, valueOf, valuesOf, type Decoded } from '$protocol/ipp';
import { InkSet } from '$core/inks/ink-set';
import type { Handling } from '$core/media/card';
import { Problem } from '../platform/problem';

export interface PrinterStatus {
  /** What kind of machine it is: cards and print modes are for a kind. */
  model: string;
  state: 'idle' | 'processing' | 'stopped';
  reasons: string[];
  /** On a flatbed, `sheetMm` is the length of a sheet and `sheets` how many are left; a roll has `lengthMm` left. */
  media: { name: string; widthMm: number; lengthMm: number; sheetMm: number | null; sheets: number };
  inks: { name: string; colour: string; level: number }[];
  /** What it says of them beyond that; nothing for a machine that says nothing. */
  inkSet: InkSet | null;
  drops: [number, number, number];
  headMm: number;
  carriageMmPerS: number;
  turnS: number;
}

export interface JobStatus {
  id: number;
  state: number;
  reason: string;
  printedMm: number;
  inkMl: number[];
  /** How the machine treats the media, as it was told. */
  handling: string | null;
}

const REPLY_MS = 5000;
const MOST_REPLY_BYTES = 1 << 20;

/** Sends one IPP message, with a file after it where there is one. */
function send(
  url: string,
  head: Buffer,
  document?: { path: string; bytes: number; signal: AbortSignal | undefined; onSent: (bytes: number) => void }
): Promise<Decoded> {
  return new Promise((resolve, reject) => {
    const outgoing = request(
      `${url}/ipp/print`,
      {
        method: 'POST',
        headers: { 'content-type': 'application/ipp', 'content-length': head.length + (document?.bytes ?? 0) },
        agent: false,
        ...(document?.signal && { signal: document.signal })
      },
      (reply) => {
        const chunks: Buffer[] = [];
        let bytes = 0;
        reply.on('data', (chunk: Buffer) => {
          bytes += chunk.length;
          if (bytes > MOST_REPLY_BYTES) reply.destroy(new Error('The machine answered with too much.'));
          else chunks.push(chunk);
        });
        reply.on('error', reject);
        reply.on('end', () => {
          try {
            resolve(decodeResponse(Buffer.concat(chunks)));
          } catch {
            reject(new Error('The machine did not answer in IPP.'));
          }
        });
      }
    );
    outgoing.setTimeout(document ? 0 : REPLY_MS, () => outgoing.destroy(new Error('The machine does not answer.')));
    outgoing.on('error', reject);
    outgoing.write(head);
    if (document) {
      const file = createReadStream(document.path).on('error', reject);
      file.on('data', () => document.onSent(file.bytesRead));
      file.pipe(outgoing);
    } else outgoing.end();
  });
}

let lastRequest = 0;

async function ask(
  url: string,
  operation: number,
  attributes: IppAttribute[],
  document?: { path: string; bytes: number; signal: AbortSignal | undefined; onSent: (bytes: number) => void }
): Promise<Decoded> {
  const head = encodeRequest(operation, ++lastRequest, [
    attribute(TAG.uri, 'printer-uri', `${url.replace(/^http/, 'ipp')}/ipp/print`),
    ...attributes
  ]);
  const answer = await send(url, head, document);
  if (answer.code !== STATUS.ok)
    throw new Problem(502, `The machine refused: ${String(valueOf(answer, 'status-message') ?? `status ${answer.code}`)}`);
  return answer;
}

const STATES: Record<number, PrinterStatus['state']> = { 3: 'idle', 4: 'processing', 5: 'stopped' };
const figure = (value: unknown) => (typeof value === 'number' ? value : 0);

/** Each ink’s role, channel, drops (femtolitres) and shift (thousandths), in lists beside those that IPP has of markers. */
function readInks(answer: Decoded, names: readonly unknown[], colours: readonly unknown[]): InkSet | null {
  const [roles, channels] = [valuesOf(answer, 'zing-ink-roles'), valuesOf(answer, 'zing-ink-channels')];
  const [drops, shifts] = [valuesOf(answer, 'zing-ink-drops').map(figure), valuesOf(answer, 'zing-ink-shifts').map(figure)];
  const made = names.map((name, i) => ({
    name,
    role: roles[i],
    channel: channels[i],
    colour: colours[i],
    drops: drops.slice(i * 3, i * 3 + 3).map((fl) => fl / 1000),
    costPerMl: null,
    shift: shifts.slice(i * 2, i * 2 + 2).map((part) => part / 1000)
  }));
  return InkSet.safeParse(made).data ?? null;
}

export async function readPrinter(url: string): Promise<PrinterStatus> {
  const answer = await ask(url, OPERATION.getPrinter, []);
  const names = valuesOf(answer, 'marker-names');
  const colours = valuesOf(answer, 'marker-colors');
  const levels = valuesOf(answer, 'marker-levels');
  const drops = valuesOf(answer, 'zing-drop-volumes').map(figure);
  return {
    model: String(valueOf(answer, 'printer-make-and-model') ?? '').replace(/ \(simulated\)$/, ''),
    state: STATES[figure(valueOf(answer, 'printer-state'))] ?? 'stopped',
    reasons: valuesOf(answer, 'printer-state-reasons')
      .map(String)
      .filter((reason) => reason !== 'none'),
    media: {
      name: String(valueOf(answer, 'zing-media-name') ?? ''),
      widthMm: figure(valueOf(answer, 'zing-media-width')) / 100,
      lengthMm: figure(valueOf(answer, 'zing-media-length-left')) / 100,
      sheetMm: valueOf(answer, 'zing-sheet-length') === undefined ? null : figure(valueOf(answer, 'zing-sheet-length')) / 100,
      sheets: figure(valueOf(answer, 'zing-sheets-left'))
    },
    inks: names.map((name, i) => ({ name: String(name), colour: String(colours[i] ?? ''), level: figure(levels[i]) })),
    inkSet: readInks(answer, names, colours),
    drops: [drops[0] ?? 6, drops[1] ?? 13, drops[2] ?? 21],
    headMm: figure(valueOf(answer, 'zing-head-height')) / 100,
    carriageMmPerS: figure(valueOf(answer, 'zing-carriage-speed')),
    turnS: figure(valueOf(answer, 'zing-turn-time')) / 1000
  };
}

function toJob(answer: Decoded): JobStatus {
  return {
    id: figure(valueOf(answer, 'job-id')),
    state: figure(valueOf(answer, 'job-state')),
    reason: String(valueOf(answer, 'job-state-reasons') ?? ''),
    printedMm: figure(valueOf(answer, 'zing-length-printed')) / 100,
    inkMl: valuesOf(answer, 'zing-ink-used').map((value) => figure(value) / 1000),
    handling: typeof valueOf(answer, 'zing-handling') === 'string' ? String(valueOf(answer, 'zing-handling')) : null
  };
}

/** Streams a plate file to the machine; `onSent` is told the share that is on its way. */
export async function printFile(
  url: string,
  name: string,
  path: string,
  signal: AbortSignal,
  onSent: (share: number) => void,
  how: { inks: InkSet; handling: Handling | undefined }
): Promise<JobStatus> {
  const { size } = await stat(path);
  return toJob(
    await ask(
      url,
      OPERATION.printJob,
      [
        attribute(TAG.name, 'job-name', name),
        attribute(TAG.mimeType, 'document-format', 'image/tiff'),
        // Of each ink three, in femtolitres, since drops have tenths of picolitres and IPP counts in whole numbers.
        attribute(
          TAG.integer,
          'zing-drop-volumes',
          how.inks.flatMap(({ drops }) => drops.map((pl) => Math.round(pl * 1000)))
        ),
        ...(how.handling ? [attribute(TAG.text, 'zing-handling', JSON.stringify(how.handling))] : [])
      ],
      { path, bytes: size, signal, onSent: (bytes) => onSent(bytes / size) }
    )
  );
}

export async function readJob(url: string, id: number): Promise<JobStatus> {
  return toJob(await ask(url, OPERATION.getJob, [attribute(TAG.integer, 'job-id', id)]));
}

export async function cancelJob(url: string, id: number): Promise<void> {
  await ask(url, OPERATION.cancelJob, [attribute(TAG.integer, 'job-id', id)]);
}

/** The picture of what came out. */
export async function fetchOutput(url: string, id: number): Promise<Buffer> {
  const reply = await fetch(`${url}/output/${id}.png`);
  if (!reply.ok) throw new Problem(404, 'The machine has no picture of this print.');
  return Buffer.from(await reply.arrayBuffer());
}
