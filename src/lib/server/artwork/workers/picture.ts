import { closeSync, fstatSync, openSync, readFileSync, readSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { promisify } from 'node:util';
import { deflate } from 'node:zlib';
import { fromFile } from 'geotiff';
import sharp, { type Metadata } from 'sharp';
import { ArtworkError, type ArtworkFacts, type Finding } from '$core/artwork/facts';
import * as mupdf from '$core/interpreter/interpreter';
import { picturesPdf, type PdfPicture } from '$core/artwork/picture-pdf';
import { isJpegDamaged } from '$core/artwork/raster/jpeg-check';
import { NotPwg, readPwg } from '$core/artwork/raster/pwg';
import { saidPpi } from '$core/artwork/raster/resolution';
import { eightBits, isUsual, layoutOf, type Layout } from '$core/artwork/raster/samples';
import { readTags, sizeOfTags, type ReadAt } from '$core/artwork/raster/tags';
import { wideRgbProfile } from '$core/colour/icc-write';

const squeeze = promisify(deflate);

/** What a picture of any format is taken to have when it does not say. */
const DEFAULT_PPI = 150;
const MOST_PIXELS = 250e6;
const MOST_PAGES = 500;
/** Samples of deep or unusual pictures are held at once. */
const MOST_SAMPLE_BYTES = 1.5e9;

export interface MadeFromPicture {
  notes: string[];
  findings: Finding[];
}

/**
 * Puts the pictures of a raster file on PDF pages of their own size, turned upright, 8 bits, with their colour profile.
 *
 * @param needs told how many megabytes the pixels take, before they are read
 * @returns what was done, and what was not taken as it was
 */
export async function pictureToPdf(
  path: string,
  format: ArtworkFacts['format'],
  out: string,
  needs: (megabytes: number) => void
): Promise<MadeFromPicture> {
  if (format === 'PWG raster') {
    await writeFile(out, picturesPdf(await byPages(path, needs)));
    return { notes: [], findings: [] };
  }
  const ppi = readingAt(path, (read) => saidPpi(format, read));
  const made: MadeFromPicture = { notes: [], findings: [] };
  if (ppi === undefined)
    made.notes.push(`The picture does not say its size; it was taken to have ${DEFAULT_PPI} pixels an inch.`);
  const pictures =
    format === 'JPEG 2000' || format === 'BMP'
      ? [await byInterpreter(path, format, ppi ?? DEFAULT_PPI, needs)]
      : await byReader(path, format, ppi ?? DEFAULT_PPI, made, needs);
  await writeFile(out, picturesPdf(pictures));
  return made;
}

/** Reads bytes of a file here and there. */
function readingAt<T>(path: string, work: (read: ReadAt) => T): T {
  const file = openSync(path, 'r');
  const { size } = fstatSync(file);
  try {
    return work((position, length) => {
      const bytes = new Uint8Array(Math.max(0, Math.min(length, size - position)));
      return bytes.subarray(0, bytes.length > 0 ? readSync(file, bytes, 0, bytes.length, position) : 0);
    });
  } finally {
    closeSync(file);
  }
}

const broken = (format: string) =>
  new ArtworkError(`The ${format} picture is damaged: not all of it can be read. Ask for a new copy.`);

function pageSize(width: number, height: number, ppi: number): { width: number; height: number } {
  return { width: (width / ppi) * 72, height: (height / ppi) * 72 };
}

function mustFit(pixels: number, words: string): void {
  if (pixels > MOST_PIXELS)
    throw new ArtworkError(
      `${words} ${Math.round(pixels / 1e6)} megapixels; ${MOST_PIXELS / 1e6} are the most. Ask for a smaller one.`
    );
}

async function byReader(
  path: string,
  format: ArtworkFacts['format'],
  ppi: number,
  made: MadeFromPicture,
  needs: (megabytes: number) => void
): Promise<PdfPicture[]> {
  const tags = format === 'TIFF' ? readingAt(path, readTags) : [];
  const look = (page: number): Promise<Metadata> =>
    sharp(path, { limitInputPixels: false, page })
      .metadata()
      .catch(() => {
        const told = tags[page] && sizeOfTags(tags[page]);
        if (!told) throw broken(format);
        return { ...told, pages: tags.length } as Metadata;
      });
  const first = await look(0);
  // Of the formats taken in, TIFF alone holds pages; other “pages” are moving pictures or thumbnails.
  const count = format === 'TIFF' ? (first.pages ?? 1) : 1;
  if (count > MOST_PAGES) throw new ArtworkError(`The file holds ${count} pictures; ${MOST_PAGES} are the most.`);
  const pictures: PdfPicture[] = [];
  let pixels = 0;
  for (let page = 0; page < count; page++) {
    const meta = page === 0 ? first : await look(page);
    pixels += meta.width * meta.height;
    mustFit(pixels, count > 1 ? `The ${count} pictures together have` : `The picture has ${meta.width} × ${meta.height} pixels,`);
    needs((pixels * meta.channels * 3) / 1e6);
    const ofPage = tags[page];
    const layout = ofPage && layoutOf(ofPage);
    if (layout && layout.extra > 0)
      made.findings.push({ kind: 'extra-channels', what: String(layout.extra), instead: '', place: null, page });
    try {
      const { picture, damaged } =
        layout && !isUsual(layout)
          ? await unusual(path, page, meta, layout, ppi, needs)
          : await usual(path, format, page, meta, ppi);
      pictures.push(picture);
      if (damaged) made.findings.push({ kind: 'damaged', what: '', instead: '', place: null, page });
    } catch (error) {
      if (error instanceof ArtworkError) throw error;
      throw broken(format);
    }
  }
  if (format !== 'TIFF' && (first.pages ?? 1) > 1)
    made.notes.push(`The picture moves; its first of ${first.pages} frames is used.`);
  if (first.depth !== 'uchar' && first.depth !== undefined)
    made.notes.push('The picture has more than 8 bits a colour; 8 are used.');
  return pictures;
}

async function usual(
  path: string,
  format: ArtworkFacts['format'],
  page: number,
  meta: Metadata,
  ppi: number
): Promise<{ picture: PdfPicture; damaged: boolean }> {
  const swap = (meta.orientation ?? 1) >= 5;
  const upright = { width: swap ? meta.height : meta.width, height: swap ? meta.width : meta.height };
  const size = pageSize(upright.width, upright.height, ppi);
  const damaged = await isDamaged(path, format, page);
  if (format === 'JPEG' && meta.channels === 3 && (meta.orientation ?? 1) === 1) {
    // As it is: nothing is lost by decoding and coding anew.
    const picture = {
      ...upright,
      data: await readFile(path),
      filter: 'DCTDecode',
      channels: 3,
      icc: meta.icc,
      page: size
    } as const;
    return { picture, damaged };
  }
  const cmyk = meta.space === 'cmyk';
  const rgb = meta.channels === 3 || (meta.channels === 4 && !cmyk);
  // Figures stay as they are where their profile goes along; grey, 1-bit and palettes become sRGB.
  const keeps = meta.icc !== undefined && (cmyk || rgb);
  const source = () => {
    const image = sharp(path, { limitInputPixels: MOST_PIXELS, failOn: 'error', page, ignoreIcc: keeps && !cmyk }).autoOrient();
    return cmyk ? image.pipelineColourspace('cmyk').toColourspace('cmyk') : image.toColourspace('srgb');
  };
  const colour = await (meta.hasAlpha ? source().removeAlpha() : source()).raw().toBuffer({ resolveWithObject: true });
  const alpha = meta.hasAlpha ? await source().extractChannel('alpha').raw().toBuffer() : undefined;
  const picture: PdfPicture = {
    width: colour.info.width,
    height: colour.info.height,
    data: await squeeze(colour.data, { level: 1 }),
    filter: 'FlateDecode',
    channels: colour.info.channels as 1 | 3 | 4,
    icc: keeps ? meta.icc : undefined,
    alpha: alpha && (await squeeze(alpha, { level: 1 })),
    page: size
  };
  return { picture, damaged };
}

/** Reads all of a picture. @returns whether its data are at fault @throws Error when a part of it is missing */
async function isDamaged(path: string, format: ArtworkFacts['format'], page: number): Promise<boolean> {
  const whole = (failOn: 'error' | 'warning') =>
    sharp(path, { limitInputPixels: MOST_PIXELS, failOn, page, sequentialRead: true })
      .resize(16, 16, { fit: 'fill' })
      .raw()
      .toBuffer();
  await whole('error');
  // The reader of JPEG says nothing of faults.
  if (format === 'JPEG') return isJpegDamaged(await readFile(path));
  return whole('warning').then(
    () => false,
    () => true
  );
}

/** Deep CMYK, Lab, floating point and channels beside the colours, sample by sample. */
async function unusual(
  path: string,
  page: number,
  meta: Metadata,
  layout: Layout,
  ppi: number,
  needs: (megabytes: number) => void
): Promise<{ picture: PdfPicture; damaged: boolean }> {
  const bytes = (meta.width * meta.height * layout.channels * layout.bits) / 8;
  if (bytes > MOST_SAMPLE_BYTES)
    throw new ArtworkError(
      'The TIFF has too many pixels for its kind. Ask for it with 8 bits a colour, in RGB or CMYK, without extra channels.'
    );
  needs((bytes * 4) / 1e6);
  const image = await (await fromFile(path)).getImage(page);
  const [width, height] = [image.getWidth(), image.getHeight()];
  const data = (await image.readRasters({ interleave: true })) as unknown as ArrayLike<number>;
  const { colour, alpha } = eightBits(data, layout);
  const channels = layout.colours;
  const read = { width, height, colour, alpha };
  const turned = (meta.orientation ?? 1) > 1 ? orient(read, channels, meta.orientation ?? 1) : read;
  const picture: PdfPicture = {
    width: turned.width,
    height: turned.height,
    data: await squeeze(turned.colour, { level: 1 }),
    filter: 'FlateDecode',
    channels,
    icc: layout.colour === 'lab' ? wideRgbProfile() : meta.icc,
    alpha: turned.alpha && (await squeeze(turned.alpha, { level: 1 })),
    page: pageSize(turned.width, turned.height, ppi)
  };
  return { picture, damaged: false };
}

interface Pixels {
  width: number;
  height: number;
  colour: Uint8Array;
  alpha: Uint8Array | undefined;
}

/** Turns pixels as EXIF's orientation says (2…8). */
function orient({ width, height, colour, alpha }: Pixels, channels: number, orientation: number): Pixels {
  const swaps = orientation >= 5;
  const [w, h] = swaps ? [height, width] : [width, height];
  const turn = (from: Uint8Array, n: number) => {
    const to = new Uint8Array(from.length);
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const [u, v] = swaps ? [y, x] : [x, y];
        const sx = [2, 3, 7, 8].includes(orientation) ? width - 1 - u : u;
        const sy = [3, 4, 6, 7].includes(orientation) ? height - 1 - v : v;
        to.set(from.subarray((sy * width + sx) * n, (sy * width + sx + 1) * n), (y * w + x) * n);
      }
    return to;
  };
  return { width: w, height: h, colour: turn(colour, channels), alpha: alpha && turn(alpha, 1) };
}

