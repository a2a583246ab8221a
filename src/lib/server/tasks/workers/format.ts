import { open } from 'node:fs/promises';
import { ArtworkError, type ArtworkFacts } from '$core/artwork/facts';

const HEAD_BYTES = 4096;

/** Tells a format by its first bytes; the file's name says nothing. @throws ArtworkError for what is not known */
export async function formatOf(path: string): Promise<ArtworkFacts['format']> {
  const file = await open(path, 'r');
  const head = Buffer.alloc(HEAD_BYTES);
  let length: number;
  try {
    length = (await file.read(head, 0, HEAD_BYTES, 0)).bytesRead;
  } finally {
    await file.close();
  }
  const bytes = head.subarray(0, length);
  const latin = bytes.toString('latin1');
  if (length === 0) throw new ArtworkError('The file is empty.');
  if (latin.slice(0, 1024).includes('%PDF-')) return 'PDF';
  if (latin.startsWith('\x89PNG\r\n\x1a\n')) return 'PNG';
  if (latin.startsWith('\xff\xd8\xff')) return 'JPEG';
  if (/^(II[*+]\0|MM\0[*+])/.test(latin)) return 'TIFF';
  if (latin.startsWith('%!PS') || latin.startsWith('\xc5\xd0\xd3\xc6')) return 'PostScript';
  const text = bytes.toString('utf8');
  if (/<svg[\s>]/.test(text) || (/^\s*<\?xml/.test(text) && /svg/i.test(text))) return 'SVG';
  throw new ArtworkError('This format is not known. Artwork comes as PDF, AI with a PDF inside, EPS, SVG, PNG, JPEG or TIFF.');
}
