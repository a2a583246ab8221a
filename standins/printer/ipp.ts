import type { IncomingMessage } from 'node:http';
import { Readable } from 'node:stream';
import { z } from 'zod';
import type { DropVolumes } from '$core/inks/drops';
import { BLACKS, Handling } from '$core/media/card';
import { message } from '$protocol/http';
import {
  attribute,
  encodeResponse,
  JOB_STATE,
  OPERATION,
  PRINTER_STATE,
  STATUS,
  TAG,
  valueOf,
  valuesOf,
  type Decoded
} from '$protocol/ipp';
import { readIpp } from '$protocol/ipp-http';
import type { JobTicket, PrinterJob } from './job';
import { WrongMedia, type Printer } from './printer';

/** The printer's side of IPP: what it says of itself and its jobs, and what it does when it is asked to. */

const Drops = z.tuple([z.number().positive(), z.number().positive(), z.number().positive()]);

function printerAttributes(printer: Printer, port: number) {
  const { model } = printer;
  const working = printer.jobs.some((job) => job.state === JOB_STATE.processing || job.state === JOB_STATE.stopped);
  const { stops } = printer;
  const state = stops.length > 0 ? PRINTER_STATE.stopped : working ? PRINTER_STATE.processing : PRINTER_STATE.idle;
  return {
    tag: TAG.printer,
    attributes: [
      attribute(TAG.uri, 'printer-uri-supported', `ipp://127.0.0.1:${port}/ipp/print`),
      attribute(TAG.uri, 'printer-more-info', `http://127.0.0.1:${port}/`),
      attribute(TAG.keyword, 'uri-security-supported', 'none'),
      attribute(TAG.keyword, 'uri-authentication-supported', 'none'),
      attribute(TAG.name, 'printer-name', model.name),
      attribute(TAG.text, 'printer-make-and-model', `${model.name} (simulated)`),
      attribute(TAG.enum, 'printer-state', state),
      attribute(TAG.keyword, 'printer-state-reasons', stops.length > 0 ? stops : ['none']),
      attribute(TAG.boolean, 'printer-is-accepting-jobs', true),
      attribute(TAG.integer, 'queued-job-count', printer.jobs.filter((job) => job.state < JOB_STATE.cancelled).length),
      attribute(TAG.integer, 'printer-up-time', Math.max(1, Math.round(process.uptime()))),
      attribute(TAG.keyword, 'ipp-versions-supported', ['1.1']),
      attribute(TAG.enum, 'operations-supported', Object.values(OPERATION)),
      attribute(TAG.charset, 'charset-configured', 'utf-8'),
      attribute(TAG.charset, 'charset-supported', ['utf-8']),
      attribute(TAG.language, 'natural-language-configured', 'en'),
      attribute(TAG.language, 'generated-natural-language-supported', ['en']),
      attribute(TAG.mimeType, 'document-format-default', 'image/tiff'),
      attribute(TAG.mimeType, 'document-format-supported', ['image/tiff']),
      attribute(TAG.keyword, 'compression-supported', ['none']),
      attribute(TAG.keyword, 'pdl-override-supported', 'not-attempted'),
      attribute(
        TAG.name,
        'marker-names',
        model.inks.map(({ name }) => name)
      ),
      attribute(
        TAG.name,
        'marker-colors',
        model.inks.map(({ colour }) => colour)
      ),
      attribute(
        TAG.keyword,
        'zing-ink-roles',
        model.inks.map(({ role }) => role)
      ),
      attribute(
        TAG.name,
        'zing-ink-channels',
        model.inks.map(({ channel }) => channel)
      ),
      // Femtolitres, three an ink; thousandths of the mask, two an ink.
      attribute(
        TAG.integer,
        'zing-ink-drops',
        model.inks.flatMap(({ drops }) => drops.map((pl) => Math.round(pl * 1000)))
      ),
      attribute(
        TAG.integer,
        'zing-ink-shifts',
        model.inks.flatMap(({ shift }) => shift.map((part) => Math.round(part * 1000)))
      ),
      attribute(TAG.integer, 'zing-layers', model.layers),
      attribute(
        TAG.integer,
        'marker-levels',
        printer.inkMl.map((ml) => Math.round((100 * ml) / model.cartridgeMl))
      ),
      attribute(
        TAG.keyword,
        'marker-types',
        model.inks.map(() => 'ink-cartridge')
      ),
      // Hundredths of a millimetre, as IPP counts sizes.
      attribute(TAG.name, 'zing-media-name', printer.media.name),
      ...(printer.media.batch ? [attribute(TAG.name, 'zing-media-batch', printer.media.batch)] : []),
      attribute(TAG.integer, 'zing-media-width', Math.round(printer.media.widthMm * 100)),
      attribute(TAG.integer, 'zing-media-length-left', Math.round(printer.media.lengthMm * 100)),
      ...(model.flatbed
        ? [
            attribute(TAG.integer, 'zing-sheet-length', Math.round((printer.media.sheetMm ?? 1000) * 100)),
            attribute(TAG.integer, 'zing-sheets-left', printer.media.sheets ?? 0),
            attribute(TAG.integer, 'zing-thing-height', Math.round(model.mostThingMm * 100))
          ]
        : []),
      attribute(TAG.integer, 'zing-drop-volumes', [...model.inks[0]!.drops]),
      attribute(TAG.integer, 'zing-head-height', Math.round(model.speed.headMm * 100)),
      attribute(TAG.integer, 'zing-carriage-speed', model.speed.carriageMmPerS),
      attribute(TAG.integer, 'zing-turn-time', Math.round(model.speed.turnS * 1000))
    ]
  };
}