/** Pages as a program sends them to a printer. */
async function byPages(path: string, needs: (megabytes: number) => void): Promise<PdfPicture[]> {
  const bytes = await readFile(path);
  const pictures: PdfPicture[] = [];
  let pixels = 0;
  try {
    for (const { width, height, across, down, channels, data } of readPwg(bytes, (head) => {
      pixels += head.width * head.height;
      mustFit(pixels, pictures.length > 0 ? 'The pages together have' : `The page has ${head.width} × ${head.height} pixels,`);
      needs((bytes.length + pixels * 8) / 1e6);
      if (pictures.length >= MOST_PAGES) throw new ArtworkError(`The raster holds more than ${MOST_PAGES} pages, the most.`);
    }))
      pictures.push({
        width,
        height,
        data: await squeeze(data, { level: 1 }),
        filter: 'FlateDecode',
        channels,
        icc: undefined,
        page: { width: (width / across) * 72, height: (height / down) * 72 }
      });
  } catch (error) {
    if (error instanceof NotPwg) throw new ArtworkError(`${error.message} Ask for a new copy.`);
    throw error;
  }
  return pictures;
}

/** Formats that the PDF interpreter decodes. */
async function byInterpreter(
  path: string,
  format: ArtworkFacts['format'],
  ppi: number,
  needs: (megabytes: number) => void
): Promise<PdfPicture> {
  let pixmap: mupdf.Pixmap;
  try {
    const image = new mupdf.Image(readFileSync(path));
    const [width, height] = [image.getWidth(), image.getHeight()];
    mustFit(width * height, `The picture has ${width} × ${height} pixels,`);
    needs((width * height * 16) / 1e6);
    pixmap = image.toPixmap();
    image.destroy();
  } catch (error) {
    mupdf.throwTraps(error);
    if (error instanceof ArtworkError) throw error;
    throw broken(format);
  }
  const space = pixmap.getColorSpace();
  const plain =
    space?.isCMYK() || space?.isGray() || space?.isRGB() ? pixmap : pixmap.convertToColorSpace(mupdf.ColorSpace.DeviceRGB, true);
  const [width, height, all] = [plain.getWidth(), plain.getHeight(), plain.getNumberOfComponents()];
  const channels = (all - plain.getAlpha()) as 1 | 3 | 4;
  const samples = Uint8Array.from(plain.getPixels());
  const [colour, alpha] = plain.getAlpha() ? apart(samples, channels) : [samples, undefined];
  if (plain !== pixmap) plain.destroy();
  pixmap.destroy();
  return {
    width,
    height,
    data: await squeeze(colour, { level: 1 }),
    filter: 'FlateDecode',
    channels,
    icc: undefined,
    alpha: alpha && (await squeeze(alpha, { level: 1 })),
    page: pageSize(width, height, ppi)
  };
}

