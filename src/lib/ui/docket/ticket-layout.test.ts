import { describe, expect, it } from 'vitest';
import { layOutRun } from '$core/layout/run-layout';
import { DEFAULT_RULE } from '$lib/run-rule';
import { DocketChoices } from '$lib/docket-choices';
import { toRunPieces } from '$lib/run-pieces';
import { figuresOf } from './ticket-layout';

const choices = DocketChoices.parse({
  widthMm: 90,
  heightMm: 50,
  copies: 25,
  bleedMm: 0,
  cut: false,
  mayTurn: false,
  intent: 'relative',
  conditionId: 1
});
const pieces = toRunPieces({ id: 7, name: 'Pass', customer: '', choices }, { condition: undefined });

describe('the figures of a docket alone', () => {
  it('are those of its layout in rows, whatever its lane lays out by', () => {
    const stock = { kind: 'roll' as const, width: 500 };
    const layout = layOutRun(stock, { ...DEFAULT_RULE, placing: 'rows' }, pieces, []);
    const figures = figuresOf({ stock, rule: { ...DEFAULT_RULE, placing: 'shapes' }, pieces });
    expect(figures).toEqual({
      length: layout.length,
      areaM2: layout.areaM2,
      wasteShare: layout.wasteShare,
      printed: [expect.objectContaining({ copies: 25, enlarged: 1 })],
      parts: 1,
      free: layout.parts[0]!.ghosts.length
    });
    expect(figures.length).toBeGreaterThan(250);
  });

  it('count sheets', () => {
    const stock = { kind: 'sheet' as const, width: 300, height: 200, corner: 'front left' as const };
    expect(figuresOf({ stock, rule: DEFAULT_RULE, pieces }).parts).toBe(Math.ceil(25 / 9));
  });
});
