import { promisify } from 'node:util';
import { deflate } from 'node:zlib';
import sharp from 'sharp';
import type { PictureField } from '$core/records/field';
import type { PdfPicture } from '$core/artwork/picture-pdf';
import type { FieldText, OverlayPicture } from '$core/records/overlay';
import { placePicture, type PictureSize } from '$core/records/pictures';
import { MM_PER_INCH } from '$core/units/length';

const squeeze = promisify(deflate);

/** Finer than any eye tells on what is held in the hand, and than most machines print. */
const MOST_PPI = 400;
/** A picture with so many pixels more than it needs is made smaller: thousands of them lie in one run. */
const SPARE = 1.3;
const QUALITY = 92;
const MOST_PIXELS = 100e6;

/** A picture's file, and its pixels. */
export interface FoundPicture extends PictureSize {
  path: string;
  /** Of a page: its spot colours that do not print. Its first page is the picture. */
  leftOut?: readonly string[] | undefined;
}

/** A picture that a record asks for and that cannot be drawn, in a sentence. */
export class PictureError extends Error {
  override name = 'PictureError';
}

/** Pictures of records as their pages need them, each made once. */
export class FieldPictures {
  readonly #found: Readonly<Record<string, FoundPicture>>;
  readonly #mostPpi: number;
  /** The last ones: most records have one of their own. */
  readonly #made = new Map<string, OverlayPicture>();

  /** @param found by what fields say */
  constructor(found: Readonly<Record<string, FoundPicture>>, dpi: number | undefined) {
    this.#found = found;
    this.#mostPpi = Math.min(MOST_PPI, dpi ?? MOST_PPI);
  }

  /**
   * By field the picture that it shows.
   *
   * @param forgiving what is not there, or broken, is left out
   * @throws PictureError otherwise
   */
  async of(texts: readonly FieldText[], forgiving: boolean): Promise<Map<number, OverlayPicture>> {
    const pictures = new Map<number, OverlayPicture>();
    for (const { field, text } of texts) {
      const name = text.trim();
      if (field.is !== 'picture' || name === '') continue;
      const found = this.#found[name];
      if (!found && (field.without || forgiving)) continue;
      if (!found) throw new PictureError(`${field.name}: there is no picture called “${name}”.`);
      try {
        pictures.set(field.id, await this.#picture(field, found));
      } catch {
        if (forgiving) continue;
        throw new PictureError(`${field.name}: the picture “${name}” cannot be read. Take it anew.`);
      }
    }
    return pictures;
  }

  async #picture(field: PictureField, { path, width, height, leftOut }: FoundPicture): Promise<OverlayPicture> {
    if (leftOut) return { key: `${path}/page`, width, height, page: { path, leftOut } };
    const wanted = Math.ceil((placePicture(field, { width, height }).width / MM_PER_INCH) * this.#mostPpi);
    const across = width > wanted * SPARE ? wanted : width;
    const key = `${path}/${across}`;
    const known = this.#made.get(key);
    if (known) return known;
    const made = { key, ...(await drawable(path, across)) };
    if (this.#made.size >= 8) this.#made.clear();
    this.#made.set(key, made);
    return made;
  }
}

/**
 * A picture upright, as a page can have it: its own colours and profile; grey, palettes and deep ones as sRGB of 8 bits.
 *
 * @param across pixels that it is to have
 */
async function drawable(path: string, across: number): Promise<Omit<PdfPicture, 'page'>> {
  const meta = await sharp(path).metadata();
  const cmyk = meta.space === 'cmyk';
  const keeps = meta.icc !== undefined && (cmyk || meta.channels >= 3) && meta.depth === 'uchar';
  const source = () => {
    const read = sharp(path, { limitInputPixels: MOST_PIXELS, failOn: 'error', ignoreIcc: keeps && !cmyk }).autoOrient();
    const sized = across === (meta.autoOrient.width ?? meta.width) ? read : read.resize({ width: across });
    return cmyk ? sized.pipelineColourspace('cmyk').toColourspace('cmyk') : sized.toColourspace('srgb');
  };
  const icc = keeps ? meta.icc : undefined;
  if (!cmyk && !meta.hasAlpha) {
    const { data, info } = await source()
      .jpeg({ quality: QUALITY, chromaSubsampling: '4:4:4' })
      .toBuffer({ resolveWithObject: true });
    return { width: info.width, height: info.height, data, filter: 'DCTDecode', channels: info.channels as 1 | 3, icc };
  }
  const colour = await (meta.hasAlpha ? source().removeAlpha() : source()).raw().toBuffer({ resolveWithObject: true });
  const alpha = meta.hasAlpha ? await source().extractChannel('alpha').raw().toBuffer() : undefined;
  return {
    width: colour.info.width,
    height: colour.info.height,
    data: await squeeze(colour.data, { level: 1 }),
    filter: 'FlateDecode',
    channels: colour.info.channels as 1 | 3 | 4,
    icc,
    alpha: alpha && (await squeeze(alpha, { level: 1 }))
  };
}
