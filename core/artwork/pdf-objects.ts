import { zlibSync } from 'fflate';

/** Writes the objects of a PDF 1.6 one after another, and its table of where they are. */
export class PdfObjects {
  readonly #parts: Uint8Array[] = [];
  readonly #offsets: number[] = [0];
  readonly #encoder = new TextEncoder();
  #length = 0;

  constructor() {
    this.#write('%PDF-1.6\n');
  }

  /** A number for an object that is written later. */
  reserve(): number {
    return this.#offsets.push(0) - 1;
  }

  /** Writes an object, a stream where there is one. @returns its number */
  add(dictionary: string, stream?: Uint8Array): number {
    const number = this.reserve();
    this.put(number, dictionary, stream);
    return number;
  }

  put(number: number, dictionary: string, stream?: Uint8Array): void {
    this.#offsets[number] = this.#length;
    this.#write(`${number} 0 obj\n`);
    if (stream) {
      this.#write(`<<${dictionary}/Length ${stream.length}>>\nstream\n`);
      this.#write(stream);
      this.#write('\nendstream\nendobj\n');
    } else this.#write(`<<${dictionary}>>\nendobj\n`);
  }

  /** Writes operators as a deflated stream. */
  putContent(number: number, dictionary: string, operators: string): void {
    this.put(number, `${dictionary}/Filter/FlateDecode`, zlibSync(this.#encoder.encode(operators), { level: 3 }));
  }

  /** All of it. Nothing can be added afterwards. */
  finish(root: number): Uint8Array {
    const start = this.#length;
    const rows = this.#offsets.map((at, number) =>
      number === 0 ? '0000000000 65535 f \n' : `${String(at).padStart(10, '0')} 00000 n \n`
    );
    this.#write(
      `xref\n0 ${rows.length}\n${rows.join('')}trailer\n<</Size ${rows.length}/Root ${root} 0 R>>\nstartxref\n${start}\n%%EOF\n`
    );
    const out = new Uint8Array(this.#length);
    let at = 0;
    for (const part of this.#parts) {
      out.set(part, at);
      at += part.length;
    }
    return out;
  }

  #write(part: Uint8Array | string): void {
    const bytes = typeof part === 'string' ? this.#encoder.encode(part) : part;
    this.#parts.push(bytes);
    this.#length += bytes.length;
  }
}

/** A name as PDF writes it. */
export const pdfName = (name: string): string =>
  `/${[...new TextEncoder().encode(name)].map((byte) => (/[A-Za-z0-9_.-]/.test(String.fromCharCode(byte)) ? String.fromCharCode(byte) : `#${byte.toString(16).padStart(2, '0')}`)).join('')}`;

/** A figure as PDF writes it: never with an exponent. */
export function pdfNumber(value: number, decimals = 4): string {
  if (!Number.isFinite(value)) return '0';
  const text = value.toFixed(decimals);
  return text.includes('.') ? text.replace(/\.?0+$/, '') || '0' : text;
}
