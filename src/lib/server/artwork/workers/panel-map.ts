import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import * as mupdf from '$core/interpreter/interpreter';
import { openPdfFile } from '../../platform/workers/open-pdf';
import { svgToPdf } from './svg';

export interface MapRequest {
  /** Pages as SVG. */
  pages: string[];
  /** What stands in them where the picture goes, and the file of that. */
  picture: { address: string; path: string } | null;
  /** For what is made on the way. */
  folder: string;
}

const MOST_PX = 2400;

/** A picture as an address that an SVG holds it in. */
async function held(path: string): Promise<string> {
  const bytes = await sharp(path).resize({ width: MOST_PX, height: MOST_PX, fit: 'inside', withoutEnlargement: true }).jpeg({ quality: 86 }).toBuffer(); // prettier-ignore
  return `data:image/jpeg;base64,${bytes.toString('base64')}`;
}

/** The pages of a map as one PDF. */
export async function panelMap({ pages, picture, folder }: MapRequest): Promise<Uint8Array> {
  const address = picture && (await held(picture.path));
  const whole = new mupdf.PDFDocument();
  try {
    for (const [i, page] of pages.entries()) {
      const [svg, pdf] = [join(folder, `page-${i}.svg`), join(folder, `page-${i}.pdf`)];
      await writeFile(svg, picture && address ? page.replaceAll(picture.address, address) : page);
      await svgToPdf(svg, [], [], pdf);
      const opened = openPdfFile(pdf);
      try {
        whole.graftPage(i, opened.document, 0);
      } finally {
        opened.close();
      }
    }
    return Uint8Array.from(whole.saveToBuffer('compress').asUint8Array());
  } finally {
    whole.destroy();
  }
}
