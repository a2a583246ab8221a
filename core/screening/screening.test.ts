import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { blueNoiseMask, kernelsModule } from '../../tests/made/kernels';
import { Kernels } from '../kernels/kernels';
import { fourInks, shiftOf } from '../inks/ink-set';
import { limitTables } from '../inks/limit';
import {
  countPackedDrops,
  diffusePlaneLevels,
  limitPixel,
  lookup3Pixel,
  lookup4Pixel,
  packLevels,
  screenPlaneLevels,
  splitChannels,
  unpackBits
} from '../kernels/twin';
import { diffuses, diffusionCurve, diffusionSteps, errorCount, makeScreener, type Halftone } from './screener';
import { noiseTable, straightCurve, thresholdTables } from './thresholds';
import type { DropVolumes } from '../inks/drops';
import { voidAndCluster } from './void-and-cluster';
import { seededRandom } from '../geometry/random';

const drops: DropVolumes = [6, 13, 21];
let module: WebAssembly.Module;
let mask: { size: number; ranks: Uint16Array };

beforeAll(() => {
  module = kernelsModule();
  mask = blueNoiseMask();
});

const screened = (count: number) =>
  Array.from({ length: count }, (_, ink) => ({ drops, curve: straightCurve(), shift: shiftOf(ink) }));

interface Area {
  width: number;
  from: number;
  to: number;
  /** Packed rows by ink, one after another. */
  planes: Uint8Array[];
  errors: Int32Array | undefined;
}

/** Screens rows of an area of several inks. @param errors of the rows before */
function screen(
  method: Halftone,
  inks: number,
  width: number,
  [from, to]: readonly [number, number],
  pixel: (x: number, y: number, ink: number) => number,
  errors?: Int32Array
): Area {
  const kernels = new Kernels(module);
  const screener = makeScreener(method, kernels, width, mask, screened(inks));
  screener.errors = errors;
  const sources = Array.from({ length: inks }, () => kernels.allocate(width));
  const bytes = width / 4;
  const targets = Array.from({ length: inks }, () => kernels.allocate(bytes));
  const planes = targets.map(() => new Uint8Array(bytes * (to - from)));
  for (let y = from; y < to; y++) {
    sources.forEach((source, ink) => {
      const row = kernels.bytes(source, width);
      for (let x = 0; x < width; x++) row[x] = pixel(x, y, ink);
    });
    const inked = screener.row(y, sources, targets);
    planes.forEach((plane, ink) => {
      if (inked[ink]) plane.set(kernels.bytes(targets[ink]!, bytes), (y - from) * bytes);
    });
  }
  return { width, from, to, planes, errors: screener.errors };
}

const tone = (plane: Uint8Array, pixels: number) => {
  const [one, two, three] = countPackedDrops(plane);
  return (one * drops[0] + two * drops[1] + three * drops[2]) / (pixels * drops[2]);
};

describe('the blue-noise mask', () => {
  it('has every rank once', () => {
    expect(new Set(mask.ranks).size).toBe(65536);
  });

  it('keeps neighbours apart: the sparse dots stand about as far from each other as can be', () => {
    const ranks = voidAndCluster(32, seededRandom(7));
    const dots = Array.from(ranks.keys()).filter((i) => (ranks[i] ?? 0) < 51);
    const nearest = dots.map((i) =>
      Math.min(
        ...dots
          .filter((j) => j !== i)
          .map((j) => {
            const dx = Math.abs((i % 32) - (j % 32));
            const dy = Math.abs(Math.floor(i / 32) - Math.floor(j / 32));
            return Math.hypot(Math.min(dx, 32 - dx), Math.min(dy, 32 - dy));
          })
      )
    );
    // 5 % of the places: a perfect triangular grid would have 4.8 pixels between dots; white noise goes down to 1.
    expect(Math.min(...nearest)).toBeGreaterThan(2.8);
  });
});

