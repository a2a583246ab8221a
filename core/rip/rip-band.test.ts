import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { blueNoiseMask, kernelsModule } from '../../tests/made/kernels';
import type { Box } from '../geometry/box';
import { cellsOf } from '../geometry/cells';
import { inkMl } from '../inks/drops';
import { fourInks, shiftOf, type InkSet } from '../inks/ink-set';
import { Kernels } from '../kernels/kernels';
import { mixtureThrough } from '../inks/mixture';
import { countPackedDrops, unpackBits } from '../kernels/twin';
import { REGISTRATION, type Flat, type Mark } from '../marks/print-list';
import { straightCurve } from '../screening/thresholds';
import { Composer } from './compose';
import type { Part } from './parts';
import { planesOf, plateLayout, type RipPlan } from './plan';
import { PrintedMarks } from './printed-marks';
import { Recorder, shrinkCells } from './record';
import { BandRipper } from './rip-band';

const WHITE = { name: 'White', role: 'white', channel: 'White', colour: '#c0c8d8' } as const;
const FIVE: InkSet = [...fourInks([6, 13, 21]), { ...WHITE, drops: [12, 24, 36], shift: shiftOf(4) }];
/** A pixel is a tenth of a millimetre. */
const plan = (over: Partial<RipPlan> = {}): RipPlan => ({
  widthMm: 25.6,
  lengthMm: 6.4,
  dpi: { x: 254, y: 254 },
  inks: fourInks([6, 13, 21]),
  totalInk: null,
  sources: [],
  pieces: [],
  marks: [],
  ...over
});
const WIDTH = 256;
const BAND = { index: 0, y: 0, rows: 64 };
const flat = (x: number, y: number, width: number, height: number, inks: readonly number[]): Flat => ({
  x,
  y,
  width,
  height,
  inks
});

let module: WebAssembly.Module;
let mask: { size: number; ranks: Uint16Array };
beforeAll(() => {
  module = kernelsModule();
  mask = blueNoiseMask();
});

/** Composed rows of the band at 0: `pixels` a row after another, and the planes beside them. */
function composed(made: RipPlan, parts: readonly Part[], others = 0) {
  const composer = new Composer(made, WIDTH, BAND, parts);
  return Array.from({ length: BAND.rows }, (_, y) => {
    const row = { pixels: new Uint8Array(WIDTH * 4), others: Array.from({ length: others }, () => new Uint8Array(WIDTH)) };
    const inked = composer.row(y, [row.pixels, ...row.others]);
    expect(inked || row.pixels.every((v) => v === 0)).toBe(true);
    return { ...row, inked };
  });
}
const at = (row: { pixels: Uint8Array }, x: number) => [...row.pixels.subarray(x * 4, x * 4 + 4)];

