import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { xyzToSrgb } from '$core/colour/lab';
import { LIGHT_STRENGTH } from '$core/inks/divide';
import { Ink, type InkSet } from '$core/inks/ink-set';
import type { PlateLayout } from '$core/rip/plate-file';
import { temporaryFolder } from '../../tests/harness';
import { kernelsModule } from '../../tests/made/kernels';
import { madePlates } from '../../tests/made/plates';
import { Physics } from './physics';
import { FULL, Press } from './press';
import { NOZZLE_ROWS } from './wear';

/** What a press makes of plates, against sums over their pixels. */

const wasm = kernelsModule();
const folder = temporaryFolder();
afterAll(() => folder.remove());

const DROPS = [6, 13, 21] as const;
const ink = (name: string, role: Ink['role'], channel = name): Ink =>
  Ink.parse({ name, role, channel, colour: '#808080', drops: [...DROPS], shift: [0, 0] });
const INKS: InkSet = [ink('Cyan', 'colour'), ink('Black', 'colour'), ink('Light cyan', 'light', 'Cyan'), ink('White', 'white')];

function plates(seed: number, layout: PlateLayout): { path: string; levels: Uint8Array[][] } {
  const path = join(folder.path, `${seed}.tif`);
  return { path, levels: madePlates(path, seed, layout) };
}

/** Full drops of a cell, and of a whole row of cells. */
function plainSum(rows: readonly Uint8Array[], cell: number, index: number, blocked: number) {
  const share = [0, DROPS[0] / DROPS[2], DROPS[1] / DROPS[2], 1];
  const columns = Math.floor(rows[0]!.length / cell);
  const cells = new Array<number>(columns).fill(0);
  for (let r = index * cell; r < (index + 1) * cell; r++)
    for (let x = 0; x < columns * cell; x++) if (r % NOZZLE_ROWS >= blocked) cells[Math.floor(x / cell)]! += share[rows[r]![x]!]!;
  return cells;
}

const physics = (dpi: number) => new Physics('gloss', DROPS[2] * dpi * dpi);
const open = (path: string, blocked?: number[]) => Press.open(path, wasm, physics, INKS, INKS.map(() => DROPS), blocked); // prettier-ignore

const LAYOUT: PlateLayout = {
  // No whole number of cells, and cells that lie in two strips.
  widthPx: 212,
  heightPx: 75,
  dpi: { x: 720, y: 720 },
  inks: ['White', 'Cyan', 'Light cyan', 'Black'],
  layers: [0, 1, 1, 1],
  rowsPerStrip: 20
};

describe('a press', () => {
  it.each([
    ['720 dpi', 720, []],
    ['1440 dpi, rows of nozzles blocked', 1440, [3, 0, 0, 1]]
  ])('lays down the drops of its plates: %s', async (_name, dpi, blocked) => {
    const { path, levels } = plates(dpi, { ...LAYOUT, dpi: { x: dpi, y: dpi } });
    const press = await open(path, blocked);
    const cell = dpi / 90;
    expect([press.cell, press.columns, press.rows]).toEqual([cell, Math.floor(212 / cell), Math.floor(75 / cell)]);
    for (let index = 0; index < press.rows; index++) {
      const { cells, ink, rgb } = await press.outputRow(index);
      const [white, cyan, light, black] = levels.map((rows, plate) =>
        plainSum(rows, cell, index, [0, blocked[0] ?? 0, blocked[0] ?? 0, blocked[3] ?? 0][plate]!)
      ) as [number[], number[], number[], number[]];
      const drops = [white, cyan, light, black].map((sums) => sums.reduce((sum, one) => sum + one, 0));
      // Tables are in whole numbers.
      drops.forEach((full, plate) => expect(Math.abs(ink[plate]! - full)).toBeLessThan(full / 500));
      // By cell white first, then cyan, magenta, yellow and black.
      for (let x = 0; x < press.columns; x++) {
        const share = (amount: number) => (amount / cell ** 2) * FULL;
        const wanted = [share(white[x]!), share(cyan[x]! + light[x]! * LIGHT_STRENGTH), 0, 0, share(black[x]!)];
        wanted.forEach((figure, i) => expect(Math.abs(cells[x * 5 + i]! - figure)).toBeLessThan(FULL / 500));
        // On screens what lies open, in steps of 8 bits of each ink.
        const seen = xyzToSrgb(physics(dpi).xyz(wanted.slice(1).map((figure) => Math.min(1, figure / FULL))));
        seen.forEach((v, i) => expect(Math.abs(rgb[x * 3 + i]! - v * 255)).toBeLessThan(3));
      }
    }
    await press.close();
  });

  it('prints on while the plates of another job are looked at', async () => {
    const [first, other] = [plates(1, LAYOUT), plates(2, { ...LAYOUT, widthPx: 1000 })];
    const alone = await open(first.path);
    const wanted = [];
    for (let index = 0; index < alone.rows; index++) wanted.push(await alone.outputRow(index));
    await alone.close();
    const press = await open(first.path);
    for (let index = 0; index < press.rows; index++) {
      expect(await press.outputRow(index)).toEqual(wanted[index]);
      await (await open(other.path)).close();
    }
    await press.close();
  });

  it('says which inks it has where a plate is of none of them', async () => {
    const { path } = plates(3, { ...LAYOUT, inks: ['White', 'Cyan', 'Tarred', 'Black'] });
    await expect(open(path)).rejects.toThrow(
      'This machine prints Cyan, Black, Light cyan, White, not White, Cyan, Tarred, Black.'
    );
  });
});
