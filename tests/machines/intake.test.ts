import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { xyzToSrgb, labToXyz } from '$core/colour/lab';
import { Shop } from '$lib/server/shop';
import { oneChunk, temporaryFolder, until } from '../harness';
import { rawPdf, rawStream } from '../made/pdf';
import { madeTiff, type MadeTiff } from '../made/tiff';

/** Files as customers send them, each small and made here: taken and seen as they are meant, or refused with what to do. */

let shop: Shop;
const folder = temporaryFolder();

beforeAll(() => {
  shop = new Shop(folder.path);
  shop.start();
});
afterAll(async () => {
  await shop.close();
  folder.remove();
});

async function take(bytes: Uint8Array | string, name = 'file') {
  const { id } = await shop.artworks.take(name, oneChunk(bytes));
  await until(() => shop.artworks.get(id).state !== 'reading');
  return shop.artworks.get(id);
}

async function taken(bytes: Uint8Array | string, name = 'file') {
  const artwork = await take(bytes, name);
  expect(artwork.reason).toBeNull();
  return artwork;
}

/** Colour of a place of the first page, shares of its size. */
async function seen(id: number, x = 0.5, y = 0.5, px = 200): Promise<number[]> {
  const { data, info } = await sharp(await shop.pictures.page(id, 0, px))
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  const at = (Math.min(info.height - 1, Math.floor(y * info.height)) * info.width + Math.min(info.width - 1, Math.floor(x * info.width))) * 3;
  return [...data.subarray(at, at + 3)];
}

const near = (is: readonly number[], wanted: readonly number[], by = 4) =>
  is.forEach((v, i) => expect(Math.abs(v - (wanted[i] ?? 0)), `${is.join()} for ${wanted.join()}`).toBeLessThanOrEqual(by));

const ORANGE = [230, 120, 30];