describe('composing', () => {
  const part = (rect: Box, value: number, clip?: Part['clip']): Part => ({
    rect,
    layers: [{ place: 0, bytes: 4, pixels: () => new Uint8Array(rect.width * rect.height * 4).fill(value) }],
    top: rect.y,
    clip
  });

  it('lays pieces where they are, the later over the earlier, and cuts them off at the edges', () => {
    const rows = composed(plan(), [
      part({ x: -5, y: 2, width: 20, height: 4 }, 10),
      part({ x: 10, y: 3, width: 10, height: 9 }, 20),
      part({ x: 250, y: 0, width: 20, height: 2 }, 30)
    ]);
    expect([0, 9, 14, 15].map((x) => at(rows[2]!, x)[0])).toEqual([10, 10, 10, 0]);
    expect([0, 9, 10, 19, 20].map((x) => at(rows[3]!, x)[3])).toEqual([10, 10, 20, 20, 0]);
    expect([249, 250, 255].map((x) => at(rows[0]!, x)[1])).toEqual([0, 30, 30]);
    expect(rows[12]!.inked).toBe(false);
  });

  it('puts a piece through its tone, channel by channel, and no other piece or layer of another ink', () => {
    const times = (share: number) => Array.from({ length: 256 }, (_, v) => Math.round(v * share));
    const tone = [times(1), times(0.5), times(0), Array.from({ length: 256 }, (_, v) => 255 - v)];
    const rows = composed(plan(), [
      { ...part({ x: 0, y: 0, width: 10, height: 2 }, 100), tone },
      part({ x: 20, y: 0, width: 10, height: 2 }, 100)
    ]);
    expect(at(rows[0]!, 5)).toEqual([100, 50, 0, 155]);
    expect(at(rows[0]!, 25)).toEqual([100, 100, 100, 100]);
    expect(at(rows[0]!, 15)).toEqual([0, 0, 0, 0]);
    const white = { place: 1, bytes: 1, pixels: () => new Uint8Array(20).fill(100) };
    const laid = part({ x: 0, y: 0, width: 10, height: 2 }, 100);
    const [row] = composed(plan(), [{ ...laid, layers: [...laid.layers, white], tone }], 1);
    expect(row!.others[0]![5]).toBe(100);
  });

  it('prints a piece on its clip alone', () => {
    // A frame: the middle of it is not printed.
    const ring = (a: number, b: number) => [
      { x: a, y: a },
      { x: b, y: a },
      { x: b, y: b },
      { x: a, y: b }
    ];
    const { cells } = cellsOf([ring(0, 20), ring(6, 14)], 1);
    const rows = composed(plan(), [part({ x: 100, y: 0, width: 20, height: 20 }, 99, cells)]);
    expect([99, 100, 105, 110, 115, 119, 120].map((x) => at(rows[10]!, x)[0])).toEqual([0, 99, 99, 0, 99, 99, 0]);
    expect(at(rows[2]!, 110)[0]).toBe(99);
  });

  it('prints marks in plain ink over everything, in every channel that they name', () => {
    const made = plan({ flats: [flat(1, 1, 2, 0.5, [0, 0.5, 0, 0, 1]), flat(2, 1.2, 4, 0.1, REGISTRATION)], inks: FIVE });
    const rows = composed(made, [part({ x: 0, y: 0, width: 256, height: 64 }, 7)], 1);
    expect(at(rows[10]!, 10)).toEqual([0, 128, 0, 0]);
    expect(at(rows[12]!, 25)).toEqual([255, 255, 255, 255]);
    expect([rows[10]!.others[0]![10], rows[12]!.others[0]![25], rows[10]!.others[0]![50]]).toEqual([255, 0, 0]);
    expect(at(rows[10]!, 9)).toEqual([7, 7, 7, 7]);
    expect(at(rows[15]!, 10)).toEqual([7, 7, 7, 7]);
  });

  it('prints marks of any width from edge to edge, and nothing beside them', () => {
    const place = fc.integer({ min: 0, max: WIDTH });
    const amount = fc.integer({ min: 0, max: 255 }).map((v) => v / 255);
    fc.assert(
      fc.property(place, place, fc.array(amount, { minLength: 4, maxLength: 4 }), (a, b, inks) => {
        const [from, to] = [Math.min(a, b), Math.max(a, b)];
        const made = plan({ flats: [flat(from / 10, 1, (to - from) / 10, 0.1, inks)] });
        const [row, below] = composed(made, [part({ x: 0, y: 0, width: WIDTH, height: 64 }, 7)]).slice(10);
        const own = inks.map((v) => Math.round(v * 255));
        const wanted = Array.from({ length: WIDTH }, (_, x) => (x >= from && x < to ? own : [7, 7, 7, 7]));
        expect([...row!.pixels]).toEqual(wanted.flat());
        expect(below!.pixels.every((v) => v === 7)).toBe(true);
      })
    );
  });
});

