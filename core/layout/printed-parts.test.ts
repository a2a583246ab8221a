import { describe, expect, it } from 'vitest';
import { madePiece, madeRule } from '../../tests/made/laid';
import { evenSides } from '../geometry/box';
import { mlPerSquareMetre } from '../inks/drops';
import type { LaidInk } from '../inks/laid-ink';
import { CELLS } from '../inks/spread';
import { DEFAULT_POCKETS } from './in-pockets';
import { Jig, NEW_JIG, stockJigOf } from './jig';
import type { JigStock, PocketRule, Stock } from './placement';
import { clipsOn, inkOfAll, inkOfCopy, printedOf } from './printed-parts';
import { layOutRun, type RunLayoutRule } from './run-layout';
import { inPocket, type RunPiece } from './run-piece';

const ON = { mode: { dpi: 720, drops: [6, 12, 24] as [number, number, number] }, press: { fullDrop: {} }, inkPrices: {} };
const FULL = mlPerSquareMetre({ x: 720, y: 720 }, [24, 24, 24]);
/** Evenly so many ml. */
const laid = (ml: number): LaidInk[] => [{ id: 1, ink: 'colour', m2: ml / FULL, spread: Array.from({ length: CELLS ** 2 }, () => 1) }]; // prettier-ignore
const RULE = madeRule();
const piece = (over: Partial<RunPiece> = {}) =>
  madePiece({ id: '1', docket: '1', widthMm: 60, heightMm: 60, copies: 3, mayTurn: false, ...over });
function printedIn(stock: Stock, rule: RunLayoutRule, pieces: RunPiece[]) {
  const { parts } = layOutRun(stock, rule, pieces, []);
  return printedOf(parts, new Map(pieces.map((one) => [one.id, one])), clipsOn(stock, rule));
}
const mlOf = (stock: Stock, rule: RunLayoutRule, pieces: RunPiece[]) =>
  inkOfAll(printedIn(stock, rule, pieces).values(), laid(2), ON, 0.1).ml;

const ROLL = { kind: 'roll' as const, width: 500 };
const discs: JigStock = {
  kind: 'sheet',
  width: 2000,
  height: 1500,
  corner: 'front left',
  jig: stockJigOf(3, Jig.parse({ ...NEW_JIG, thing: { widthMm: 60, heightMm: 60, outline: { kind: 'ellipse' } } }))
};

describe('the ink of what prints', () => {
  it('on a roll is that of the whole picture, for each copy', () => {
    expect(mlOf(ROLL, RULE, [piece()])).toBeCloseTo(6);
    expect(mlOf(ROLL, RULE, [piece({ copies: 0 })])).toBe(0);
  });

  it('in pockets is what they leave of it, at the size that it has there', () => {
    const inDiscs = (pockets: Partial<PocketRule>, over: Partial<RunPiece> = {}) => {
      const rule = { ...RULE, pockets: { ...DEFAULT_POCKETS, ...pockets } };
      return mlOf(discs, rule, [inPocket(piece(over), discs, rule.pockets)]);
    };
    expect(inDiscs({ edge: 'cut off' }) / 6).toBeCloseTo(Math.PI / 4, 2);
    expect(inDiscs({ edge: 'over' })).toBeCloseTo(6);
    // A picture four times as long as the thing is printed at a sixteenth of its area.
    expect(inDiscs({ edge: 'over', size: 'fit' }, { widthMm: 240, heightMm: 240 })).toBeCloseTo(6 / 16);
    expect((inDiscs({ edge: 'cut off', size: 'fill' }, { widthMm: 30, heightMm: 30 }) / 24) * 4).toBeCloseTo(Math.PI, 1);
  });

  it('by true shapes is what lies within them and half a gap', () => {
    const corner = [[{ x: 0, y: 0 }, { x: 60, y: 0 }, { x: 0, y: 60 }]]; // prettier-ignore
    const shaped = piece({ cut: true, contour: corner });
    const shapes = { ...RULE, placing: 'shapes' as const };
    expect(mlOf(ROLL, shapes, [shaped])).toBeCloseTo(3, 1);
    expect(mlOf(ROLL, RULE, [shaped])).toBeCloseTo(6);
    expect(clipsOn(ROLL, shapes)(piece(), {} as never)).toBeUndefined();
  });

  it('of panels is that of their parts of the wall, what overlaps twice, and nothing where an opening is', () => {
    const wall = { widthMm: 200, heightMm: 60 };
    const panel = (number: number, x: number, width: number, clip?: { x: number; y: number }[][]): RunPiece =>
      piece({
        id: `1/${number}`,
        piece: number,
        widthMm: width,
        copies: 1,
        panel: {
          number,
          wall,
          part: { x, y: 0, width, height: 60 },
          pictureBeyondMm: 0,
          clip,
          white: [],
          lines: [],
          marks: [],
          room: evenSides(0)
        }
      });
    const half = [[{ x: 0, y: 0 }, { x: 110, y: 0 }, { x: 110, y: 30 }, { x: 0, y: 30 }]]; // prettier-ignore
    const pieces = [panel(0, 0, 100), panel(1, 90, 110, half)];
    const printed = printedIn(ROLL, RULE, pieces);
    const [first, second] = [...printed.values()].map((one) => inkOfCopy(one, laid(2), ON, 0.1).ml);
    expect(first).toBeCloseTo(1);
    expect(second).toBeCloseTo(0.55);
  });
});