describe.each(['blue-noise', 'error-diffusion'] as const)('%s', (method) => {
  it('keeps the mean tone within 0.2 % at every level', () => {
    let worst = 0;
    for (let value = 0; value <= 255; value += 4) {
      const v = [value, Math.min(255, value + 1), Math.min(255, value + 2), Math.min(255, value + 3)];
      const height = method === 'blue-noise' ? 256 : 512;
      const { planes } = screen(method, 4, 256, [0, height], (_x, _y, ink) => v[ink] ?? 0);
      // Error diffusion needs some rows until its errors are there.
      const skip = method === 'blue-noise' ? 0 : 128;
      planes.forEach((plane, ink) => {
        const measured = tone(plane.subarray(skip * 64), 256 * (height - skip));
        worst = Math.max(worst, Math.abs(measured - (v[ink] ?? 0) / 255));
      });
    }
    expect(worst).toBeLessThan(0.002);
  });

  it.each([1, 4, 5, 7])('gives the plain twin’s drops exactly, of %i inks', (inks) => {
    const random = seededRandom(3);
    const width = 48;
    const height = 20;
    // The second ink is not in every row, and in some not everywhere.
    const rows = Array.from({ length: height }, (_, y) =>
      Array.from({ length: inks }, (_, ink) =>
        Uint8Array.from({ length: width }, (_, x) =>
          ink === 1 && (y % 3 === 0 || x < 20) ? 0 : Math.floor(random() * 256 * random())
        )
      )
    );
    const { planes } = screen(method, inks, width, [0, height], (x, y, ink) => rows[y]![ink]![x]!);
    screened(inks).forEach(({ curve, shift }, ink) => {
      const tables = thresholdTables(mask.ranks, 256, drops, curve, shift);
      const noise = noiseTable(mask.ranks, 256, shift);
      const errors = new Int32Array(width + 2);
      rows.forEach((row, y) => {
        const line = <T extends Uint8Array>(table: T) => table.subarray(y * 256, (y + 1) * 256);
        const levels =
          method === 'blue-noise'
            ? screenPlaneLevels(row[ink]!, tables.map(line), 256)
            : diffusePlaneLevels(row[ink]!, diffusionCurve(curve), diffusionSteps(drops), line(noise), errors, y % 2 === 1);
        expect(planes[ink]!.subarray(y * (width / 4), (y + 1) * (width / 4))).toEqual(packLevels(levels));
      });
    });
  });

  it('starts each ink elsewhere in the mask, so that inks do not fall on each other', () => {
    const { planes } = screen(method, 7, 256, [0, 256], () => 40);
    for (let i = 0; i < planes.length; i++)
      for (let j = 0; j < i; j++) {
        let both = 0;
        let one = 0;
        planes[i]!.forEach((byte, at) => {
          for (let shift = 0; shift < 8; shift += 2) {
            const [a, b] = [(byte >> shift) & 3, (planes[j]![at]! >> shift) & 3];
            if (a && b) both++;
            if (a) one++;
          }
        });
        // By chance as many of one ink's drops would fall on the other's as there are of these: half of all pixels.
        expect(both / one).toBeLessThan(0.62);
      }
  });
});

describe('error diffusion from band to band', () => {
  it.each([4, 7])('leaves no seam: errors that are handed on give the drops of one piece, of %i inks', (inks) => {
    const width = 64;
    const pixel = (x: number, y: number, ink: number) => (x * 3 + y * 5 + ink * 40) % 200;
    const whole = screen('error-diffusion', inks, width, [0, 40], pixel);
    const first = screen('error-diffusion', inks, width, [0, 13], pixel);
    expect(first.errors).toHaveLength(errorCount(width, inks));
    const second = screen('error-diffusion', inks, width, [13, 40], pixel, first.errors);
    whole.planes.forEach((plane, ink) => {
      expect(Buffer.concat([first.planes[ink]!, second.planes[ink]!])).toEqual(Buffer.from(plane));
    });
  });
});