describe('marks', () => {
  /** Pixels that a mark covers, one string a row. */
  function drawn(mark: Mark, widthPx = 64, rows = 40, first = 0): string[] {
    const marks = new PrintedMarks(plan({ marks: [mark] }), widthPx, { index: 0, y: first, rows });
    return Array.from({ length: rows }, (_, r) => {
      const row = new Array<string>(widthPx).fill('.');
      marks.row(first + r, (from, to) => {
        for (let x = from; x < to; x++) row[x] = '#';
      });
      return row.join('');
    });
  }
  const inked = (rows: string[]) => rows.join('').replace(/\./g, '').length;

  it('have the area of their shape, within the staircase of pixels', () => {
    fc.assert(
      fc.property(
        fc.record({ x: fc.double({ min: 2, max: 4, noNaN: true }), y: fc.double({ min: 1.7, max: 2.2, noNaN: true }) }),
        fc.double({ min: 1.5, max: 3, noNaN: true }),
        (place, diameter) => {
          const r = diameter / 2;
          const areas = {
            disc: Math.PI * r * r,
            square: diameter * diameter,
            ring: Math.PI * (r * r - (r - 0.4) ** 2),
            cross: 2 * diameter * 0.4 - 0.16
          };
          for (const [shape, area] of Object.entries(areas)) {
            const rows = drawn({ ...place, diameter, weight: 0.4, shape: shape as Mark['shape'] });
            expect(inked(rows) / 100).toBeGreaterThan(area * 0.8 - 0.12);
            expect(inked(rows) / 100).toBeLessThan(area * 1.2 + 0.12);
          }
        }
      ),
      { numRuns: 50 }
    );
  });

  it('are the same whichever band they fall in', () => {
    const mark: Mark = { x: 3, y: 2, diameter: 3, shape: 'ring' };
    expect([...drawn(mark, 64, 17, 0), ...drawn(mark, 64, 23, 17)]).toEqual(drawn(mark, 64, 40, 0));
  });

  it('are cut off at the edge of the roll', () => {
    expect(drawn({ x: 0, y: 2, diameter: 2, shape: 'square' })[20]).toBe(`${'#'.repeat(10)}${'.'.repeat(54)}`);
    expect(drawn({ x: 6.4, y: 2, diameter: 2, shape: 'square' })[20]).toBe(`${'.'.repeat(54)}${'#'.repeat(10)}`);
  });
});

