import ipp, { type IppAttribute, type IppGroup, type IppMessage } from 'ipp-encoder';

/** The parts of IPP (RFC 8010, RFC 8011) that the print queue speaks, over the encoder package. */

export const TAG = {
  operation: 0x01,
  job: 0x02,
  printer: 0x04,
  integer: 0x21,
  boolean: 0x22,
  enum: 0x23,
  text: 0x41,
  name: 0x42,
  keyword: 0x44,
  uri: 0x45,
  charset: 0x47,
  language: 0x48,
  mimeType: 0x49
} as const;

export const OPERATION = {
  printJob: 0x02,
  validateJob: 0x04,
  createJob: 0x05,
  sendDocument: 0x06,
  cancelJob: 0x08,
  getJob: 0x09,
  getJobs: 0x0a,
  getPrinter: 0x0b
} as const;
export const STATUS = {
  ok: 0x0000,
  badRequest: 0x0400,
  notFound: 0x0406,
  notPossible: 0x0404,
  formatUnknown: 0x040a,
  unsupported: 0x0501,
  busy: 0x0507
} as const;
export const PRINTER_STATE = { idle: 3, processing: 4, stopped: 5 } as const;
export const JOB_STATE = { pending: 3, held: 4, processing: 5, stopped: 6, cancelled: 7, aborted: 8, completed: 9 } as const;

export type IppValue = string | number | boolean;

export const attribute = (tag: number, name: string, value: IppValue | IppValue[]): IppAttribute => ({ tag, name, value });

const head = (): IppAttribute[] => [
  attribute(TAG.charset, 'attributes-charset', 'utf-8'),
  attribute(TAG.language, 'attributes-natural-language', 'en')
];

const VERSION = { major: 1, minor: 1 };

export function encodeRequest(
  operationId: number,
  requestId: number,
  operation: IppAttribute[],
  groups: IppGroup[] = []
): Buffer {
  return ipp.request.encode({
    version: VERSION,
    operationId,
    requestId,
    groups: [{ tag: TAG.operation, attributes: [...head(), ...operation] }, ...groups]
  });
}

export function encodeResponse(statusCode: number, requestId: number, message: string, groups: IppGroup[] = []): Buffer {
  return ipp.response.encode({
    version: VERSION,
    statusCode,
    requestId,
    groups: [{ tag: TAG.operation, attributes: [...head(), attribute(TAG.text, 'status-message', message)] }, ...groups]
  });
}

export interface Decoded {
  /** The operation asked for, or the status answered. */
  code: number;
  requestId: number;
  groups: { tag: number; values: Map<string, IppValue[]> }[];
  /** Where the document begins. */
  bytes: number;
}

function decoded(message: IppMessage, bytes: number): Decoded {
  return {
    code: message.operationId ?? message.statusCode ?? -1,
    requestId: message.requestId,
    bytes,
    groups: message.groups.map((group) => ({
      tag: group.tag,
      values: new Map(
        group.attributes.map(({ name, value }) => [
          name,
          (Array.isArray(value) ? value : [value]).filter((v): v is IppValue => typeof v !== 'object')
        ])
      )
    }))
  };
}

/** @throws when the bytes are not a whole IPP message */
export const decodeRequest = (buffer: Buffer): Decoded =>
  inWords(() => decoded(ipp.request.decode(buffer), ipp.request.decode.bytes));

/** @throws when the bytes are not a whole IPP message */
export const decodeResponse = (buffer: Buffer): Decoded =>
  inWords(() => decoded(ipp.response.decode(buffer), ipp.response.decode.bytes));

/** The decoder runs into whatever is missing; that is one thing for people. */
function inWords<T>(decode: () => T): T {
  try {
    return decode();
  } catch (error) {
    throw new Error('This is not a whole IPP message.', { cause: error });
  }
}

/** The first value of an attribute in any group. */
export function valueOf(message: Decoded, name: string): IppValue | undefined {
  for (const group of message.groups) {
    const value = group.values.get(name)?.[0];
    if (value !== undefined) return value;
  }
  return undefined;
}

export function valuesOf(message: Decoded, name: string): IppValue[] {
  return message.groups.flatMap((group) => group.values.get(name) ?? []);
}