/** What the plates were made for, three drops an ink; its own for an ink of which nothing is said. */
function dropsOf(head: Decoded, { model }: Printer): DropVolumes[] {
  const all = valuesOf(head, 'zing-drop-volumes').map((fl) => Number(fl) / 1000);
  return model.inks.map(({ drops }, i) => Drops.safeParse(all.slice(i * 3, i * 3 + 3)).data ?? drops);
}

/** How the media is to be treated, as the program that sends the job says. */
function handlingOf(head: Decoded): Handling | null {
  const said = valueOf(head, 'zing-handling');
  return typeof said === 'string' ? Handling.parse(JSON.parse(said)) : null;
}

function jobAttributes(job: PrinterJob, port: number) {
  return {
    tag: TAG.job,
    attributes: [
      attribute(TAG.integer, 'job-id', job.id),
      attribute(TAG.uri, 'job-uri', `ipp://127.0.0.1:${port}/ipp/print/${job.id}`),
      attribute(TAG.name, 'job-name', job.name),
      ...(job.key ? [attribute(TAG.name, 'zing-job-key', job.key)] : []),
      attribute(TAG.enum, 'job-state', job.state),
      attribute(TAG.keyword, 'job-state-reasons', [job.reason.slice(0, 200)]),
      attribute(TAG.integer, 'zing-length', Math.round(job.lengthMm * 100)),
      attribute(TAG.integer, 'zing-length-printed', Math.round(job.printedMm * 100)),
      attribute(TAG.integer, 'zing-time-printing', Math.round(job.seconds * 1000)),
      // Microlitres.
      attribute(
        TAG.integer,
        'zing-ink-used',
        job.inkMl.map((ml) => Math.round(ml * 1000))
      ),
      ...(job.handling ? [attribute(TAG.text, 'zing-handling', JSON.stringify(job.handling))] : [])
    ]
  };
}

function ticketOf(head: Decoded, printer: Printer): JobTicket {
  const text = (name: string) => {
    const value = valueOf(head, name);
    return typeof value === 'string' ? value.slice(0, 200) : null;
  };
  const hundredths = (name: string) => Number(valueOf(head, name) ?? 0) / 100;
  const media = text('zing-media-name');
  return {
    name: text('job-name') ?? 'untitled',
    key: text('zing-job-key'),
    drops: dropsOf(head, printer),
    handling: handlingOf(head),
    thicknessMm: valueOf(head, 'media-thickness') === undefined ? null : hundredths('media-thickness'),
    onBed: valueOf(head, 'media-source') === 'manual',
    black: z.enum(BLACKS).catch('gloss').parse(valueOf(head, 'zing-black')),
    passes: z
      .int()
      .min(1)
      .max(64)
      .nullable()
      .catch(null)
      .parse(valueOf(head, 'zing-passes') ?? null),
    oneWay: valueOf(head, 'zing-direction') === 'one-way',
    curing: z
      .array(z.enum(['gloss', 'matt']))
      .max(16)
      .catch([])
      .parse(valuesOf(head, 'zing-varnish-curing')),
    media: media === null ? null : { name: media, widthMm: hundredths('zing-media-width'), lengthMm: hundredths('zing-length') }
  };
}