describe('a band of any number of inks', () => {
  const SEVEN: InkSet = [
    ...FIVE.slice(0, 4),
    { ...FIVE[0]!, name: 'Light cyan', role: 'light', channel: 'Cyan', shift: shiftOf(5) },
    { ...FIVE[1]!, name: 'Light magenta', role: 'light', channel: 'Magenta', shift: shiftOf(6) },
    FIVE[4]!
  ];
  const curves = Array.from({ length: 4 }, straightCurve);
  function ripped(made: RipPlan, method: 'blue-noise' | 'error-diffusion' = 'blue-noise') {
    const ripper = new BandRipper(new Kernels(module), made, mask, { method, curves });
    return ripper.screen(BAND, []);
  }
  /** Mean ink of a plate over the band, shares of its fullest drop. */
  function mean(made: RipPlan, band: ReturnType<typeof ripped>, ink: number): number {
    const { drops } = made.inks[ink]!;
    return (inkMl(band.drops[ink]!, drops) * 1e9) / (drops[2] * WIDTH * BAND.rows);
  }

  it.each(['blue-noise', 'error-diffusion'] as const)('lays down what each channel asks for: %s', (method) => {
    const made = plan({ inks: SEVEN, flats: [flat(0, 0, 25.6, 6.4, [0.05, 0.5, 0.25, 0, 0.8])] });
    const band = ripped(made, method);
    const means = SEVEN.map((_, ink) => mean(made, band, ink));
    // Pale cyan is all light ink; of magenta some is.
    expect(means[0]).toBeLessThan(0.002);
    expect(means[0]! + 0.35 * means[4]!).toBeCloseTo(0.05, 2);
    expect(means[1]).toBeGreaterThan(0.05);
    expect(means[1]! + 0.35 * means[5]!).toBeCloseTo(0.5, 1.5);
    expect(means[2]).toBeCloseTo(0.25, 2);
    expect(means[3]).toBe(0);
    expect(means[6]).toBeCloseTo(0.8, 2);
  });

  it('mixes inks as its condition does, before the limit, and leaves what is of one ink alone', () => {
    // A tenth of what there is of cyan is taken from magenta where both print.
    const mixture = mixtureThrough(([c = 0, m = 0, y = 0, k = 0]) => [c, m === 0 ? 0 : Math.max(0, m - c / 10), y, k]);
    const mixed = (inks: number[], totalInk: number | null = null) => {
      const made = plan({ flats: [flat(0, 0, 25.6, 6.4, inks)], totalInk });
      const ripper = new BandRipper(new Kernels(module), made, mask, { method: 'blue-noise', curves, mixture });
      const band = ripper.screen(BAND, []);
      return made.inks.map((_, ink) => mean(made, band, ink));
    };
    expect(mixed([0.5, 0.5, 0, 0])[1]).toBeCloseTo(0.45, 2);
    expect(mixed([0, 0.5, 0, 0.4])).toEqual(mixed([0, 0.5, 0, 0.4]).with(0, 0).with(2, 0));
    expect(mixed([0, 0.5, 0, 0.4])[1]).toBeCloseTo(0.5, 2);
    // What it adds counts for the limit.
    const more = mixed([1, 1, 0, 0], 1.8);
    expect(more[0]! + more[1]!).toBeLessThanOrEqual(1.802);
    expect(more[1]! / more[0]!).toBeCloseTo(0.9, 1);
  });

  it('packs every plate whole, and counts the drops that are in it', () => {
    const made = plan({ inks: SEVEN, flats: [flat(3, 1, 5, 2, [0.3, 0.6, 0, 1, 0.4])] });
    const { packed, sizes, drops } = ripped(made);
    const strips = sizes.length / SEVEN.length;
    let from = 0;
    SEVEN.forEach((_, ink) => {
      const bytes = sizes.slice(ink * strips, (ink + 1) * strips).reduce((sum, size) => sum + size, 0);
      const plane = unpackBits(packed.subarray(from, from + bytes), (WIDTH / 4) * BAND.rows);
      expect(countPackedDrops(plane)).toEqual(drops[ink]);
      from += bytes;
    });
    expect(from).toBe(packed.length);
  });

  it('has means that say where the ink is', () => {
    const made = plan({ inks: SEVEN, flats: [flat(8 * 0.8, 0, 0.8, 0.8, [0, 0, 1, 0, 0])] });
    const { overview, coarse } = ripped(made);
    const cell = (x: number, y: number, ink: number) => overview[(y * (WIDTH / 8) + x) * SEVEN.length + ink];
    expect([cell(8, 0, 2), cell(7, 0, 2), cell(8, 1, 2), cell(8, 0, 3)]).toEqual([255, 0, 0, 0]);
    expect(coarse[1 * SEVEN.length + 2]).toBe(Math.round(255 / 64));
  });

  it('never lays down more than the limit, whatever drew it', () => {
    const made = plan({ totalInk: 2.4, flats: [flat(0, 0, 25.6, 6.4, REGISTRATION)] });
    const band = ripped(made);
    const total = made.inks.reduce((sum, _, ink) => sum + mean(made, band, ink), 0);
    expect(total).toBeLessThanOrEqual(2.4 + 0.002);
    expect(total).toBeGreaterThan(2.35);
    expect(mean(made, band, 3)).toBe(1);
    // A chart that looks for the limit goes beyond it.
    expect(mean(plan(), ripped({ ...made, totalInk: null }), 0)).toBe(1);
  });

  it('leaves nothing of one band in the next', () => {
    const made = plan({ inks: FIVE, flats: [flat(0, 6.3, 25.6, 0.1, [1, 1, 1, 1, 1])] });
    const kernels = new Kernels(module);
    const ripper = new BandRipper(kernels, { ...made, lengthMm: 12.8 }, mask, { method: 'blue-noise', curves });
    ripper.screen(BAND, []);
    const next = ripper.screen({ index: 1, y: 64, rows: 64 }, []);
    expect(next.drops.flat().every((count) => count === 0)).toBe(true);
    expect(next.overview.every((v) => v === 0)).toBe(true);
  });
});

