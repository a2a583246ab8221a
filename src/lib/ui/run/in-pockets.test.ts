import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DEFAULT_POCKETS, placeInPockets } from '$core/layout/in-pockets';
import { Jig, NEW_JIG, stockJigOf } from '$core/layout/jig';
import type { JigStock } from '$core/layout/placement';
import { inPockets, movesBy } from './in-pockets';

const stock: JigStock = {
  kind: 'sheet',
  width: 2000,
  height: 1500,
  corner: 'front left',
  jig: stockJigOf(1, Jig.parse({ ...NEW_JIG, columns: 3, rows: 2 }))
};
const items = [{ id: '1', width: 40, height: 30, copies: 4, mayTurn: true }, { id: '2', width: 40, height: 30, copies: 4, mayTurn: true }]; // prettier-ignore
const hand = { ...DEFAULT_POCKETS, sharing: 'by hand' as const };
const shown = (pins: Parameters<typeof placeInPockets>[3]) =>
  placeInPockets(stock, hand, items, pins).parts.map(({ copies }) =>
    Object.fromEntries(copies.map(({ id, copy, pocket }) => [pocket, `${id}.${copy}`]))
  );

describe('copies that are put in pockets by hand', () => {
  const layout = placeInPockets(stock, DEFAULT_POCKETS, items);

  it('change places with what lies there, and all others stay', () => {
    const pins = inPockets(layout, [{ id: '1', copy: 0, part: 0, pocket: 5 }])!;
    expect(shown(pins)).toEqual([
      { 1: '2.0', 2: '1.1', 3: '1.2', 4: '1.3', 5: '1.0', 6: '2.1' },
      { 1: '2.2', 2: '2.3' }
    ]);
  });

  it('leave a pocket empty that they came from, where theirs was', () => {
    const pins = inPockets(layout, [{ id: '2', copy: 3, part: 1, pocket: 6 }])!;
    expect(shown(pins)[1]).toEqual({ 1: '2.2', 6: '2.3' });
  });

  it('go to the pocket nearest to where they are dropped, and nowhere far from all', () => {
    const { x, y } = stock.jig.pockets[0]!;
    const to = stock.jig.pockets[3]!;
    const name = { id: '1', copy: 0, part: 0 };
    expect(movesBy(stock.jig, layout, [name], to.x - x + 9, to.y - y - 7)).toEqual([{ ...name, pocket: 4 }]);
    expect(movesBy(stock.jig, layout, [name], 5, 5)).toEqual([]);
    expect(movesBy(stock.jig, layout, [name], 900, 900)).toEqual([]);
    expect(inPockets(layout, [])).toBeUndefined();
  });

  it('are each there once, whatever is moved how often', () => {
    const move = fc.record({ nth: fc.nat(7), pocket: fc.integer({ min: 1, max: 6 }) });
    fc.assert(
      fc.property(fc.array(move, { maxLength: 12 }), (moves) => {
        let now = layout;
        for (const { nth, pocket } of moves) {
          const all = now.parts.flatMap(({ copies }, part) => copies.map(({ id, copy }) => ({ id, copy, part })));
          const pins = inPockets(now, [{ ...all[nth]!, pocket }]);
          if (pins) now = placeInPockets(stock, hand, items, pins);
        }
        const copies = now.parts.flatMap((part) => part.copies.map(({ id, copy }) => `${id}.${copy}`));
        expect(copies.sort()).toEqual(['1.0', '1.1', '1.2', '1.3', '2.0', '2.1', '2.2', '2.3']);
        for (const part of now.parts) expect(new Set(part.copies.map(({ pocket }) => pocket)).size).toBe(part.copies.length);
      })
    );
  });
});
