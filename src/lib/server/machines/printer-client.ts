import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { request } from 'node:http';
import { pipeline } from 'node:stream/promises';
import {
  attribute,
  decodeResponse,
  encodeRequest,
  OPERATION,
  STATUS,
  TAG,
  valueOf,
  valuesOf,
  type Decoded,
  type IppAttribute
} from '$protocol/ipp';
import { InkSet, MOST_INKS } from '$core/inks/ink-set';
import { toldApart } from '$core/units/names';
import type { LaidLayer } from '$core/inks/stack';
import type { Black, Handling } from '$core/media/card';
import type { PrintMode } from '$core/media/modes';
import { Problem } from '../platform/problem';
import { askBytes } from './ask';

export interface PrinterStatus {
  /** What kind of machine it is: cards and print modes are for a kind. */
  model: string;
  /** Its own page, for a browser; nothing where it has none. */
  page: string | null;
  state: 'idle' | 'processing' | 'stopped';
  reasons: string[];
  /** On a flatbed, `sheetMm` is the length of a sheet and `sheets` how many are left; a roll has `lengthMm` left, and the batch that was said when it was loaded. */
  media: { name: string; widthMm: number; lengthMm: number; sheetMm: number | null; sheets: number; batch: string | null };
  /** How much is left of each, per cent; nothing where the machine does not know. */
  inks: { name: string; colour: string; level: number | null }[];
  /** What it says of them beyond that; nothing for a machine that says nothing. */
  inkSet: InkSet | null;
  /** How high things may stand on a flatbed's bed, mm; 0 where it does not say. */
  mostThingMm: number;
  /** The most layers of ink that it lays down in one job. */
  layers: number;
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
  /** How long it has printed, s. */
  seconds: number;
  /** How the machine treats the media, as it was told. */
  handling: string | null;
}

/** What a machine is told of a job before it gets the plates. */
export interface JobTicket {
  /** Ours, and written down before: by it the job is found again. */
  key: string;
  name: string;
  inks: InkSet;
  /** From the media upwards. */
  layers: readonly LaidLayer[];
  black: Black;
  mode: Pick<PrintMode, 'passes' | 'direction'>;
  handling: Handling | undefined;
  media: { name: string; widthMm: number; lengthMm: number };
  /** How high things stand that are printed on; nothing for a sheet alone, and where it is not known. */
  thicknessMm: number | null;
  /** It lies on the bed already, as things in a jig do. */
  onBed: boolean;
}

/** A machine's own words for what it will not do. */
export class Refused extends Problem {
  readonly code: number;

  constructor(code: number, words: string) {
    super(502, `The machine refused: ${words}`);
    this.code = code;
  }
}

const REPLY_MS = 5000;
const MOST_REPLY_BYTES = 1 << 20;
/** A machine that takes nothing of a file for so long hangs. */
const STUCK_MS = 60_000;

interface Document {
  path: string;
  signal: AbortSignal;
  /** Told the share of the file that is on its way. */
  onSent: (share: number) => void;
}

/** Sends one IPP message, with a file after it where there is one. The answer has its time as a whole, however it drips. */
async function send(url: string, head: Buffer, document?: Document): Promise<Decoded> {
  const bytes = document ? (await stat(document.path)).size : 0;
  const late = document ? document.signal : AbortSignal.timeout(REPLY_MS);
  const outgoing = request(`${url}/ipp/print`, {
    method: 'POST',
    headers: { 'content-type': 'application/ipp', 'content-length': head.length + bytes },
    agent: false,
    signal: late
  });
  outgoing.setTimeout(document ? STUCK_MS : REPLY_MS, () => outgoing.destroy(new Error('The machine does not answer.')));
  const answered = new Promise<Buffer>((resolve, reject) => {
    outgoing.on('error', reject);
    outgoing.on('response', (reply) => {
      const chunks: Buffer[] = [];
      let length = 0;
      reply.on('data', (chunk: Buffer) => {
        length += chunk.length;
        if (length > MOST_REPLY_BYTES) reply.destroy(new Error('The machine answered with too much.'));
        else chunks.push(chunk);
      });
      reply.on('error', reject);
      reply.on('end', () => resolve(Buffer.concat(chunks)));
      reply.on('close', () => reject(new Error('The machine broke off its answer.')));
    });
  });
  // Whoever fails first says why.
  answered.catch(() => undefined);
  outgoing.write(head);
  if (document) {
    let sent = 0;
    const count = async function* (source: AsyncIterable<Buffer>) {
      for await (const chunk of source) {
        sent += chunk.length;
        document.onSent(sent / bytes);
        yield chunk;
      }
    };
    await Promise.race([answered, pipeline(createReadStream(document.path), count, outgoing).then(() => answered)]);
  } else outgoing.end();
  const reply = await answered;
  try {
    return decodeResponse(reply);
  } catch {
    throw new Error('The machine did not answer in IPP.');
  }
}

