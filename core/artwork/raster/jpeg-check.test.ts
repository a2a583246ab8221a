import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { isJpegDamaged } from './jpeg-check';

const picture = (width: number, height: number) =>
  sharp(
    Uint8Array.from({ length: width * height * 3 }, (_, i) => 128 + 90 * Math.sin(i / 37) + ((i * 7919) % 31)),
    { raw: { width, height, channels: 3 } }
  );

describe('the coded data of a JPEG', () => {
  const kinds = [
    { name: 'plain', options: {} },
    { name: 'without thinned colour', options: { chromaSubsampling: '4:4:4' } },
    { name: 'progressive', options: { progressive: true } },
    { name: 'progressive, trellis', options: { progressive: true, mozjpeg: true } },
    { name: 'of the best quality', options: { quality: 100 } }
  ];
  for (const { name, options } of kinds) {
    it(`are whole, ${name}`, async () => {
      for (const [width, height] of [
        [1, 1],
        [8, 8],
        [17, 33],
        [250, 131]
      ] as const)
        expect(isJpegDamaged(await picture(width, height).jpeg(options).toBuffer())).toBe(false);
      expect(isJpegDamaged(await picture(90, 70).toColourspace('b-w').jpeg(options).toBuffer())).toBe(false);
      expect(isJpegDamaged(await picture(90, 70).toColourspace('cmyk').jpeg(options).toBuffer())).toBe(false);
    });

    it(`are told when bytes of them are others, ${name}`, async () => {
      const jpeg = await picture(300, 200).jpeg(options).toBuffer();
      const start = jpeg.lastIndexOf(Buffer.from([0xff, 0xda])) + 14;
      let told = 0;
      for (let i = 0; i < 20; i++) {
        const hurt = Buffer.from(jpeg);
        const at = start + Math.floor(((jpeg.length - start - 60) * i) / 20);
        for (let k = 0; k < 40; k++) hurt[at + k] = (k * 97 + i * 31) & 127;
        if (isJpegDamaged(hurt)) told++;
      }
      // Now and then other bytes are as long, code by code, as those that stood there.
      expect(told).toBeGreaterThanOrEqual(15);
    });
  }

  it('are told when they end early', async () => {
    const jpeg = await picture(100, 100).jpeg().toBuffer();
    for (const share of [0.3, 0.6, 0.95]) expect(isJpegDamaged(jpeg.subarray(0, jpeg.length * share))).toBe(true);
  });

  it('are never a reason to hang or throw, whatever they are', async () => {
    const jpeg = await picture(60, 60).jpeg({ progressive: true }).toBuffer();
    for (let i = 0; i < 300; i++) {
      const hurt = Buffer.from(jpeg);
      for (let k = 0; k < 6; k++) hurt[2 + ((i * 131 + k * 977) % (jpeg.length - 2))] = (i * 17 + k * 59) & 255;
      expect([true, false]).toContain(isJpegDamaged(hurt));
    }
  });
});