describe('the total ink limit', () => {
  const limits = (limit: number, curve: (v: number) => number) => {
    const curves = fourInks(drops).map(() => Float64Array.from({ length: 256 }, (_, v) => curve(v / 255)));
    return { curves, tables: limitTables(curves, [0, 1, 2, 3], 4, limit) };
  };
  const curve = fc.constantFrom<(v: number) => number>(
    (v) => v,
    (v) => v ** 1.8 * 0.9,
    (v) => Math.min(1, v ** 0.6)
  );

  it('is never passed, changes nothing below it, keeps black, and is the same as its twin', () => {
    const width = 64;
    fc.assert(
      fc.property(
        fc.uint8Array({ minLength: width * 4, maxLength: width * 4 }),
        fc.double({ min: 1, max: 4, noNaN: true }),
        curve,
        (row, limit, by) => {
          const { curves, tables } = limits(limit, by);
          const kernels = new Kernels(module);
          const at = kernels.allocate(row.length);
          const totals = kernels.allocate(tables.totals.length * 2);
          kernels.bytes(at, row.length).set(row);
          new Uint16Array(kernels.run.memory.buffer, totals, tables.totals.length).set(tables.totals);
          const coarse = kernels.allocate(16);
          kernels.bytes(coarse, 16).set(tables.coarse);
          kernels.run.limitRow(at, width, totals, tables.limit, tables.safe, coarse);
          const out = kernels.bytes(at, row.length);
          const ink = (pixel: ArrayLike<number>) => curves.reduce((sum, one, i) => sum + one[pixel[i]!]!, 0);
          for (let x = 0; x < width; x++) {
            const [before, after] = [row.subarray(x * 4, x * 4 + 4), out.subarray(x * 4, x * 4 + 4)];
            expect([...after]).toEqual(limitPixel([...before], tables.totals, tables.limit));
            expect(ink(after)).toBeLessThanOrEqual(limit + 1e-9);
            if (ink(before) <= limit - 0.001) expect(after).toEqual(before);
            expect(after[3]).toBe(curves[3]![before[3]!]! <= limit - 0.001 ? before[3] : after[3]);
          }
        }
      ),
      { numRuns: 60 }
    );
  });

  it('brings marks in all inks to the limit and no lower', () => {
    const { curves, tables } = limits(2.6, (v) => v);
    const pixel = limitPixel([255, 255, 255, 255], tables.totals, tables.limit);
    const ink = pixel.reduce((sum, v, i) => sum + curves[i]![v]!, 0);
    expect(ink).toBeGreaterThan(2.58);
    expect(pixel[3]).toBe(255);
    expect(new Set(pixel.slice(0, 3)).size).toBe(1);
  });

  it('counts light inks with their dark ones', () => {
    const half = Float64Array.from({ length: 256 }, (_, v) => v / 510);
    const { totals } = limitTables([half, half], [0, 0], 1, 1);
    expect(totals[255]).toBe(4096);
  });
});

