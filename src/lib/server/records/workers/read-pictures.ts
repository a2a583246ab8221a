import { once } from 'node:events';
import { createWriteStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { crc32 } from 'node:zlib';
import sharp from 'sharp';
import yauzl from 'yauzl';
import { isDiskFull } from '../../platform/files';
import { Problem } from '../../platform/problem';

export interface ReadPicturesRequest {
  from: string;
  /** Where pictures are unpacked to. */
  folder: string;
}

/** A picture of the pack. */
export interface UnpackedPicture {
  name: string;
  path: string;
  width: number;
  height: number;
}

export interface ReadPictures {
  pictures: UnpackedPicture[];
  /** What is in the pack and is none, or broken; some of them. */
  leftOut: { name: string; why: string }[];
  leftOutCount: number;
}

// Drawings and documents are read by readers of our own alone.
sharp.block({ operation: ['VipsForeignLoadSvg', 'VipsForeignLoadPdf', 'VipsForeignLoadMagick'] });

const MOST_FILES = 20_000;
const MOST_UNPACKED = 8e9;
const MOST_A_FILE = 300e6;
const MOST_PIXELS = 100e6;
const MOST_TOLD = 50;
const FORMATS = new Set<string>(['jpeg', 'png', 'tiff', 'webp', 'gif', 'heif']);

/** What programs put beside a customer's files. */
const isBeside = (name: string) => /(^|\/)(__MACOSX\/|\.|Thumbs\.db$|desktop\.ini$)/i.test(name) || name.endsWith('/');

/** Unpacks a zip of pictures, each tried. @throws Problem for one that is broken, or too much */
export async function readPictures({ from, folder }: ReadPicturesRequest): Promise<ReadPictures> {
  const read: ReadPictures = { pictures: [], leftOut: [], leftOutCount: 0 };
  const leave = (name: string, why: string) => {
    if (++read.leftOutCount <= MOST_TOLD) read.leftOut.push({ name, why });
  };
  let zip: yauzl.ZipFile;
  try {
    zip = await opened(from);
  } catch {
    throw new Problem(422, 'This is no zip file, or it is cut off. Pack the pictures again.');
  }
  try {
    if (zip.entryCount > MOST_FILES)
      throw new Problem(
        413,
        `The zip has ${zip.entryCount.toLocaleString('en-GB')} files; at most ${MOST_FILES.toLocaleString('en-GB')} can be taken. Divide it.`
      );
    let unpacked = 0;
    for await (const entry of entriesOf(zip)) {
      const { fileName: name, uncompressedSize: bytes } = entry;
      if (isBeside(name)) continue;
      unpacked += bytes;
      if (unpacked > MOST_UNPACKED) throw new Problem(413, `The zip unpacks to more than ${MOST_UNPACKED / 1e9} GB. Divide it.`);
      if (bytes > MOST_A_FILE) {
        leave(name, `it is larger than ${MOST_A_FILE / 1e6} MB`);
        continue;
      }
      const path = join(folder, String(read.pictures.length));
      try {
        await unpack(zip, entry, path);
      } catch (error) {
        // Nothing is left out for want of room.
        if (isDiskFull(error))
          throw new Problem(507, 'The disk is full: these pictures were not stored. Make room and send the zip again.');
        leave(name, 'it is damaged in the zip');
        continue;
      }
      const looked = await lookAtPicture(path);
      if (typeof looked === 'string') {
        leave(name, looked);
        await rm(path, { force: true });
      } else read.pictures.push({ name: name.slice(0, 500), path, ...looked });
    }
  } catch (error) {
    if (error instanceof Problem) throw error;
    throw new Problem(422, 'This zip is broken: its list of files cannot be read to its end. Pack the pictures again.');
  } finally {
    zip.close();
  }
  return read;
}

const opened = (path: string): Promise<yauzl.ZipFile> =>
  new Promise((resolve, reject) => {
    yauzl.open(path, { lazyEntries: true, autoClose: false }, (error, zip) => (error ? reject(error) : resolve(zip)));
  });

/** The files of a zip, one after the other. */
async function* entriesOf(zip: yauzl.ZipFile): AsyncGenerator<yauzl.Entry> {
  for (let left = zip.entryCount; left > 0; left--) {
    // What breaks meanwhile is thrown.
    const found = once(zip, 'entry');
    zip.readEntry();
    const [entry] = (await found) as [yauzl.Entry];
    yield entry;
  }
}

/** @throws Error for what cannot be unpacked, or is not what was packed */
async function unpack(zip: yauzl.ZipFile, entry: yauzl.Entry, to: string): Promise<void> {
  const stream = await new Promise<NodeJS.ReadableStream>((resolve, reject) => {
    zip.openReadStream(entry, (error, one) => (error ? reject(error) : resolve(one)));
  });
  let sum = 0;
  const summed = new Transform({
    transform(chunk: Buffer, _, done) {
      sum = crc32(chunk, sum);
      done(null, chunk);
    }
  });
  await pipeline(stream, summed, createWriteStream(to));
  if (sum !== entry.crc32) throw new Error('It is not what was packed.');
}

/** The size of a picture, upright; or why it is none, as the end of a sentence. */
async function lookAtPicture(path: string): Promise<{ width: number; height: number } | string> {
  try {
    const { format, autoOrient, width, height } = await sharp(path, { limitInputPixels: false }).metadata();
    if (!FORMATS.has(format)) return 'it is no picture';
    if (width * height > MOST_PIXELS)
      return `it has ${Math.round((width * height) / 1e6)} megapixels, and ${MOST_PIXELS / 1e6} are the most`;
    // All of it is read, in small.
    await sharp(path, { limitInputPixels: MOST_PIXELS, failOn: 'error' }).resize(16, 16, { fit: 'fill' }).raw().toBuffer();
    return { width: autoOrient.width, height: autoOrient.height };
  } catch {
    return 'it is no picture, or a broken one';
  }
}
