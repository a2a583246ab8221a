import { pipeline, Readable } from 'node:stream';
import { createGunzip, createInflateRaw } from 'node:zlib';
import type { Logger } from 'pino';
import {
  encodeResponse,
  JOB_STATE,
  MORE_OPERATIONS,
  OPERATION,
  STATUS,
  TAG,
  valueOf,
  valuesOf,
  type Decoded,
  type IppAttribute,
  type IppGroup
} from '$protocol/ipp';
import type { Events } from '../../platform/events';
import { Problem, sentence } from '../../platform/problem';
import type { Arrivals } from '../arrivals';
import { readJobRequest, senderOf, type JobRequest } from './job-request';
import { hasEnded, type NetworkJob, type NetworkJobs } from './network-jobs';
import type { KeptPrinter } from './network-printers';
import { COMPRESSIONS, FORMATS, jobAttributes, printerAttributes, TIME_OUT_S, type PrinterFacts } from './printer-attributes';

/** A status that is no “well”, with words for people. */
class Refusal extends Error {
  readonly status: number;

  constructor(status: number, words: string) {
    super(words);
    this.status = status;
  }
}

interface Needs {
  events: Events;
  log: Logger;
  arrivals: Arrivals;
  jobs: NetworkJobs;
  /** What there is to say of a printer. @param host that it was asked by */
  facts: (kept: KeptPrinter, host: string, path: string) => PrinterFacts;
}

/** One request as it came. */
export interface Asking {
  kept: KeptPrinter;
  head: Decoded;
  document: AsyncIterable<Buffer>;
  /** How the printer was asked for: host with port, and path without the job. */
  host: string;
  path: string;
}

/** Of one printer, documents that come in at the same time, and jobs that have not ended. */
const MOST_COMING = 8;
const MOST_OPEN = 2000;
const MINUTE_MS = 60_000;
const MOST_LISTED = 1000;

/** Answers programs that print: IPP in, IPP out. */
export class PrinterAnswers {
  readonly #needs: Needs;
  /** By printer, when its last jobs were made. */
  readonly #made = new Map<number, number[]>();
  /** By printer, how many documents are coming in. */
  readonly #coming = new Map<number, number>();
  /** Jobs whose document is coming in. */
  readonly #sending = new Set<number>();

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  async answer(asking: Asking): Promise<Buffer> {
    const { head } = asking;
    // A version that is not known is answered in the highest that is.
    const version = head.version.major === 1 ? { major: 1, minor: 1 } : { major: 2, minor: 0 };
    try {
      mustBeSound(head);
      const { groups, status = STATUS.ok } = await this.#do(asking);
      const words = status === STATUS.ok ? 'successful-ok' : 'successful-ok-ignored-or-substituted-attributes';
      return encodeResponse(status, head.requestId, words, groups, version);
    } catch (error) {
      const status = statusOf(error);
      if (status === STATUS.internal) this.#needs.log.error({ error: sentence(error) }, 'a printer could not answer');
      const words = status === STATUS.internal ? 'This went wrong here. Try again.' : sentence(error);
      return encodeResponse(status, head.requestId, words.slice(0, 255), [], version);
    }
  }