describe('the other loops and their twins', () => {
  it('takes composed pixels apart', () => {
    const kernels = new Kernels(module);
    const row = Uint8Array.from({ length: 64 * 4 }, (_, i) => (i * 37) % 251);
    const [at, target] = [kernels.allocate(row.length), kernels.allocate(row.length)];
    kernels.bytes(at, row.length).set(row);
    kernels.run.splitRow(at, 64, target, 64);
    expect(kernels.bytes(target, row.length)).toEqual(Uint8Array.from(splitChannels(row, 4).flatMap((plane) => [...plane])));
  });

  it('packs bits so that they unpack, whatever they are', () => {
    const kernels = new Kernels(module);
    const source = kernels.allocate(4096);
    const target = kernels.allocate(8192);
    const runs = fc.array(fc.tuple(fc.integer({ min: 0, max: 255 }), fc.integer({ min: 1, max: 300 })), { maxLength: 12 });
    fc.assert(
      fc.property(runs, fc.uint8Array({ maxLength: 400 }), (parts, tail) => {
        const bytes = Uint8Array.from([...parts.flatMap(([value, count]) => Array<number>(count).fill(value)), ...tail]);
        if (bytes.length === 0 || bytes.length > 4096) return;
        kernels.bytes(source, bytes.length).set(bytes);
        const length = kernels.run.packBits(source, bytes.length, target);
        expect(length).toBeLessThanOrEqual(bytes.length + Math.ceil(bytes.length / 128) + 1);
        expect(unpackBits(kernels.bytes(target, length), bytes.length)).toEqual(bytes);
        kernels.bytes(source, bytes.length).fill(0);
        expect(kernels.run.unpackBits(target, length, source, bytes.length)).toBe(1);
        expect(kernels.bytes(source, bytes.length)).toEqual(bytes);
      })
    );
  });

  it('unpacks what was packed by anyone as its twin does, and writes nothing beyond its room', () => {
    const kernels = new Kernels(module);
    const source = kernels.allocate(1024);
    const target = kernels.allocate(1024);
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 600 }), fc.integer({ min: 1, max: 900 }), (packed, length) => {
        kernels.bytes(source, packed.length).set(packed);
        kernels.bytes(target, 1024).fill(7);
        let wanted: Uint8Array | undefined;
        try {
          wanted = unpackBits(packed, length);
        } catch (error) {
          expect(error).toBeInstanceOf(RangeError);
        }
        expect(kernels.run.unpackBits(source, packed.length, target, length)).toBe(wanted ? 1 : 0);
        if (wanted) expect(kernels.bytes(target, length)).toEqual(wanted);
        expect(kernels.bytes(target + length, 1024 - length).every((byte) => byte === 7)).toBe(true);
      }),
      { numRuns: 500 }
    );
  });

  it('counts drops', () => {
    const kernels = new Kernels(module);
    const random = seededRandom(5);
    const bytes = Uint8Array.from({ length: 16 * 130 }, () => Math.floor(random() * 256));
    const source = kernels.allocate(bytes.length);
    const counts = kernels.allocate(12);
    kernels.bytes(source, bytes.length).set(bytes);
    kernels.run.countDrops(source, bytes.length, counts);
    expect([...kernels.words(counts, 3)]).toEqual(countPackedDrops(bytes));
  });

  it('interpolates a colour table within a step of the plain sum, flat areas and all corners among them', () => {
    const kernels = new Kernels(module);
    const random = seededRandom(11);
    const grid = 5;
    const table = Uint16Array.from({ length: grid ** 3 * 4 }, () => Math.round(random() * 65280));
    const pixels = Uint8Array.from({ length: 3 * 2000 }, () => Math.floor(random() * 256));
    for (let corner = 0; corner < 8; corner++)
      pixels.set(
        [4, 2, 1].map((bit) => (corner & bit ? 255 : 0)),
        corner * 3
      );
    for (let i = 300; i < 900; i++) pixels[i] = pixels[i - 3]!;
    const source = kernels.allocate(pixels.length);
    const target = kernels.allocate(2000 * 4);
    // The table is the last of the memory: whatever reads beyond it stops.
    const tableAt = kernels.run.memory.buffer.byteLength - table.byteLength;
    expect(tableAt).toBeGreaterThan(target + 2000 * 4);
    new Uint16Array(kernels.run.memory.buffer, tableAt, table.length).set(table);
    kernels.bytes(source, pixels.length).set(pixels);
    kernels.run.lookup3(source, 2000, tableAt, grid, target);
    const out = kernels.bytes(target, 8000);
    for (let i = 0; i < 2000; i++) {
      const want = lookup3Pixel(pixels[i * 3] ?? 0, pixels[i * 3 + 1] ?? 0, pixels[i * 3 + 2] ?? 0, table, grid);
      want.forEach((value, ink) => expect(Math.abs(value - (out[i * 4 + ink] ?? 0))).toBeLessThan(0.52));
    }
  });

  it('interpolates a table of four inks within a step of the plain sum, flat areas and full inks among them', () => {
    const kernels = new Kernels(module);
    const random = seededRandom(12);
    const grid = 5;
    const count = 3000;
    const table = Uint16Array.from({ length: grid ** 4 * 4 }, () => Math.round(random() * 65280));
    const tableAt = kernels.allocate(table.byteLength);
    new Uint16Array(kernels.run.memory.buffer, tableAt, table.length).set(table);
    // Of each ink another curve, in parts of 256 of the way from point to point.
    const places = Array.from({ length: 4 }, (_, k) =>
      Array.from({ length: 256 }, (_, v) => Math.round((v / 255) ** (1 + k / 3) * (grid - 1) * 256) / 256)
    );
    const placesAt = kernels.allocate(4 * 256 * 2);
    new Uint16Array(kernels.run.memory.buffer, placesAt, 4 * 256).set(
      places.flat().map((place) => {
        const whole = Math.min(grid - 2, Math.floor(place));
        return whole * 512 + Math.round((place - whole) * 256);
      })
    );
    const pixels = Uint8Array.from({ length: 4 * count }, () => Math.floor(random() * 256));
    pixels.fill(255, 0, 8);
    pixels.fill(0, 8, 12);
    for (let i = 400; i < 800; i++) pixels[i] = pixels[i - 4]!;
    const source = kernels.allocate(pixels.length);
    const target = kernels.allocate(count * 4);
    kernels.bytes(source, pixels.length).set(pixels);
    kernels.run.lookup4(source, count, placesAt, tableAt, grid, target);
    const out = kernels.bytes(target, count * 4);
    for (let i = 0; i < count; i++) {
      const want = lookup4Pixel(
        places.map((curve, k) => curve[pixels[i * 4 + k]!]!),
        table,
        grid
      );
      want.forEach((value, k) => expect(Math.abs(value - out[i * 4 + k]!)).toBeLessThan(0.52));
    }
  });
});

