import fc from 'fast-check';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { madeTiff } from '../../../tests/made/tiff';
import { saidPpi } from './resolution';
import { eightBits, isUsual, layoutOf, type Layout } from './samples';
import { ppiOfTags, readTags, sizeOfTags, type ReadAt } from './tags';

const reading =
  (bytes: Uint8Array): ReadAt =>
  (position, length) =>
    bytes.subarray(position, position + length);

const picture = sharp({ create: { width: 30, height: 20, channels: 3, background: '#468' } });

describe('the tags of a TIFF', () => {
  it('are read as another program writes them, of every page', async () => {
    for (const options of [{}, { bigtiff: true }, { tile: true }, { compression: 'lzw' as const }]) {
      const bytes = await picture.clone().withMetadata({ density: 200 }).tiff(options).toBuffer();
      const [tags, ...more] = readTags(reading(bytes));
      expect(more).toEqual([]);
      expect(sizeOfTags(tags!)).toMatchObject({ width: 30, height: 20, channels: 3 });
      expect(ppiOfTags(tags)).toBeCloseTo(200, 0);
    }
  });

  it('in centimetres, and as a proportion alone', () => {
    const made = madeTiff({ width: 4, height: 4, photometric: 1, bits: 8, channels: 1, pixel: [9], ppi: 100 });
    const tags = readTags(reading(made))[0]!;
    expect(ppiOfTags(new Map([...tags, [296, [3]]]))).toBeCloseTo(254, 6);
    expect(ppiOfTags(new Map([...tags, [296, [1]]]))).toBeUndefined();
    expect(saidPpi('TIFF', reading(made))).toBe(100);
  });

  it('never hang or throw, whatever the bytes are', () => {
    const made = madeTiff({
      width: 4,
      height: 4,
      photometric: 2,
      bits: 8,
      channels: 4,
      extra: [1],
      pixel: [1, 2, 3, 4],
      ppi: 72
    });
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(made.length - 1), fc.nat(255)), { maxLength: 12 }),
        fc.nat(made.length),
        (changes, end) => {
          const hurt = Buffer.from(made.subarray(0, end));
          for (const [at, value] of changes) if (at < end) hurt[at] = value;
          for (const tags of readTags(reading(hurt))) {
            sizeOfTags(tags);
            layoutOf(tags);
          }
          for (const format of ['TIFF', 'PNG', 'JPEG', 'BMP']) saidPpi(format, reading(hurt));
        }
      ),
      { numRuns: 500 }
    );
  });
});

describe('what a picture says of its size', () => {
  it('in JPEG by JFIF and by EXIF, in PNG by metres', async () => {
    expect(saidPpi('JPEG', reading(await picture.clone().withMetadata({ density: 300 }).jpeg().toBuffer()))).toBeCloseTo(300, 0);
    const exif = await picture
      .clone()
      .withMetadata({ density: 240 })
      .withExif({ IFD0: { Copyright: 'Gullway Signs' } })
      .jpeg()
      .toBuffer();
    const at = exif.indexOf('JFIF\0');
    if (at > 0) exif[at + 7] = 0;
    expect(saidPpi('JPEG', reading(exif))).toBeCloseTo(240, 0);
    expect(saidPpi('PNG', reading(await picture.clone().withMetadata({ density: 300 }).png().toBuffer()))).toBeCloseTo(300, 0);
    expect(saidPpi('PNG', reading(await picture.clone().png().toBuffer()))).toBeUndefined();
  });
});

describe('samples of unusual pictures', () => {
  const layout = (over: Partial<Layout>): Layout => ({
    colour: 'rgb',
    colours: 3,
    channels: 3,
    bits: 8,
    kind: 'whole',
    inverted: false,
    lab: 'signed',
    alpha: undefined,
    extra: 0,
    ...over
  });

  it('of every depth mean the same', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(255), fc.nat(255), fc.nat(255)), { minLength: 1, maxLength: 20 }), (pixels) => {
        const flat = pixels.flat();
        const is = (data: number[], over: Partial<Layout>) => [...eightBits(data, layout(over)).colour];
        expect(is(flat, {})).toEqual(flat);
        expect(
          is(
            flat.map((v) => v * 257),
            { bits: 16 }
          )
        ).toEqual(flat);
        expect(
          is(
            flat.map((v) => v / 255),
            { bits: 32, kind: 'float' }
          )
        ).toEqual(flat);
        expect(
          is(
            flat.map((v) => 255 - v),
            { inverted: true }
          )
        ).toEqual(flat);
        // Channels beside the colours change nothing.
        expect(
          is(
            pixels.flatMap((pixel) => [...pixel, 77, 3]),
            { channels: 5, extra: 2 }
          )
        ).toEqual(flat);
      })
    );
  });

  it('multiplied by their cover come apart again', () => {
    fc.assert(
      fc.property(fc.nat(255), fc.integer({ min: 64, max: 255 }), (value, cover) => {
        const multiplied = Math.round((value * cover) / 255);
        const { colour, alpha } = eightBits(
          [multiplied, multiplied, multiplied, cover],
          layout({ channels: 4, alpha: { channel: 3, multiplied: true } })
        );
        expect(alpha?.[0]).toBe(cover);
        expect(Math.abs((colour[0] ?? 0) - value)).toBeLessThanOrEqual(2);
      })
    );
  });

  it('are told from usual ones', () => {
    expect(isUsual(layout({}))).toBe(true);
    expect(isUsual(layout({ bits: 16 }))).toBe(true);
    expect(isUsual(layout({ colour: 'cmyk', colours: 4, channels: 4 }))).toBe(true);
    expect(isUsual(layout({ colour: 'cmyk', colours: 4, channels: 4, bits: 16 }))).toBe(false);
    expect(isUsual(layout({ extra: 1, channels: 4 }))).toBe(false);
    expect(isUsual(layout({ kind: 'float' }))).toBe(false);
    expect(isUsual(layout({ colour: 'lab' }))).toBe(false);
  });
});