  /** Jobs whose document did not come in time, or broke off, end. */
  forget(printerId: number): void {
    for (const id of this.#needs.jobs.forgotten(printerId, Date.now() - TIME_OUT_S * 1000))
      if (!this.#sending.has(id)) this.#needs.jobs.end(id, JOB_STATE.aborted, 'aborted-by-system');
  }

  async #do(asking: Asking): Promise<{ groups: IppGroup[]; status?: number }> {
    const { kept, head } = asking;
    const { jobs, events } = this.#needs;
    this.forget(kept.id);
    const facts = this.#needs.facts(kept, asking.host, asking.path);
    const asked = valuesOf(head, 'requested-attributes').filter((name) => typeof name === 'string');
    const group = (job: NetworkJob, names: readonly string[]): IppGroup => ({
      tag: TAG.job,
      attributes: jobAttributes(facts, job, names)
    });
    const unsupported = ({ unsupported }: JobRequest): IppGroup[] =>
      unsupported.length > 0 ? [{ tag: TAG.unsupported, attributes: unsupported }] : [];
    const status = ({ unsupported }: JobRequest) => (unsupported.length > 0 ? STATUS.okIgnored : STATUS.ok);
    switch (head.code) {
      case OPERATION.getPrinter:
        return { groups: [{ tag: TAG.printer, attributes: printerAttributes(facts, asked) }] };
      case OPERATION.validateJob: {
        const request = this.#request(asking, facts);
        mustBeReadable(head);
        return { groups: unsupported(request), status: status(request) };
      }
      case OPERATION.createJob: {
        const request = this.#request(asking, facts);
        const job = this.#make(kept, request, facts);
        return { groups: [...unsupported(request), group(job, STARTED)], status: status(request) };
      }
      case OPERATION.printJob: {
        const request = this.#request(asking, facts);
        mustBeReadable(head);
        this.#mustHaveRoom(kept);
        const job = this.#make(kept, request, facts);
        await this.#take(asking, job);
        return { groups: [...unsupported(request), group(jobs.get(kept.id, job.id)!, STARTED)], status: status(request) };
      }
      case OPERATION.sendDocument: {
        const job = this.#job(asking);
        mustOwn(head, job);
        if (job.arrivalId !== null || job.state !== JOB_STATE.pending || this.#sending.has(job.id))
          throw new Refusal(STATUS.notPossible, 'The job has its document, or has ended.');
        if (valueOf(head, 'last-document') === undefined)
          throw new Refusal(STATUS.badRequest, 'It is not said whether this is the last document.');
        mustBeReadable(head);
        this.#mustHaveRoom(kept);
        await this.#take(asking, job);
        return { groups: [group(jobs.get(kept.id, job.id)!, STARTED)] };
      }
      case MORE_OPERATIONS.closeJob:
        return { groups: [group(this.#job(asking), STARTED)] };
      case OPERATION.getJob:
        return { groups: [group(this.#job(asking), asked)] };
      case OPERATION.getJobs:
        return { groups: this.#listed(asking).map((job) => group(job, asked.length > 0 ? asked : ['job-id', 'job-uri'])) };
      case OPERATION.cancelJob: {
        const job = this.#job(asking);
        mustOwn(head, job);
        await this.#cancel(job);
        return { groups: [] };
      }
      case MORE_OPERATIONS.cancelMyJobs:
        await this.#cancelMine(asking);
        return { groups: [] };
      case MORE_OPERATIONS.identifyPrinter: {
        const who = valueOf(head, 'requesting-user-name');
        const by = typeof who === 'string' && who !== '' ? ` by ${who.slice(0, 60)}` : '';
        events.send({ kind: 'said', text: `The printer ${kept.printer.name} is looked for${by}: it is this one.` });
        return { groups: [] };
      }
      default:
        throw new Refusal(STATUS.unsupported, 'This operation is not known here.');
    }
  }

  #request({ kept, head }: Asking, facts: PrinterFacts): JobRequest {
    const { draftId, bestId, mostPages } = kept.printer;
    const request = readJobRequest(head, { facts, draftId, bestId, mostPages });
    // With this said, all of it is to be done or nothing.
    if (valueOf(head, 'ipp-attribute-fidelity') === true && request.unsupported.length > 0)
      throw new Refusal(STATUS.attributesUnknown, `Not done here: ${request.unsupported.map(({ name }) => name).join(', ')}.`);
    return request;
  }

  /** @throws Refusal where there are too many, or too many in a minute */
  #make({ id, printer }: KeptPrinter, { name, sender, asked }: JobRequest, { copies: usual }: PrinterFacts): NetworkJob {
    const { jobs } = this.#needs;
    // To look at them settles those that have ended.
    if (jobs.open(id) >= MOST_OPEN && jobs.list(id, false).length >= MOST_OPEN)
      throw new Refusal(STATUS.busy, `${MOST_OPEN} jobs wait here, the most. Try again later.`);
    const since = Date.now() - MINUTE_MS;
    const lately = (this.#made.get(id) ?? []).filter((at) => at > since);
    if (lately.length >= printer.mostPerMinute)
      throw new Refusal(
        STATUS.busy,
        `${printer.mostPerMinute} jobs came in the last minute, the most that are taken. Try again.`
      );
    this.#made.set(id, [...lately, Date.now()]);
    return jobs.add({ printerId: id, name, sender, copies: asked.copies ?? usual, asked });
  }

  /** @throws Refusal while as many documents come in as do at once: whoever is told so tries again */
  #mustHaveRoom({ id }: KeptPrinter): void {
    if ((this.#coming.get(id) ?? 0) >= MOST_COMING)
      throw new Refusal(STATUS.busy, `${MOST_COMING} documents are coming in, the most at once. Try again.`);
  }

  /** Takes a job's document; a job whose document breaks off ends. */
  async #take({ kept, head, document }: Asking, job: NetworkJob): Promise<void> {
    const { arrivals, jobs } = this.#needs;
    const coming = this.#coming.get(kept.id) ?? 0;
    this.#coming.set(kept.id, coming + 1);
    this.#sending.add(job.id);
    try {
      const source = bounded(unpacked(document, valueOf(head, 'compression')), kept.printer.mostMb);
      await arrivals.takePrinted(kept, job, source, (arrivalId) => jobs.came(job.id, arrivalId));
    } catch (error) {
      jobs.end(job.id, JOB_STATE.aborted, 'aborted-by-system');
      throw error;
    } finally {
      this.#sending.delete(job.id);
      this.#coming.set(kept.id, this.#coming.get(kept.id)! - 1);
    }
  }

  #job({ kept, head }: Asking): NetworkJob {
    const uri = valueOf(head, 'job-uri');
    const id = Number(valueOf(head, 'job-id') ?? (typeof uri === 'string' ? uri.split('/').at(-1) : NaN));
    if (!Number.isSafeInteger(id)) throw new Refusal(STATUS.badRequest, 'It is not said which job.');
    const job = this.#needs.jobs.get(kept.id, id);
    if (!job) throw new Refusal(STATUS.notFound, 'There is no such job.');
    return job;
  }

  #listed({ kept, head }: Asking): NetworkJob[] {
    const { jobs } = this.#needs;
    const which = valueOf(head, 'which-jobs') ?? 'not-completed';
    if (which !== 'completed' && which !== 'not-completed' && which !== 'all')
      throw new Refusal(STATUS.attributesUnknown, 'Jobs are asked for as completed, not-completed or all.');
    const who = valueOf(head, 'my-jobs') === true ? senderOf(head) : undefined;
    const limit = valueOf(head, 'limit');
    const most = typeof limit === 'number' && limit >= 1 ? Math.min(limit, MOST_LISTED) : MOST_LISTED;
    return [
      ...(which !== 'completed' ? jobs.list(kept.id, false) : []),
      ...(which !== 'not-completed' ? jobs.list(kept.id, true) : [])
    ]
      .filter(({ sender }) => who === undefined || sender === who)
      .slice(0, most);
  }

  /** @throws Refusal where it has ended, or is being printed */
  async #cancel(job: NetworkJob): Promise<void> {
    const { arrivals, jobs } = this.#needs;
    if (hasEnded(job.state)) throw new Refusal(STATUS.notPossible, 'The job has ended.');
    if (this.#sending.has(job.id)) throw new Refusal(STATUS.notPossible, 'Its document is coming in. Break that off.');
    try {
      if (job.arrivalId !== null) await arrivals.undo(job.arrivalId);
    } catch (error) {
      throw error instanceof Problem ? new Refusal(STATUS.notPossible, error.message) : error;
    }
    jobs.end(job.id, JOB_STATE.cancelled, 'job-canceled-by-user');
  }

  /** None where some of those that are asked for are not theirs, as PWG 5100.11 has it. */
  async #cancelMine({ kept, head }: Asking): Promise<void> {
    const ids = valuesOf(head, 'job-ids');
    const mine = this.#needs.jobs.list(kept.id, false).filter((job) => job.sender === senderOf(head));
    const chosen = ids.length > 0 ? mine.filter(({ id }) => ids.includes(id)) : mine;
    if (ids.some((id) => !mine.some((job) => job.id === id)))
      throw new Refusal(STATUS.notPossible, 'Some of these jobs are not yours, or have ended.');
    const left: number[] = [];
    for (const job of chosen) await this.#cancel(job).catch(() => left.push(job.id));
    if (left.length > 0) throw new Refusal(STATUS.notPossible, `Job ${left.join(', ')} is with the operator already.`);
  }
}

/** What a program is told of a job that it has just made. */
const STARTED = ['job-id', 'job-uri', 'job-state', 'job-state-reasons', 'job-state-message'];

/** @throws Refusal where what every request has is missing @see RFC 8011 section 4.1 */
function mustBeSound({ version, requestId, groups }: Decoded): void {
  if (version.major !== 1 && version.major !== 2)
    throw new Refusal(STATUS.versionUnknown, `IPP ${version.major}.${version.minor} is not spoken here.`);
  if (requestId < 1) throw new Refusal(STATUS.badRequest, 'A request has a number above 0.');
  const [charset, language] = groups[0]?.attributes ?? [];
  if (
    groups[0]?.tag !== TAG.operation ||
    charset?.name !== 'attributes-charset' ||
    language?.name !== 'attributes-natural-language'
  )
    throw new Refusal(STATUS.badRequest, 'A request begins with its charset and its language.');
  if (String(charset.values[0]).toLowerCase() !== 'utf-8') throw new Refusal(STATUS.charsetUnknown, 'Requests are in UTF-8.');
  const has = (name: string) => groups[0]!.attributes.some((one: IppAttribute) => one.name === name);
  if (!has('printer-uri') && !has('job-uri')) throw new Refusal(STATUS.badRequest, 'It is not said which printer is meant.');
}

/** @throws Refusal for a document that is not read here, before it comes */
function mustBeReadable(head: Decoded): void {
  const format = valueOf(head, 'document-format') ?? 'application/octet-stream';
  if (!FORMATS.includes(String(format)))
    throw new Refusal(STATUS.formatUnknown, 'Documents are taken as PDF, JPEG, PNG and PWG raster.');
  const compression = valueOf(head, 'compression') ?? 'none';
  if (!COMPRESSIONS.includes(String(compression)))
    throw new Refusal(STATUS.compressionUnknown, `Documents are packed by ${COMPRESSIONS.slice(1).join(' or ')}, or not at all.`);
}

/** A job is for who sent it, as far as programs say who they are. */
function mustOwn(head: Decoded, job: NetworkJob): void {
  if (senderOf(head) !== job.sender) throw new Refusal(STATUS.notAuthorized, 'This job was sent by somebody else.');
}

function unpacked(document: AsyncIterable<Buffer>, compression: unknown): AsyncIterable<Uint8Array> {
  if (compression !== 'gzip' && compression !== 'deflate') return document;
  const unpack = compression === 'gzip' ? createGunzip() : createInflateRaw();
  // What goes wrong is told to whoever reads on.
  pipeline(Readable.from(document), unpack, () => undefined);
  return unpack;
}

/** @throws Refusal when there is nothing, or more than is taken */
async function* bounded(source: AsyncIterable<Uint8Array>, mostMb: number): AsyncGenerator<Uint8Array> {
  let bytes = 0;
  for await (const chunk of source) {
    bytes += chunk.length;
    if (bytes > mostMb * 1e6)
      throw new Refusal(STATUS.tooLarge, `The document is larger than ${mostMb} MB, the most that is taken.`);
    yield chunk;
  }
  if (bytes === 0) throw new Refusal(STATUS.badRequest, 'There is no document in the request.');
}

function statusOf(error: unknown): number {
  if (error instanceof Refusal) return error.status;
  if (error instanceof Problem)
    return error.status === 413 ? STATUS.tooLarge : error.status < 500 ? STATUS.notPossible : STATUS.busy;
  const code = error instanceof Error && 'code' in error ? String(error.code) : '';
  return code.startsWith('Z_') ? STATUS.compressionError : STATUS.internal;
}

/** What is answered to a request that is no IPP. */
export const notIpp = (words: string): Buffer => encodeResponse(STATUS.badRequest, 1, words, []);