describe('recording', () => {
  it('averages rows that are fewer at the end over what there is', () => {
    const inks = 3;
    const cells = 16;
    // Twelve rows of cells: the second coarse row has four.
    const overview = Uint8Array.from(
      { length: 12 * cells * inks },
      (_, i) => (i % inks) * 50 + (Math.floor(i / (cells * inks)) < 8 ? 0 : 100)
    );
    expect([...shrinkCells(overview, cells, inks)]).toEqual([0, 50, 100, 0, 50, 100, 100, 150, 200, 100, 150, 200]);
  });

  it('packs a row without a drop as short as can be', () => {
    const layout = plateLayout(plan());
    const recorder = new Recorder(new Kernels(module), layout, plan().inks);
    const recording = recorder.begin(BAND);
    for (let row = 0; row < BAND.rows; row++) recording.row(row, [undefined, undefined, undefined, undefined]);
    const { packed, sizes } = recording.finish();
    expect(sizes).toEqual([128, 128, 128, 128]);
    expect([...packed.subarray(0, 4)]).toEqual([257 - 64, 0, 257 - 64, 0]);
  });
});

describe('plates', () => {
  it('of a colour that no profile gives stay empty', () => {
    const orange = { ...FIVE[0]!, name: 'Orange', channel: 'Orange' };
    const made = plan({ inks: [...fourInks([6, 13, 21]), orange], flats: [flat(0, 0, 25.6, 6.4, [1, 1, 1, 1])] });
    const curves = Array.from({ length: 4 }, straightCurve);
    const { drops } = new BandRipper(new Kernels(module), made, mask, { method: 'blue-noise', curves }).screen(BAND, []);
    expect(drops[4]).toEqual([0, 0, 0]);
    expect(drops[0]![2]).toBeGreaterThan(0);
  });

  it('are every ink of every layer, in the order in which they are laid down', () => {
    const layers = [{ ink: 'white' as const }, { ink: 'colour' as const }, { ink: 'white' as const }];
    const named = planesOf({ layers, inks: FIVE }).map(({ ink, layer }) => `${layer} ${FIVE[ink]!.name}`);
    expect(named).toEqual(['0 White', '1 Cyan', '1 Magenta', '1 Yellow', '1 Black', '2 White']);
  });

  it('have each layer of a piece in its own, and marks in the colour that lies open', () => {
    const layers = [{ ink: 'colour' as const }, { ink: 'white' as const }, { ink: 'colour' as const }];
    const made = plan({ inks: FIVE, layers, flats: [flat(20, 0, 1, 6.4, [0, 1, 0, 0, 1])] });
    const of = (place: number, bytes: number, value: number) => ({
      place,
      bytes,
      pixels: () => new Uint8Array(100 * 64 * bytes).fill(value)
    });
    const rect = { x: 0, y: 0, width: 100, height: 64 };
    const part = { rect, top: 0, clip: undefined, layers: [of(0, 4, 255), of(1, 1, 128)] };
    const ripper = new BandRipper(new Kernels(module), made, mask, {
      method: 'blue-noise',
      curves: Array.from({ length: 4 }, straightCurve)
    });
    const { drops } = ripper.screen(BAND, [part]);
    const share = (plate: number) => {
      const volumes = FIVE[planesOf(made)[plate]!.ink]!.drops;
      return (inkMl(drops[plate]!, volumes) * 1e9) / (volumes[2] * WIDTH * BAND.rows);
    };
    // Of 256 pixels 100 are the piece’s, and 10 the mark’s. A part of the mask has not quite the tone of all of it.
    const wanted = [100, 100, 100, 100, 50.2 + 10, 0, 10, 0, 0];
    wanted.forEach((pixels, plate) => expect(Math.abs(share(plate) * WIDTH - pixels)).toBeLessThan(4));
  });
});
