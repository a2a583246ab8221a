import { PdfObjects, pdfNumber } from './pdf-objects';

/** A picture for a PDF page: its data already coded as `filter` says. */
export interface PdfPicture {
  width: number;
  height: number;
  data: Uint8Array;
  filter: 'DCTDecode' | 'FlateDecode';
  channels: 1 | 3 | 4;
  icc: Uint8Array | undefined;
  /** A deflated soft mask of 8 bits. */
  alpha?: Uint8Array | undefined;
  /** The page that it fills, points. */
  page: { width: number; height: number };
}

const SPACES = { 1: '/DeviceGray', 3: '/DeviceRGB', 4: '/DeviceCMYK' } as const;

/** Writes a picture as an object. @returns its number */
export function addPicture(objects: PdfObjects, picture: Omit<PdfPicture, 'page'>): number {
  const shape = `/Type/XObject/Subtype/Image/Width ${picture.width}/Height ${picture.height}/BitsPerComponent 8`;
  const icc = picture.icc && objects.add(`/N ${picture.channels}`, picture.icc);
  const mask = picture.alpha && objects.add(`${shape}/ColorSpace/DeviceGray/Filter/FlateDecode`, picture.alpha);
  const space = icc ? `[/ICCBased ${icc} 0 R]` : SPACES[picture.channels];
  return objects.add(`${shape}/ColorSpace ${space}/Filter/${picture.filter}${mask ? `/SMask ${mask} 0 R` : ''}`, picture.data);
}

/** A PDF of pages that a picture fills each. */
export function picturesPdf(pictures: readonly PdfPicture[]): Uint8Array {
  const objects = new PdfObjects();
  const pages = objects.reserve();
  const kids = pictures.map((picture) => {
    const [w, h] = [pdfNumber(picture.page.width), pdfNumber(picture.page.height)];
    const contents = objects.add('', new TextEncoder().encode(`q ${w} 0 0 ${h} 0 0 cm /P Do Q`));
    const image = addPicture(objects, picture);
    return objects.add(
      `/Type/Page/Parent ${pages} 0 R/MediaBox[0 0 ${w} ${h}]/Contents ${contents} 0 R/Resources<</XObject<</P ${image} 0 R>>>>`
    );
  });
  objects.put(pages, `/Type/Pages/Kids[${kids.map((kid) => `${kid} 0 R`).join(' ')}]/Count ${kids.length}`);
  return objects.finish(objects.add(`/Type/Catalog/Pages ${pages} 0 R`));
}
