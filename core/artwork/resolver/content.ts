/** Reading a content stream operator by operator (ISO 32000-2, 7.2 and 7.8), without running it. */

/** One operator and what stands before it, as places in the stream. */
export interface Operator {
  name: string;
  /** Where its first operand begins, or it itself. */
  from: number;
  /** Behind it; for a picture in the content, behind its data. */
  to: number;
  /** The last operand where that is a name, without its slash. */
  operand: string | undefined;
}

const SPACE = new Set([0, 9, 10, 12, 13, 32]);
const DELIMITER = new Set([...'()<>[]{}/%'].map((c) => c.charCodeAt(0)));
const code = (c: string) => c.charCodeAt(0);
const [OPEN, CLOSE, LESS, MORE, SLASH, PERCENT, BACKSLASH] = [...'()<>/%\\'].map(code) as [
  number,
  number,
  number,
  number,
  number,
  number,
  number
];
const isRegular = (byte: number) => !SPACE.has(byte) && !DELIMITER.has(byte);
/** What a figure is made of; a word that begins otherwise is an operator, or true, false and null. */
const isFigure = (byte: number) => (byte >= 48 && byte <= 57) || byte === 43 || byte === 45 || byte === 46;
const WORDS = new Set(['true', 'false', 'null']);

/** Calls `act` for each operator. Broken streams are read as far as they make sense; what is no operator is passed by. */
export function eachOperator(bytes: Uint8Array, act: (operator: Operator) => void): void {
  const { length } = bytes;
  let i = 0;
  let from = -1;
  let operand: string | undefined;
  const regularEnd = (start: number) => {
    let end = start;
    while (end < length && isRegular(bytes[end]!)) end++;
    return end;
  };
  while (i < length) {
    const byte = bytes[i]!;
    if (SPACE.has(byte)) {
      i++;
      continue;
    }
    if (byte === PERCENT) {
      while (i < length && bytes[i] !== 10 && bytes[i] !== 13) i++;
      continue;
    }
    if (from < 0) from = i;
    if (byte === SLASH) {
      const end = regularEnd(i + 1);
      operand = nameOf(bytes.subarray(i + 1, end));
      i = end;
    } else if (byte === OPEN) {
      i = stringEnd(bytes, i);
      operand = undefined;
    } else if (byte === LESS && bytes[i + 1] !== LESS) {
      while (i < length && bytes[i] !== MORE) i++;
      i++;
      operand = undefined;
    } else if (!isRegular(byte)) {
      i++;
      operand = undefined;
    } else {
      const end = regularEnd(i);
      if (isFigure(byte)) operand = undefined;
      else {
        const name = latin(bytes.subarray(i, end));
        if (WORDS.has(name)) operand = undefined;
        else {
          const to = name === 'ID' ? pictureEnd(bytes, end) : end;
          act({ name, from, to, operand });
          from = -1;
          operand = undefined;
          i = to;
          continue;
        }
      }
      i = end;
    }
  }
}

const latin = (bytes: Uint8Array): string => String.fromCharCode(...bytes.subarray(0, 200));

/** A name with its #xx read. */
function nameOf(bytes: Uint8Array): string {
  return latin(bytes).replace(/#([0-9a-fA-F]{2})/g, (_, hex: string) => String.fromCharCode(parseInt(hex, 16)));
}

/** Behind the bracket that ends a string; brackets in it pair up. */
function stringEnd(bytes: Uint8Array, start: number): number {
  let depth = 0;
  for (let i = start; i < bytes.length; i++) {
    if (bytes[i] === BACKSLASH) i++;
    else if (bytes[i] === OPEN) depth++;
    else if (bytes[i] === CLOSE && --depth === 0) return i + 1;
  }
  return bytes.length;
}

/** So many bytes behind a supposed end of a picture must be text. */
const TEXT_AFTER = 12;

/** Behind the `EI` of a picture whose data begin at `start`. Data may hold those letters: what follows must look like content. */
function pictureEnd(bytes: Uint8Array, start: number): number {
  for (let i = start + 1; i + 2 < bytes.length + 1; i++) {
    if (bytes[i] !== 69 || bytes[i + 1] !== 73 || !SPACE.has(bytes[i - 1]!)) continue;
    const after = bytes.subarray(i + 2, i + 2 + TEXT_AFTER);
    if (after.length > 0 && isRegular(after[0]!)) continue;
    if (after.every((byte) => (byte >= 32 && byte < 127) || SPACE.has(byte))) return i + 2;
  }
  return bytes.length;
}
