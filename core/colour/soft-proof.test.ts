import { readFileSync } from 'node:fs';
import { beforeAll, describe, expect, it } from 'vitest';
import { climbed, type Climbed } from '../../tests/made/named';
import { spreadOf } from '../calibration/profile-from-chart';
import { Kernels } from '../kernels/kernels';
import { seededRandom } from '../geometry/random';
import { NO_ADJUSTMENT } from './adjustment';
import { deltaE00, labOfRgb, labToXyz, xyzToSrgb, type Triple } from './lab';
import type { Inks } from './separation';
import { backTable, labsOf, packTables, SoftProof, UNCHANGED, unpackTables, type ProofTables } from './soft-proof';
import { toneTables, type Tone } from './tone';

const LIFT: Tone = {
  all: {
    points: [
      [0, 0],
      [0.4, 0.55],
      [1, 1]
    ],
    mayFall: false
  }
};

let made: Climbed;
let tables: ProofTables;
let proof: SoftProof;
beforeAll(async () => {
  made = await climbed('gloss', 500, 17);
  const { grid, white, begin } = made.maker.press;
  tables = { forward: grid, white, back: backTable(begin) };
  proof = new SoftProof(new Kernels(new WebAssembly.Module(readFileSync('dist-node/kernels.wasm'))), tables);
});

/** Inks that a press may have, within its limit, as bytes. */
function someInks(count: number, seed: number): Uint8Array {
  const random = seededRandom(seed);
  const allowed = made.loop.allowed(made.total);
  const list: number[] = [];
  while (list.length < count * 4) {
    const inks = [random(), random(), random(), random() ** 2].map((v) => Math.round(v * 255));
    if (allowed(inks.map((v) => v / 255) as Inks)) list.push(...inks);
  }
  return Uint8Array.from(list);
}
/** Whether the screen can show a colour. */
const isShown = (lab: Triple): boolean => xyzToSrgb(labToXyz(lab)).every((v) => v > 0.005 && v < 0.995);

describe('a soft proof', () => {
  it('is what the print truly looks like, with a tone and without, in all that the screen can show', () => {
    for (const tones of [[], [LIFT]]) {
      const inks = someInks(1500, 3);
      proof.show(inks);
      const seen = proof.render({ ...UNCHANGED, tones });
      const curves = toneTables(tones);
      const errors: number[] = [];
      for (let i = 0; i < inks.length; i += 4) {
        const amounts = [0, 1, 2, 3].map((k) => curves[k]![inks[i + k]!]!) as Inks;
        const truth = made.truth(amounts);
        if (isShown(truth)) errors.push(deltaE00(truth, labOfRgb(seen[i]!, seen[i + 1]!, seen[i + 2]!)));
      }
      expect(errors.length).toBeGreaterThan(500);
      expect(spreadOf(errors).mean).toBeLessThanOrEqual(0.6);
    }
  });

  it('shows the media’s white, or the screen’s', () => {
    proof.show(new Uint8Array(4));
    const [r, g, b, opaque] = proof.render(UNCHANGED);
    expect(deltaE00(labOfRgb(r!, g!, b!), made.truth([0, 0, 0, 0]))).toBeLessThan(0.6);
    expect(opaque).toBe(255);
    expect([...proof.render({ ...UNCHANGED, white: 'screen' })]).toEqual([255, 255, 255, 255]);
  });

  it('follows an adjustment as the RIP does: greys become lighter, colours paler, and nothing else changes', () => {
    const grey = Uint8Array.from(made.maker.press.begin([50, 0, 0]).map((v) => Math.round(v * 255)));
    proof.show(grey);
    const lab = (change: Partial<typeof UNCHANGED>) => {
      const [r, g, b] = proof.render({ ...UNCHANGED, white: 'screen', ...change });
      return labOfRgb(r!, g!, b!);
    };
    const before = lab({});
    const brighter = lab({ adjustment: { ...NO_ADJUSTMENT, brightness: 0.4 } });
    expect(brighter[0] - before[0]).toBeGreaterThan(5);
    expect(Math.hypot(brighter[1] - before[1], brighter[2] - before[2])).toBeLessThan(2.5);
    const red = Uint8Array.from(made.maker.press.begin([50, 50, 25]).map((v) => Math.round(v * 255)));
    proof.show(red);
    const pale = lab({ adjustment: { ...NO_ADJUSTMENT, saturation: -0.5 } });
    expect(Math.hypot(pale[1], pale[2]) / Math.hypot(...lab({}).slice(1))).toBeCloseTo(0.5, 1);
  });

  it('tells differences of the same figures', () => {
    const inks = someInks(50, 5);
    const labs = labsOf(tables, inks, { ...UNCHANGED, tones: [LIFT] });
    const curves = toneTables([LIFT]);
    for (let i = 0; i < 50; i++) {
      const amounts = [0, 1, 2, 3].map((k) => curves[k]![inks[i * 4 + k]!]!) as Inks;
      expect(deltaE00([...labs.subarray(i * 3, i * 3 + 3)] as Triple, made.maker.look(amounts))).toBeLessThan(0.01);
    }
  });

  it('stands on tables that come as they were sent', () => {
    const back = unpackTables(packTables(tables));
    expect(back.forward.lab(0.3, 0.5, 0.1, 0.2)).toEqual(tables.forward.lab(0.3, 0.5, 0.1, 0.2));
    expect(back.back).toEqual(tables.back);
    back.white.forEach((v, i) => expect(v).toBeCloseTo(tables.white[i]!, 4));
    expect(() => unpackTables(new Float32Array(100))).toThrow('no tables of a condition');
  });

  it('of another size takes its place', () => {
    for (const count of [10, 1000, 20]) {
      proof.show(someInks(count, 7));
      expect(proof.render(UNCHANGED)).toHaveLength(count * 4);
    }
  });
});
