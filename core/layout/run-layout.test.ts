import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply } from '../geometry/matrix';
import type { Box } from '../geometry/box';
import { DEFAULT_CROP, DEFAULT_EYELETS, eyeletPlaces, NO_FINISHING, roomOf, type Finishing } from '../marks/finishing';
import { DEFAULT_MARKS } from '../marks/registration';
import { shapeAt } from './placement';
import { dressPart, finishedToCopy, itemOf, layOutRun, ripPieces, type RunDocket, type RunLayoutRule } from './run-layout';

const RULE: RunLayoutRule = {
  placing: 'rows',
  gapX: 4,
  gapY: 6,
  margin: 5,
  lead: 10,
  tail: 20,
  align: 'centre',
  single: false,
  fill: 'none',
  longest: null,
  turnStep: 90,
  effort: 'quick',
  steps: null,
  marks: DEFAULT_MARKS,
  colourBar: false
};

const docket = (over: Partial<RunDocket> = {}): RunDocket => ({
  id: 'a',
  widthMm: 90,
  heightMm: 90,
  bleedMm: 0,
  copies: 1,
  first: 0,
  of: 1,
  cut: false,
  mayTurn: true,
  intent: 'relative',
  finishing: NO_FINISHING,
  caption: 'Docket 7 · Ferry company',
  ...over
});

const anyFinishing = fc.record({
  crop: fc.option(fc.constant(DEFAULT_CROP), { nil: null }),
  centre: fc.boolean(),
  outline: fc.boolean(),
  folds: fc.constantFrom([], [20]),
  pockets: fc.record({
    top: fc.constantFrom(0, 40),
    right: fc.constant(0),
    bottom: fc.constantFrom(0, 30),
    left: fc.constant(0)
  }),
  hem: fc.constantFrom(0, 25),
  eyelets: fc.option(fc.constant({ ...DEFAULT_EYELETS, inset: 10 }), { nil: null }),
  caption: fc.boolean(),
  ink: fc.constantFrom('registration' as const, 'black' as const),
  turn: fc.constantFrom(0 as const, 90 as const, 180 as const, 270 as const),
  numbered: fc.boolean()
}) satisfies fc.Arbitrary<Finishing>;

const anyDockets = fc
  .array(
    fc.record({
      widthMm: fc.double({ min: 40, max: 500, noNaN: true }),
      heightMm: fc.double({ min: 40, max: 500, noNaN: true }),
      bleedMm: fc.double({ min: 0, max: 5, noNaN: true }),
      copies: fc.integer({ min: 1, max: 8 }),
      cut: fc.boolean(),
      finishing: anyFinishing
    }),
    { minLength: 1, maxLength: 4 }
  )
  .map((list) => list.map((d, i) => docket({ ...d, id: `d${i}`, of: d.copies })));

const meets = (p: Box, q: Box, e = 1e-4) =>
  p.x < q.x + q.width - e && q.x < p.x + p.width - e && p.y < q.y + q.height - e && q.y < p.y + p.height - e;

