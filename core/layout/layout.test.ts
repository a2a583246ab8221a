import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { layOutRun, type RunDocket } from './run-layout';
import { overlaps, type RowRule } from './rows';

const rule: RowRule = { gapX: 4, gapY: 6, margin: 5, lead: 10, tail: 20, align: 'centre' };

const docket = (over: Partial<RunDocket> = {}): RunDocket => ({
  id: 'a',
  widthMm: 90,
  heightMm: 90,
  bleedMm: 0,
  copies: 1,
  cut: false,
  mayTurn: true,
  intent: 'relative',
  ...over
});

const anyDockets = fc
  .array(
    fc.record({
      widthMm: fc.double({ min: 5, max: 900, noNaN: true }),
      heightMm: fc.double({ min: 5, max: 900, noNaN: true }),
      bleedMm: fc.double({ min: 0, max: 5, noNaN: true }),
      copies: fc.integer({ min: 0, max: 30 }),
      cut: fc.boolean(),
      mayTurn: fc.boolean(),
      intent: fc.constant('relative' as const)
    }),
    { minLength: 1, maxLength: 6 }
  )
  .map((list) => list.map((d, i): RunDocket => ({ ...d, id: `d${i}` })));

const anyRule = fc.record({
  gapX: fc.double({ min: 0, max: 20, noNaN: true }),
  gapY: fc.double({ min: 0, max: 20, noNaN: true }),
  margin: fc.double({ min: 0, max: 30, noNaN: true }),
  lead: fc.constant(10),
  tail: fc.constant(10),
  align: fc.constantFrom('left' as const, 'centre' as const, 'right' as const)
});

describe('a run in rows', () => {
  it('never overlaps, never leaves the roll, keeps gaps, and places every copy once or says why not', () => {
    fc.assert(
      fc.property(anyDockets, anyRule, fc.integer({ min: 300, max: 1600 }), (dockets, anyOne, width) => {
        const layout = layOutRun(dockets, width, anyOne);
        const all = [...layout.copies, ...layout.ghosts];
        const tooWide = new Set(layout.tooWide.map((t) => t.id));
        for (const d of dockets) {
          expect(layout.copies.filter((c) => c.id === d.id)).toHaveLength(tooWide.has(d.id) ? 0 : d.copies);
        }
        for (const [i, p] of all.entries()) {
          expect(p.x).toBeGreaterThanOrEqual(anyOne.margin - 1e-6);
          expect(p.x + p.width).toBeLessThanOrEqual(width - anyOne.margin + 1e-3);
          expect(p.y).toBeGreaterThanOrEqual(anyOne.lead);
          expect(p.y + p.height).toBeLessThanOrEqual(layout.length - anyOne.tail + 1e-6);
          const wide = {
            x: p.x - anyOne.gapX + 1e-4,
            y: p.y - anyOne.gapY + 1e-4,
            width: p.width + 2 * anyOne.gapX - 2e-4,
            height: p.height + 2 * anyOne.gapY - 2e-4
          };
          expect(all.slice(i + 1).some((q) => overlaps(wide, q))).toBe(false);
          for (const mark of layout.marks) {
            const r = mark.diameter / 2;
            if (overlaps(p, { x: mark.x - r, y: mark.y - r, width: 2 * r, height: 2 * r })) expect([p, mark]).toBe('apart');
          }
        }
        for (const mark of layout.marks) {
          expect(mark.x - mark.diameter / 2).toBeGreaterThanOrEqual(0);
          expect(mark.x + mark.diameter / 2).toBeLessThanOrEqual(width + 1e-3);
          expect(mark.y - mark.diameter / 2).toBeGreaterThanOrEqual(0);
          expect(mark.y + mark.diameter / 2).toBeLessThanOrEqual(layout.length);
        }
      })
    );
  });

  it('claims a ghost without moving anything or taking more film', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 60 }), fc.integer({ min: 40, max: 400 }), fc.boolean(), (copies, size, cut) => {
        const before = layOutRun([docket({ copies, widthMm: size, cut })], 1300, { ...rule, align: 'left' });
        if (before.ghosts.length === 0) return;
        const after = layOutRun([docket({ copies: copies + 1, widthMm: size, cut })], 1300, { ...rule, align: 'left' });
        expect(after.length).toBeCloseTo(before.length, 6);
        expect(after.marks).toEqual(before.marks);
        before.copies.forEach((copy, i) => expect(after.copies[i]).toEqual(copy));
      })
    );
  });

  it('turns by a quarter when that saves length', () => {
    const long = docket({ widthMm: 1000, heightMm: 300, copies: 4 });
    expect(layOutRun([long], 1300, rule).copies.every((c) => c.turned)).toBe(true);
    expect(layOutRun([{ ...long, mayTurn: false }], 1300, rule).copies.every((c) => !c.turned)).toBe(true);
    expect(layOutRun([long], 1300, rule).length).toBeLessThan(layOutRun([{ ...long, mayTurn: false }], 1300, rule).length);
  });

  it('says what is too wide, with the width there is', () => {
    expect(layOutRun([docket({ widthMm: 1400, heightMm: 1500 })], 1300, rule).tooWide).toEqual([
      { id: 'a', width: 1400, usable: 1290 }
    ]);
  });

  it('counts waste as what no copy covers', () => {
    const { use } = layOutRun([docket({ widthMm: 1290, heightMm: 970, mayTurn: false })], 1300, rule);
    expect(use.areaM2).toBeCloseTo(1.3, 9);
    expect(use.wasteM2).toBeCloseTo(1.3 - 1.29 * 0.97, 9);
  });
});