/** Answers with the job that comes of it, or with why none does. */
async function answerFor(head: Decoded, port: number, work: () => PrinterJob | Promise<PrinterJob>): Promise<Buffer> {
  try {
    return encodeResponse(STATUS.ok, head.requestId, 'successful-ok', [jobAttributes(await work(), port)]);
  } catch (error) {
    const status = error instanceof WrongMedia ? STATUS.notPossible : STATUS.formatUnknown;
    return encodeResponse(status, head.requestId, message(error).slice(0, 200));
  }
}

/** Answers a request of IPP. @param port that the printer is asked at */
export async function answerIpp(printer: Printer, port: number, request: IncomingMessage): Promise<Buffer> {
  let head: Decoded;
  let document: Readable;
  try {
    const read = await readIpp(request);
    head = read.head;
    document = Readable.from(read.document);
  } catch (error) {
    return encodeResponse(STATUS.badRequest, 1, message(error));
  }
  const job = () => {
    const uri = valueOf(head, 'job-uri');
    const id = Number(valueOf(head, 'job-id') ?? (typeof uri === 'string' ? uri.split('/').at(-1) : NaN));
    return printer.jobs.find((j) => j.id === id);
  };
  switch (head.code) {
    case OPERATION.getPrinter:
      return encodeResponse(STATUS.ok, head.requestId, 'successful-ok', [printerAttributes(printer, port)]);
    case OPERATION.validateJob:
      return encodeResponse(STATUS.ok, head.requestId, 'successful-ok');
    case OPERATION.createJob:
      return answerFor(head, port, () => printer.create(ticketOf(head, printer)));
    case OPERATION.sendDocument: {
      const found = job();
      if (!found) return encodeResponse(STATUS.notFound, head.requestId, 'There is no such job.');
      if (found.state !== JOB_STATE.held)
        return encodeResponse(STATUS.notPossible, head.requestId, 'The job has its document, or has ended.');
      return answerFor(head, port, () => printer.accept(found, document));
    }
    case OPERATION.printJob:
      return answerFor(head, port, () => printer.accept(printer.create(ticketOf(head, printer)), document));
    case OPERATION.getJob: {
      const found = job();
      return found
        ? encodeResponse(STATUS.ok, head.requestId, 'successful-ok', [jobAttributes(found, port)])
        : encodeResponse(STATUS.notFound, head.requestId, 'There is no such job.');
    }
    case OPERATION.getJobs: {
      // All, those that have ended, or those that have not: as the RFC has it where nothing is said.
      const which = valueOf(head, 'which-jobs') ?? 'not-completed';
      const ended = (one: PrinterJob) => one.state >= JOB_STATE.cancelled;
      const key = valueOf(head, 'zing-job-key');
      const jobs = printer.jobs.filter(
        (one) => (which === 'all' || ended(one) === (which === 'completed')) && (key === undefined || one.key === key)
      );
      return encodeResponse(
        STATUS.ok,
        head.requestId,
        'successful-ok',
        jobs.map((one) => jobAttributes(one, port))
      );
    }
    case OPERATION.cancelJob: {
      const found = job();
      if (!found) return encodeResponse(STATUS.notFound, head.requestId, 'There is no such job.');
      return printer.cancel(found.id)
        ? encodeResponse(STATUS.ok, head.requestId, 'successful-ok')
        : encodeResponse(STATUS.notPossible, head.requestId, 'The job has ended already.');
    }
    default:
      return encodeResponse(STATUS.unsupported, head.requestId, 'This operation is not known here.');
  }
}
