import { readFile, writeFile } from 'node:fs/promises';
import { promisify } from 'node:util';
import { deflate } from 'node:zlib';
import sharp, { type Metadata } from 'sharp';
import { ArtworkError, type ArtworkFacts } from '$core/artwork/facts';
import { picturesPdf, type PdfPicture } from '$core/artwork/picture-pdf';

const squeeze = promisify(deflate);

/** What a picture is taken to have when it does not say. */
const DEFAULT_PPI = 150;
const MOST_PIXELS = 250e6;
const MOST_PAGES = 500;

/**
 * Puts the pictures of a raster file on PDF pages of their own size, turned upright, 8 bits, with their colour profile.
 *
 * @returns notes about what was done
 */
export async function pictureToPdf(path: string, format: ArtworkFacts['format'], out: string): Promise<string[]> {
  const broken = (error: unknown) =>
    new ArtworkError(
      `The ${format} picture is broken (${error instanceof Error ? error.message.split('\n')[0] : 'unreadable'}). Ask for a new copy.`
    );
  const notes: string[] = [];
  const look = (page: number) => sharp(path, { limitInputPixels: false, page }).metadata();
  const first = await look(0).catch((error: unknown) => {
    throw broken(error);
  });
  // Of the formats taken in, TIFF alone holds pages; other “pages” are moving pictures or thumbnails.
  const count = format === 'TIFF' ? (first.pages ?? 1) : 1;
  if (count > MOST_PAGES) throw new ArtworkError(`The file holds ${count} pictures; ${MOST_PAGES} are the most.`);
  const pictures: PdfPicture[] = [];
  let pixels = 0;
  for (let page = 0; page < count; page++) {
    const meta = page === 0 ? first : await look(page);
    pixels += meta.width * meta.height;
    if (pixels > MOST_PIXELS) {
      const size = count > 1 ? `The ${count} pictures together have` : `The picture has ${meta.width} × ${meta.height} pixels,`;
      throw new ArtworkError(
        `${size} ${Math.round(pixels / 1e6)} megapixels; ${MOST_PIXELS / 1e6} are the most. Ask for a smaller one.`
      );
    }
    try {
      pictures.push(await readPicture(path, format, page, meta));
    } catch (error) {
      throw broken(error);
    }
  }
  if (!saysSize(first)) notes.push(`The picture does not say its size; it was taken to have ${DEFAULT_PPI} pixels an inch.`);
  if (first.depth === 'ushort') notes.push('The picture has 16 bits a colour; 8 are used.');
  await writeFile(out, picturesPdf(pictures));
  return notes;
}

const saysSize = (meta: Metadata): boolean => meta.density !== undefined && meta.density >= 20;

async function readPicture(path: string, format: ArtworkFacts['format'], page: number, meta: Metadata): Promise<PdfPicture> {
  const swap = (meta.orientation ?? 1) >= 5;
  const ppi = saysSize(meta) ? (meta.density as number) : DEFAULT_PPI;
  const upright = { width: swap ? meta.height : meta.width, height: swap ? meta.width : meta.height };
  const pageSize = { width: (upright.width / ppi) * 72, height: (upright.height / ppi) * 72 };
  if (format === 'JPEG' && meta.channels === 3 && (meta.orientation ?? 1) === 1) {
    // As it is: nothing is lost by decoding and coding anew.
    return { ...upright, data: await readFile(path), filter: 'DCTDecode', channels: 3, icc: meta.icc, page: pageSize };
  }
  const cmyk = meta.space === 'cmyk';
  const rgb = meta.channels === 3 || (meta.channels === 4 && !cmyk);
  // Figures stay as they are where their profile goes along; grey, 1-bit and palettes become sRGB.
  const keeps = meta.icc !== undefined && (cmyk || (rgb && meta.space !== 'lab'));
  const source = () => {
    const image = sharp(path, { limitInputPixels: MOST_PIXELS, failOn: 'error', page, ignoreIcc: keeps && !cmyk }).autoOrient();
    return cmyk ? image.pipelineColourspace('cmyk').toColourspace('cmyk') : image.toColourspace('srgb');
  };
  const colour = await (meta.hasAlpha ? source().removeAlpha() : source()).raw().toBuffer({ resolveWithObject: true });
  const alpha = meta.hasAlpha ? await source().extractChannel('alpha').raw().toBuffer() : undefined;
  return {
    width: colour.info.width,
    height: colour.info.height,
    data: await squeeze(colour.data, { level: 1 }),
    filter: 'FlateDecode',
    channels: colour.info.channels as 1 | 3 | 4,
    icc: keeps ? meta.icc : undefined,
    alpha: alpha && (await squeeze(alpha, { level: 1 })),
    page: pageSize
  };
}

/** Decodes a picture that lies in a drawing, to sRGB. @throws Error when it cannot be read */
export async function decodePicture(bytes: Uint8Array): Promise<Omit<PdfPicture, 'page'>> {
  const meta = await sharp(bytes).metadata();
  if (meta.width * meta.height > MOST_PIXELS) throw new ArtworkError('A picture in the drawing is too large.');
  const image = () => sharp(bytes, { failOn: 'error' }).autoOrient().toColourspace('srgb');
  const colour = await (meta.hasAlpha ? image().removeAlpha() : image()).raw().toBuffer({ resolveWithObject: true });
  const alpha = meta.hasAlpha ? await image().extractChannel('alpha').raw().toBuffer() : undefined;
  return {
    width: colour.info.width,
    height: colour.info.height,
    data: await squeeze(colour.data, { level: 1 }),
    filter: 'FlateDecode',
    channels: colour.info.channels as 1 | 3,
    icc: undefined,
    alpha: alpha && (await squeeze(alpha, { level: 1 }))
  };
}
