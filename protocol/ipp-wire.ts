/**
 * IPP messages as bytes.
 *
 * @see RFC 8010, and RFC 8011 section 5.1 for what the kinds of values are
 */

export const TAG = {
  operation: 0x01,
  job: 0x02,
  printer: 0x04,
  unsupported: 0x05,
  unsupportedValue: 0x10,
  unknown: 0x12,
  noValue: 0x13,
  integer: 0x21,
  boolean: 0x22,
  enum: 0x23,
  octets: 0x30,
  dateTime: 0x31,
  resolution: 0x32,
  range: 0x33,
  collection: 0x34,
  textWithLanguage: 0x35,
  nameWithLanguage: 0x36,
  text: 0x41,
  name: 0x42,
  keyword: 0x44,
  uri: 0x45,
  charset: 0x47,
  language: 0x48,
  mimeType: 0x49
} as const;

const END_OF_ATTRIBUTES = 0x03;
const END_OF_COLLECTION = 0x37;
const MEMBER_NAME = 0x4a;
/** Tags below begin a group; those up to the next say that there is no value. */
const FIRST_VALUE = 0x10;
const LAST_WITHOUT = 0x1f;

export interface Range {
  from: number;
  to: number;
}
/** Dots an inch. */
export interface Resolution {
  across: number;
  down: number;
}
/** Null where a tag says that there is none. A collection is its members. */
export type IppValue = string | number | boolean | Date | Range | Resolution | Uint8Array | null | IppAttribute[];

export interface IppAttribute {
  tag: number;
  name: string;
  values: IppValue[];
}
export interface IppGroup {
  tag: number;
  attributes: IppAttribute[];
}
export interface IppMessage {
  version: { major: number; minor: number };
  /** The operation that is asked for, or the status that is answered. */
  code: number;
  requestId: number;
  groups: IppGroup[];
}

/** What cannot be read as a message, however many bytes may follow. */
export class NotIpp extends Error {}
/** It goes on behind the bytes that are there. */
export class Unfinished extends NotIpp {}

const DPI = 3;
const DOTS_PER_CM = 4;
/** Collections in collections. */
const DEEPEST = 8;
const MOST_VALUES = 20_000;

class Writer {
  readonly #parts: Buffer[] = [];

  u8(value: number): void {
    this.#parts.push(Buffer.from([value]));
  }

  u16(value: number): void {
    const part = Buffer.alloc(2);
    part.writeUInt16BE(value);
    this.#parts.push(part);
  }

  i32(value: number): void {
    const part = Buffer.alloc(4);
    part.writeInt32BE(value);
    this.#parts.push(part);
  }

  /** With its length before. */
  bytes(bytes: Uint8Array): void {
    this.u16(bytes.length);
    this.#parts.push(Buffer.from(bytes));
  }

  text(text: string): void {
    this.bytes(Buffer.from(text, 'utf8'));
  }

  end(): Buffer {
    return Buffer.concat(this.#parts);
  }
}

/** @throws Error for a value that its tag cannot have */
export function encode({ version, code, requestId, groups }: IppMessage): Buffer {
  const out = new Writer();
  out.u8(version.major);
  out.u8(version.minor);
  out.u16(code);
  out.i32(requestId);
  for (const { tag, attributes } of groups) {
    out.u8(tag);
    for (const attribute of attributes)
      attribute.values.forEach((value, i) => writeValue(out, attribute.tag, i === 0 ? attribute.name : '', value));
  }
  out.u8(END_OF_ATTRIBUTES);
  return out.end();
}

function writeValue(out: Writer, tag: number, name: string, value: IppValue): void {
  out.u8(tag);
  out.text(name);
  if (tag !== TAG.collection) return out.bytes(bytesOf(tag, value));
  out.u16(0);
  for (const member of value as IppAttribute[]) {
    out.u8(MEMBER_NAME);
    out.u16(0);
    out.text(member.name);
    for (const one of member.values) writeValue(out, member.tag, '', one);
  }
  out.u8(END_OF_COLLECTION);
  out.u16(0);
  out.u16(0);
}

function bytesOf(tag: number, value: IppValue): Uint8Array {
  if (tag <= LAST_WITHOUT) return new Uint8Array();
  if (typeof value === 'string') return Buffer.from(value, 'utf8');
  if (typeof value === 'boolean') return Uint8Array.of(value ? 1 : 0);
  if (typeof value === 'number') {
    const bytes = Buffer.alloc(4);
    bytes.writeInt32BE(value);
    return bytes;
  }
  if (value instanceof Uint8Array) return value;
  if (value instanceof Date) {
    const bytes = Buffer.alloc(11);
    bytes.writeUInt16BE(value.getUTCFullYear());
    const rest = [value.getUTCMonth() + 1, value.getUTCDate(), value.getUTCHours(), value.getUTCMinutes(), value.getUTCSeconds()];
    [...rest, Math.floor(value.getUTCMilliseconds() / 100), 0x2b, 0, 0].forEach((byte, i) => bytes.writeUInt8(byte, 2 + i));
    return bytes;
  }
  if (value !== null && 'from' in value) {
    const bytes = Buffer.alloc(8);
    bytes.writeInt32BE(value.from);
    bytes.writeInt32BE(value.to, 4);
    return bytes;
  }
  if (value !== null && 'across' in value) {
    const bytes = Buffer.alloc(9);
    bytes.writeInt32BE(value.across);
    bytes.writeInt32BE(value.down, 4);
    bytes.writeUInt8(DPI, 8);
    return bytes;
  }
  throw new Error(`IPP tag 0x${tag.toString(16)} has no such value.`);
}

/** Reads on, and never beyond the end. */
class Reader {
  at = 0;
  values = 0;
  readonly #buffer: Buffer;

