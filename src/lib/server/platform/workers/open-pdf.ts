import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import type { PDFDocument } from '$core/interpreter/interpreter';
import { openPdf } from '$core/artwork/page';

export interface OpenedPdf {
  document: PDFDocument;
  close: () => void;
}

/** Opens a PDF file without reading it whole. */
export function openPdfFile(path: string): OpenedPdf {
  const handle = openSync(path, 'r');
  try {
    const document = openPdf((into, position) => readSync(handle, into, 0, into.length, position), fstatSync(handle).size);
    return {
      document,
      close: () => {
        document.destroy();
        closeSync(handle);
      }
    };
  } catch (error) {
    closeSync(handle);
    throw error;
  }
}
