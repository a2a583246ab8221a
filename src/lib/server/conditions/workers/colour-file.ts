import { readFileSync } from 'node:fs';
import { ColourFileError, readColours, type ColourFile } from '$core/colour/colour-files';
import { Problem } from '../../platform/problem';

/** Reads a file of colours that comes from anywhere. */
export function readColourFile({ path }: { path: string }): ColourFile {
  const bytes = readFileSync(path);
  try {
    return readColours(textOf(bytes));
  } catch (error) {
    if (error instanceof ColourFileError) throw new Problem(422, error.message);
    throw error;
  }
}

/** Where it is no UTF it is taken for the encoding that most other tables have. */
function textOf(bytes: Uint8Array): string {
  const [p, q] = bytes;
  if (p === 0xff && q === 0xfe) return new TextDecoder('utf-16le').decode(bytes);
  if (p === 0xfe && q === 0xff) return new TextDecoder('utf-16be').decode(bytes);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}