/** Colours without the cover that they were multiplied by, and the cover. */
function apart(samples: Uint8Array, channels: number): [Uint8Array, Uint8Array] {
  const count = samples.length / (channels + 1);
  const colour = new Uint8Array(count * channels);
  const alpha = new Uint8Array(count);
  for (let i = 0; i < count; i++) {
    const cover = samples[i * (channels + 1) + channels] as number;
    alpha[i] = cover;
    for (let k = 0; k < channels; k++)
      colour[i * channels + k] =
        cover === 0 ? 255 : Math.min(255, Math.round(((samples[i * (channels + 1) + k] as number) * 255) / cover));
  }
  return [colour, alpha];
}

/** A picture of RGBA pixels whose colours are multiplied by their cover. */
export async function multipliedPicture(pixels: Uint8Array, width: number, height: number): Promise<Omit<PdfPicture, 'page'>> {
  const [colour, alpha] = apart(pixels, 3);
  return {
    width,
    height,
    data: await squeeze(colour, { level: 1 }),
    filter: 'FlateDecode',
    channels: 3,
    icc: undefined,
    alpha: await squeeze(alpha, { level: 1 })
  };
}

/** Decodes a picture that lies in a drawing, to sRGB. @throws Error when it cannot be read */
export async function decodePicture(bytes: Uint8Array): Promise<Omit<PdfPicture, 'page'>> {
  const meta = await sharp(bytes).metadata();
  // Drawings are read by our own reader alone.
  if (meta.format === 'svg') throw new ArtworkError('A picture in the drawing is no picture.');
  mustFit(meta.width * meta.height, 'A picture in the drawing has');
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
