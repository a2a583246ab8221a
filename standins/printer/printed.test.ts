import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { deltaE00, xyzToLab } from '$core/colour/lab';
import { xyzOf } from '$core/colour/stack-look';
import { PROCESS_CHANNELS } from '$core/inks/ink-set';
import type { PrinterJob } from './job';
import { TRUE_UNIT } from './physics';
import { FULL } from './press';
import { drawnThings, isPlainLook, look, onThings, picture } from './printed';

/** Six cells across and four down, of 2 mm: solid cyan in the left half, bare in the right; what is not of a job's output is left out. */
const [COLUMNS, ROWS, CELL] = [6, 4, 2];
const folder = mkdtempSync(join(tmpdir(), 'zing-printed-'));
let job: PrinterJob;

beforeAll(() => {
  const amounts = join(folder, 'job-1.ink');
  const cells = new Uint16Array(COLUMNS * ROWS * PROCESS_CHANNELS.length);
  for (let row = 0; row < ROWS; row++)
    for (let column = 0; column < COLUMNS / 2; column++) cells[(row * COLUMNS + column) * PROCESS_CHANNELS.length] = FULL;
  writeFileSync(amounts, cells);
  job = {
    amounts,
    columns: COLUMNS,
    rows: ROWS,
    cellMm: { x: CELL, y: CELL },
    load: 21 * 720 * 720,
    surface: 'gloss',
    unit: TRUE_UNIT,
    layers: [{ ink: 'colour' }]
  } as PrinterJob;
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const pixel = (rgb: Uint8Array, column: number, row: number) => [...rgb.subarray((row * COLUMNS + column) * 3).subarray(0, 3)];

describe('what came out', () => {
  it('is read by an aperture as the mean of what it covers, and as bare media beside the print', async () => {
    const [solid, bare, edge, beside, far] = (
      await look(
        job,
        [
          { x: 2, y: 4 },
          { x: 10, y: 4 },
          { x: 6, y: 4 },
          { x: 50, y: 4 },
          { x: -90, y: 9000 }
        ],
        4
      )
    ).map((xyz) => xyzToLab(xyz));
    expect(bare).toEqual(beside);
    expect(bare).toEqual(far);
    expect(deltaE00(solid!, bare!)).toBeGreaterThan(30);
    // Half of it is ink: between both, and neither.
    expect(edge![0]).toBeGreaterThan(solid![0] + 5);
    expect(edge![0]).toBeLessThan(bare![0] - 5);
  });

  it('is seen from the front as it lies, and from behind with left and right changed', async () => {
    const white = xyzOf('#ffffff');
    const front = await picture(job, { from: 'front', backing: white });
    expect([front.columns, front.rows, front.rgb.length]).toEqual([COLUMNS, ROWS, COLUMNS * ROWS * 3]);
    expect(pixel(front.rgb, 0, 3)).not.toEqual(pixel(front.rgb, 5, 3));
    const clear = { ...job, body: 'clear' as const };
    const [seen, behind] = [
      await picture(clear, { from: 'front', backing: white }),
      await picture(clear, { from: 'behind', backing: white })
    ];
    for (let row = 0; row < ROWS; row++)
      expect(pixel(behind.rgb, 0, row).map((v, k) => Math.abs(v - pixel(seen.rgb, 5, row)[k]!) < 3)).toEqual([true, true, true]);
    const { rgb: shine } = await picture(job, 'gloss');
    expect(
      new Set(Array.from({ length: COLUMNS * ROWS }, (_, i) => pixel(shine, i % COLUMNS, Math.floor(i / COLUMNS)).join())).size
    ).toBeLessThan(3);
  });

  it('is drawn as it was printed only where colour alone lies on white media', () => {
    expect(isPlainLook(job, 'front')).toBe(true);
    expect(isPlainLook(job, 'behind')).toBe(false);
    expect(isPlainLook({ ...job, colour: '#202020' }, 'front')).toBe(false);
    expect(isPlainLook({ ...job, body: 'clear' }, 'front')).toBe(false);
    expect(isPlainLook({ ...job, layers: [{ ink: 'white' }, { ink: 'colour' }] }, 'front')).toBe(false);
  });

  it('lies on nothing where nothing lay on the bed', async () => {
    expect(drawnThings(job, COLUMNS, ROWS)).toBeUndefined();
    expect(await onThings(job)).toEqual([]);
  });
});
