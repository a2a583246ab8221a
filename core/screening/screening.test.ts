import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { Kernels } from '../kernels/kernels';
import { countPackedDrops, diffuseRowLevels, lookup3Pixel, packLevels, screenRowLevels, unpackBits } from '../kernels/twin';
import { diffusionCurves, diffusionSteps, Screener, type HalftoneMethod } from './screener';
import { noiseTable, straightCurves, thresholdTables } from './thresholds';
import type { DropVolumes } from '../inks/drops';
import { voidAndCluster } from './void-and-cluster';
import { seededRandom } from '../geometry/random';

const drops: DropVolumes = [6, 13, 21];
let module: WebAssembly.Module;
let mask: { size: number; ranks: Uint16Array };

beforeAll(() => {
  module = new WebAssembly.Module(readFileSync('dist-node/kernels.wasm'));
  const bytes = readFileSync('core/screening/blue-noise-256.bin');
  mask = { size: 256, ranks: new Uint16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2) };
});

/** Screens an area and gives the four packed planes, row after row. */
function screen(method: HalftoneMethod, width: number, height: number, pixel: (x: number, y: number, ink: number) => number) {
  const kernels = new Kernels(module);
  const screener = new Screener(kernels, width, mask, { method, drops, curves: straightCurves() });
  const source = kernels.allocate(width * 4);
  const planeBytes = width / 4;
  const target = kernels.allocate(planeBytes * 4);
  const planes = [0, 1, 2, 3].map(() => new Uint8Array(planeBytes * height));
  for (let y = 0; y < height; y++) {
    const row = kernels.bytes(source, width * 4);
    for (let x = 0; x < width; x++) for (let ink = 0; ink < 4; ink++) row[x * 4 + ink] = pixel(x, y, ink);
    screener.row(y, source, target, planeBytes);
    planes.forEach((plane, ink) => plane.set(kernels.bytes(target + ink * planeBytes, planeBytes), y * planeBytes));
  }
  return planes;
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
      const planes = screen(method, 256, height, (_x, _y, ink) => v[ink] ?? 0);
      // Error diffusion needs some rows until its errors are there.
      const skip = method === 'blue-noise' ? 0 : 128;
      planes.forEach((plane, ink) => {
        const measured = tone(plane.subarray(skip * 64), 256 * (height - skip));
        worst = Math.max(worst, Math.abs(measured - (v[ink] ?? 0) / 255));
      });
    }
    expect(worst).toBeLessThan(0.002);
  });

  it('gives the plain twin’s drops exactly', () => {
    const random = seededRandom(3);
    const width = 48;
    const height = 20;
    const rows = Array.from({ length: height }, () =>
      Uint8Array.from({ length: width * 4 }, () => Math.floor(random() * 256 * random()))
    );
    const planes = screen(method, width, height, (x, y, ink) => rows[y]?.[x * 4 + ink] ?? 0);
    const tables = thresholdTables(mask.ranks, 256, drops, straightCurves());
    const noise = noiseTable(mask.ranks, 256);
    const errors = new Int32Array((width + 2) * 4);
    const curve = diffusionCurves(straightCurves());
    const steps = diffusionSteps(drops);
    rows.forEach((row, y) => {
      const levels =
        method === 'blue-noise'
          ? screenRowLevels(
              row,
              tables.map((t) => t.subarray(y * 1024, (y + 1) * 1024)),
              256
            )
          : diffuseRowLevels(row, curve, steps, noise.subarray(y * 1024, (y + 1) * 1024), errors, y % 2 === 1);
      packLevels(levels).forEach((packed, ink) => {
        expect(planes[ink]?.subarray(y * (width / 4), (y + 1) * (width / 4))).toEqual(packed);
      });
    });
  });
});

describe('error diffusion from band to band', () => {
  it('leaves no seam: errors that are handed on give the drops of one piece', () => {
    const width = 64;
    const pixel = (x: number, y: number, ink: number) => (x * 3 + y * 5 + ink * 40) % 200;
    const whole = screen('error-diffusion', width, 40, pixel);
    const kernels = new Kernels(module);
    let errors: Int32Array | undefined;
    const parts = [0, 1, 2, 3].map(() => [] as number[]);
    for (const [from, to] of [
      [0, 13],
      [13, 40]
    ] as const) {
      const screener = new Screener(kernels, width, mask, { method: 'error-diffusion', drops, curves: straightCurves() });
      if (errors) screener.errors = errors;
      const source = kernels.allocate(width * 4);
      const target = kernels.allocate(width);
      for (let y = from; y < to; y++) {
        const row = kernels.bytes(source, width * 4);
        for (let i = 0; i < width * 4; i++) row[i] = pixel(i >> 2, y, i & 3);
        screener.row(y, source, target, width / 4);
        parts.forEach((part, ink) => part.push(...kernels.bytes(target + (ink * width) / 4, width / 4)));
      }
      ({ errors } = screener);
    }
    parts.forEach((part, ink) => expect(Uint8Array.from(part)).toEqual(whole[ink]));
  });
});

describe('the other loops and their twins', () => {
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
      })
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

  it('interpolates a colour table within a step of the plain sum', () => {
    const kernels = new Kernels(module);
    const random = seededRandom(11);
    const grid = 5;
    const table = Uint16Array.from({ length: grid ** 3 * 4 }, () => Math.round(random() * 65280));
    const tableAt = kernels.allocate(table.byteLength);
    new Uint16Array(kernels.run.memory.buffer, tableAt, table.length).set(table);
    const pixels = Uint8Array.from({ length: 3 * 2000 }, (_, i) => (i < 9 ? 255 : Math.floor(random() * 256)));
    const source = kernels.allocate(pixels.length);
    const target = kernels.allocate(2000 * 4);
    kernels.bytes(source, pixels.length).set(pixels);
    kernels.run.lookup3(source, 2000, tableAt, grid, target);
    const out = kernels.bytes(target, 8000);
    for (let i = 0; i < 2000; i++) {
      const want = lookup3Pixel(pixels[i * 3] ?? 0, pixels[i * 3 + 1] ?? 0, pixels[i * 3 + 2] ?? 0, table, grid);
      want.forEach((value, ink) => expect(Math.abs(value - (out[i * 4 + ink] ?? 0))).toBeLessThan(0.52));
    }
  });
});
