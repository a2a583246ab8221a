import { writeFile } from 'node:fs/promises';
import { ArtworkError, type ArtworkFacts, type Finding, type OutputIntentFact, type PageLine } from '$core/artwork/facts';
import { outputIntent } from '$core/artwork/output-intent';
import { fontsNotEmbedded, LIMITS, readPageFacts } from '$core/artwork/read-facts';
import type { RoleRule } from '$core/artwork/roles';
import type { ProcessLimits } from '../../platform/tasks/process-pool';
import { formatOf } from './format';
import { openPdfFile } from '../../platform/workers/open-pdf';
import { pictureToPdf } from './picture';
import { postscriptToPdf } from './postscript';
import { svgToPdf, type ShopFont } from './svg';

export interface FactsRequest {
  path: string;
  name: string;
  rules: RoleRule[];
  /** The shop's own, for lettering that comes without its font. */
  fonts: ShopFont[];
  /** The program that reads PostScript. */
  ghostscript: string;
  /** What it may take. */
  limits: ProcessLimits;
  /** Where a PDF goes that is made of other formats. */
  pdf: string;
  /** Where the profile of the file's output intent goes. */
  profile: string;
}

export interface FactsAnswer {
  ok: true;
  facts: Omit<ArtworkFacts, 'outputIntent'>;
  /** Its profile was written where the request said. */
  outputIntent: Omit<OutputIntentFact, 'hash'> | null;
  lines: PageLine[][];
  madePdf: boolean;
}

/** Reads what a file holds; makes a PDF of it where it is none. @throws ArtworkError for what is wrong with the file */
export async function facts(request: FactsRequest, needs: (megabytes: number) => void): Promise<FactsAnswer> {
  const format = await formatOf(request.path);
  const notes: string[] = [];
  const findings: Finding[] = [];
  if (format === 'SVG') {
    const made = await svgToPdf(request.path, request.rules, request.fonts, request.pdf);
    notes.push(...made.notes);
    findings.push(...made.findings);
  } else if (format === 'PostScript') await postscriptToPdf(request.ghostscript, request.path, request.pdf, request.limits);
  else if (format !== 'PDF') {
    const made = await pictureToPdf(request.path, format, request.pdf, needs);
    notes.push(...made.notes);
    findings.push(...made.findings);
  }
  const opened = openPdfFile(format === 'PDF' ? request.path : request.pdf);
  try {
    const count = opened.document.countPages();
    if (count < 1) throw new ArtworkError('The file has no pages that can be read. Ask for a new copy.');
    if (count > LIMITS.pages) throw new ArtworkError(`The file has ${count} pages; ${LIMITS.pages} are the most.`);
    const pages = Array.from({ length: count }, (_, index) => readPageFacts(opened.document, index));
    if (pages.every((page) => page.facts.objects === 0))
      throw new ArtworkError('The file is empty: nothing is drawn on any page.');
    const intent = outputIntent(opened.document);
    if (intent) await writeFile(request.profile, intent.profile);
    return {
      ok: true,
      outputIntent: intent ? { name: intent.name, space: intent.space } : null,
      madePdf: format !== 'PDF',
      facts: {
        format,
        pages: pages.map((page) => page.facts),
        fontsNotEmbedded: fontsNotEmbedded(opened.document),
        notes,
        findings: findings.map((finding) => ({ page: 0, ...finding }))
      },
      lines: pages.map((page) => page.lines)
    };
  } finally {
    opened.close();
  }
}
