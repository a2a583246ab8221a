import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { isPwg, NotPwg, readPwg, type PwgPage } from './pwg';

let folder: string;
beforeAll(() => void (folder = mkdtempSync(join(tmpdir(), 'zing-pwg-'))));
afterAll(() => rmSync(folder, { recursive: true }));

/** Two pages, 30 × 20 mm and 20 × 30 mm, with squares of red and a grey on white. */
const POSTSCRIPT = `%!PS
<</PageSize[85 57]>>setpagedevice 1 0 0 setrgbcolor 10 10 20 20 rectfill 0.5 setgray 40 10 20 20 rectfill showpage
<</PageSize[57 85]>>setpagedevice 0 0 1 setrgbcolor 10 40 30 30 rectfill showpage
`;

/** As ghostscript draws the same pages. */
function drawn(device: string, more: string[] = []): Buffer {
  const [from, to] = [join(folder, 'pages.ps'), join(folder, `out-${device}`)];
  writeFileSync(from, POSTSCRIPT);
  execFileSync('gs', [
    '-q',
    '-dBATCH',
    '-dNOPAUSE',
    '-dSAFER',
    `-sDEVICE=${device}`,
    '-r100',
    ...more,
    `-sOutputFile=${to}`,
    from
  ]);
  return readFileSync(to);
}
const pagesOf = (bytes: Uint8Array): PwgPage[] => [...readPwg(bytes, () => undefined)];

describe.runIf(existsSync('/usr/bin/gs'))('a PWG raster', () => {
  for (const [kind, space, bits, channels] of [
    ['srgb_8', 19, 8, 3],
    ['sgray_8', 18, 8, 1],
    ['cmyk_8', 6, 8, 4],
    ['black_1', 3, 1, 1]
  ] as const)
    it(`of ${kind} is read as another program writes it`, async () => {
      const pages = pagesOf(drawn('pwgraster', [`-dcupsColorSpace=${space}`, `-dcupsBitsPerColor=${bits}`]));
      expect(pages.map((page) => [page.kind, page.channels, page.across, page.down])).toEqual([
        [kind, channels, 100, 100],
        [kind, channels, 100, 100]
      ]);
      const reference = join(folder, 'page1.png');
      writeFileSync(reference, drawn('png16m', ['-dLastPage=1']));
      const { data, info } = await sharp(reference).removeAlpha().raw().toBuffer({ resolveWithObject: true });
      const [page] = pages;
      expect([page!.width, page!.height]).toEqual([info.width, info.height]);
      // The red square, the grey one and the white between.
      for (const [x, y] of [
        [28, 50],
        [70, 50],
        [48, 50]
      ] as const) {
        const at = (y * info.width + x) * 3;
        const here = page!.data.subarray((y * page!.width + x) * channels, (y * page!.width + x + 1) * channels);
        const [red, green, blue] = data.subarray(at, at + 3) as unknown as [number, number, number];
        if (channels === 3) expect([...here]).toEqual([red, green, blue]);
        else if (channels === 4) expect(here[3]! + here[1]! > 0).toBe(green < 255);
        else if (kind === 'sgray_8') expect(here[0]! < 255).toBe(green < 255);
        else if (green === 255) expect(here[0]).toBe(255);
      }
      expect(page!.data).toHaveLength(page!.width * page!.height * channels);
    });

  it('that is hurt anywhere is refused in words, or read to other pixels', () => {
    const whole = drawn('pwgraster', ['-dcupsColorSpace=19', '-dcupsBitsPerColor=8']);
    fc.assert(
      fc.property(fc.nat(whole.length - 1), fc.nat(255), fc.nat(whole.length), (at, byte, length) => {
        const hurt = Uint8Array.from(whole.subarray(0, length));
        if (at < length) hurt[at] = byte;
        try {
          for (const page of readPwg(hurt, ({ width, height }) => {
            if (width * height > 1e6) throw new NotPwg('too large');
          }))
            expect(page.data).toHaveLength(page.width * page.height * page.channels);
        } catch (error) {
          expect(error).toBeInstanceOf(NotPwg);
        }
      }),
      { numRuns: 400 }
    );
  });

  it('is told by its first bytes', () => {
    expect(isPwg(Buffer.from('RaS2…'))).toBe(true);
    expect(isPwg(Buffer.from('RaS'))).toBe(false);
    expect(() => pagesOf(Buffer.from('RaS2'))).toThrow('no page');
  });
});
