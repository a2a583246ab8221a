import type { PDFDocument } from '../../core/interpreter/interpreter';
import { openPdf } from '../../core/artwork/page';

/** A PDF in memory, opened by the interpreter; the caller destroys it. */
export const openBytes = (bytes: Uint8Array): PDFDocument =>
  openPdf((into, position) => {
    const part = bytes.subarray(position, position + into.length);
    into.set(part);
    return part.length;
  }, bytes.length);
