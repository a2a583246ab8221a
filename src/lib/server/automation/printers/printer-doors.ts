import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { BlockList, isIPv6 } from 'node:net';
import { hostname, networkInterfaces } from 'node:os';
import type { Logger } from 'pino';
import sharp from 'sharp';
import { NotIpp } from '$protocol/ipp';
import { readIpp } from '$protocol/ipp-http';
import type { Events } from '../../platform/events';
import { sentence } from '../../platform/problem';
import { announce, type Announced } from './announcing';
import type { KeptPrinter, NetworkPrinters } from './network-printers';
import type { NetworkJobs } from './network-jobs';
import { notIpp, type PrinterAnswers } from './printer-answers';

interface Needs {
  events: Events;
  log: Logger;
  answers: PrinterAnswers;
  jobs: NetworkJobs;
  printers: NetworkPrinters;
}

/** How a printer is. */
export interface PrinterState {
  id: number;
  isThere: boolean;
  /** What hinders it, as a sentence. */
  trouble: string | null;
  /** Jobs that have not ended. */
  open: number;
}

interface Door {
  kept: KeptPrinter;
  server: Server;
  announced: Announced | undefined;
  isThere: boolean;
  trouble: string | null;
}

const PATH = '/ipp/print';
/** One that sends nothing for so long is let go. */
const IDLE_MS = 60_000;
const WHOLE_MS = 3_600_000;
/** Programs connect first and ask later, print elsewhere meanwhile, and do not try again when they were let go. */
const SILENT_MS = 300_000;
/** What is still on its way when it is refused is read on for so long. */
const LINGER_MS = 2000;
const MOST_CONNECTIONS = 200;
/** Of those who are not on the list, and have not said the key yet: they take no place of others. */
const MOST_STRANGERS = 100;

/** Each printer at a port of its own, and nothing else there. */
export class PrinterDoors {
  readonly #needs: Needs;
  readonly #doors = new Map<number, Door>();
  #settling: Promise<void> = Promise.resolve();
  #stopped = true;