describe('halftones one after another', () => {
  const shade = (x: number, y: number, ink: number) => (x * 5 + y * 3 + ink * 40) % 256;
  const halftone = [
    { fromRow: 0, method: 'blue-noise' },
    { fromRow: 12, method: 'error-diffusion' },
    { fromRow: 30, method: 'blue-noise' }
  ] as const;

  it('lay each its own drops in its own rows', () => {
    const rows = [0, 40] as const;
    const [both, noise] = [screen(halftone, 2, 48, rows, shade), screen('blue-noise', 2, 48, rows, shade)];
    const diffused = screen('error-diffusion', 2, 48, [12, 30], shade);
    const bytes = 48 / 4;
    both.planes.forEach((plane, ink) => {
      const part = (of: Uint8Array, from: number, to: number) => [...of.subarray(from * bytes, to * bytes)];
      expect(part(plane, 0, 12)).toEqual(part(noise.planes[ink]!, 0, 12));
      expect(part(plane, 30, 40)).toEqual(part(noise.planes[ink]!, 30, 40));
      expect(part(plane, 12, 30)).toEqual(part(diffused.planes[ink]!, 0, 18));
    });
  });

  it('go on from band to band as if there were none', () => {
    const whole = screen(halftone, 2, 48, [0, 40], shade);
    let errors: Int32Array | undefined;
    const bands = [
      [0, 20],
      [20, 31],
      [31, 40]
    ].map(([from, to]) => {
      const band = screen(halftone, 2, 48, [from!, to!], shade, errors);
      errors = band.errors;
      return band;
    });
    whole.planes.forEach((plane, ink) =>
      expect(Buffer.concat(bands.map(({ planes }) => planes[ink]!))).toEqual(Buffer.from(plane))
    );
  });

  it('carry errors where one of them does', () => {
    expect([diffuses('blue-noise'), diffuses('error-diffusion'), diffuses(halftone), diffuses(halftone.slice(0, 1))]).toEqual([
      false,
      true,
      true,
      false
    ]);
  });
});