  constructor(buffer: Buffer) {
    this.#buffer = buffer;
  }

  /** The next bytes, and past them. */
  take(length: number): Buffer {
    if (this.at + length > this.#buffer.length) throw new Unfinished('This is not a whole IPP message.');
    return this.#buffer.subarray(this.at, (this.at += length));
  }

  u8(): number {
    return this.take(1).readUInt8();
  }

  peek(): number {
    const tag = this.u8();
    this.at--;
    return tag;
  }

  bytes(): Buffer {
    return this.take(this.take(2).readUInt16BE());
  }
}

/**
 * @returns the message, and where it ends in the buffer: a document may follow
 * @throws Unfinished when it goes on behind the buffer, NotIpp when it is none
 */
export function decode(buffer: Buffer): IppMessage & { bytes: number } {
  const from = new Reader(buffer);
  const version = { major: from.u8(), minor: from.u8() };
  const code = from.take(2).readUInt16BE();
  const requestId = from.take(4).readInt32BE();
  const groups: IppGroup[] = [];
  for (let tag = from.u8(); tag !== END_OF_ATTRIBUTES; tag = from.u8()) {
    if (tag >= FIRST_VALUE || tag === 0) throw new NotIpp('A value stands in no group of an IPP message.');
    const attributes: IppAttribute[] = [];
    while (from.peek() >= FIRST_VALUE) readAttribute(from, attributes);
    groups.push({ tag, attributes });
  }
  return { version, code, requestId, groups, bytes: from.at };
}

/** Reads a value: of a new attribute, or one more of the last. */
function readAttribute(from: Reader, attributes: IppAttribute[]): void {
  const tag = from.u8();
  const name = from.bytes().toString('utf8');
  const value = readValue(from, tag, 0);
  const last = attributes.at(-1);
  if (name !== '') attributes.push({ tag, name, values: [value] });
  else if (last) last.values.push(value);
  else throw new NotIpp('A value of an IPP message has no name.');
}

function readValue(from: Reader, tag: number, depth: number): IppValue {
  if (++from.values > MOST_VALUES) throw new NotIpp(`An IPP message has at most ${MOST_VALUES} values.`);
  const bytes = from.bytes();
  if (tag === TAG.collection) return readCollection(from, depth);
  const must = (length: number) => {
    if (bytes.length !== length) throw new NotIpp(`A value of an IPP message has ${bytes.length} bytes in place of ${length}.`);
    return bytes;
  };
  switch (tag) {
    case TAG.integer:
    case TAG.enum:
      return must(4).readInt32BE();
    case TAG.boolean:
      return must(1)[0] !== 0;
    case TAG.range:
      return { from: must(8).readInt32BE(), to: bytes.readInt32BE(4) };
    case TAG.resolution: {
      const times = must(9)[8] === DOTS_PER_CM ? 2.54 : 1;
      return { across: bytes.readInt32BE() * times, down: bytes.readInt32BE(4) * times };
    }
    case TAG.dateTime:
      return readDate(must(11));
    case TAG.octets:
      return Uint8Array.from(bytes);
    case TAG.textWithLanguage:
    case TAG.nameWithLanguage: {
      // The language, then the text, each with its length.
      const inner = new Reader(bytes);
      inner.bytes();
      return inner.bytes().toString('utf8');
    }
    default:
      return tag <= LAST_WITHOUT ? null : bytes.toString('utf8');
  }
}

function readDate(bytes: Buffer): Date {
  const [month, day, hour, minute, second, tenth, sign, hours, minutes] = bytes.subarray(2) as unknown as number[];
  const away = (sign === 0x2d ? -1 : 1) * (hours! * 60 + minutes!) * 60_000;
  return new Date(Date.UTC(bytes.readUInt16BE(), month! - 1, day, hour, minute, second, tenth! * 100) - away);
}

function readCollection(from: Reader, depth: number): IppAttribute[] {
  if (depth >= DEEPEST) throw new NotIpp('Collections of an IPP message lie too deep in each other.');
  const members: IppAttribute[] = [];
  let name: string | undefined;
  for (;;) {
    const tag = from.u8();
    from.bytes();
    if (tag === END_OF_COLLECTION) {
      from.bytes();
      return members;
    }
    if (tag < FIRST_VALUE) throw new NotIpp('A collection of an IPP message has no end.');
    if (tag === MEMBER_NAME) {
      name = from.bytes().toString('utf8');
      continue;
    }
    const value = readValue(from, tag, depth + 1);
    if (name !== undefined) members.push({ tag, name, values: [value] });
    else if (members.length > 0) members.at(-1)!.values.push(value);
    else throw new NotIpp('A member of an IPP collection has no name.');
    name = undefined;
  }
}
