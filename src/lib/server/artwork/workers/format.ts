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
  const format = knownFormat(bytes, latin);
  if (format) return format;
  const instead = Object.entries(INSTEAD).find(([, tells]) => tells(latin))?.[0];
  throw new ArtworkError(
    instead ??
      'This format is not known. Artwork comes as PDF, AI with a PDF inside, EPS, SVG, PNG, JPEG, TIFF, WebP, AVIF, GIF, JPEG 2000, BMP or PWG raster.'
  );
}

function knownFormat(bytes: Buffer, latin: string): ArtworkFacts['format'] | undefined {
  if (latin.slice(0, 1024).includes('%PDF-')) return 'PDF';
  if (latin.startsWith('\x89PNG\r\n\x1a\n')) return 'PNG';
  if (latin.startsWith('\xff\xd8\xff')) return 'JPEG';
  if (/^(II[*+]\0|MM\0[*+])/.test(latin)) return 'TIFF';
  if (latin.startsWith('%!PS') || latin.startsWith('\x04%!PS') || latin.startsWith('\xc5\xd0\xd3\xc6')) return 'PostScript';
  if (latin.startsWith('RIFF') && latin.slice(8, 12) === 'WEBP') return 'WebP';
  if (latin.slice(4, 8) === 'ftyp' && /avi[fs]/.test(latin.slice(8, 40))) return 'AVIF';
  if (/^GIF8[79]a/.test(latin)) return 'GIF';
  if (latin.startsWith('\0\0\0\x0cjP  ') || latin.startsWith('\xff\x4f\xff\x51')) return 'JPEG 2000';
  if (latin.startsWith('RaS2')) return 'PWG raster';
  if (latin.startsWith('BM') && bytes.length >= 26 && bytes.readUInt32LE(14) < 200) return 'BMP';
  // Packed, it may be a drawing too: its reader tells.
  if (latin.startsWith('\x1f\x8b')) return 'SVG';
  return isSvg(bytes) ? 'SVG' : undefined;
}

/** An SVG may begin with a mark, comments of any length and abbreviations, and stand in any encoding. */
function isSvg(bytes: Buffer): boolean {
  const wide = bytes.subarray(0, 4).includes(0);
  const big = bytes[0] === 0xfe || bytes[0] === 0;
  const text = wide ? new TextDecoder(big ? 'utf-16be' : 'utf-16le').decode(bytes) : bytes.toString('utf8');
  const bare = text.replace(/^[\s\ufeff]+/, '');
  if (/^<!doctype\s+html|^<html/i.test(bare)) return false;
  if (/<(?:[\w-]+:)?svg[\s>]/.test(bare)) return true;
  // Only a beginning was read: a heading, or a comment that has not ended, may stand before the root.
  return /^<\?xml|^<!DOCTYPE\s+svg/.test(bare) || (bare.startsWith('<!--') && !bare.includes('-->'));
}

/** What is often sent and cannot be read, and what to save instead. */
const INSTEAD: Record<string, (head: string) => boolean> = {
  'HEIC pictures cannot be read. Save it as JPEG or PNG.': (head) =>
    head.slice(4, 8) === 'ftyp' && /hei[cxms]|hev[cx]|mif1|msf1/.test(head.slice(8, 40)),
  'This is a layered picture (PSD or PSB). Save it as TIFF or PDF with its layers made one, or as PNG.': (head) =>
    head.startsWith('8BPS'),
  'This is a layered picture (XCF). Export it as TIFF or PNG.': (head) => head.startsWith('gimp xcf'),
  'This is a packed folder or an office document. Unpack it, or save the document as PDF.': (head) =>
    head.startsWith('PK\x03\x04'),
  'This is an office document or a drawing that only its own program can read. Save it as PDF.': (head) =>
    head.startsWith('\xd0\xcf\x11\xe0') || (head.startsWith('RIFF') && head.slice(8, 11) === 'CDR') || head.startsWith('{\\rtf'),
  'This is a film. Save one of its pictures as PNG.': (head) => head.slice(4, 8) === 'ftyp',
  'This is a web page. Print it to a PDF.': (head) => /^\s*<(!doctype\s+)?html/i.test(head),
  'This is a DXF drawing: lines without colours. Save it as SVG or PDF.': (head) => /^\s*0\s+SECTION/.test(head)
};
