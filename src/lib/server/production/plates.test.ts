import { join } from 'node:path';
import fc from 'fast-check';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { fourInks } from '$core/inks/ink-set';
import { temporaryFolder } from '../../../../tests/harness';
import { madePlates } from '../../../../tests/made/plates';
import { plateInks, plateTile } from './plates';

const folder = temporaryFolder();
const path = join(folder.path, 'plates.tif');
const DROPS = [6, 13, 21] as const;
const INKS = fourInks(DROPS);
const SIZE = { widthPx: 256, heightPx: 150 };
let levels: Uint8Array[][];

beforeAll(() => {
  const inks = INKS.map(({ name }) => name);
  levels = madePlates(path, 7, { ...SIZE, dpi: { x: 720, y: 720 }, inks, layers: [0, 0, 0, 0], rowsPerStrip: 64 });
});
afterAll(() => folder.remove());

/** A plate's mean at a pixel that so many a side go into; what lies beyond the plate is bare. */
function meanAt(plate: number, shrink: number, column: number, row: number): number {
  let sum = 0;
  for (let y = row * shrink; y < Math.min(SIZE.heightPx, (row + 1) * shrink); y++)
    for (let x = column * shrink; x < Math.min(SIZE.widthPx, (column + 1) * shrink); x++)
      sum += [0, ...DROPS][levels[plate]![y]![x]!]! / DROPS[2];
  return (sum / shrink ** 2) * 255;
}

describe('plates that are looked into', () => {
  it('are the means of their drops, whatever part is asked for and however it is shrunk', async () => {
    const upTo = (most: number) => fc.integer({ min: 0, max: most });
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 9 }),
        fc.tuple(upTo(200), upTo(120), upTo(60), upTo(60)),
        async (shrink, [x0, y0, w, h]) => {
          const window = { x: Math.floor(x0 / shrink), y: Math.floor(y0 / shrink), width: 1 + w, height: 1 + h };
          const found = await plateInks(path, shrink, window, INKS);
          for (let y = 0; y < window.height; y++)
            for (let x = 0; x < window.width; x++)
              for (let plate = 0; plate < 4; plate++) {
                const wanted = meanAt(plate, shrink, window.x + x, window.y + y);
                const got = found[(y * window.width + x) * 4 + plate]!;
                if (Math.abs(got - wanted) > 0.51) expect([plate, window.x + x, window.y + y, got]).toEqual([plate, window.x + x, window.y + y, wanted]); // prettier-ignore
              }
        }
      ),
      { numRuns: 40 }
    );
  });

  it('are a picture of the plates that are on', async () => {
    const paths = { plates: path, overview: '', coarse: '' };
    const request = { paths, size: SIZE, shrink: 1, column: 0, row: 0, inks: INKS };
    const black = await sharp(await plateTile({ ...request, shown: [false, false, false, true] }))
      .raw()
      .toBuffer({ resolveWithObject: true });
    expect([black.info.width, black.info.height]).toEqual([256, 150]);
    const at = (x: number, y: number) => black.data[(y * 256 + x) * 3]!;
    for (let x = 0; x < 256; x++) {
      const level = levels[3]![40]![x]!;
      const light = 255 * (1 - (0.93 * [0, ...DROPS][level]!) / DROPS[2]);
      expect(Math.abs(at(x, 40) - light)).toBeLessThan(1.5);
    }
    await expect(plateTile({ ...request, column: 1, shown: [] })).rejects.toThrow('There is no such tile.');
    await expect(plateTile({ ...request, paths: { ...paths, plates: `${path}.gone` }, shown: [] })).rejects.toThrow(
      'The plates of this run are gone. RIP it again.'
    );
  });
});