describe('a run with marks', () => {
  it('keeps every mark off every other copy’s artwork and on the roll', () => {
    fc.assert(
      fc.property(anyDockets, fc.constantFrom('rows' as const, 'straight' as const, 'close' as const), (dockets, placing) => {
        const rule = { ...RULE, placing, colourBar: true };
        const stock = { kind: 'roll' as const, width: 1300 };
        const layout = layOutRun(stock, rule, dockets, []);
        const [part] = layout.parts;
        if (!part) return;
        const { marks, rings, flats } = dressPart(part, stock, rule, dockets);
        // Of each copy what is artwork: the finished size with its bleed.
        const artworks = part.copies.map((copy) => {
          const one = dockets.find((d) => d.id === copy.id)!;
          const toCopy = finishedToCopy(one, copy);
          const p = apply(toCopy, { x: -one.bleedMm, y: -one.bleedMm });
          const q = apply(toCopy, { x: one.widthMm + one.bleedMm, y: one.heightMm + one.bleedMm });
          return {
            copy,
            art: { x: Math.min(p.x, q.x), y: Math.min(p.y, q.y), width: Math.abs(q.x - p.x), height: Math.abs(q.y - p.y) }
          };
        });
        const printed: Box[] = [
          ...[...marks, ...rings].map(({ x, y, diameter }) => ({
            x: x - diameter / 2,
            y: y - diameter / 2,
            width: diameter,
            height: diameter
          })),
          ...flats
        ];
        for (const mark of printed) {
          expect(mark.x).toBeGreaterThanOrEqual(-1e-3);
          expect(mark.x + mark.width).toBeLessThanOrEqual(stock.width + 1e-3);
          expect(mark.y).toBeGreaterThanOrEqual(-1e-3);
          expect(mark.y + mark.height).toBeLessThanOrEqual(part.length + 1e-3);
          // A mark lies in one copy's box, or in none; it meets the artwork of no other.
          const box = part.copies.find((copy) => meets(mark, copy));
          for (const { copy, art } of artworks) if (copy !== box && meets(mark, art)) expect([mark, art]).toBe('apart');
        }
      }),
      { numRuns: 60 }
    );
  });

  it('counts marks, hems and pockets in the size', () => {
    const finishing: Finishing = { ...NO_FINISHING, hem: 25, pockets: { top: 40, right: 0, bottom: 0, left: 0 } };
    expect(roomOf({ widthMm: 500, heightMm: 300, bleedMm: 3 }, finishing)).toEqual({ top: 65, right: 25, bottom: 25, left: 25 });
    const crop: Finishing = { ...NO_FINISHING, crop: DEFAULT_CROP };
    expect(itemOf(docket({ bleedMm: 3, finishing: crop }))).toMatchObject({ width: 90 + 2 * 12, height: 90 + 2 * 12 });
    expect(itemOf(docket({ widthMm: 60, finishing: { ...NO_FINISHING, turn: 90 } }))).toMatchObject({ width: 90, height: 60 });
  });

  it('spaces eyelets evenly, no farther apart than said, corners once', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 200, max: 9000, noNaN: true }),
        fc.double({ min: 200, max: 3000, noNaN: true }),
        fc.double({ min: 50, max: 1000, noNaN: true }),
        (widthMm, heightMm, spacing) => {
          const places = eyeletPlaces({ widthMm, heightMm, bleedMm: 0 }, { ...DEFAULT_EYELETS, spacing });
          const top = places
            .filter((p) => p.y === DEFAULT_EYELETS.inset)
            .map((p) => p.x)
            .sort((a, b) => a - b);
          expect(top[0]).toBeCloseTo(DEFAULT_EYELETS.inset, 6);
          expect(top.at(-1)).toBeCloseTo(widthMm - DEFAULT_EYELETS.inset, 6);
          const steps = top.slice(1).map((x, i) => x - top[i]!);
          expect(Math.max(...steps)).toBeLessThanOrEqual(spacing + 1e-6);
          expect(Math.max(...steps) - Math.min(...steps)).toBeLessThan(1e-6);
          const keys = new Set(places.map((p) => `${p.x.toFixed(3)}/${p.y.toFixed(3)}`));
          expect(keys.size).toBe(places.length);
        }
      )
    );
    const counted = eyeletPlaces(
      { widthMm: 2000, heightMm: 800, bleedMm: 0 },
      { ...DEFAULT_EYELETS, by: 'count', across: 5, down: 3 }
    );
    expect(counted).toHaveLength(2 * 5 + 2 * 3 - 4);
  });

  it('numbers copies through the runs that a docket is divided into', () => {
    const one = docket({ copies: 2, first: 3, of: 9, finishing: { ...NO_FINISHING, numbered: true } });
    const stock = { kind: 'roll' as const, width: 1300 };
    const { letters } = dressPart(layOutRun(stock, RULE, [one], []).parts[0]!, stock, RULE, [one]);
    expect(letters.map(({ text }) => text)).toEqual(['4 of 9', '5 of 9']);
  });

  it('tells the RIP pieces that lie where the layout has them, turned as it has them', () => {
    fc.assert(
      fc.property(anyDockets, (dockets) => {
        const stock = { kind: 'roll' as const, width: 1300 };
        const { parts } = layOutRun(stock, { ...RULE, placing: 'close' }, dockets, []);
        const artwork = { file: 'f', page: 0, prepare: {} as never, sources: { rgb: '', cmyk: '', grey: '' } };
        const artworks = new Map(dockets.map((d) => [d.id, artwork]));
        for (const part of parts) {
          const { pieces } = ripPieces(part.copies, RULE, dockets, artworks);
          pieces.forEach((piece, i) => {
            const copy = part.copies[i]!;
            expect(piece.x).toBeGreaterThanOrEqual(copy.x - 1e-6);
            expect(piece.y).toBeGreaterThanOrEqual(copy.y - 1e-6);
            expect(piece.turn).toBe((dockets.find((d) => d.id === copy.id)!.finishing.turn + copy.turn) % 360);
          });
        }
      }),
      { numRuns: 30 }
    );
  });

  it('places what is cut by a contour by it, and clips what prints to the middle of the gap', () => {
    const triangle = [
      [
        { x: 0, y: 0 },
        { x: 90, y: 0 },
        { x: 0, y: 90 }
      ]
    ];
    const one = docket({ cut: true, copies: 6, bleedMm: 3, contour: triangle });
    const rule: RunLayoutRule = { ...RULE, placing: 'shapes', gapX: 4, gapY: 4 };
    const layout = layOutRun({ kind: 'roll', width: 300 }, rule, [one], []);
    const rows = layOutRun({ kind: 'roll', width: 300 }, { ...rule, placing: 'rows' }, [one], []);
    expect(layout.length).toBeLessThan(rows.length);
    const artworks = new Map([['a', { file: 'f', page: 0, prepare: {} as never, sources: { rgb: '', cmyk: '', grey: '' } }]]);
    const { sources } = ripPieces(layout.parts[0]!.copies, rule, [one], artworks);
    const xs = sources[0]!.clip!.flat().map((p) => p.x);
    expect(Math.min(...xs)).toBeCloseTo(-2, 1);
    // The contour of a placed copy is where the layout says that its piece is cut.
    const copy = layout.parts[0]!.copies[0]!;
    const placed = shapeAt(itemOf(one), copy).flat();
    const cut = triangle.flat().map((p) => apply(finishedToCopy(one, copy), p));
    for (const p of cut) expect(Math.min(...placed.map((q) => Math.hypot(p.x - q.x, p.y - q.y)))).toBeLessThan(1e-6);
    // With crop marks around it is a rectangle again.
    expect(itemOf({ ...one, finishing: { ...NO_FINISHING, crop: DEFAULT_CROP } }).shape).toBeUndefined();
  });
});
