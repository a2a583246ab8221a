import { decode, encode, TAG, type IppAttribute, type IppGroup, type IppValue } from './ipp-wire';

/** The parts of IPP (RFC 8011) that the print queue speaks, and that the shop's own printers answer in. */

export { NotIpp, TAG, Unfinished, type IppAttribute, type IppGroup, type IppValue } from './ipp-wire';

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
/** What a printer for every program has beside those (PWG 5100.14). */
export const MORE_OPERATIONS = { cancelMyJobs: 0x39, closeJob: 0x3b, identifyPrinter: 0x3c } as const;
export const STATUS = {
  ok: 0x0000,
  okIgnored: 0x0001,
  badRequest: 0x0400,
  forbidden: 0x0401,
  notAuthorized: 0x0403,
  notPossible: 0x0404,
  notFound: 0x0406,
  tooLarge: 0x0408,
  formatUnknown: 0x040a,
  attributesUnknown: 0x040b,
  charsetUnknown: 0x040d,
  compressionUnknown: 0x040f,
  compressionError: 0x0410,
  internal: 0x0500,
  unsupported: 0x0501,
  versionUnknown: 0x0503,
  notAccepting: 0x0506,
  busy: 0x0507
} as const;
export const PRINTER_STATE = { idle: 3, processing: 4, stopped: 5 } as const;
export const JOB_STATE = { pending: 3, held: 4, processing: 5, stopped: 6, cancelled: 7, aborted: 8, completed: 9 } as const;

/** @param value a collection is said as a list in a list */
export const attribute = (tag: number, name: string, value: IppValue | IppValue[]): IppAttribute => ({
  tag,
  name,
  values: Array.isArray(value) ? (value as IppValue[]) : [value]
});

const head = (): IppAttribute[] => [
  attribute(TAG.charset, 'attributes-charset', 'utf-8'),
  attribute(TAG.language, 'attributes-natural-language', 'en')
];

export interface Version {
  major: number;
  minor: number;
}
const VERSION: Version = { major: 1, minor: 1 };

export const encodeRequest = (
  operationId: number,
  requestId: number,
  operation: IppAttribute[],
  groups: IppGroup[] = []
): Buffer =>
  encode({
    version: VERSION,
    code: operationId,
    requestId,
    groups: [{ tag: TAG.operation, attributes: [...head(), ...operation] }, ...groups]
  });

export const encodeResponse = (
  statusCode: number,
  requestId: number,
  message: string,
  groups: IppGroup[] = [],
  version: Version = VERSION
): Buffer =>
  encode({
    version,
    code: statusCode,
    requestId,
    groups: [{ tag: TAG.operation, attributes: [...head(), attribute(TAG.text, 'status-message', message)] }, ...groups]
  });

export interface Decoded {
  version: Version;
  /** The operation asked for, or the status answered. */
  code: number;
  requestId: number;
  groups: IppGroup[];
  /** Where the document begins. */
  bytes: number;
}

/** @throws NotIpp when the bytes are not a whole IPP message */
export const decodeRequest = (buffer: Buffer): Decoded => decode(buffer);

/** @throws NotIpp when the bytes are not a whole IPP message */
export const decodeResponse = (buffer: Buffer): Decoded => decode(buffer);

/** All values of an attribute in some groups. */
export const valuesOf = ({ groups }: Pick<Decoded, 'groups'>, name: string): IppValue[] =>
  groups.flatMap(({ attributes }) => memberValues(attributes, name));

/** The first of them. */
export const valueOf = (message: Pick<Decoded, 'groups'>, name: string): IppValue | undefined => valuesOf(message, name)[0];

/** Values of an attribute of a group, or of a member of a collection. */
export const memberValues = (attributes: readonly IppAttribute[], name: string): IppValue[] =>
  attributes.flatMap((one) => (one.name === name ? one.values : []));
