import { readFileSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import sharp from 'sharp';
import { ArtworkError, type ArtworkFacts, type PageLine } from '$core/artwork/facts';
import { fontsNotEmbedded, LIMITS, readPageFacts } from '$core/artwork/read-facts';
import type { RoleRule } from '$core/artwork/roles';
import { svgToPdf } from '$core/artwork/svg';
import { formatOf } from './format';
import { openPdfFile } from './open-pdf';
import { pictureToPdf } from './picture';
import { postscriptToPdf } from './postscript';

export { measure, preview } from './measure';
export { field, trace } from './trace';
export { compare } from './compare';

export interface FactsRequest {
  path: string;
  name: string;
  rules: RoleRule[];
  /** The program that reads PostScript. */
  ghostscript: string;
  /** Where a PDF goes that is made of other formats. */
  pdf: string;
}

export type FactsAnswer =
  { ok: true; facts: ArtworkFacts; lines: PageLine[][]; madePdf: boolean } | { ok: false; reason: string };

/** Reads what a file holds; makes a PDF of it where it is none. */
export async function facts(request: FactsRequest): Promise<FactsAnswer> {
  try {
    const format = await formatOf(request.path);
    const notes: string[] = [];
    if (format === 'SVG') {
      const made = await svgToPdf(readFileSync(request.path, 'utf8'), request.rules, (svg) =>
        sharp(Buffer.from(svg), { density: 300, limitInputPixels: 200e6 }).png().toBuffer()
      );
      notes.push(...made.notes);
      await writeFile(request.pdf, made.pdf);
    } else if (format === 'PostScript') await postscriptToPdf(request.ghostscript, request.path, request.pdf);
    else if (format !== 'PDF') notes.push(...(await pictureToPdf(request.path, format, request.pdf)));
    const opened = openPdfFile(format === 'PDF' ? request.path : request.pdf);
    try {
      const count = opened.document.countPages();
      if (count < 1) throw new ArtworkError('The file has no pages.');
      if (count > LIMITS.pages) throw new ArtworkError(`The file has ${count} pages; ${LIMITS.pages} are the most.`);
      const pages = Array.from({ length: count }, (_, index) => readPageFacts(opened.document, index));
      if (pages.every((page) => page.facts.objects === 0))
        throw new ArtworkError('The file is empty: nothing is drawn on any page.');
      return {
        ok: true,
        madePdf: format !== 'PDF',
        facts: { format, pages: pages.map((page) => page.facts), fontsNotEmbedded: fontsNotEmbedded(opened.document), notes },
        lines: pages.map((page) => page.lines)
      };
    } finally {
      opened.close();
    }
  } catch (error) {
    const text = error instanceof Error ? error.message : String(error);
    return { ok: false, reason: error instanceof ArtworkError ? text : `The file cannot be read (${text.slice(0, 160)}).` };
  }
}