let lastRequest = 0;

/** @throws Refused with the machine's own words; Error where it does not answer */
async function ask(url: string, operation: number, attributes: IppAttribute[], document?: Document): Promise<Decoded> {
  const head = encodeRequest(operation, ++lastRequest, [
    attribute(TAG.uri, 'printer-uri', `${url.replace(/^http/, 'ipp')}/ipp/print`),
    ...attributes
  ]);
  const answer = await send(url, head, document);
  if (answer.code !== STATUS.ok)
    throw new Refused(answer.code, String(valueOf(answer, 'status-message') ?? `status ${answer.code}`));
  return answer;
}

const STATES: Record<number, PrinterStatus['state']> = { 3: 'idle', 4: 'processing', 5: 'stopped' };
const figure = (value: unknown) => (typeof value === 'number' ? value : 0);

/** Each ink’s role, channel, drops (femtolitres) and shift (thousandths), in lists beside those that IPP has of markers. */
function readInks(answer: Decoded, names: readonly string[], colours: readonly unknown[]): InkSet | null {
  const [roles, channels] = [valuesOf(answer, 'zing-ink-roles'), valuesOf(answer, 'zing-ink-channels')];
  const [drops, shifts] = [valuesOf(answer, 'zing-ink-drops').map(figure), valuesOf(answer, 'zing-ink-shifts').map(figure)];
  const made = names.map((name, i) => ({
    name,
    role: roles[i],
    channel: channels[i],
    colour: colours[i],
    drops: drops.slice(i * 3, i * 3 + 3).map((fl) => fl / 1000),
    shift: shifts.slice(i * 2, i * 2 + 2).map((part) => part / 1000)
  }));
  return InkSet.safeParse(made).data ?? null;
}

/** The page that a machine has of itself: never anything but one. */
function pageOf(said: unknown): string | null {
  if (typeof said !== 'string' || said.length > 1000 || !URL.canParse(said)) return null;
  const { protocol, href } = new URL(said);
  return protocol === 'http:' || protocol === 'https:' ? href : null;
}

/** What a cartridge is shown in: the first colour that is said of it, sRGB; grey where none is. */
const colourOf = (said: unknown): string => /^#[0-9a-f]{6}/i.exec(String(said))?.[0] ?? '#808080';

/** Below 0 it is not known, or there is only some (RFC 3805, as PWG 5100.13 has it). */
const levelOf = (said: unknown): number | null => (typeof said === 'number' && said >= 0 ? Math.min(100, said) : null);

export async function readPrinter(url: string): Promise<PrinterStatus> {
  const answer = await ask(url, OPERATION.getPrinter, []);
  // Two channels of white may be called so both.
  const names = toldApart(valuesOf(answer, 'marker-names').slice(0, MOST_INKS).map(String));
  const colours = valuesOf(answer, 'marker-colors');
  const levels = valuesOf(answer, 'marker-levels');
  const drops = valuesOf(answer, 'zing-drop-volumes').map(figure);
  return {
    model: String(valueOf(answer, 'printer-make-and-model') ?? '').replace(/ \(simulated\)$/, ''),
    page: pageOf(valueOf(answer, 'printer-more-info')),
    state: STATES[figure(valueOf(answer, 'printer-state'))] ?? 'stopped',
    reasons: valuesOf(answer, 'printer-state-reasons')
      .map(String)
      .filter((reason) => reason !== 'none'),
    media: {
      name: String(valueOf(answer, 'zing-media-name') ?? ''),
      widthMm: figure(valueOf(answer, 'zing-media-width')) / 100,
      lengthMm: figure(valueOf(answer, 'zing-media-length-left')) / 100,
      sheetMm: valueOf(answer, 'zing-sheet-length') === undefined ? null : figure(valueOf(answer, 'zing-sheet-length')) / 100,
      sheets: figure(valueOf(answer, 'zing-sheets-left')),
      batch: String(valueOf(answer, 'zing-media-batch') ?? '') || null
    },
    inks: names.map((name, i) => ({ name, colour: colourOf(colours[i]), level: levelOf(levels[i]) })),
    inkSet: readInks(answer, names, colours),
    mostThingMm: figure(valueOf(answer, 'zing-thing-height')) / 100,
    layers: Math.max(1, figure(valueOf(answer, 'zing-layers'))),
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
    seconds: figure(valueOf(answer, 'zing-time-printing')) / 1000,
    handling: typeof valueOf(answer, 'zing-handling') === 'string' ? String(valueOf(answer, 'zing-handling')) : null
  };
}

