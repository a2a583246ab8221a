import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { evenSides } from '../geometry/box';
import { NO_FINISHING } from '../marks/finishing';
import { DEFAULT_MARKS } from '../marks/registration';
import { dealt } from './dealing';
import { layOutRun, type RunLayoutRule } from './run-layout';
import type { Stock } from './placement';
import type { RunPiece } from './run-piece';

const RULE: RunLayoutRule = {
  placing: 'rows',
  gapX: 2,
  gapY: 2,
  margin: 5,
  lead: 5,
  tail: 5,
  align: 'left',
  single: false,
  fill: 'none',
  longest: null,
  turnStep: 0,
  effort: 'quick',
  steps: null,
  marks: DEFAULT_MARKS,
  colourBar: false
};

const passes = (records: readonly number[] | undefined, over: Partial<RunPiece> = {}): RunPiece => ({
  id: '7',
  docket: '7',
  piece: 0,
  widthMm: 90,
  heightMm: 50,
  bleed: evenSides(0),
  copies: records?.length ?? 5,
  first: 0,
  of: records?.length ?? 5,
  cut: false,
  mayTurn: false,
  intent: 'relative',
  finishing: NO_FINISHING,
  caption: '',
  records,
  order: 'rows',
  ...over
});
const SHEET: Stock = { kind: 'sheet', width: 200, height: 220, corner: 'front left' };
/** By part: the records from the first place on. */
const laid = (pieces: RunPiece[], rule = RULE) =>
  dealt(layOutRun(SHEET, rule, pieces, []), pieces).parts.map(({ copies }) =>
    [...copies].sort((p, q) => p.y - q.y || p.x - q.x).map(({ record }) => record)
  );
const numbers = (n: number) => Array.from({ length: n }, (_, i) => i + 101);

describe('records on places', () => {
  it('go row by row and from sheet to sheet', () => {
    expect(laid([passes(numbers(19))])).toEqual([numbers(8), numbers(19).slice(8, 16), numbers(19).slice(16)]);
  });

  it('lie so that sheets cut in a stack leave piles in order', () => {
    const sheets = laid([passes(numbers(19), { order: 'stack' })]);
    expect(sheets.map((sheet) => sheet.length)).toEqual([8, 8, 3]);
    // Every pile from top to bottom, one pile after the other.
    const piles = Array.from({ length: 8 }, (_, place) => sheets.flatMap((sheet) => sheet[place] ?? []));
    expect(piles.flat()).toEqual(numbers(19));
  });

  it('begin again on spare copies, and leave dockets without records alone', () => {
    const plain = passes(undefined, { id: '8', docket: '8', copies: 1, of: 1 });
    const rule = { ...RULE, fill: 'all' as const };
    const [sheet] = dealt(layOutRun(SHEET, rule, [passes([4, 9, 2])], []), [passes([4, 9, 2])]).parts;
    expect(sheet!.copies.map(({ record }) => record)).toEqual([4, 9, 2, 4, 9, 2, 4, 9]);
    const both = [passes([1, 2]), plain];
    const layout = dealt(layOutRun(SHEET, RULE, both, []), both);
    expect(layout.parts[0]!.copies.filter(({ id }) => id === '8').every(({ record }) => record === undefined)).toBe(true);
    const none = layOutRun(SHEET, RULE, [plain], []);
    expect(dealt(none, [plain])).toBe(none);
  });

  it('are each there as often as they were asked for, in any placing and order', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 40 }),
        fc.constantFrom('rows' as const, 'stack' as const),
        fc.constantFrom('apart' as const, 'rows' as const, 'straight' as const, 'close' as const),
        (records, order, placing) => {
          const pieces = [passes(records, { order }), passes([500, 501], { id: '9', docket: '9', widthMm: 40, heightMm: 30 })];
          const { parts } = dealt(layOutRun(SHEET, { ...RULE, placing }, pieces, []), pieces);
          const of = (id: string) =>
            parts.flatMap(({ copies }) => copies.filter((copy) => copy.id === id).map(({ record }) => record));
          expect(of('7').sort()).toEqual([...records].sort());
          expect(of('9').sort()).toEqual([500, 501]);
        }
      ),
      { numRuns: 40 }
    );
  });
});
