import { readFile, writeFile } from 'node:fs/promises';
import { promisify } from 'node:util';
import { deflate } from 'node:zlib';
import sharp, { type Metadata } from 'sharp';
import { ArtworkError, type ArtworkFacts } from '$core/artwork/facts';
import { LIMITS } from '$core/artwork/read-facts';
import { picturePdf, type PdfPicture } from '$core/artwork/picture-pdf';

const squeeze = promisify(deflate);

/** What a picture is taken to have when it does not say. */
const DEFAULT_PPI = 150;
const MOST_PIXELS = 250e6;

/**
 * Puts a raster picture on a PDF page of its own size, turned upright, 8 bits, with its colour profile.
 *
 * @returns notes about what was done
 */
export async function pictureToPdf(path: string, format: ArtworkFacts['format'], out: string): Promise<string[]> {
  const notes: string[] = [];
  let meta: Metadata;
  try {
    meta = await sharp(path, { limitInputPixels: false }).metadata();
  } catch (error) {
    throw new ArtworkError(
      `The ${format} picture is broken (${error instanceof Error ? error.message.split('\n')[0] : 'unreadable'}). Ask for a new copy.`
    );
  }
  const { width, height } = meta;
  if (width * height > MOST_PIXELS) {
    throw new ArtworkError(
      `The picture has ${width} × ${height} pixels, ${Math.round((width * height) / 1e6)} megapixels; ${MOST_PIXELS / 1e6} are the most. Ask for a smaller one.`
    );
  }
  if (width * height > LIMITS.imageMegapixels * 1e6) throw new ArtworkError('The picture is too large.');
  const swap = (meta.orientation ?? 1) >= 5;
  const ppi = meta.density && meta.density >= 20 ? meta.density : DEFAULT_PPI;
  if (ppi !== meta.density) notes.push(`The picture does not say its size; it was taken to have ${DEFAULT_PPI} pixels an inch.`);
  if ((meta.pages ?? 1) > 1) notes.push(`The file holds ${meta.pages} pictures; the first one is used.`);
  const upright = { width: swap ? height : width, height: swap ? width : height };

  let picture: PdfPicture;
  if (format === 'JPEG' && meta.channels === 3 && (meta.orientation ?? 1) === 1) {
    picture = { ...upright, data: await readFile(path), filter: 'DCTDecode', channels: 3, icc: meta.icc };
  } else {
    const cmyk = meta.space === 'cmyk';
    const source = () => {
      const image = sharp(path, { limitInputPixels: MOST_PIXELS, failOn: 'error' }).autoOrient();
      return cmyk ? image.pipelineColourspace('cmyk').toColourspace('cmyk') : image.toColourspace('srgb');
    };
    try {
      const colour = await (meta.hasAlpha ? source().removeAlpha() : source()).raw().toBuffer({ resolveWithObject: true });
      const channels = colour.info.channels as 1 | 3 | 4;
      const alpha = meta.hasAlpha ? await source().extractChannel('alpha').raw().toBuffer() : undefined;
      picture = {
        width: colour.info.width,
        height: colour.info.height,
        data: await squeeze(colour.data, { level: 1 }),
        filter: 'FlateDecode',
        channels,
        // RGB has been brought to sRGB; CMYK keeps its figures and its profile.
        icc: cmyk ? meta.icc : undefined,
        alpha: alpha && (await squeeze(alpha, { level: 1 }))
      };
    } catch (error) {
      throw new ArtworkError(
        `The ${format} picture is broken (${error instanceof Error ? error.message.split('\n')[0] : 'unreadable'}). Ask for a new copy.`
      );
    }
    if (meta.depth === 'ushort') notes.push('The picture has 16 bits a colour; 8 are used.');
  }
  await writeFile(out, picturePdf(picture, { width: (upright.width / ppi) * 72, height: (upright.height / ppi) * 72 }));
  return notes;
}
