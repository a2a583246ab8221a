import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { decompress } from 'wawoff2';
import { describe, expect, it } from 'vitest';
import * as mupdf from '../../interpreter/interpreter';
import { familyOf, fontKind, sfntOfWoff } from './font-file';

const file = (name: string) => readFileSync(createRequire(import.meta.url).resolve(name));

describe('font files', () => {
  it('tell what they are and which family', () => {
    const arimo = file('@expo-google-fonts/arimo/700Bold/Arimo_700Bold.ttf');
    expect(fontKind(arimo)).toBe('sfnt');
    expect(familyOf(arimo)).toBe('Arimo');
    expect(familyOf(file('dejavu-fonts-ttf/ttf/DejaVuSans.ttf'))).toBe('DejaVu Sans');
    expect(fontKind(Buffer.from('<svg/>'))).toBeUndefined();
  });

  it('are unpacked', async () => {
    const woff = file('@fontsource/inter/files/inter-latin-400-normal.woff');
    const woff2 = file('@fontsource/inter/files/inter-latin-400-normal.woff2');
    expect([fontKind(woff), fontKind(woff2)]).toEqual(['woff', 'woff2']);
    for (const sfnt of [sfntOfWoff(woff), await decompress(woff2)]) {
      expect(fontKind(sfnt)).toBe('sfnt');
      expect(familyOf(sfnt)).toMatch(/^Inter/);
      // Another reader finds the letters in it.
      const font = new mupdf.Font('font', sfnt);
      expect(font.encodeCharacter('g'.charCodeAt(0))).toBeGreaterThan(0);
    }
  });

  it('that are broken end in an error and nothing worse', () => {
    const woff = file('@fontsource/inter/files/inter-latin-400-normal.woff');
    for (let i = 0; i < 200; i++) {
      const hurt = Buffer.from(woff.subarray(0, 6000 + i * 40));
      for (let k = 0; k < 8; k++) hurt[4 + ((i * 37 + k * 101) % 400)] = (i * 13 + k * 71) & 255;
      try {
        familyOf(sfntOfWoff(hurt));
      } catch (error) {
        expect(error).toBeInstanceOf(Error);
      }
    }
  });
});