describe('pictures of every kind', () => {
  const square = { width: 24, height: 16, ppi: 100 };
  const tiffs: [string, Omit<MadeTiff, 'width' | 'height'>, number[] | undefined, number][] = [
    ['RGB of 8 bits', { photometric: 2, bits: 8, channels: 3, pixel: ORANGE }, ORANGE, 1],
    ['RGB of 16 bits', { photometric: 2, bits: 16, channels: 3, pixel: ORANGE.map((v) => v * 257) }, ORANGE, 1],
    ['RGB in floating point', { photometric: 2, bits: 32, format: 3, channels: 3, pixel: ORANGE.map((v) => v / 255) }, ORANGE, 1],
    ['RGB with a spot channel beside it', { photometric: 2, bits: 8, channels: 4, extra: [0], pixel: [...ORANGE, 0] }, ORANGE, 1],
    ['RGB half covered', { photometric: 2, bits: 8, channels: 4, extra: [2], pixel: [230, 120, 30, 128] }, [242, 187, 142], 3],
    ['RGB half covered, multiplied', { photometric: 2, bits: 8, channels: 4, extra: [1], pixel: [115, 60, 15, 128] }, [242, 187, 142], 3],
    ['grey of 16 bits with a selection', { photometric: 1, bits: 16, channels: 2, extra: [0], pixel: [0x6060, 0] }, [0x60, 0x60, 0x60], 2],
    ['grey, white being 0, in floating point', { photometric: 0, bits: 32, format: 3, channels: 1, pixel: [0.25] }, [191, 191, 191], 2]
  ];
  it.each(tiffs)('TIFF: %s', async (_name, made, wanted, by) => {
    const artwork = await taken(madeTiff({ ...square, ...made }));
    near(await seen(artwork.id), wanted ?? [], by);
    expect(artwork.facts?.pages[0]?.widthMm).toBeCloseTo((24 / 100) * 25.4, 2);
    expect(artwork.facts?.findings.some(({ kind }) => kind === 'extra-channels')).toBe(made.extra?.[0] === 0);
  });

  const CMYK = [0.1, 0.6, 0.9, 0.05];
  const cmyk: [string, Omit<MadeTiff, 'width' | 'height'>][] = [
    ['of 16 bits', { photometric: 5, bits: 16, channels: 4, pixel: CMYK.map((v) => Math.round(v * 65535)) }],
    ['with a fifth channel', { photometric: 5, bits: 8, channels: 5, extra: [0], pixel: [...CMYK, 0].map((v) => Math.round(v * 255)) }],
    ['with a fifth channel, full', { photometric: 5, bits: 8, channels: 5, extra: [0], pixel: [...CMYK, 1].map((v) => Math.round(v * 255)) }],
    ['of 16 bits with two channels more', { photometric: 5, bits: 16, channels: 6, extra: [0, 0], pixel: [...CMYK, 0, 1].map((v) => Math.round(v * 65535)) }]
  ];
  it.each(cmyk)('CMYK TIFF %s is the same as the plain one', async (_name, made) => {
    const plain = await taken(madeTiff({ ...square, photometric: 5, bits: 8, channels: 4, pixel: CMYK.map((v) => Math.round(v * 255)) }));
    const colour = await seen(plain.id);
    expect(colour[0]).toBeGreaterThan((colour[2] ?? 0) + 80);
    near(await seen((await taken(madeTiff({ ...square, ...made }))).id), colour, 2);
  });

  const lab: [string, Omit<MadeTiff, 'width' | 'height' | 'channels'>][] = [
    ['8 bits', { photometric: 8, bits: 8, pixel: [153, 30, -20] }],
    ['16 bits', { photometric: 8, bits: 16, pixel: [0.6 * 65535, 30 * 256, -20 * 256].map(Math.round) }],
    ['8 bits as profiles write it', { photometric: 9, bits: 8, pixel: [153, 158, 108] }],
    ['floating point', { photometric: 8, bits: 32, format: 3, pixel: [60, 30, -20] }]
  ];
  it.each(lab)('Lab TIFF of %s', async (_name, made) => {
    const wanted = xyzToSrgb(labToXyz([60, 30, -20])).map((v) => v * 255);
    near(await seen((await taken(madeTiff({ ...square, channels: 3, ...made }))).id), wanted, 5);
  });

  it('WebP, AVIF, GIF, BMP, JPEG 2000', async () => {
    const picture = sharp({ create: { width: 40, height: 30, channels: 3, background: { r: 230, g: 120, b: 30 } } });
    for (const format of ['webp', 'avif', 'gif'] as const) {
      const artwork = await taken(await picture.clone().toFormat(format, { lossless: true }).toBuffer());
      near(await seen(artwork.id), ORANGE, 8);
      expect(artwork.facts?.format.toLowerCase()).toBe(format);
    }
    const bmp = Buffer.alloc(54 + 12 * 2);
    bmp.write('BM');
    bmp.writeUInt32LE(bmp.length, 2);
    bmp.writeUInt32LE(54, 10);
    [40, 3, 2].forEach((v, i) => bmp.writeUInt32LE(v, 14 + i * 4));
    bmp.writeUInt16LE(1, 26);
    bmp.writeUInt16LE(24, 28);
    for (let y = 0; y < 2; y++) for (let x = 0; x < 3; x++) bmp.set([30, 120, 230], 54 + y * 12 + x * 3);
    near(await seen((await taken(bmp)).id), ORANGE, 1);
  });

  it('says which pictures do not say their size, by one rule for all formats', async () => {
    const picture = sharp({ create: { width: 300, height: 150, channels: 3, background: '#e6781e' } });
    const silent = [
      await picture.clone().png().toBuffer(),
      // A JPEG says a proportion alone where it does not know.
      withoutDensity(await picture.clone().jpeg().toBuffer()),
      madeTiff({ width: 300, height: 150, photometric: 2, bits: 8, channels: 3, pixel: ORANGE }),
      await picture.clone().webp().toBuffer()
    ];
    for (const bytes of silent) {
      const { facts } = await taken(bytes);
      expect(facts?.pages[0]?.widthMm).toBeCloseTo((300 / 150) * 25.4, 2);
      expect(facts?.notes.join()).toMatch(/does not say its size.*150 pixels an inch/);
    }
    const says = [
      await picture.clone().withMetadata({ density: 72 }).png().toBuffer(),
      await picture.clone().withMetadata({ density: 72 }).jpeg().toBuffer(),
      madeTiff({ width: 300, height: 150, photometric: 2, bits: 8, channels: 3, pixel: ORANGE, ppi: 72 })
    ];
    for (const bytes of says) {
      const { facts } = await taken(bytes);
      expect(facts?.pages[0]?.widthMm).toBeCloseTo((300 / 72) * 25.4, 1);
      expect(facts?.notes).toEqual([]);
    }
  });

  it('half a picture is refused, a damaged one is never taken without a word', async () => {
    const noise = Uint8Array.from({ length: 200 * 200 * 3 }, (_, i) => (i * 7919 + (i >> 5) * 31) % 256);
    const picture = sharp(noise, { raw: { width: 200, height: 200, channels: 3 } });
    for (const format of ['jpeg', 'png', 'tiff', 'webp', 'gif'] as const) {
      const bytes = await picture.clone().toFormat(format).toBuffer();
      const { state, reason } = await take(bytes.subarray(0, Math.floor(bytes.length / 2)));
      expect([format, state]).toEqual([format, 'refused']);
      expect(reason).toMatch(/damaged|new copy/);
    }
    const jpeg = await picture.jpeg().toBuffer();
    let told = 0;
    for (let i = 0; i < 12; i++) {
      const hurt = Buffer.from(jpeg);
      const at = 700 + Math.floor(((jpeg.length - 900) * i) / 12);
      hurt.fill(0, at, at + 40);
      const { state, facts } = await take(hurt);
      if (state === 'refused' || facts?.findings.some(({ kind }) => kind === 'damaged')) told++;
    }
    // Now and then other codes are as long as those that stood there.
    expect(told).toBeGreaterThanOrEqual(9);
  });

  const others: [string, Buffer, RegExp][] = [
    ['HEIC', Buffer.concat([Buffer.from('\0\0\0\x18ftypheic\0\0\0\0mif1heic', 'latin1'), Buffer.alloc(200)]), /HEIC.*JPEG or PNG/],
    ['layers', Buffer.concat([Buffer.from('8BPS\0\x01'), Buffer.alloc(200)]), /layered.*TIFF or PDF/],
    ['a packed folder', Buffer.concat([Buffer.from('PK\x03\x04'), Buffer.alloc(200)]), /Unpack it, or save the document as PDF/],
    ['a web page', Buffer.from('<!DOCTYPE html><html><svg></svg></html>'), /web page/],
    ['nothing known', Buffer.from('hello there'), /not known.*Artwork comes as/]
  ];
  it.each(others)('%s gets a sentence that says what to save', async (_name, bytes, sentence) => {
    const { state, reason } = await take(bytes);
    expect(state).toBe('refused');
    expect(reason).toMatch(sentence);
  });
});

/** A JPEG whose JFIF head gives a proportion and no density. */
function withoutDensity(jpeg: Buffer): Buffer {
  const at = jpeg.indexOf('JFIF\0');
  const out = Buffer.from(jpeg);
  out[at + 7] = 0;
  return out;
}
