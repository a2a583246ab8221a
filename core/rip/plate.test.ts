import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { Kernels } from '../kernels/kernels';
import { unpackBits } from '../kernels/twin';
import { inkMl, mlPerSquareMetre, packedAmounts } from '../inks/drops';
import {
  plateDirectory,
  PLATE_HEADER_BYTES,
  PlateFileError,
  readPlateFile,
  stripsPerPlate,
  type PlateLayout,
  type Strip
} from './plate-file';
import { fourInks } from '../inks/ink-set';
import { unpackWindow } from './plate-window';
import { bandsOf, plateLayout, type RipPlan } from './plan';

const layout: PlateLayout = {
  widthPx: 640,
  heightPx: 200,
  dpi: { x: 720, y: 360 },
  inks: ['Cyan', 'Magenta', 'Yellow', 'Black'],
  layers: [0, 0, 0, 0],
  rowsPerStrip: 64
};

/** A file in memory whose strips claim to lie behind `base`. */
function file(base: number) {
  const count = stripsPerPlate(layout) * 4;
  const strips: Strip[] = Array.from({ length: count }, (_, i) => ({ offset: base + i * 10, bytes: 10 }));
  const end = base + count * 10;
  const { header, directory } = plateDirectory(layout, strips, end);
  const readAt = (offset: number, length: number) => {
    if (offset < PLATE_HEADER_BYTES) return header.subarray(offset, offset + length);
    return directory.subarray(offset - end, offset - end + length);
  };
  return { strips, size: end + directory.length, readAt };
}

describe('the plate file', () => {
  it.each([
    ['TIFF', PLATE_HEADER_BYTES],
    ['BigTIFF, past 4 GB', 5e9]
  ])('comes back as it was written: %s', async (_name, base) => {
    const { strips, size, readAt } = file(base);
    expect(await readPlateFile(readAt, size)).toEqual({ ...layout, strips });
  });

  it('is refused when it is cut short or is something else', async () => {
    const { size, readAt } = file(PLATE_HEADER_BYTES);
    await expect(readPlateFile(readAt, size - 20)).rejects.toThrow(PlateFileError);
    await expect(readPlateFile((_o, length) => new Uint8Array(length), size)).rejects.toThrow(/not a plate/);
  });
});

describe('a window of a strip', () => {
  let kernels: Kernels;
  beforeAll(() => {
    kernels = new Kernels(new WebAssembly.Module(readFileSync('dist-node/kernels.wasm')));
  });

  it('holds the same bytes as the whole', () => {
    const rowBytes = 48;
    const source = kernels.allocate(rowBytes);
    const target = kernels.allocate(128);
    const cell = fc.integer({ min: 0, max: 3 }).map((v) => v * 85);
    fc.assert(
      fc.property(
        fc.array(fc.array(cell, { minLength: rowBytes, maxLength: rowBytes }), { minLength: 1, maxLength: 8 }),
        fc.nat(),
        fc.nat(),
        fc.nat(),
        fc.nat(),
        (rows, a, b, c, d) => {
          const packed = rows.flatMap((row) => {
            kernels.bytes(source, rowBytes).set(row);
            return [...kernels.bytes(target, kernels.run.packBits(source, rowBytes, target))];
          });
          const whole = unpackBits(Uint8Array.from(packed), rowBytes * rows.length);
          const row = a % rows.length;
          const byte = b % rowBytes;
          const window = { row, rows: 1 + (c % (rows.length - row)), byte, bytes: 1 + (d % (rowBytes - byte)) };
          const part = unpackWindow(Uint8Array.from(packed), rowBytes, window);
          for (let y = 0; y < window.rows; y++) {
            for (let x = 0; x < window.bytes; x++)
              expect(part[y * window.bytes + x]).toBe(whole[(row + y) * rowBytes + byte + x]);
          }
        }
      )
    );
  });
});

describe('ink', () => {
  it('is drops times volume', () => {
    expect(inkMl([1e9, 0, 0], [6, 13, 21])).toBeCloseTo(6, 9);
    // A square metre of large drops at 720 dpi, the long way round.
    const side = (1000 / 25.4) * 720;
    expect(mlPerSquareMetre({ x: 720, y: 720 }, [6, 13, 21])).toBeCloseTo(inkMl([0, 0, side * side], [6, 13, 21]), 6);
  });

  it('adds up the four pixels of a byte', () => {
    expect(packedAmounts([6, 13, 21])[0b11_00_01_10]).toBe(1020 + Math.round((6 / 21) * 1020) + Math.round((13 / 21) * 1020));
  });
});

describe('bands', () => {
  it('cover the run once, begin on strips, and do not grow with its length', () => {
    fc.assert(
      fc.property(fc.integer({ min: 100, max: 3200 }), fc.integer({ min: 1, max: 50_000 }), (widthMm, lengthMm) => {
        const plan: RipPlan = {
          widthMm,
          lengthMm,
          dpi: { x: 720, y: 720 },
          inks: fourInks([6, 13, 21]),
          totalInk: null,
          sources: [],
          pieces: [],
          marks: []
        };
        const size = plateLayout(plan);
        let y = 0;
        for (const band of bandsOf(size)) {
          expect(band.y).toBe(y);
          expect(band.y % size.rowsPerStrip).toBe(0);
          expect(band.rows * size.widthPx * 4).toBeLessThan(130e6);
          y += band.rows;
        }
        expect(y).toBe(size.heightPx);
      })
    );
  });
});