/** How each layer of varnish is cured. */
function curingOf(layers: readonly LaidLayer[]): IppAttribute[] {
  const curing = layers.flatMap((layer) => (layer.ink === 'varnish' ? [layer.curing ?? 'gloss'] : []));
  return curing.length > 0 ? [attribute(TAG.keyword, 'zing-varnish-curing', curing)] : [];
}

/** Makes room for a job at the machine. Asked for again with the same key, it is the same job. */
export async function createJob(
  url: string,
  { key, name, inks, layers, black, mode, handling, media, thicknessMm, onBed }: JobTicket
): Promise<JobStatus> {
  return toJob(
    await ask(url, OPERATION.createJob, [
      attribute(TAG.name, 'job-name', name),
      attribute(TAG.name, 'zing-job-key', key),
      attribute(TAG.name, 'zing-media-name', media.name),
      attribute(TAG.integer, 'zing-media-width', Math.round(media.widthMm * 100)),
      attribute(TAG.integer, 'zing-length', Math.round(media.lengthMm * 100)),
      // Of each ink three, in femtolitres, since drops have tenths of picolitres and IPP counts in whole numbers.
      attribute(
        TAG.integer,
        'zing-drop-volumes',
        inks.flatMap(({ drops }) => drops.map((pl) => Math.round(pl * 1000)))
      ),
      // Hundredths of a millimetre, as PWG 5100.3 has it.
      ...(thicknessMm === null ? [] : [attribute(TAG.integer, 'media-thickness', Math.round(thicknessMm * 100))]),
      // As PWG 5100.3 has it: nothing is taken from what is loaded.
      ...(onBed ? [attribute(TAG.keyword, 'media-source', 'manual')] : []),
      attribute(TAG.keyword, 'zing-black', black),
      attribute(TAG.integer, 'zing-passes', mode.passes),
      attribute(TAG.keyword, 'zing-direction', mode.direction === 'one way' ? 'one-way' : 'both-ways'),
      ...curingOf(layers),
      ...(handling ? [attribute(TAG.text, 'zing-handling', JSON.stringify(handling))] : [])
    ])
  );
}

/** Streams a plate file to a job that waits for it. */
export async function sendPlates(url: string, id: number, document: Document): Promise<JobStatus> {
  const attributes = [
    attribute(TAG.integer, 'job-id', id),
    attribute(TAG.mimeType, 'document-format', 'image/tiff'),
    attribute(TAG.boolean, 'last-document', true)
  ];
  return toJob(await ask(url, OPERATION.sendDocument, attributes, document));
}

/** @returns nothing where the machine knows no such job */
export async function readJob(url: string, id: number): Promise<JobStatus | undefined> {
  try {
    return toJob(await ask(url, OPERATION.getJob, [attribute(TAG.integer, 'job-id', id)]));
  } catch (error) {
    if (error instanceof Refused && error.code === STATUS.notFound) return undefined;
    throw error;
  }
}

/** The job that the machine knows by a key of ours; nothing where it knows none. */
export async function findJob(url: string, key: string): Promise<JobStatus | undefined> {
  const answer = await ask(url, OPERATION.getJobs, [
    attribute(TAG.keyword, 'which-jobs', 'all'),
    attribute(TAG.name, 'zing-job-key', key)
  ]);
  // A machine that cannot look by key gives all of its jobs.
  const group = answer.groups.find((one) => one.tag === TAG.job && valueOf({ groups: [one] }, 'zing-job-key') === key);
  return group && toJob({ ...answer, groups: [group] });
}

export async function cancelJob(url: string, id: number): Promise<void> {
  await ask(url, OPERATION.cancelJob, [attribute(TAG.integer, 'job-id', id)]);
}

const MOST_PICTURE_BYTES = 400e6;

/** How what came out is looked at: from a side, over something, or how it shines. */
export interface OutputView {
  from: 'front' | 'behind' | 'gloss';
  /** Six figures after #. */
  backing: string;
}

/** The picture of what came out. */
export async function fetchOutput(url: string, id: number, view: OutputView): Promise<Buffer> {
  let reply: { ok: boolean; bytes: Buffer };
  try {
    reply = await askBytes(`${url}/output/${id}.png?${new URLSearchParams({ ...view }).toString()}`, {
      ms: 60_000,
      mostBytes: MOST_PICTURE_BYTES
    });
  } catch {
    throw new Problem(502, 'The machine does not answer, or with more than a picture. Look at it, and try again.');
  }
  if (!reply.ok) throw new Problem(404, 'The machine has no picture of this print.');
  return reply.bytes;
}