  constructor(needs: Needs) {
    this.#needs = needs;
    needs.events.on('printers changed', () => void this.#settle());
    // What was printed stays printed, whatever becomes of its dockets.
    needs.events.on('print ended', () => needs.jobs.settleAll());
  }

  start(): Promise<void> {
    this.#stopped = false;
    return this.#settle();
  }

  async stop(): Promise<void> {
    this.#stopped = true;
    await this.#settling;
    await Promise.all([...this.#doors.keys()].map((id) => this.#close(id)));
  }

  states(): PrinterState[] {
    return [...this.#doors.values()].map(({ kept, isThere, trouble }) => ({
      id: kept.id,
      isThere,
      trouble,
      open: this.#needs.jobs.open(kept.id)
    }));
  }

  /** When all that was changed is so. */
  settled(): Promise<void> {
    return this.#settling;
  }

  #settle(): Promise<void> {
    this.#settling = this.#settling
      .then(() => this.#settleOnce())
      .catch((error: unknown) => this.#needs.log.error({ error: sentence(error) }, 'printers are not there'));
    return this.#settling;
  }

  async #settleOnce(): Promise<void> {
    if (this.#stopped) return;
    const wanted = new Map(this.#needs.printers.list().flatMap((kept) => (kept.printer.isOn ? [[kept.id, kept]] : [])));
    for (const [id, { kept }] of [...this.#doors]) if (wanted.get(id)?.version !== kept.version) await this.#close(id);
    for (const [id, kept] of wanted) if (!this.#doors.has(id)) await this.#open(kept);
    this.#needs.events.changed('arrivals');
  }

  async #close(id: number): Promise<void> {
    const door = this.#doors.get(id);
    if (!door) return;
    this.#doors.delete(id);
    await door.announced?.end();
    if (!door.isThere) return;
    const closed = new Promise((resolve) => door.server.close(resolve));
    door.server.closeAllConnections();
    await closed;
  }

  async #open(kept: KeptPrinter): Promise<void> {
    const { log } = this.#needs;
    const server = createServer({ requestTimeout: WHOLE_MS, headersTimeout: SILENT_MS, keepAliveTimeout: IDLE_MS });
    const door: Door = { kept, server, announced: undefined, isThere: false, trouble: null };
    this.#doors.set(kept.id, door);
    server.maxConnections = MOST_CONNECTIONS;
    let strangers = 0;
    server.on('connection', (socket) => {
      if (wayIn(kept, socket.remoteAddress ?? '', '/') !== undefined) return;
      strangers++;
      socket.once('close', () => strangers--);
      if (strangers > MOST_STRANGERS) socket.destroy();
    });
    server.on('request', (request, response) => {
      request.setTimeout(IDLE_MS, () => request.destroy());
      this.#serve(kept, request, response).catch((error: unknown) => {
        log.info({ printer: kept.id, error: sentence(error) }, 'broken off');
        response.destroy();
      });
    });
    await new Promise<void>((resolve) => {
      server.once('error', (error) => {
        door.trouble = whyNot(error, kept.printer.port);
        resolve();
      });
      server.listen(kept.printer.port, kept.printer.isOpen ? undefined : '127.0.0.1', () => {
        door.isThere = true;
        resolve();
      });
    });
    server.on('error', (error) => log.error({ printer: kept.id, error: sentence(error) }, 'a printer’s port'));
    if (door.isThere && kept.printer.isAnnounced)
      door.announced = announce(kept, PATH, (error) => {
        door.trouble = `It cannot be announced: ${sentence(error)}`;
        this.#needs.events.changed('arrivals');
      });
  }

  async #serve(kept: KeptPrinter, request: IncomingMessage, response: ServerResponse): Promise<void> {
    const { printer } = kept;
    const { pathname } = new URL(request.url ?? '/', 'http://printer');
    // Pages in browsers say where they are from; programs that print do not.
    if (request.headers.origin !== undefined || request.headers['sec-fetch-site'] === 'cross-site')
      return end(request, response, 403, 'text/plain', 'Pages do not print here.');
    const way = wayIn(kept, request.socket.remoteAddress ?? '', pathname);
    if (way === undefined) return end(request, response, 403, 'text/plain', 'You may not print here. Ask the shop.');
    if (request.method === 'GET' && pathname === '/')
      return end(request, response, 200, 'text/plain; charset=utf-8', `${printer.name}: a printer of Zing Mast.\n`);
    if (request.method === 'GET' && pathname === '/icon.png') return end(request, response, 200, 'image/png', await icon());
    if (request.method !== 'POST' || !pathname.startsWith(PATH))
      return end(request, response, 404, 'text/plain', 'There is nothing here.');
    if (!/^application\/ipp\b/i.test(request.headers['content-type'] ?? ''))
      return end(request, response, 415, 'text/plain', 'Printers are spoken with in IPP.');
    let read: Awaited<ReturnType<typeof readIpp>>;
    try {
      read = await readIpp(request);
    } catch (error) {
      if (!(error instanceof NotIpp)) throw error;
      return end(request, response, 200, 'application/ipp', notIpp(error.message));
    }
    const host = /^[\w.:[\]-]{1,255}$/.test(request.headers.host ?? '') ? request.headers.host! : `127.0.0.1:${printer.port}`;
    end(request, response, 200, 'application/ipp', await this.#needs.answers.answer({ kept, ...read, host, path: way }));
  }
}

/**
 * The path that a printer is reached by from an address; nothing for who may not.
 *
 * @param pathname that was asked for, whatever it is; with the key in it, whoever asks may
 */
export function wayIn({ printer }: Pick<KeptPrinter, 'printer'>, from: string, pathname: string): string | undefined {
  const address = from.replace(/^::ffff:(?=\d)/, '');
  const keyed = `${PATH}/${printer.key}`;
  const isKeyed = printer.key !== '' && (pathname === keyed || pathname.startsWith(`${keyed}/`));
  if (isKeyed) return keyed;
  const isLocal = address === '::1' || address.startsWith('127.');
  return isLocal || isListed(printer.addresses, address) ? PATH : undefined;
}

/** Where other machines reach this one; its name, where it has no address of a network. */
export const outerAddress = (): string =>
  Object.values(networkInterfaces())
    .flatMap((all) => all ?? [])
    .find(({ internal, family }) => !internal && family === 'IPv4')?.address ?? hostname();

function isListed(addresses: readonly string[], address: string): boolean {
  const list = new BlockList();
  for (const one of addresses) {
    const [net, bits] = one.split('/');
    const family = isIPv6(net!) ? 'ipv6' : 'ipv4';
    if (bits === undefined) list.addAddress(net!, family);
    else list.addSubnet(net!, Number(bits), family);
  }
  return list.check(address, isIPv6(address) ? 'ipv6' : 'ipv4');
}

function end(request: IncomingMessage, response: ServerResponse, status: number, type: string, body: string | Buffer): void {
  response.writeHead(status, {
    'content-type': type,
    'content-length': Buffer.byteLength(body),
    'x-content-type-options': 'nosniff'
  });
  // What is refused while it is still coming is read on for a moment: a port that is shut on it would lose the answer too.
  response.end(body, () => {
    if (request.complete) return;
    // Whoever read it bit by bit does no more.
    request.removeAllListeners('readable').resume();
    setTimeout(() => !request.complete && request.destroy(), LINGER_MS).unref();
  });
}

function whyNot(error: unknown, port: number): string {
  const code = error instanceof Error && 'code' in error ? error.code : undefined;
  if (code === 'EADDRINUSE') return `Port ${port} is taken by another program. Choose another port.`;
  if (code === 'EACCES') return `The server may not listen at port ${port}. Choose another port.`;
  return sentence(error);
}

/** The picture that programs show for it. */
let drawn: Promise<Buffer> | undefined;
const icon = (): Promise<Buffer> =>
  (drawn ??= sharp(
    Buffer.from(
      '<svg xmlns="http://www.w3.org/2000/svg" width="128" height="128"><path d="M8 40h112v48H8z" fill="#334155"/><path d="M24 64h80v52H24z" fill="#f8fafc" stroke="#334155" stroke-width="4"/><path d="M36 80h56v8H36zm0 16h36v8H36z" fill="#0e7490"/><path d="M28 20h72v20H28z" fill="#94a3b8"/></svg>'
    )
  )
    .png()
    .toBuffer());
