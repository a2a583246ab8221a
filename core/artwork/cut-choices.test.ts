import { describe, expect, it } from 'vitest';
import { CutChoices, DEFAULT_CUT, withDrawn, type MadeLine } from './cut-choices';

const LINE: MadeLine = {
  id: 'around',
  tool: 'crease',
  from: { kind: 'page', shape: 'ellipse', radiusMm: 0 },
  offsetMm: 3,
  corners: 'sharp',
  smoothMm: 0.2,
  holes: false,
  smallestMm2: 5,
  bridgeMm: 2
};
const OUTLINE = 'M0 0L10 0L10 10Z';

describe('a line that is drawn by hand', () => {
  it('takes the place of the one that it was drawn from: where it was moved to is where it lies', () => {
    const before = { ...DEFAULT_CUT, made: [{ ...LINE, id: 'other' }, LINE] };
    const { cut, id } = withDrawn(before, 'around', OUTLINE, { id: 'fresh', tool: 'kiss cut' });
    expect(id).toBe('around');
    expect(cut).toEqual({
      ...before,
      made: [before.made[0], { ...LINE, from: { kind: 'drawn', outline: OUTLINE }, offsetMm: 0, bridgeMm: 0 }]
    });
  });

  it('from the customer’s is one of the docket’s own, and the customer’s is not cut beside it', () => {
    const { cut, id } = withDrawn({ ...DEFAULT_CUT, made: [LINE] }, 'customer', OUTLINE, { id: 'fresh', tool: 'through cut' });
    expect([id, cut.customer.use, cut.made[0]]).toEqual(['fresh', false, LINE]);
    expect(cut.made[1]).toMatchObject({
      id: 'fresh',
      tool: 'through cut',
      from: { kind: 'drawn', outline: OUTLINE },
      offsetMm: 0
    });
    expect(CutChoices.parse(cut)).toEqual(cut);
    // Drawn on, it is that one.
    const again = withDrawn(cut, id, 'M0 0L20 0L10 10Z', { id: 'another', tool: 'crease' });
    expect([again.id, again.cut.made.length, again.cut.made[1]?.tool]).toEqual(['fresh', 2, 'through cut']);
  });
});
